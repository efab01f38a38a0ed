// Hooks: functions of the game that a tick calls.
//
// Within a tick the world can be looked at, though some bodies may show where they were before the tick and
// others where they are after it; it cannot be edited or saved: that throws Error and changes nothing. What a
// hook throws does not stop the tick: step() throws it when the tick is done. Hooks are no part of a world's
// state: they stay when it is restored. Ticks run on one thread now; one day islands may be solved on
// several, and then a hook may be called from any of them: it answers by what it is given alone, and guards
// what it writes.
#pragma once

#include "astasis/ids.h"
#include "astasis/vec.h"

#include <cstdint>
#include <functional>

namespace astasis {

// A contact patch of two shapes before it is solved, the shape that was added first as `a`. Asked for in
// every tick, and once more where shapes meet within it: the answer for a pair is to be the same all through
// a tick.
template<int Dim> struct ContactAsked {
    // The contact:
    BodyId body_a, body_b;
    std::uint32_t shape_a = 0, shape_b = 0; // numbers of the shapes
    Point<Dim> position{};                  // of the point that is nearest, on a
    Vec<Dim> normal{};                      // unit, from a to b
    float separation = 0;                   // m, of that point; below 0 in overlap
    Vec<Dim> velocity{};                    // of b against a there, m/s, when the tick began
    // The hook may change these: whether the contact is solved at all, and how.
    bool keep = true;
    float friction = 0, restitution = 0; // both as mixed; 0 or more, and 0 to 1
    Vec<Dim> surface_velocity{};         // of a's surface over b's, beside the bodies' motion, m/s
};

// Whether two bodies may touch: asked once when they come near for the first time, and once more in a world
// that was restored. It answers by the ids (and user data that stay) alone.
using PairFilter = std::function<bool(BodyId, BodyId)>;
template<int Dim> using ContactHook = std::function<void(ContactAsked<Dim>&)>;

}
