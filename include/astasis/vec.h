// Vectors and points: a place in the world is a Point of doubles, a difference of places a Vec of floats.
//
// point - point = vec, point + vec = point, and nothing else mixes. Lengths are metres wherever a Vec is a
// length. Axial<Dim> is what turns: angular velocity (rad/s), torque (N m); a number in the plane, a vector
// in space. Products are written out in a fixed order, so that every build gives the same bits.
#pragma once

#include "astasis/config.h"

#include <cmath>
#include <type_traits>

namespace astasis {

template<int Dim> struct Vec;

template<> struct Vec<2> {
    float x = 0, y = 0;
    ASTASIS_INLINE float operator[](int i) const { return i == 0 ? x : y; }
    ASTASIS_INLINE float& operator[](int i) { return i == 0 ? x : y; }
    friend constexpr bool operator==(const Vec&, const Vec&) = default;
};

template<> struct Vec<3> {
    float x = 0, y = 0, z = 0;
    ASTASIS_INLINE float operator[](int i) const { return i == 0 ? x : i == 1 ? y : z; }
    ASTASIS_INLINE float& operator[](int i) { return i == 0 ? x : i == 1 ? y : z; }
    friend constexpr bool operator==(const Vec&, const Vec&) = default;
};

template<int Dim> struct Point;

template<> struct Point<2> {
    double x = 0, y = 0;
    ASTASIS_INLINE double operator[](int i) const { return i == 0 ? x : y; }
    ASTASIS_INLINE double& operator[](int i) { return i == 0 ? x : y; }
    friend constexpr bool operator==(const Point&, const Point&) = default;
};

template<> struct Point<3> {
    double x = 0, y = 0, z = 0;
    ASTASIS_INLINE double operator[](int i) const { return i == 0 ? x : i == 1 ? y : z; }
    ASTASIS_INLINE double& operator[](int i) { return i == 0 ? x : i == 1 ? y : z; }
    friend constexpr bool operator==(const Point&, const Point&) = default;
};

using Vec2 = Vec<2>;
using Vec3 = Vec<3>;
using Point2 = Point<2>;
using Point3 = Point<3>;

template<int Dim> using Axial = std::conditional_t<Dim == 2, float, Vec<3>>;

ASTASIS_INLINE Vec2 operator+(Vec2 a, Vec2 b) { return {a.x + b.x, a.y + b.y}; }
ASTASIS_INLINE Vec2 operator-(Vec2 a, Vec2 b) { return {a.x - b.x, a.y - b.y}; }
ASTASIS_INLINE Vec2 operator-(Vec2 a) { return {-a.x, -a.y}; }
ASTASIS_INLINE Vec2 operator*(Vec2 a, float s) { return {a.x * s, a.y * s}; }
ASTASIS_INLINE float dot(Vec2 a, Vec2 b) { return a.x * b.x + a.y * b.y; }
ASTASIS_INLINE float cross(Vec2 a, Vec2 b) { return a.x * b.y - a.y * b.x; }
ASTASIS_INLINE Vec2 cross(float w, Vec2 r) { return {-w * r.y, w * r.x}; }

ASTASIS_INLINE Vec3 operator+(Vec3 a, Vec3 b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
ASTASIS_INLINE Vec3 operator-(Vec3 a, Vec3 b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
ASTASIS_INLINE Vec3 operator-(Vec3 a) { return {-a.x, -a.y, -a.z}; }
ASTASIS_INLINE Vec3 operator*(Vec3 a, float s) { return {a.x * s, a.y * s, a.z * s}; }
ASTASIS_INLINE float dot(Vec3 a, Vec3 b) { return (a.x * b.x + a.y * b.y) + a.z * b.z; }
ASTASIS_INLINE Vec3 cross(Vec3 a, Vec3 b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

ASTASIS_INLINE Point2 operator+(Point2 p, Vec2 v) { return {p.x + v.x, p.y + v.y}; }
ASTASIS_INLINE Point2 operator-(Point2 p, Vec2 v) { return {p.x - v.x, p.y - v.y}; }
ASTASIS_INLINE Vec2 operator-(Point2 a, Point2 b) {
    return {static_cast<float>(a.x - b.x), static_cast<float>(a.y - b.y)};
}
ASTASIS_INLINE Point3 operator+(Point3 p, Vec3 v) { return {p.x + v.x, p.y + v.y, p.z + v.z}; }
ASTASIS_INLINE Point3 operator-(Point3 p, Vec3 v) { return {p.x - v.x, p.y - v.y, p.z - v.z}; }
ASTASIS_INLINE Vec3 operator-(Point3 a, Point3 b) {
    return {static_cast<float>(a.x - b.x), static_cast<float>(a.y - b.y), static_cast<float>(a.z - b.z)};
}

// Angular quantities in the plane are plain numbers; this gives both dimensions one spelling.
ASTASIS_INLINE float dot(float a, float b) { return a * b; }

template<int Dim> ASTASIS_INLINE Vec<Dim> operator*(float s, Vec<Dim> a) { return a * s; }
template<int Dim> ASTASIS_INLINE Vec<Dim> operator/(Vec<Dim> a, float s) { return a * (1.0f / s); }
template<int Dim> ASTASIS_INLINE Vec<Dim>& operator+=(Vec<Dim>& a, Vec<Dim> b) { return a = a + b; }
template<int Dim> ASTASIS_INLINE Vec<Dim>& operator-=(Vec<Dim>& a, Vec<Dim> b) { return a = a - b; }
template<int Dim> ASTASIS_INLINE float length_squared(Vec<Dim> a) { return dot(a, a); }
template<int Dim> [[gnu::always_inline]] inline float length(Vec<Dim> a) { return std::sqrt(dot(a, a)); }
[[gnu::always_inline]] inline float length(float a) { return std::fabs(a); }

// The same direction at length 1; `otherwise` if `a` is too short to have a direction.
template<int Dim> [[gnu::always_inline]] inline Vec<Dim> direction(Vec<Dim> a, Vec<Dim> otherwise) {
    const float n = length(a);
    return n > 1e-18f ? a * (1.0f / n) : otherwise;
}

}
