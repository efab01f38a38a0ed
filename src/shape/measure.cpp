// What both dimensions share: the checks of a spec, and the mass of several shapes together.
#include "shape/measure.h"
#include "shape/surface.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"

namespace astasis::shape {

void check_positive(float value, const std::string& field, const char* unit) {
    if (!(value > 0) || !math::is_finite(value))
        throw Error(field, base::number(value), std::string("a finite number above 0") + unit);
}

void check_grid(const GridSize& grid, int least, const std::string& field, const char* pitch,
                const char* entries) {
    const auto check_count = [&](int count, const char* name) {
        if (count < least || count > 30000)
            throw Error(field + name, std::to_string(count), std::to_string(least) + " to 30000");
    };
    check_count(grid.columns, ".columns");
    check_count(grid.rows, ".rows");
    check_positive(grid.pitch, field + pitch, " (m)");
    const auto wanted = static_cast<std::size_t>(grid.columns) * static_cast<std::size_t>(grid.rows);
    if (grid.entries != wanted)
        throw Error(field + entries, std::to_string(grid.entries) + " entries",
                    std::to_string(wanted) + " entries: columns times rows");
}

void check_point(const Vec2& point, const std::string& field) {
    if (!math::is_finite(point)) throw Error(field, base::text_of(point), "finite numbers (m)");
}
void check_point(const Vec3& point, const std::string& field) {
    if (!math::is_finite(point)) throw Error(field, base::text_of(point), "finite numbers (m)");
}

template<int Dim> HalfSpace<Dim> checked_half_space(const HalfSpace<Dim>& half, const std::string& field) {
    const float n = length(half.outward);
    if (!math::is_finite(n) || !(n > 0))
        throw Error(field + ".outward", base::text_of(half.outward), "a finite vector that is not zero");
    return {half.outward / n};
}

template<int Dim> Capsule<Dim> checked_capsule(const Capsule<Dim>& capsule, const std::string& field) {
    check_positive(capsule.radius, field + ".radius", " (m)");
    const float apart = length(capsule.to - capsule.from);
    if (!math::is_finite(apart) || !(apart > 0))
        throw Error(field + ".to", base::text_of(capsule.to),
                    "a finite point other than `from`, " + base::text_of(capsule.from) +
                        "; without length it is a circle or a sphere");
    return capsule;
}

void check_material(const Material& m, const std::string& field) {
    if (!(m.friction >= 0) || !math::is_finite(m.friction))
        throw Error(field + ".friction", base::number(m.friction), "a finite number, 0 or more");
    if (!(m.restitution >= 0) || !(m.restitution <= 1))
        throw Error(field + ".restitution", base::number(m.restitution), "0 to 1");
    if (!(m.tangential_restitution >= 0) || !(m.tangential_restitution <= 1))
        throw Error(field + ".tangential_restitution", base::number(m.tangential_restitution), "0 to 1");
    const auto check_resistance = [&](float value, const char* name) {
        if (!(value >= 0) || !math::is_finite(value))
            throw Error(field + name, base::number(value), "a finite number, 0 or more (m)");
    };
    check_resistance(m.rolling_resistance, ".rolling_resistance");
    check_resistance(m.spinning_resistance, ".spinning_resistance");
    const auto check_mixing = [&](Mixing value, const char* name) {
        if (value > Mixing::Larger)
            throw Error(field + name, std::to_string(static_cast<int>(value)), "one of the values of Mixing");
    };
    check_mixing(m.friction_mixing, ".friction_mixing");
    check_mixing(m.restitution_mixing, ".restitution_mixing");
}

template<int Dim> ShapeSpec<Dim> checked(const ShapeSpec<Dim>& spec, const std::string& field) {
    ShapeSpec<Dim> out = spec;
    out.geometry = checked_geometry(spec.geometry, field + ".geometry");
    check_positive(out.density, field + ".density", Dim == 2 ? " (kg/m2)" : " (kg/m3)");
    check_material(out.material, field + ".material");
    if (!math::is_finite(out.surface_velocity))
        throw Error(field + ".surface_velocity", base::text_of(out.surface_velocity), "finite numbers (m/s)");
    if (!math::is_finite(length_squared(out.placement.position)))
        throw Error(field + ".placement.position", base::text_of(out.placement.position),
                    "finite numbers (m) whose squares a float can hold");
    const float norm = math::norm_squared(out.placement.rotation);
    if (!math::is_finite(norm) || !(norm > 0))
        throw Error(field + ".placement.rotation", base::number(norm) + " as its squared length",
                    "a rotation, made by turned(angle)");
    out.placement.rotation = math::normalized(out.placement.rotation);
    if (out.is_sensor && (is_surface(out.geometry) || is_unbounded(out.geometry)))
        throw Error(field + ".is_sensor",
                    is_surface(out.geometry) ? "true of a surface" : "true of a half-space",
                    "a bounded convex shape as a sensor");
    return out;
}

template<int Dim> MassProperties<Dim> combined_mass(std::span<const ShapeSpec<Dim>> shapes) {
    MassProperties<Dim> total;
    for (const auto& s : shapes) {
        if (s.is_sensor) continue;
        const Measure<Dim> m = measure(s.geometry);
        const float mass = m.content * s.density;
        total.mass += mass;
        total.centre += (s.placement.position + rotate(s.placement.rotation, m.centre)) * mass;
    }
    if (total.mass > 0) total.centre = total.centre / total.mass;
    math::Inertia<Dim> inertia{};
    for (const auto& s : shapes) {
        if (s.is_sensor) continue;
        const Measure<Dim> m = measure(s.geometry);
        inertia = inertia + math::turned_tensor(m.inertia * s.density, s.placement.rotation);
        const Vec<Dim> centre = s.placement.position + rotate(s.placement.rotation, m.centre);
        inertia = inertia + math::point_inertia(m.content * s.density, centre - total.centre);
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

template Capsule<2> checked_capsule(const Capsule<2>&, const std::string&);
template Capsule<3> checked_capsule(const Capsule<3>&, const std::string&);
template HalfSpace<2> checked_half_space(const HalfSpace<2>&, const std::string&);
template HalfSpace<3> checked_half_space(const HalfSpace<3>&, const std::string&);
template ShapeSpec<2> checked(const ShapeSpec<2>&, const std::string&);
template ShapeSpec<3> checked(const ShapeSpec<3>&, const std::string&);
template MassProperties<2> combined_mass(std::span<const ShapeSpec<2>>);
template MassProperties<3> combined_mass(std::span<const ShapeSpec<3>>);

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
