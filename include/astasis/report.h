// What a world tells about itself after a tick: contacts, energy, momentum.
#pragma once

#include "astasis/ids.h"
#include "astasis/vec.h"

#include <cstddef>
#include <cstdint>

namespace astasis {

// One point where two shapes touch or nearly touch.
template<int Dim> struct Contact {
    BodyId body_a, body_b;
    std::uint32_t shape_a = 0, shape_b = 0; // numbers of its body's shapes: see World::add_shape
    Point<Dim> position{};                  // midway between both surfaces, in the world
    Vec<Dim> normal{};                      // unit, from the first shape to the second
    float separation = 0;                   // m; negative in overlap
    // What the first body gave the second in the last tick, N s. In space the friction in it acts nearer to
    // the middle of what bears than here, as under an even load.
    Vec<Dim> impulse{};
    std::uint32_t feature = 0; // the same from tick to tick while the same features touch
};

// What the stages of the last tick took, s of wall time.
struct StageTimes {
    double pairs = 0;     // finding what may touch
    double manifolds = 0; // finding where shapes touch
    double solving = 0;   // velocities, contacts, poses
    double events = 0;    // sensors, and the events that are collected
    double sleep = 0;     // who falls asleep
    double rest = 0;      // pushes, targets, bounds for the queries
    double total() const { return ((pairs + manifolds) + (solving + events)) + (sleep + rest); }
};

// Counts of the work that the last tick found.
struct TickCounts {
    std::size_t moving = 0;    // bodies that are awake and may move
    std::size_t pairs = 0;     // of shapes that came near
    std::size_t manifolds = 0; // contact patches
    std::size_t points = 0;    // of them
    std::size_t joints = 0;    // that hold something that moves
    std::size_t islands = 0;   // of awake dynamic bodies
    std::size_t turns = 0;     // of swept bodies on their ways
};

// Work beyond the plain course of a tick, in units: one contact patch solved in one pass.
struct WorkBought {
    std::uint64_t spent = 0, refused = 0;
};
// The cost of solving the last tick, counted and not timed, so that equal worlds count equally. What is
// refused is made up for by firmer contacts, by bounces in passes, and where too much is fast at once by
// slowing it: see WorldSpec::extra_work.
struct WorkOfTick {
    std::uint64_t plain = 0;
    WorkBought updates;   // contacts found anew within the tick
    WorkBought impacts;   // agreement of those of one time; times of impact on the paths of fast bodies
    WorkBought exactness; // of whole islands: smaller substeps, further passes and iterations
};

// A place on the way of a body's centre of mass within the last tick.
template<int Dim> struct WayPoint {
    double time = 0; // s, since the start of the tick
    Point<Dim> centre{};
};

// How much sleeps.
struct SleepCount {
    std::size_t bodies = 0, islands = 0;
};

struct Energy {
    double kinetic = 0;   // J, of dynamic bodies: translation and rotation
    double potential = 0; // J, of dynamic bodies in the world's gravity, 0 at the world's origin
    double total() const { return kinetic + potential; }
};

// How deep shapes are in each other, of the contacts of the last tick.
struct Penetration {
    float deepest = 0; // m
    float typical = 0; // root mean square over the contacts that overlap, m
    std::uint32_t overlapping = 0, contacts = 0;
};

// What was given to dynamic bodies by things that nothing can push, J: by kinematic bodies as they moved, by
// surfaces that run (belts), by thrusts, by the motors of joints (springs of motors too), by fields, whose
// pull is in no potential energy, and by hooks (pushes and velocities of substeps, own motion). Exact to
// first order in the tick.
struct Work {
    double kinematic = 0, surfaces = 0, thrusts = 0, motors = 0, fields = 0, hooks = 0;
};

// Momentum of all dynamic bodies: linear in kg m/s, angular about the world's origin in kg m2/s.
template<int Dim> struct Momentum {
    Vec<Dim> linear{};
    Axial<Dim> angular{};
};
}
