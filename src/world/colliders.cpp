// Colliders, the shapes of bodies in the world, kept from tick to tick, and the index of their boxes.
#include "math/numbers.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

// Shapes closer than this share of their thickness know each other before they touch, so that what rests side
// by side passes a blow on within the tick in which it comes.
constexpr float kNearby = 0.02f;

template<int Dim> float nearby(const flow::Collider<Dim>& c) {
    return math::is_finite(c.thickness) ? kNearby * c.thickness : 0.0f;
}

}

template<int Dim> std::uint32_t World<Dim>::State::new_collider() {
    std::uint32_t c;
    if (free_colliders.empty()) {
        c = static_cast<std::uint32_t>(colliders.size());
        colliders.emplace_back();
    } else {
        c = free_colliders.back();
        free_colliders.pop_back();
    }
    colliders[c] = {};
    colliders[c].key = next_key++;
    return c;
}

template<int Dim> void World<Dim>::State::drop_collider(std::uint32_t c) {
    index.take(c);
    sensing.known = false;
    colliders[c] = {};
    free_colliders.push_back(c);
}

template<int Dim> void World<Dim>::State::measure_colliders(std::uint32_t i) {
    const Row& row = rows[i];
    auto& still = bodies.still[i];
    still.reach = still.size = 0;
    sensing.known = false;
    for (std::uint32_t k = 0; k < row.shapes.size(); k++) {
        const ShapeSpec<Dim>& shape = row.shapes[k];
        auto& c = colliders[row.colliders[k]];
        c.body = i, c.shape = k, c.spec = &shape;
        c.reach = length(shape.placement.position - bodies.mass[i].centre) + shape::reach(shape.geometry);
        c.thickness = shape::thickness(shape.geometry);
        c.slack = nearby(c), c.drift = {}, c.turn = {};
        if (shape.is_sensor) continue;
        still.reach = std::max(still.reach, c.reach);
        still.size = still.size == 0 ? c.thickness : std::min(still.size, c.thickness);
    }
}

template<int Dim> void World<Dim>::State::place_colliders(std::uint32_t i) {
    for (const std::uint32_t k : rows[i].colliders) {
        auto& c = colliders[k];
        if (i >= bodies.moving) c.slack = nearby(c), c.drift = {}, c.turn = {}; // what sleeps comes no way
        set_bounds(c);
        index.put(k, c, i < bodies.moving);
    }
}

template<int Dim> void World<Dim>::State::set_bounds(flow::Collider<Dim>& c) const {
    const Pose<Dim> at = shape_pose(c);
    c.bounds = shape::bounds(c.spec->geometry, at.position, at.rotation);
}

// Sets how far the surface of each shape may come within so many seconds, by its velocity and by what acts
// on it.
template<int Dim> void World<Dim>::State::set_travel(double seconds) {
    moving_colliders.clear();
    const auto tick = static_cast<float>(seconds);
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        const auto& v = bodies.velocity[i];
        const bool dynamic = bodies.motion[i] == Motion::Dynamic;
        const Vec<Dim> acceleration = dynamic ? spec.gravity * bodies.free[i].gravity_scale +
                                                    bodies.push[i].force * bodies.mass[i].inverse_mass
                                              : Vec<Dim>{};
        const float gained = length(acceleration) * tick;
        for (const std::uint32_t k : rows[i].colliders) {
            auto& c = colliders[k];
            if (c.spec->is_sensor) continue; // they meet nothing
            c.slack = gained * tick + sweep::turning_way(c, v, tick) + nearby(c);
            c.drift = v.linear * tick, c.turn = v.angular * tick;
            moving_colliders.push_back(k);
        }
    }
}

// After the tick: bounds where the bodies now are, so that queries find them.
template<int Dim> void World<Dim>::State::update_bounds() {
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        for (const std::uint32_t k : rows[i].colliders) {
            set_bounds(colliders[k]);
            index.keep(k, colliders[k], true);
        }
}

// Two bodies change places in all columns.
template<int Dim> void World<Dim>::State::swap_columns(std::uint32_t i, std::uint32_t j) {
    slots.swap(i, j);
    const auto exchange = [i, j](auto& column) { std::swap(column[i], column[j]); };
    exchange(rows), exchange(bodies.pose), exchange(bodies.velocity), exchange(bodies.remainder);
    exchange(bodies.mass), exchange(bodies.push), exchange(bodies.free), exchange(bodies.motion),
        exchange(bodies.still), exchange(bodies.claim);
    for (const std::uint32_t k : {i, j}) {
        for (const std::uint32_t c : rows[k].colliders) colliders[c].body = k;
        if (!rows[k].joints.empty()) place_joints(k);
    }
}

template<int Dim> void World<Dim>::State::swap_places(std::uint32_t i, std::uint32_t j) {
    if (i == j) return;
    swap_columns(i, j);
    const auto rename = [i, j](auto& pair) {
        for (std::uint32_t* body : {&pair.body_a, &pair.body_b})
            *body = *body == i ? j : *body == j ? i : *body;
    };
    for (auto& m : manifolds) rename(m);
    advance.rename(rename);
}

template<int Dim> void World<Dim>::State::set_motion(std::uint32_t i, Motion motion) {
    const bool moved = bodies.motion[i] != Motion::Static, moves = motion != Motion::Static;
    bodies.motion[i] = motion, active_joints_known = false;
    if (moved == moves) return;
    const auto edge = static_cast<std::uint32_t>(moves ? bodies.moving : bodies.moving - 1);
    swap_places(i, edge);
    bodies.moving = moves ? edge + 1 : edge;
    place_colliders(edge);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::uint32_t World<Dim>::State::new_collider();                                                \
    template void World<Dim>::State::drop_collider(std::uint32_t);                                           \
    template void World<Dim>::State::measure_colliders(std::uint32_t);                                       \
    template void World<Dim>::State::place_colliders(std::uint32_t);                                         \
    template void World<Dim>::State::set_bounds(flow::Collider<Dim>&) const;                                 \
    template void World<Dim>::State::swap_columns(std::uint32_t, std::uint32_t);                             \
    template void World<Dim>::State::swap_places(std::uint32_t, std::uint32_t);                              \
    template void World<Dim>::State::set_motion(std::uint32_t, Motion);                                      \
    template void World<Dim>::State::set_travel(double);                                                     \
    template void World<Dim>::State::update_bounds();
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
