// The shapes of space: mass, bounds, sizes, checks.
#include "shape/measure.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "shape/polyhedron_mass.h"
#include "shape/surface.h"

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

// The tensor from the integrals of xx, xy, ... : trace 1 - m.
Measure<3> measure_polyhedron(const Geometry<3>& geometry) {
    ConvexRoom<3> room;
    const SolidMeasure m = polyhedron_measure(convex_of(geometry, room));
    const auto f = [](double x) { return static_cast<float>(x); };
    const auto& s = m.second;
    return {f(m.volume),
            math::narrowed(m.centre),
            {f(s[3] + s[5]), f(-s[1]), f(-s[2]), f(s[0] + s[5]), f(-s[4]), f(s[0] + s[3])}};
}

Measure<3> measure_box(const Box3& b) { // m (a^2 + b^2)/12
    if (b.rounding() > 0) return measure_polyhedron(b);
    const Vec3 s = b.full_size();
    const float m = s.x * s.y * s.z, xx = m * s.x * s.x / 12, yy = m * s.y * s.y / 12,
                zz = m * s.z * s.z / 12;
    return {m, {}, {yy + zz, 0, 0, xx + zz, 0, xx + yy}};
}

// The tensor of what is round about the line between two points: axial d d^T + cross (1 - d d^T).
Measure<3> about_axis(double content, double axial, double across, Vec3 from, Vec3 to) {
    const Vec3 d = direction(to - from, Vec3{0, 1, 0});
    const auto a = static_cast<float>(axial - across), all = static_cast<float>(across);
    return {static_cast<float>(content),
            (from + to) * 0.5f,
            {a * d.x * d.x + all, a * d.x * d.y, a * d.x * d.z, a * d.y * d.y + all, a * d.y * d.z,
             a * d.z * d.z + all}};
}

// A cylinder and two half-spheres: moments about the axis and across it (the half-spheres' centroids lie 3/8
// r beyond the cylinder's ends), then the tensor along the axis d: axial d d^T + cross (1 - d d^T).
Measure<3> measure_capsule(const Capsule3& c) {
    const double r = c.radius, h = length(c.to - c.from);
    const double rod = kPi * r * r * h, ends = 4.0 / 3.0 * kPi * r * r * r;
    const double axial = rod * (0.5 * r * r) + ends * (0.4 * r * r);
    const double across =
        rod * (0.25 * r * r + h * h / 12) + ends * ((0.4 * r * r + 0.25 * h * h) + 0.375 * h * r);
    return about_axis(rod + ends, axial, across, c.from, c.to);
}

Measure<3> measure_cylinder(const Cylinder& c) {
    const double r = c.radius, h = length(c.to - c.from), m = kPi * r * r * h;
    return about_axis(m, 0.5 * m * r * r, m * (0.25 * r * r + h * h / 12), c.from, c.to);
}

// The most that a shape reaches along each of the world's axes, both ways, seen from its origin.
Window<3> window_of(const Geometry<3>& geometry, Rotation<3> rotation) {
    if (is_unbounded(geometry))
        return {{-kInfinite, -kInfinite, -kInfinite}, {kInfinite, kInfinite, kInfinite}};
    if (const auto* ball = std::get_if<Sphere>(&geometry)) {
        const Vec3 most{ball->radius, ball->radius, ball->radius};
        return {-most, most};
    }
    if (const auto* box = std::get_if<Box3>(&geometry); box != nullptr && box->rounding() == 0) {
        const Vec3 half = box->full_size() * 0.5f;
        const Vec3 x = rotate(rotation, Vec3{half.x, 0, 0}), y = rotate(rotation, Vec3{0, half.y, 0}),
                   z = rotate(rotation, Vec3{0, 0, half.z});
        Vec3 most;
        for (int k = 0; k < 3; k++) most[k] = (std::fabs(x[k]) + std::fabs(y[k])) + std::fabs(z[k]);
        return {-most, most};
    }
    ConvexRoom<3> room;
    Convex<3> convex = convex_of(geometry, room);
    if (is_surface(geometry)) {
        const Window<3> w = shape::window_of(geometry);
        for (std::size_t k = 0; k < 8; k++)
            room[k] = {k & 1 ? w.low.x : w.high.x, k & 2 ? w.low.y : w.high.y, k & 4 ? w.low.z : w.high.z};
        convex.corners = room;
    }
    convex.turn = math::turn_of(rotation);
    Window<3> out;
    for (int k = 0; k < 3; k++) {
        math::Wide3 axis{};
        axis[k] = 1;
        out.high[k] = static_cast<float>(convex.support(axis)[k] + convex.skin);
        out.low[k] = static_cast<float>(convex.support(-axis)[k] - convex.skin);
    }
    return out;
}

// Between a face and the corner farthest from it; two edges may be nearer to each other, but not by much.
float thickness_of(const Hull& hull) {
    float least = kInfinite;
    for (int f = 0; f < hull.face_count(); f++) {
        float most = 0;
        const Vec3 on = hull.corners()[hull.face(f)[0]];
        for (const Vec3 c : hull.corners()) most = std::max(most, dot(on - c, hull.normal(f)));
        least = std::min(least, most);
    }
    return least + 2 * hull.rounding();
}

void check_field(const HeightField& field, const std::string& name) {
    check_size(field, name);
    for (std::size_t i = 0; i < field.heights.size(); i++)
        if (!math::is_finite(field.heights[i]))
            throw Error(name + ".heights[" + std::to_string(i) + "]", base::number(field.heights[i]),
                        "a finite number (m)");
}

void check_drum(const Cylinder& drum, const std::string& field) {
    check_positive(drum.radius, field + ".radius", " (m)");
    const float height = length(drum.to - drum.from);
    if (!math::is_finite(height) || !(height > 0))
        throw Error(field + ".to", base::text_of(drum.to),
                    "a finite point other than `from`, " + base::text_of(drum.from));
}

void check_box(const Box3& box, const std::string& field) {
    const Vec3 s = box.full_size();
    check_positive(s.x, field + ".width", " (m)");
    check_positive(s.y, field + ".height", " (m)");
    check_positive(s.z, field + ".depth", " (m)");
    if (!(box.rounding() >= 0) || !(box.rounding() < 0.5f * std::min({s.x, s.y, s.z})))
        throw Error(field + ".rounding", base::number(box.rounding()),
                    "0 to less than half the smallest side (m)");
}

}

Measure<3> measure(const Geometry<3>& geometry) {
    return std::visit(Overload{[](const Sphere& s) { return measure_sphere(s); },
                               [](const Capsule3& c) { return measure_capsule(c); },
                               [](const Box3& b) { return measure_box(b); },
                               [](const Cylinder& c) { return measure_cylinder(c); },
                               [](const Hull& h) { return measure_polyhedron(h); },
                               [](const auto&) { return Measure<3>{}; }}, // half-spaces and surfaces
                      geometry);
}

Bounds<3> bounds(const Geometry<3>& geometry, const Point<3>& at, Rotation<3> rotation) {
    const Window<3> w = window_of(geometry, rotation);
    return {at + w.low, at + w.high};
}

float thickness(const Geometry<3>& geometry) {
    return std::visit(
        Overload{[](const Sphere& s) { return 2 * s.radius; }, [](const Capsule3& c) { return 2 * c.radius; },
                 [](const Cylinder& c) { return std::min(2 * c.radius, length(c.to - c.from)); },
                 [](const Box3& b) {
                     const Vec3 s = b.full_size();
                     return std::min({s.x, s.y, s.z});
                 },
                 [](const Hull& h) { return thickness_of(h); }, [](const auto&) { return kInfinite; }},
        geometry);
}

float reach(const Geometry<3>& geometry) {
    if (is_unbounded(geometry)) return kInfinite;
    if (is_surface(geometry)) {
        const Window<3> w = shape::window_of(geometry);
        return length(Vec3{std::max(std::fabs(w.low.x), std::fabs(w.high.x)),
                           std::max(std::fabs(w.low.y), std::fabs(w.high.y)),
                           std::max(std::fabs(w.low.z), std::fabs(w.high.z))});
    }
    ConvexRoom<3> room;
    const Convex<3> convex = convex_of(geometry, room);
    float most = 0;
    for (const Vec3 c : convex.corners) most = std::max(most, length(c));
    return most + static_cast<float>(convex.rim + convex.skin);
}

Geometry<3> checked_geometry(const Geometry<3>& geometry, const std::string& field) {
    if (const auto* half = std::get_if<HalfSpace<3>>(&geometry)) return checked_half_space(*half, field);
    if (const auto* capsule = std::get_if<Capsule3>(&geometry)) return checked_capsule(*capsule, field);
    if (const auto* sphere = std::get_if<Sphere>(&geometry))
        check_positive(sphere->radius, field + ".radius", " (m)");
    if (const auto* drum = std::get_if<Cylinder>(&geometry)) check_drum(*drum, field);
    if (const auto* ground = std::get_if<HeightField>(&geometry)) check_field(*ground, field);
    if (const auto* box = std::get_if<Box3>(&geometry)) check_box(*box, field);
    return geometry;
}

}
