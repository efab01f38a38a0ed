// Events: what has happened in a tick, for a game that reacts to it.
#pragma once

#include "astasis/ids.h"
#include "astasis/rotation.h"

#include <cstdint>
#include <span>

namespace astasis {

// Which events a world collects, from the next tick on. None at first: those that are off cost nothing.
// Joints that break, bodies that became non-finite, and what sensors see are always told.
struct EventKinds {
    bool touches = false;  // shapes that begin and end to touch
    bool strikes = false;  // shapes that come on faster than `least_speed`
    bool sleep = false;    // bodies that fall asleep and wake
    bool poses = false;    // bodies that are elsewhere than before the tick
    float least_speed = 1; // m/s, 0 or more: of strikes, along the normal
    friend constexpr bool operator==(const EventKinds&, const EventKinds&) = default;
};

// Two shapes, each named by its body and number, the one that was added first as `a`. A body that was removed
// is named by its stale id.
struct ShapePair {
    BodyId body_a, body_b;
    std::uint32_t shape_a = 0, shape_b = 0;
    friend constexpr bool operator==(const ShapePair&, const ShapePair&) = default;
};

// Two shapes that met with a speed, however the tick resolved that: at its time of impact, on a swept path,
// or in passes, as in crowds that the tick's budget does not cover. A pair has one for each time at which it
// meets within the tick.
template<int Dim> struct Strike {
    BodyId body_a, body_b;
    std::uint32_t shape_a = 0, shape_b = 0;
    double time = 0;       // s, since the start of the tick
    Point<Dim> position{}; // the middle of where they met
    Vec<Dim> normal{};     // unit, from a to b
    float speed = 0;       // m/s: of the approach along the normal, where it was fastest
    Vec<Dim> impulse{};    // N s: of a on b, within the tick
};

// A shape that entered a sensor, or left it.
struct Crossing {
    BodyId sensor_body, body;
    std::uint32_t sensor = 0, shape = 0; // numbers of the two shapes
    // s, since the start of the tick; 0 if an edit between the ticks made it. Exact for bodies that fly
    // freely; within a tick of contacts their way counts as straight.
    double time = 0;
};

template<int Dim> struct Moved {
    BodyId body;
    std::uint64_t user_data = 0;
    Pose<Dim> pose{};
};

// The events of the last tick and of the edits before it. Each is told once, in an order that is the same on
// every machine: pairs by when their shapes were added, strikes and crossings by time. Spans are valid until
// the next step(), restore() or restore_bytes().
template<int Dim> struct Events {
    // A pair that both begins and ends to touch within a tick is a strike and no touch.
    std::span<const ShapePair> touches_begun, touches_ended;
    std::span<const Strike<Dim>> strikes;
    std::span<const Crossing> entered, left; // sensors
    std::span<const JointId> broken_joints;
    std::span<const BodyId> fell_asleep, woke, became_nonfinite;
    // All that a scene graph has to copy: moved by the tick, put elsewhere or added before it.
    std::span<const Moved<Dim>> moved;
};

}
