// Adding and removing bodies: the checks of a spec, and the columns that a body fills.
#include "astasis/world.h"

#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/surface.h"
#include "world/state.h"

#include <cmath>

namespace astasis {
namespace {

using base::number;
using base::text_of;

std::string text_of(float value) { return number(value); }

void check_damping(float value, const char* field) {
    if (!(value >= 0) || !math::is_finite(value))
        throw Error(field, number(value), "a finite number, 0 or more (1/s)");
}

bool is_an_inertia(float i) { return i >= 0 && math::is_finite(i); }
bool is_an_inertia(const math::Sym3& i) {
    if (i == math::Sym3{}) return true;
    const bool finite = math::is_finite(Vec3{i.xx, i.yy, i.zz}) && math::is_finite(Vec3{i.xy, i.xz, i.yz});
    return finite && i.xx > 0 && i.xx * i.yy > i.xy * i.xy && math::inverse(i) != math::Sym3{};
}

std::string inertia_text(const MassProperties<2>& mass) { return number(mass.inertia); }
std::string inertia_text(const MassProperties<3>& mass) {
    return "moments " + text_of(mass.moments) + ", products " + text_of(mass.products);
}

template<int Dim> void check_mass(const MassProperties<Dim>& mass, const std::string& field) {
    if (!(mass.mass > 0) || !math::is_finite(mass.mass))
        throw Error(field + ".mass", number(mass.mass), "a finite number above 0 (kg)");
    if (!math::is_finite(mass.centre))
        throw Error(field + ".centre", text_of(mass.centre), "finite numbers (m)");
    if (!is_an_inertia(shape::tensor_of(mass)))
        throw Error(field + (Dim == 2 ? ".inertia" : ".moments"), inertia_text(mass),
                    "a finite positive definite inertia about the centre of mass (kg m2), or all 0");
}

template<int Dim> std::vector<ShapeSpec<Dim>> checked_shapes(const std::vector<ShapeSpec<Dim>>& shapes) {
    std::vector<ShapeSpec<Dim>> out;
    out.reserve(shapes.size());
    for (std::size_t i = 0; i < shapes.size(); i++)
        out.push_back(shape::checked(shapes[i], "shapes[" + std::to_string(i) + "]"));
    return out;
}

template<int Dim> void refuse_unmovable(const std::vector<ShapeSpec<Dim>>& shapes, const char* what) {
    for (std::size_t i = 0; i < shapes.size(); i++) {
        const auto& g = shapes[i].geometry;
        if (shape::is_unbounded(g) || shape::is_surface(g))
            throw Error(
                "shapes[" + std::to_string(i) + "].geometry",
                std::string(shape::is_surface(g) ? "a surface"
                            : Dim == 2           ? "a half-plane"
                                                 : "a half-space") +
                    " on " + what,
                "a bounded convex shape; half-spaces and surfaces stand on static and kinematic bodies");
    }
}

template<int Dim> MassProperties<Dim> mass_of_checked(const std::vector<ShapeSpec<Dim>>& shapes) {
    const MassProperties<Dim> mass = shape::combined_mass<Dim>(shapes);
    if (!(mass.mass > 0) || !math::is_finite(mass.mass) || !is_an_inertia(shape::tensor_of(mass)) ||
        shape::tensor_of(mass) == math::Inertia<Dim>{})
        throw Error("shapes", "sizes and densities that make a mass of " + number(mass.mass) + " kg",
                    "sizes and densities whose mass and inertia a float can hold");
    return mass;
}

template<int Dim> flow::Mass<Dim> column_of(const MassProperties<Dim>& mass, Motion motion) {
    flow::Mass<Dim> out;
    out.centre = mass.centre;
    if (motion != Motion::Dynamic) return out;
    out.mass = mass.mass;
    out.inverse_mass = 1.0f / mass.mass;
    out.inertia = shape::tensor_of(mass);
    out.inverse_inertia = math::inverse(out.inertia);
    out.isotropic = math::is_isotropic(out.inertia);
    return out;
}

template<int Dim> void check_state(const BodySpec<Dim>& spec) {
    if (!math::is_finite(spec.pose.position))
        throw Error("pose.position", text_of(spec.pose.position), "finite numbers (m)");
    const float norm = math::norm_squared(spec.pose.rotation);
    if (!math::is_finite(norm) || !(norm > 0))
        throw Error("pose.rotation", number(norm) + " as its squared length",
                    "a rotation, made by turned(angle)");
    if (!math::is_finite(spec.velocity))
        throw Error("velocity", text_of(spec.velocity), "finite numbers (m/s)");
    if (!math::is_finite(spec.angular_velocity))
        throw Error("angular_velocity", text_of(spec.angular_velocity), "finite numbers (rad/s)");
    check_damping(spec.linear_damping, "linear_damping");
    check_damping(spec.angular_damping, "angular_damping");
    if (spec.motion == Motion::Static &&
        (spec.velocity != Vec<Dim>{} || spec.angular_velocity != Axial<Dim>{}))
        throw Error("velocity", "a static body that moves", "velocity 0, or a kinematic body");
}

template<int Dim>
MassProperties<Dim> mass_for(const BodySpec<Dim>& spec, const std::vector<ShapeSpec<Dim>>& shapes) {
    if (spec.mass) check_mass(*spec.mass, "mass");
    if (spec.motion != Motion::Dynamic) return {};
    refuse_unmovable(shapes, "a dynamic body");
    if (spec.mass) return *spec.mass;
    if (shapes.empty())
        throw Error("shapes", "none, and no mass", "at least one shape, or a mass, for a dynamic body");
    return mass_of_checked(shapes);
}

}

template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes) {
    const auto good = checked_shapes(shapes);
    refuse_unmovable(good, "a body that needs a mass");
    return mass_of_checked(good);
}

template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes, float total_mass) {
    if (!(total_mass > 0) || !math::is_finite(total_mass))
        throw Error("total_mass", number(total_mass), "a finite number above 0 (kg)");
    MassProperties<Dim> mass = mass_of(shapes);
    shape::set_tensor(mass, shape::tensor_of(mass) * (total_mass / mass.mass));
    mass.mass = total_mass;
    return mass;
}

template<int Dim> BodyId World<Dim>::add(const BodySpec<Dim>& spec) {
    check_state(spec);
    typename State::Row row;
    row.shapes = checked_shapes(spec.shapes);
    const MassProperties<Dim> mass = mass_for(spec, row.shapes);

    State& s = *state_;
    row.first_key = s.next_key;
    row.user_data = spec.user_data;
    for (const auto& shape : row.shapes)
        row.reach.push_back(length(shape.placement.position - mass.centre) + shape::reach(shape.geometry));
    s.next_key += row.shapes.size();

    const BodyId id = s.slots.add();
    s.rows.push_back(std::move(row));
    auto& b = s.bodies;
    b.pose.emplace_back();
    b.velocity.push_back({spec.velocity, spec.angular_velocity});
    b.remainder.emplace_back();
    b.mass.push_back(column_of(mass, spec.motion));
    b.push.emplace_back();
    b.damping.push_back({spec.linear_damping, spec.angular_damping});
    b.motion.push_back(spec.motion);
    s.put(s.slots.place(id), {spec.pose.position, math::normalized(spec.pose.rotation)});
    return id;
}

template<int Dim> void World<Dim>::remove(BodyId id) {
    State& s = *state_;
    s.forget_contacts(s.place(id));
    const auto gap = s.slots.remove(id);
    const auto last = static_cast<std::uint32_t>(s.rows.size() - 1);
    for (auto& m : s.manifolds) {
        if (m.body_a == last) m.body_a = gap;
        if (m.body_b == last) m.body_b = gap;
    }
    const auto close = [gap](auto& column) {
        if (gap + 1 != column.size()) column[gap] = std::move(column.back());
        column.pop_back();
    };
    close(s.rows), close(s.bodies.pose), close(s.bodies.velocity), close(s.bodies.remainder),
        close(s.bodies.mass);
    close(s.bodies.push), close(s.bodies.damping), close(s.bodies.motion);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>&);                                \
    template MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>&, float);                         \
    template BodyId World<Dim>::add(const BodySpec<Dim>&);                                                   \
    template void World<Dim>::remove(BodyId);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
