// Angles, rotations and poses.
//
// An angle is made by radians(...) or degrees(...), never from a bare number. A rotation is a cosine and a
// sine in the plane and a unit quaternion in space. Counter-clockwise is positive in the plane, the
// right-hand rule holds in space.
#pragma once

#include "astasis/vec.h"

namespace astasis {

class Angle {
public:
    constexpr Angle() = default;
    constexpr double in_radians() const { return radians_; }
    constexpr double in_degrees() const { return radians_ * (180.0 / 3.14159265358979323846); }
    friend constexpr Angle radians(double value);
    friend constexpr Angle degrees(double value);
    friend constexpr bool operator==(Angle, Angle) = default;

private:
    constexpr explicit Angle(double radians) : radians_(radians) {}
    double radians_ = 0;
};

constexpr Angle radians(double value) { return Angle(value); }
constexpr Angle degrees(double value) { return Angle(value * (3.14159265358979323846 / 180.0)); }

template<int Dim> struct Rotation;

template<> struct Rotation<2> {
    float c = 1, s = 0; // cosine and sine
    friend constexpr bool operator==(const Rotation&, const Rotation&) = default;
};

template<> struct Rotation<3> {
    float w = 1, x = 0, y = 0, z = 0;
    friend constexpr bool operator==(const Rotation&, const Rotation&) = default;
};

// A rotation by an angle; in space about an axis through the origin, which need not have length 1.
// Throws Error if the angle or the axis is not finite, or the axis is zero.
Rotation<2> turned(Angle angle);
Rotation<3> turned(Angle angle, Vec3 axis);

// The angle of a rotation: in the plane from -180 to 180 degrees, in space from 0 to 180 about some axis.
Angle angle_of(Rotation<2> r);
Angle angle_of(Rotation<3> r);

ASTASIS_INLINE Vec2 rotate(Rotation<2> r, Vec2 v) { return {r.c * v.x - r.s * v.y, r.s * v.x + r.c * v.y}; }
ASTASIS_INLINE Vec2 rotate_back(Rotation<2> r, Vec2 v) {
    return {r.c * v.x + r.s * v.y, r.c * v.y - r.s * v.x};
}
ASTASIS_INLINE Rotation<2> inverse(Rotation<2> r) { return {r.c, -r.s}; }
ASTASIS_INLINE Rotation<2> operator*(Rotation<2> a, Rotation<2> b) {
    return {a.c * b.c - a.s * b.s, a.s * b.c + a.c * b.s};
}

// v + 2w(q x v) + 2 q x (q x v) for the quaternion (w, q).
ASTASIS_INLINE Vec3 rotate(Rotation<3> r, Vec3 v) {
    const Vec3 q{r.x, r.y, r.z};
    const Vec3 t = cross(q, v) * 2.0f;
    return (v + t * r.w) + cross(q, t);
}
ASTASIS_INLINE Rotation<3> inverse(Rotation<3> r) { return {r.w, -r.x, -r.y, -r.z}; }
ASTASIS_INLINE Vec3 rotate_back(Rotation<3> r, Vec3 v) { return rotate(inverse(r), v); }
ASTASIS_INLINE Rotation<3> operator*(Rotation<3> a, Rotation<3> b) {
    return {
        ((a.w * b.w - a.x * b.x) - a.y * b.y) - a.z * b.z, ((a.w * b.x + a.x * b.w) + a.y * b.z) - a.z * b.y,
        ((a.w * b.y - a.x * b.z) + a.y * b.w) + a.z * b.x, ((a.w * b.z + a.x * b.y) - a.y * b.x) + a.z * b.w};
}

// Where a body is: the place of its own origin (not of its centre of mass) and how it is turned.
template<int Dim> struct Pose {
    Point<Dim> position{};
    Rotation<Dim> rotation{};
    friend constexpr bool operator==(const Pose&, const Pose&) = default;
};

// From a body's own frame to the world and back.
template<int Dim> ASTASIS_INLINE Point<Dim> to_world(const Pose<Dim>& pose, Vec<Dim> local) {
    return pose.position + rotate(pose.rotation, local);
}
template<int Dim> ASTASIS_INLINE Vec<Dim> to_local(const Pose<Dim>& pose, Point<Dim> world) {
    return rotate_back(pose.rotation, world - pose.position);
}

}
