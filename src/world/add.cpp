// Adding and removing bodies: the checks of a spec, and the columns that a body fills.
#include "astasis/world.h"

#include "base/text.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/surface.h"
#include "shape/usable.h"
#include "world/checks.h"
#include "world/state.h"

#include <bit>
#include <cmath>

namespace astasis {
namespace {

using base::number;
using base::text_of;

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
    if (!math::is_finite(length_squared(mass.centre)))
        throw Error(field + ".centre", text_of(mass.centre),
                    "finite numbers (m) whose squares a float can hold");
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
    if (!out.isotropic) out.principal = math::principal(out.inertia);
    return out;
}

template<int Dim> void check_state(const BodySpec<Dim>& spec) {
    check_motion(spec.motion), check_sweep(spec.sweep);
    shape::check_pose(spec.pose, "pose");
    if (!math::is_finite(spec.velocity))
        throw Error("velocity", text_of(spec.velocity), "finite numbers (m/s)");
    if (!math::is_finite(spec.angular_velocity))
        throw Error("angular_velocity", text_of(spec.angular_velocity), "finite numbers (rad/s)");
    check_free_motion(spec.free, "free.");
    if (spec.motion == Motion::Static &&
        (spec.velocity != Vec<Dim>{} || spec.angular_velocity != Axial<Dim>{}))
        throw Error("velocity", "a static body that moves", "velocity 0, or a kinematic body");
    if (spec.asleep && (spec.motion != Motion::Dynamic || spec.velocity != Vec<Dim>{} ||
                        spec.angular_velocity != Axial<Dim>{}))
        throw Error("asleep", "a body that moves, or is not dynamic", "a dynamic body at rest");
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
    state_->refuse_in_tick();
    check_state(spec);
    typename State::Row row;
    row.shapes = checked_shapes(spec.shapes);
    const MassProperties<Dim> mass = mass_for(spec, row.shapes);

    State& s = *state_;
    for (std::size_t k = 0; k < row.shapes.size(); k++)
        s.check_shared(row.shapes[k], "shapes[" + std::to_string(k) + "]");
    row.user_data = spec.user_data;
    row.may_sleep = spec.may_sleep;
    row.sweep = spec.sweep;
    row.mass_given = spec.mass;
    for (std::size_t k = 0; k < row.shapes.size(); k++)
        row.colliders.push_back(s.new_collider()), row.numbers.push_back(row.next_number++);

    const BodyId id = s.slots.add();
    row.listed = static_cast<std::uint32_t>(s.listed.size());
    s.listed.push_back(id);
    s.rows.push_back(std::move(row));
    auto& b = s.bodies;
    b.pose.emplace_back();
    b.velocity.push_back({math::unlocked(spec.velocity, spec.free.locks),
                          math::unlocked_turn(spec.angular_velocity, spec.free.locks)});
    b.remainder.emplace_back();
    b.mass.push_back(column_of(mass, spec.motion));
    b.push.emplace_back();
    b.free.push_back(spec.free);
    b.motion.push_back(spec.motion);
    b.still.emplace_back(), b.claim.push_back(0);
    const auto last = static_cast<std::uint32_t>(b.size() - 1);
    if (spec.asleep) {
        s.rows[last].island = State::Row::kUngrouped;
        s.ungrouped.push_back(id);
    } else if (spec.motion != Motion::Static) s.swap_places(static_cast<std::uint32_t>(b.moving++), last);
    s.fit(s.slots.place(id), mass);
    s.put(s.slots.place(id), {spec.pose.position, math::normalized(spec.pose.rotation)});
    if (spec.motion != Motion::Dynamic) s.wake_around(s.slots.place(id));
    if (s.event_kinds.poses) s.placed.push_back(id);
    return id;
}

template<int Dim> flow::Mass<Dim> World<Dim>::State::mass_of_body(std::uint32_t i, Motion motion) const {
    const Row& row = rows[i];
    if (row.mass_given) check_mass(*row.mass_given, "mass_given");
    if (motion != Motion::Dynamic) return column_of(MassProperties<Dim>{}, motion);
    refuse_unmovable(row.shapes, "a dynamic body");
    return column_of(row.mass_given ? *row.mass_given : mass_of_checked(row.shapes), motion);
}

template<int Dim> void World<Dim>::State::fit(std::uint32_t i, const MassProperties<Dim>& mass) {
    bodies.mass[i] = column_of(mass, bodies.motion[i]);
    if (!rows[i].joints.empty()) fit_joints(i);
    measure_colliders(i);
}

namespace {

// The mass of a body whose shapes have changed; its own if its spec gave it.
template<int Dim>
MassProperties<Dim> mass_after(Motion motion, const std::optional<MassProperties<Dim>>& given,
                               const std::vector<ShapeSpec<Dim>>& shapes, const char* if_none) {
    if (motion != Motion::Dynamic) return {};
    refuse_unmovable(shapes, "a dynamic body");
    if (given) return *given;
    if (shapes.empty())
        throw Error("shape", if_none, "a dynamic body with a shape, or with a mass that its spec gave");
    return mass_of_checked(shapes);
}

}

template<int Dim>
void World<Dim>::State::reshape(std::uint32_t i, std::vector<ShapeSpec<Dim>> shapes,
                                const MassProperties<Dim>& mass) {
    Row& row = rows[i];
    const Pose<Dim> now = pose(i), previous = row.previous;
    row.shapes = std::move(shapes);
    fit(i, mass);
    put(i, now); // the body's own origin stays; its centre of mass may have moved
    row.previous = previous;
    forget_contacts(i);
}

template<int Dim> std::uint32_t World<Dim>::add_shape(BodyId id, const ShapeSpec<Dim>& shape) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t known = s.place(id);
    std::vector<ShapeSpec<Dim>> shapes = s.rows[known].shapes;
    shapes.push_back(shape::checked(shape, "shape"));
    s.check_shared(shape, "shape");
    const MassProperties<Dim> mass =
        mass_after<Dim>(s.bodies.motion[known], s.rows[known].mass_given, shapes, "the last one");
    const std::uint32_t i = s.disturbed_place(id);
    s.rows[i].colliders.push_back(s.new_collider());
    s.rows[i].numbers.push_back(s.rows[i].next_number++);
    s.reshape(i, std::move(shapes), mass);
    return s.rows[i].numbers.back();
}

template<int Dim> void World<Dim>::remove_shape(BodyId id, std::uint32_t number) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t known = s.place(id), index = s.index_of_shape(known, number);
    std::vector<ShapeSpec<Dim>> shapes = s.rows[known].shapes;
    shapes.erase(shapes.begin() + index);
    const MassProperties<Dim> mass =
        mass_after<Dim>(s.bodies.motion[known], s.rows[known].mass_given, shapes, "the last one");
    const std::uint32_t i = s.disturbed_place(id);
    auto& of_body = s.rows[i].colliders;
    s.drop_collider(of_body[index]);
    of_body.erase(of_body.begin() + index);
    s.rows[i].numbers.erase(s.rows[i].numbers.begin() + index);
    s.reshape(i, std::move(shapes), mass);
}

template<int Dim> void World<Dim>::set_motion(BodyId id, Motion motion) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t known = s.place(id);
    check_motion(motion);
    const MassProperties<Dim> mass =
        mass_after<Dim>(motion, s.rows[known].mass_given, s.rows[known].shapes, "none");
    const std::uint32_t i = s.disturbed_place(id);
    if (s.bodies.motion[i] == motion && !s.rows[i].nonfinite) return;
    s.rows[i].nonfinite = false;
    s.rows[i].target.reset();
    if (motion == Motion::Static) s.bodies.velocity[i] = s.bodies.remainder[i] = {};
    if (motion != Motion::Dynamic) s.bodies.push[i] = {};
    s.set_motion(i, motion);
    const std::uint32_t now = s.place(id);
    s.reshape(now, s.rows[now].shapes, mass);
}

namespace {

// The entry of a grid at a column and a row; throws Error if there is none.
std::size_t entry_of(const shape::GridSize& grid, int column, int row, const char* what) {
    if (column < 0 || row < 0 || column >= grid.columns || row >= grid.rows)
        throw Error(what, "column " + std::to_string(column) + ", row " + std::to_string(row),
                    "columns 0 to " + std::to_string(grid.columns - 1) + ", rows 0 to " +
                        std::to_string(grid.rows - 1));
    return static_cast<std::size_t>(row) * static_cast<std::size_t>(grid.columns) +
           static_cast<std::size_t>(column);
}

}

void set_cell(World<2>& world, BodyId id, std::uint32_t shape, int column, int row, bool solid) {
    auto& s = WorldAccess::state(world);
    s.refuse_in_tick();
    auto* grid = std::get_if<TileGrid>(&s.shape(s.place(id), shape).geometry);
    if (grid == nullptr)
        throw Error("shape", "one that is no tile grid", "a shape that was added as a TileGrid");
    const std::size_t at = entry_of(shape::size_of(*grid), column, row, "cell");
    const std::uint32_t i = s.disturbed_place(id); // its shapes stay where they are
    grid->solid[at] = solid;
    s.find_contacts_again(i);
    s.place_colliders(i);
}

void set_height(World<3>& world, BodyId id, std::uint32_t shape, int column, int row, float height) {
    auto& s = WorldAccess::state(world);
    s.refuse_in_tick();
    auto* field = std::get_if<HeightField>(&s.shape(s.place(id), shape).geometry);
    if (field == nullptr)
        throw Error("shape", "one that is no height field", "a shape that was added as a HeightField");
    const std::size_t at = entry_of(shape::size_of(*field), column, row, "node");
    if (!math::is_finite(height)) throw Error("height", number(height), "a finite number (m)");
    const std::uint32_t i = s.disturbed_place(id);
    field->heights[at] = height;
    s.measure_colliders(i); // a peak reaches farther
    s.find_contacts_again(i);
    s.place_colliders(i);
}

template<int Dim> void World<Dim>::remove(BodyId id) {
    state_->refuse_in_tick();
    State& s = *state_;
    std::uint32_t i = s.disturbed_place(id);
    s.forget_contacts(i);
    while (!s.rows[i].joints.empty()) s.drop_joint(s.rows[i].joints.back());
    s.drop_fields_of(id), s.forget_own_motion(id);
    i = s.place(id); // a joined body that was woken may have taken its place
    for (const std::uint32_t c : s.rows[i].colliders) s.drop_collider(c);
    s.rows[i].colliders.clear();

    const std::uint32_t gap = s.rows[i].listed;
    s.listed[gap] = s.listed.back();
    s.rows[s.place(s.listed[gap])].listed = gap;
    s.listed.pop_back();

    auto& b = s.bodies;
    if (i < b.moving)
        s.swap_places(i, static_cast<std::uint32_t>(--b.moving)), i = static_cast<std::uint32_t>(b.moving);
    s.swap_places(i, static_cast<std::uint32_t>(b.size() - 1));
    s.slots.remove(id);
    s.rows.pop_back(), b.pose.pop_back(), b.velocity.pop_back(), b.remainder.pop_back(), b.mass.pop_back();
    b.push.pop_back(), b.free.pop_back(), b.motion.pop_back(), b.still.pop_back(), b.claim.pop_back();
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>&);                                \
    template MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>&, float);                         \
    template flow::Mass<Dim> World<Dim>::State::mass_of_body(std::uint32_t, Motion) const;                   \
    template BodyId World<Dim>::add(const BodySpec<Dim>&);                                                   \
    template void World<Dim>::remove(BodyId);                                                                \
    template std::uint32_t World<Dim>::add_shape(BodyId, const ShapeSpec<Dim>&);                             \
    template void World<Dim>::set_motion(BodyId, Motion);                                                    \
    template void World<Dim>::remove_shape(BodyId, std::uint32_t);                                           \
    template void World<Dim>::State::reshape(std::uint32_t, std::vector<ShapeSpec<Dim>>,                     \
                                             const MassProperties<Dim>&);                                    \
    template void World<Dim>::State::fit(std::uint32_t, const MassProperties<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
