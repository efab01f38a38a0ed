#include "shape/measure.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <limits>

namespace astasis::shape {
namespace {

constexpr float kPi = 3.14159265358979323846f;
constexpr float kInfinite = std::numeric_limits<float>::infinity();

template<typename... Visitors> struct Overload : Visitors... { using Visitors::operator()...; };
template<typename... Visitors> Overload(Visitors...) -> Overload<Visitors...>;

float content_of(const Ball<2>& b) { return kPi * b.radius * b.radius; }
float content_of(const Ball<3>& b) { return 4.0f / 3.0f * kPi * b.radius * b.radius * b.radius; }
float content_of(const Box<2>& b) { return b.full_size().x * b.full_size().y; }
float content_of(const Box<3>& b) { return b.full_size().x * b.full_size().y * b.full_size().z; }

// Moments of a mass 1 about the centre: m r^2/2 (disc), 2/5 m r^2 (sphere), m (a^2 + b^2)/12 (cuboid).
float inertia_of(const Ball<2>& b) { return 0.5f * b.radius * b.radius; }
math::Sym3 inertia_of(const Ball<3>& b) {
    const float i = 0.4f * b.radius * b.radius;
    return {i, 0, 0, i, 0, i};
}
float inertia_of(const Box<2>& b) { return dot(b.full_size(), b.full_size()) / 12.0f; }
math::Sym3 inertia_of(const Box<3>& b) {
    const Vec3 s = b.full_size();
    const float xx = s.x * s.x, yy = s.y * s.y, zz = s.z * s.z;
    return {(yy + zz) / 12.0f, 0, 0, (xx + zz) / 12.0f, 0, (xx + yy) / 12.0f};
}

template<int Dim> Bounds<Dim> bounds_around(const Point<Dim>& at, Vec<Dim> half) {
    return {at - half, at + half};
}

template<int Dim> Vec<Dim> box_extent(Vec<Dim> size, Rotation<Dim> rotation) {
    Vec<Dim> half{};
    for (int i = 0; i < Dim; i++) {
        Vec<Dim> axis{};
        axis[i] = 0.5f * size[i];
        const Vec<Dim> turned = rotate(rotation, axis);
        for (int k = 0; k < Dim; k++) half[k] += std::fabs(turned[k]);
    }
    return half;
}

void check_positive(float value, const std::string& field, const char* unit) {
    if (!(value > 0) || !math::is_finite(value))
        throw Error(field, base::number(value), std::string("a finite number above 0") + unit);
}

template<int Dim> void check_geometry(Geometry<Dim>& geometry, const std::string& field) {
    static constexpr const char* kSizes[] = {"width", "height", "depth"};
    std::visit(Overload{[&](Ball<Dim>& b) { check_positive(b.radius, field + ".radius", " (m)"); },
                        [&](Box<Dim>& b) {
                            for (int i = 0; i < Dim; i++)
                                check_positive(b.full_size()[i], field + "." + kSizes[i], " (m)");
                        },
                        [&](HalfSpace<Dim>& h) {
                            const float n = length(h.outward);
                            if (!math::is_finite(n) || !(n > 0))
                                throw Error(field + ".outward", base::text_of(h.outward),
                                            "a finite vector that is not zero");
                            h.outward = h.outward / n;
                        }},
               geometry);
}

}

template<int Dim> Measure<Dim> measure(const Geometry<Dim>& geometry) {
    return std::visit(Overload{[](const HalfSpace<Dim>&) { return Measure<Dim>{}; },
                               [](const auto& g) {
                                   const float content = content_of(g);
                                   return Measure<Dim>{content, inertia_of(g) * content};
                               }},
                      geometry);
}

template<int Dim>
Bounds<Dim> bounds(const Geometry<Dim>& geometry, const Point<Dim>& at, Rotation<Dim> rotation) {
    Vec<Dim> infinite{};
    for (int i = 0; i < Dim; i++) infinite[i] = kInfinite;
    return std::visit(
        Overload{[&](const Ball<Dim>& b) {
                     Vec<Dim> half{};
                     for (int i = 0; i < Dim; i++) half[i] = b.radius;
                     return bounds_around(at, half);
                 },
                 [&](const Box<Dim>& b) { return bounds_around(at, box_extent(b.full_size(), rotation)); },
                 [&](const HalfSpace<Dim>&) { return bounds_around(at, infinite); }},
        geometry);
}

template<int Dim> float thickness(const Geometry<Dim>& geometry) {
    return std::visit(Overload{[](const Ball<Dim>& b) { return 2.0f * b.radius; },
                               [](const Box<Dim>& b) {
                                   float least = kInfinite;
                                   for (int i = 0; i < Dim; i++) least = std::min(least, b.full_size()[i]);
                                   return least;
                               },
                               [](const HalfSpace<Dim>&) { return kInfinite; }},
                      geometry);
}

template<int Dim> float reach(const Geometry<Dim>& geometry) {
    return std::visit(Overload{[](const Ball<Dim>& b) { return b.radius; },
                               [](const Box<Dim>& b) { return 0.5f * length(b.full_size()); },
                               [](const HalfSpace<Dim>&) { return kInfinite; }},
                      geometry);
}

template<int Dim> bool is_unbounded(const Geometry<Dim>& geometry) {
    return std::holds_alternative<HalfSpace<Dim>>(geometry);
}

template<int Dim> ShapeSpec<Dim> checked(const ShapeSpec<Dim>& spec, const std::string& field) {
    ShapeSpec<Dim> out = spec;
    check_geometry(out.geometry, field + ".geometry");
    check_positive(out.density, field + ".density", Dim == 2 ? " (kg/m2)" : " (kg/m3)");
    const Material& m = out.material;
    if (!(m.friction >= 0) || !math::is_finite(m.friction))
        throw Error(field + ".material.friction", base::number(m.friction), "a finite number, 0 or more");
    if (!(m.restitution >= 0) || !(m.restitution <= 1))
        throw Error(field + ".material.restitution", base::number(m.restitution), "0 to 1");
    if (!math::is_finite(out.placement.position))
        throw Error(field + ".placement.position", base::text_of(out.placement.position), "finite numbers");
    const float norm = math::norm_squared(out.placement.rotation);
    if (!math::is_finite(norm) || !(norm > 0))
        throw Error(field + ".placement.rotation", base::number(norm) + " as its squared length",
                    "a rotation, made by turned(angle)");
    out.placement.rotation = math::normalized(out.placement.rotation);
    return out;
}

template<int Dim> MassProperties<Dim> combined_mass(std::span<const ShapeSpec<Dim>> shapes) {
    MassProperties<Dim> total;
    for (const auto& s : shapes) {
        const float mass = measure(s.geometry).content * s.density;
        total.mass += mass;
        total.centre += s.placement.position * mass;
    }
    if (total.mass > 0) total.centre = total.centre / total.mass;
    math::Inertia<Dim> inertia{};
    for (const auto& s : shapes) {
        const Measure<Dim> m = measure(s.geometry);
        inertia = inertia + math::turned_tensor(m.inertia * s.density, s.placement.rotation);
        inertia = inertia + math::point_inertia(m.content * s.density, s.placement.position - total.centre);
    }
    set_tensor(total, inertia);
    return total;
}

float tensor_of(const MassProperties<2>& mass) { return mass.inertia; }
math::Sym3 tensor_of(const MassProperties<3>& mass) {
    return {mass.moments.x, mass.products.x, mass.products.y,
            mass.moments.y, mass.products.z, mass.moments.z};
}
void set_tensor(MassProperties<2>& mass, float inertia) { mass.inertia = inertia; }
void set_tensor(MassProperties<3>& mass, const math::Sym3& i) {
    mass.moments = {i.xx, i.yy, i.zz};
    mass.products = {i.xy, i.xz, i.yz};
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Measure<Dim> measure(const Geometry<Dim>&);                                                     \
    template Bounds<Dim> bounds(const Geometry<Dim>&, const Point<Dim>&, Rotation<Dim>);                     \
    template float thickness(const Geometry<Dim>&);                                                          \
    template float reach(const Geometry<Dim>&);                                                              \
    template bool is_unbounded(const Geometry<Dim>&);                                                        \
    template ShapeSpec<Dim> checked(const ShapeSpec<Dim>&, const std::string&);                              \
    template MassProperties<Dim> combined_mass(std::span<const ShapeSpec<Dim>>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}

namespace astasis {

template<int Dim> Bounds<Dim> bounds_of(const ShapeSpec<Dim>& s, const Pose<Dim>& body) {
    return shape::bounds(s.geometry, to_world(body, s.placement.position),
                         body.rotation * s.placement.rotation);
}
template<int Dim> float thickness_of(const ShapeSpec<Dim>& s) { return shape::thickness(s.geometry); }

template Bounds<2> bounds_of(const ShapeSpec<2>&, const Pose<2>&);
template Bounds<3> bounds_of(const ShapeSpec<3>&, const Pose<3>&);
template float thickness_of(const ShapeSpec<2>&);
template float thickness_of(const ShapeSpec<3>&);

}
