// Spheres, boxes and half-spaces: mass, bounds, sizes, checks.
#include "math/numbers.h"
#include "shape/measure.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace astasis::shape {
namespace {

constexpr float kPi = 3.14159265358979323846f;
constexpr float kInfinite = std::numeric_limits<float>::infinity();

template<typename... Visitors> struct Overload : Visitors... { using Visitors::operator()...; };
template<typename... Visitors> Overload(Visitors...) -> Overload<Visitors...>;

Vec3 box_extent(Vec3 size, Rotation<3> rotation) {
    Vec3 half{};
    for (int i = 0; i < 3; i++) {
        Vec3 axis{};
        axis[i] = 0.5f * size[i];
        const Vec3 turned = rotate(rotation, axis);
        for (int k = 0; k < 3; k++) half[k] += std::fabs(turned[k]);
    }
    return half;
}

}

// 2/5 m r^2 of a sphere, m (a^2 + b^2)/12 of a cuboid.
Measure<3> measure(const Geometry<3>& geometry) {
    if (const auto* sphere = std::get_if<Sphere>(&geometry)) {
        const float r = sphere->radius, m = 4.0f / 3.0f * kPi * r * r * r, i = 0.4f * m * r * r;
        return {m, {}, {i, 0, 0, i, 0, i}};
    }
    if (const auto* box = std::get_if<Box3>(&geometry)) {
        const Vec3 s = box->full_size();
        const float m = s.x * s.y * s.z, xx = m * s.x * s.x / 12, yy = m * s.y * s.y / 12,
                    zz = m * s.z * s.z / 12;
        return {m, {}, {yy + zz, 0, 0, xx + zz, 0, xx + yy}};
    }
    return {};
}

Bounds<3> bounds(const Geometry<3>& geometry, const Point<3>& at, Rotation<3> rotation) {
    const Vec3 half = std::visit(Overload{[](const Sphere& s) {
                                              return Vec3{s.radius, s.radius, s.radius};
                                          },
                                          [&](const Box3& b) { return box_extent(b.full_size(), rotation); },
                                          [](const HalfSpace<3>&) {
                                              return Vec3{kInfinite, kInfinite, kInfinite};
                                          }},
                                 geometry);
    return {at - half, at + half};
}

float thickness(const Geometry<3>& geometry) {
    return std::visit(Overload{[](const Sphere& s) { return 2.0f * s.radius; },
                               [](const Box3& b) {
                                   const Vec3 s = b.full_size();
                                   return std::min({s.x, s.y, s.z});
                               },
                               [](const HalfSpace<3>&) { return kInfinite; }},
                      geometry);
}

float reach(const Geometry<3>& geometry) {
    return std::visit(Overload{[](const Sphere& s) { return s.radius; },
                               [](const Box3& b) { return 0.5f * length(b.full_size()); },
                               [](const HalfSpace<3>&) { return kInfinite; }},
                      geometry);
}

Geometry<3> checked_geometry(const Geometry<3>& geometry, const std::string& field) {
    if (const auto* half = std::get_if<HalfSpace<3>>(&geometry)) return checked_half_space(*half, field);
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
