// Vectors of doubles: for geometry that has to be exact before it is rounded to the core's floats.
//
// Products are written out in a fixed order, as those of Vec. Shapes stand in a common frame near both of
// them, so that a float that comes in loses nothing and what comes out is rounded once.
#pragma once

#include "astasis/rotation.h"

#include <array>
#include <cmath>

namespace astasis::math {

template<int Dim> struct Wide {
    std::array<double, Dim> c{};
    ASTASIS_INLINE double operator[](int i) const { return c[static_cast<std::size_t>(i)]; }
    ASTASIS_INLINE double& operator[](int i) { return c[static_cast<std::size_t>(i)]; }
};
using Wide2 = Wide<2>;
using Wide3 = Wide<3>;

ASTASIS_INLINE Wide2 operator+(const Wide2& a, const Wide2& b) { return {{a[0] + b[0], a[1] + b[1]}}; }
ASTASIS_INLINE Wide2 operator-(const Wide2& a, const Wide2& b) { return {{a[0] - b[0], a[1] - b[1]}}; }
ASTASIS_INLINE Wide2 operator-(const Wide2& a) { return {{-a[0], -a[1]}}; }
ASTASIS_INLINE Wide2 operator*(const Wide2& a, double s) { return {{a[0] * s, a[1] * s}}; }
ASTASIS_INLINE double dot(const Wide2& a, const Wide2& b) { return a[0] * b[0] + a[1] * b[1]; }
ASTASIS_INLINE double cross(const Wide2& a, const Wide2& b) { return a[0] * b[1] - a[1] * b[0]; }

ASTASIS_INLINE Wide3 operator+(const Wide3& a, const Wide3& b) {
    return {{a[0] + b[0], a[1] + b[1], a[2] + b[2]}};
}
ASTASIS_INLINE Wide3 operator-(const Wide3& a, const Wide3& b) {
    return {{a[0] - b[0], a[1] - b[1], a[2] - b[2]}};
}
ASTASIS_INLINE Wide3 operator-(const Wide3& a) { return {{-a[0], -a[1], -a[2]}}; }
ASTASIS_INLINE Wide3 operator*(const Wide3& a, double s) { return {{a[0] * s, a[1] * s, a[2] * s}}; }
ASTASIS_INLINE double dot(const Wide3& a, const Wide3& b) {
    return (a[0] * b[0] + a[1] * b[1]) + a[2] * b[2];
}
ASTASIS_INLINE Wide3 cross(const Wide3& a, const Wide3& b) {
    return {{a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}};
}

template<int Dim> ASTASIS_INLINE double squared(const Wide<Dim>& a) { return dot(a, a); }
template<int Dim> [[gnu::always_inline]] inline double norm(const Wide<Dim>& a) {
    return std::sqrt(dot(a, a));
}
// The same direction at length 1; `otherwise` if `a` has no direction.
template<int Dim>
[[gnu::always_inline]] inline Wide<Dim> unit(const Wide<Dim>& a, const Wide<Dim>& otherwise) {
    const double n = norm(a);
    return n > 1e-150 ? a * (1.0 / n) : otherwise;
}

ASTASIS_INLINE Wide2 widened(Vec2 v) { return {{v.x, v.y}}; }
ASTASIS_INLINE Wide3 widened(Vec3 v) { return {{v.x, v.y, v.z}}; }
ASTASIS_INLINE Vec2 narrowed(const Wide2& v) { return {static_cast<float>(v[0]), static_cast<float>(v[1])}; }
ASTASIS_INLINE Vec3 narrowed(const Wide3& v) {
    return {static_cast<float>(v[0]), static_cast<float>(v[1]), static_cast<float>(v[2])};
}

// A rotation as a matrix of doubles; its columns have length 1 even where the float rotation has not quite.
template<int Dim> struct Turn { std::array<Wide<Dim>, Dim> column; };
ASTASIS_INLINE Turn<2> turn_of(Rotation<2> r) {
    const double c = r.c, s = r.s, k = 1.0 / std::sqrt(c * c + s * s);
    return {{Wide2{{c * k, s * k}}, Wide2{{-s * k, c * k}}}};
}
// Of a quaternion of any length.
ASTASIS_INLINE Turn<3> turn_of_quaternion(double w, const Wide3& q) {
    const double x = q[0], y = q[1], z = q[2], k = 2.0 / (((w * w + x * x) + y * y) + z * z);
    return {{Wide3{{1 - k * (y * y + z * z), k * (x * y + w * z), k * (x * z - w * y)}},
             Wide3{{k * (x * y - w * z), 1 - k * (x * x + z * z), k * (y * z + w * x)}},
             Wide3{{k * (x * z + w * y), k * (y * z - w * x), 1 - k * (x * x + y * y)}}}};
}
ASTASIS_INLINE Turn<3> turn_of(Rotation<3> r) { return turn_of_quaternion(r.w, {{r.x, r.y, r.z}}); }
ASTASIS_INLINE Wide2 operator*(const Turn<2>& t, const Wide2& v) {
    return t.column[0] * v[0] + t.column[1] * v[1];
}
ASTASIS_INLINE Wide3 operator*(const Turn<3>& t, const Wide3& v) {
    return (t.column[0] * v[0] + t.column[1] * v[1]) + t.column[2] * v[2];
}
ASTASIS_INLINE Wide2 turned_back(const Turn<2>& t, const Wide2& v) {
    return {{dot(t.column[0], v), dot(t.column[1], v)}};
}
ASTASIS_INLINE Wide3 turned_back(const Turn<3>& t, const Wide3& v) {
    return {{dot(t.column[0], v), dot(t.column[1], v), dot(t.column[2], v)}};
}

}
