#include "world/state.h"

#include "base/text.h"
#include "report/measures.h"

#include <algorithm>

namespace astasis {
namespace {

const char* name_of(Motion motion) {
    return motion == Motion::Static ? "static" : motion == Motion::Kinematic ? "kinematic" : "dynamic";
}

}

template<int Dim> std::uint32_t World<Dim>::State::place(BodyId id) const {
    const std::uint32_t i = slots.place(id);
    if (i == base::SlotMap<BodyId>::kNone)
        throw Error("body id",
                    id == BodyId{} ? std::string("one that was never set")
                                   : "index " + std::to_string(id.index) + ", generation " +
                                         std::to_string(id.generation) + ", which is stale",
                    "the id of a body that lives in this world");
    return i;
}

template<int Dim>
std::uint32_t World<Dim>::State::material_place(MaterialId id, const std::string& field) const {
    const std::uint32_t i = materials.slots.place(id);
    if (i == base::SlotMap<MaterialId>::kNone)
        throw Error(field,
                    id == MaterialId{} ? std::string("one that was never set")
                                       : "index " + std::to_string(id.index) + ", generation " +
                                             std::to_string(id.generation) + ", which is stale",
                    "the id of a material of this world, made by add_material");
    return i;
}

template<int Dim>
std::uint32_t World<Dim>::State::index_of_shape(std::uint32_t i, std::uint32_t number) const {
    const auto& numbers = rows[i].numbers;
    const auto at = std::lower_bound(numbers.begin(), numbers.end(), number);
    if (at == numbers.end() || *at != number)
        throw Error("shape", std::to_string(number),
                    "the number of one of the body's " + std::to_string(numbers.size()) + " shapes");
    return static_cast<std::uint32_t>(at - numbers.begin());
}

template<int Dim>
std::vector<Contact<Dim>> World<Dim>::State::contacts_in(std::span<const flow::Manifold<Dim>> of) const {
    auto out = report::contacts_of<Dim>(bodies, of, slots.ids());
    for (auto& c : out) {
        c.shape_a = rows[slots.place(c.body_a)].numbers[c.shape_a];
        c.shape_b = rows[slots.place(c.body_b)].numbers[c.shape_b];
    }
    return out;
}

template<int Dim> std::uint32_t World<Dim>::State::movable_place(BodyId id) const {
    const std::uint32_t i = place(id);
    if (bodies.motion[i] == Motion::Static && !rows[i].nonfinite)
        throw Error("body", "a static body", "a kinematic or dynamic body: static ones never move");
    return i;
}

template<int Dim> std::uint32_t World<Dim>::State::dynamic_place(BodyId id) const {
    const std::uint32_t i = place(id);
    if (bodies.motion[i] != Motion::Dynamic && !rows[i].nonfinite)
        throw Error("body", std::string("a ") + name_of(bodies.motion[i]) + " body",
                    "a dynamic body: forces and impulses move no other");
    return i;
}

template<int Dim> Pose<Dim> World<Dim>::State::pose(std::uint32_t i) const {
    const auto& p = bodies.pose[i];
    return {p.centre - rotate(p.rotation, bodies.mass[i].centre), p.rotation};
}

template<int Dim> Pose<Dim> World<Dim>::State::shape_pose(const flow::Collider<Dim>& c) const {
    const auto& p = bodies.pose[c.body];
    const Placement<Dim>& on = c.spec->placement;
    return {p.centre + rotate(p.rotation, on.position - bodies.mass[c.body].centre),
            p.rotation * on.rotation};
}

template<int Dim> void World<Dim>::State::put(std::uint32_t i, const Pose<Dim>& pose) {
    bodies.pose[i] = {pose.position + rotate(pose.rotation, bodies.mass[i].centre), pose.rotation};
    rows[i].previous = pose, edited = true;
    place_colliders(i);
}

// Forgets the loads of a body's whole island: bodies that were supported by it carry other loads from now on,
// and the old ones would push its neighbours apart in the next tick.
template<int Dim> void World<Dim>::State::forget_contacts(std::uint32_t i) {
    edited = true;
    const auto is_its = [i](const auto& m) { return m.body_a == i || m.body_b == i; };
    std::vector<std::uint8_t> reached;
    for (bool more = std::any_of(manifolds.begin(), manifolds.end(), is_its); more;) {
        reached.resize(bodies.size());
        reached[i] = 1;
        more = false;
        for (auto& m : manifolds) {
            if (!reached[m.body_a] && !reached[m.body_b]) continue;
            float load = 0;
            for (int p = 0; p < m.count; p++) {
                auto& point = m.points[static_cast<std::size_t>(p)];
                load += point.normal_force;
                point.normal_force = 0, point.friction_force = {};
            }
            m.turning_torque = {};
            if (load == 0) continue;
            for (const std::uint32_t k : {m.body_a, m.body_b})
                if (bodies.motion[k] == Motion::Dynamic && !reached[k]) reached[k] = 1, more = true;
        }
    }
    std::erase_if(manifolds, is_its);
}

// A body's manifolds are not kept as they are in the next tick.
template<int Dim> void World<Dim>::State::find_contacts_again(std::uint32_t i) {
    edited = true;
    for (auto& m : manifolds)
        if (m.body_a == i || m.body_b == i) m.may_keep = false;
}

template struct World<2>::State;
template struct World<3>::State;

}
