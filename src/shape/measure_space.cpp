// Spheres, capsules, boxes and half-spaces: mass, bounds, sizes, checks.
#include "math/numbers.h"
#include "shape/measure.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace astasis::shape {
namespace {

constexpr double kPi = 3.14159265358979323846;
constexpr float kInfinite = std::numeric_limits<float>::infinity();

// A function object of one overload a shape.
template<typename... Visitors> struct Overload : Visitors... { using Visitors::operator()...; };
template<typename... Visitors> Overload(Visitors...) -> Overload<Visitors...>;

Measure<3> measure_sphere(const Sphere& s) { // 2/5 m r^2
    const double r = s.radius, m = 4.0 / 3.0 * kPi * r * r * r;
    const auto i = static_cast<float>(0.4 * m * r * r);
    return {static_cast<float>(m), {}, {i, 0, 0, i, 0, i}};
}

Measure<3> measure_box(const Box3& b) { // m (a^2 + b^2)/12
    const Vec3 s = b.full_size();
    const float m = s.x * s.y * s.z, xx = m * s.x * s.x / 12, yy = m * s.y * s.y / 12,
                zz = m * s.z * s.z / 12;
    return {m, {}, {yy + zz, 0, 0, xx + zz, 0, xx + yy}};
}

// A cylinder and two half-spheres: moments about the axis and across it (the half-spheres' centroids lie 3/8
// r beyond the cylinder's ends), then the tensor along the axis d: axial d d^T + cross (1 - d d^T).
Measure<3> measure_capsule(const Capsule3& c) {
    const double r = c.radius, h = length(c.to - c.from);
    const double rod = kPi * r * r * h, ends = 4.0 / 3.0 * kPi * r * r * r;
    const double axial = rod * (0.5 * r * r) + ends * (0.4 * r * r);
    const double across =
        rod * (0.25 * r * r + h * h / 12) + ends * ((0.4 * r * r + 0.25 * h * h) + 0.375 * h * r);
    const Vec3 d = direction(c.to - c.from, Vec3{0, 1, 0});
    const auto a = static_cast<float>(axial - across), all = static_cast<float>(across);
    return {static_cast<float>(rod + ends),
            (c.from + c.to) * 0.5f,
            {a * d.x * d.x + all, a * d.x * d.y, a * d.x * d.z, a * d.y * d.y + all, a * d.y * d.z,
             a * d.z * d.z + all}};
}

struct Extent {
    Vec3 low, high;
};
Extent around(Vec3 p, float r) { return {p - Vec3{r, r, r}, p + Vec3{r, r, r}}; }

Extent extent_of(const Capsule3& c, Rotation<3> rotation) {
    const Extent a = around(rotate(rotation, c.from), c.radius), b = around(rotate(rotation, c.to), c.radius);
    Extent out;
    for (int i = 0; i < 3; i++)
        out.low[i] = std::min(a.low[i], b.low[i]), out.high[i] = std::max(a.high[i], b.high[i]);
    return out;
}

Extent extent_of(const Box3& box, Rotation<3> rotation) {
    Vec3 half{};
    for (int i = 0; i < 3; i++) {
        Vec3 axis{};
        axis[i] = 0.5f * box.full_size()[i];
        const Vec3 turned = rotate(rotation, axis);
        for (int k = 0; k < 3; k++) half[k] += std::fabs(turned[k]);
    }
    return {-half, half};
}

}

Measure<3> measure(const Geometry<3>& geometry) {
    return std::visit(Overload{[](const Sphere& s) { return measure_sphere(s); },
                               [](const Capsule3& c) { return measure_capsule(c); },
                               [](const Box3& b) { return measure_box(b); },
                               [](const HalfSpace<3>&) { return Measure<3>{}; }},
                      geometry);
}

Bounds<3> bounds(const Geometry<3>& geometry, const Point<3>& at, Rotation<3> rotation) {
    const Extent e = std::visit(Overload{[](const Sphere& s) { return around({}, s.radius); },
                                         [&](const Capsule3& c) { return extent_of(c, rotation); },
                                         [&](const Box3& b) { return extent_of(b, rotation); },
                                         [](const HalfSpace<3>&) { return around({}, kInfinite); }},
                                geometry);
    return {at + e.low, at + e.high};
}

float thickness(const Geometry<3>& geometry) {
    return std::visit(Overload{[](const Sphere& s) { return 2 * s.radius; },
                               [](const Capsule3& c) { return 2 * c.radius; },
                               [](const Box3& b) {
                                   const Vec3 s = b.full_size();
                                   return std::min({s.x, s.y, s.z});
                               },
                               [](const HalfSpace<3>&) { return kInfinite; }},
                      geometry);
}

float reach(const Geometry<3>& geometry) {
    return std::visit(
        Overload{[](const Sphere& s) { return s.radius; },
                 [](const Capsule3& c) { return std::max(length(c.from), length(c.to)) + c.radius; },
                 [](const Box3& b) { return 0.5f * length(b.full_size()); },
                 [](const HalfSpace<3>&) { return kInfinite; }},
        geometry);
}

Geometry<3> checked_geometry(const Geometry<3>& geometry, const std::string& field) {
    if (const auto* half = std::get_if<HalfSpace<3>>(&geometry)) return checked_half_space(*half, field);
    if (const auto* capsule = std::get_if<Capsule3>(&geometry)) return checked_capsule(*capsule, field);
    if (const auto* sphere = std::get_if<Sphere>(&geometry))
        check_positive(sphere->radius, field + ".radius", " (m)");
    if (const auto* box = std::get_if<Box3>(&geometry)) {
        check_positive(box->full_size().x, field + ".width", " (m)");
        check_positive(box->full_size().y, field + ".height", " (m)");
        check_positive(box->full_size().z, field + ".depth", " (m)");
    }
    return geometry;
}

}
