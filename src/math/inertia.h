// Inertia: how hard a body is to turn; a number in the plane, a symmetric 3x3 tensor in space. Units kg m2.
//
// Both answer to the same operations, so that code over Dim has one spelling: product with an angular vector,
// sum, turning into another frame, inverse, and the shift of a mass away from the centre (Steiner).
#pragma once

#include "astasis/rotation.h"

namespace astasis::math {

struct Sym3 {
    float xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
    friend constexpr bool operator==(const Sym3&, const Sym3&) = default;
};

template<int Dim> using Inertia = std::conditional_t<Dim == 2, float, Sym3>;

ASTASIS_INLINE Vec3 operator*(const Sym3& m, Vec3 v) {
    return {(m.xx * v.x + m.xy * v.y) + m.xz * v.z, (m.xy * v.x + m.yy * v.y) + m.yz * v.z,
            (m.xz * v.x + m.yz * v.y) + m.zz * v.z};
}
ASTASIS_INLINE Sym3 operator+(const Sym3& a, const Sym3& b) {
    return {a.xx + b.xx, a.xy + b.xy, a.xz + b.xz, a.yy + b.yy, a.yz + b.yz, a.zz + b.zz};
}
ASTASIS_INLINE Sym3 operator*(const Sym3& a, float s) {
    return {a.xx * s, a.xy * s, a.xz * s, a.yy * s, a.yz * s, a.zz * s};
}

// The tensor as seen from the frame that `r` turns the body's frame into: R m R^T. Nothing to do in the
// plane.
Sym3 turned_tensor(const Sym3& m, Rotation<3> r);
ASTASIS_INLINE float turned_tensor(float m, Rotation<2>) { return m; }

// The inverse; zero for a zero tensor, which stands for a body that nothing can turn.
Sym3 inverse(const Sym3& m);
inline float inverse(float m) { return m > 0 ? 1.0f / m : 0.0f; }

// What a point mass at `arm` adds about the origin: m (r.r 1 - r r^T).
Sym3 point_inertia(float mass, Vec3 arm);
ASTASIS_INLINE float point_inertia(float mass, Vec2 arm) { return mass * dot(arm, arm); }

// The sum of what turning about each axis takes: no axis has more.
ASTASIS_INLINE float trace(float m) { return m; }
ASTASIS_INLINE float trace(const Sym3& m) { return (m.xx + m.yy) + m.zz; }

// An angular impulse with its part across the normal (rolling) and its part along it (spinning) limited. In
// the plane all is rolling.
ASTASIS_INLINE float limited_turning(float impulse, Vec2 /*normal*/, float rolling, float /*spinning*/) {
    return impulse > rolling ? rolling : impulse < -rolling ? -rolling : impulse;
}
Vec3 limited_turning(Vec3 impulse, Vec3 normal, float rolling, float spinning);

// The axes about which a body spins freely without tumbling, and its inertia about them, kg m2. The last is
// the one from which the inverses of the others differ by the least product: so src/solve splits motion best.
template<int Dim> struct Principal {};
template<> struct Principal<3> {
    Rotation<3> frame{}; // turns the principal axes into the body's frame
    Vec3 moments{};
};
Principal<3> principal(const Sym3& m);
ASTASIS_INLINE Principal<2> principal(float) { return {}; }

// Whether all axes are alike, so that a free spin never changes.
bool is_isotropic(const Sym3& m);
ASTASIS_INLINE bool is_isotropic(float) { return true; }

}
