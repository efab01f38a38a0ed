// What locked axes leave of velocities, masses and inertia.
#pragma once

#include "astasis/body.h"
#include "math/inertia.h"

namespace astasis::math {

ASTASIS_INLINE bool is_locked(const Locks<2>& l, int axis) { return axis == 0 ? l.x : l.y; }
ASTASIS_INLINE bool is_locked(const Locks<3>& l, int axis) { return axis == 0 ? l.x : axis == 1 ? l.y : l.z; }
ASTASIS_INLINE bool is_turn_locked(const Locks<2>& l, int) { return l.turn; }
ASTASIS_INLINE bool is_turn_locked(const Locks<3>& l, int axis) {
    return axis == 0 ? l.turn_x : axis == 1 ? l.turn_y : l.turn_z;
}
ASTASIS_INLINE bool turns_freely(const Locks<2>& l) { return !l.turn; }
ASTASIS_INLINE bool turns_freely(const Locks<3>& l) { return !(l.turn_x || l.turn_y || l.turn_z); }

// What of a velocity the locks leave.
template<int Dim> Vec<Dim> unlocked(Vec<Dim> v, const Locks<Dim>& locks) {
    for (int k = 0; k < Dim; k++)
        if (is_locked(locks, k)) v[k] = 0;
    return v;
}
Vec3 unlocked_turn(Vec3 spin, const Locks<3>& locks);
ASTASIS_INLINE float unlocked_turn(float spin, const Locks<2>& locks) { return locks.turn ? 0 : spin; }

// One over the mass along each axis.
template<int Dim> Vec<Dim> inverse_mass(float inverse, const Locks<Dim>& locks) {
    Vec<Dim> out{};
    for (int k = 0; k < Dim; k++) out[k] = is_locked(locks, k) ? 0 : inverse;
    return out;
}

// The inverse of what of an inertia acts about the free axes; zero about the locked ones: a torque turns the
// body as if bearings held these.
ASTASIS_INLINE float inverse_where_free(float inertia, const Locks<2>& locks) {
    return locks.turn ? 0 : inverse(inertia);
}
Sym3 inverse_where_free(const Sym3& inertia, const Locks<3>& locks);

}
