// One spelling for both dimensions: components, sizes, finiteness; and sums that lose nothing.
#pragma once

#include "astasis/rotation.h"

#include <cmath>

namespace astasis::math {

// p + (v + remainder) * seconds in double.
ASTASIS_INLINE Point2 moved(Point2 p, Vec2 v, Vec2 remainder, double seconds) {
    return {p.x + (static_cast<double>(v.x) + remainder.x) * seconds,
            p.y + (static_cast<double>(v.y) + remainder.y) * seconds};
}
ASTASIS_INLINE Point3 moved(Point3 p, Vec3 v, Vec3 remainder, double seconds) {
    return {p.x + (static_cast<double>(v.x) + remainder.x) * seconds,
            p.y + (static_cast<double>(v.y) + remainder.y) * seconds,
            p.z + (static_cast<double>(v.z) + remainder.z) * seconds};
}

// The place at a distance from another, both in double.
ASTASIS_INLINE Point2 sum(Point2 p, Point2 way) { return {p.x + way.x, p.y + way.y}; }
ASTASIS_INLINE Point3 sum(Point3 p, Point3 way) { return {p.x + way.x, p.y + way.y, p.z + way.z}; }

// Sums a float and its remainder with a double: `value` becomes the nearest float, `remainder` what that left
// out.
ASTASIS_INLINE void add_exactly(float& value, float& remainder, double change) {
    const double sum = (static_cast<double>(value) + remainder) + change;
    value = static_cast<float>(sum);
    remainder = static_cast<float>(sum - value);
}

// The components of what has one (plane) or three (space).
template<int Dim> inline constexpr int kAxialSize = Dim == 2 ? 1 : 3;
ASTASIS_INLINE float component(const float& a, int) { return a; }
ASTASIS_INLINE float component(const Vec3& a, int i) { return a[i]; }
ASTASIS_INLINE float& component(float& a, int) { return a; }
ASTASIS_INLINE float& component(Vec3& a, int i) { return i == 0 ? a.x : i == 1 ? a.y : a.z; }

// The length of a vector or an angular quantity.
[[gnu::always_inline]] inline float magnitude(float a) { return std::fabs(a); }
[[gnu::always_inline]] inline float magnitude(Vec2 a) { return length(a); }
[[gnu::always_inline]] inline float magnitude(Vec3 a) { return length(a); }

// Of two quantities that turn.
ASTASIS_INLINE float axial_dot(float a, float b) { return a * b; }
ASTASIS_INLINE float axial_dot(Vec3 a, Vec3 b) { return dot(a, b); }

// Component by component.
ASTASIS_INLINE Vec2 times(Vec2 a, Vec2 b) { return {a.x * b.x, a.y * b.y}; }
ASTASIS_INLINE Vec3 times(Vec3 a, Vec3 b) { return {a.x * b.x, a.y * b.y, a.z * b.z}; }

ASTASIS_INLINE bool is_finite(float a) { return a - a == 0.0f; }
ASTASIS_INLINE bool is_finite(Vec2 a) { return is_finite(a.x) && is_finite(a.y); }
ASTASIS_INLINE bool is_finite(Vec3 a) { return is_finite(a.x) && is_finite(a.y) && is_finite(a.z); }
ASTASIS_INLINE bool is_finite(double a) { return a - a == 0.0; }
ASTASIS_INLINE bool is_finite(Point2 a) { return is_finite(a.x) && is_finite(a.y); }
ASTASIS_INLINE bool is_finite(Point3 a) { return is_finite(a.x) && is_finite(a.y) && is_finite(a.z); }
ASTASIS_INLINE bool is_finite(Rotation<2> r) { return is_finite(r.c) && is_finite(r.s); }
ASTASIS_INLINE bool is_finite(Rotation<3> r) {
    return is_finite(r.w) && is_finite(r.x) && is_finite(r.y) && is_finite(r.z);
}

}
