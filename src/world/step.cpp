// A tick: the stages in their order.
#include "math/numbers.h"
#include "world/state.h"

#include "base/float_control.h"

namespace astasis {
namespace {

// Shapes closer than this share of their thickness know each other before they touch, so that what rests side
// by side passes a blow on within the tick in which it comes.
constexpr float kNearby = 0.02f;

// How far a shape's surface may move within the tick, by its velocity and by what acts on it.
template<int Dim>
float travel(const flow::Velocity<Dim>& v, Vec<Dim> acceleration, float reach, float thickness, float tick) {
    const float turning = math::is_finite(reach) ? math::magnitude(v.angular) * reach : 0.0f;
    const float nearby = math::is_finite(thickness) ? kNearby * thickness : 0.0f;
    return (length(v.linear) + turning + length(acceleration) * tick) * tick + nearby;
}

}

// Reads like docs/architecture.md, "A tick".
template<int Dim> void World<Dim>::State::step() {
    const base::FloatControl float_control;
    hold_if_not_finite();
    for (std::uint32_t i = 0; i < rows.size(); i++) rows[i].previous = pose(i);

    prepare_colliders();
    broad.find(colliders, bodies.motion, pairs);
    manifolds.swap(manifolds_before);
    narrow.find(colliders, pairs, bodies, manifolds_before, manifolds);
    solver.solve({spec.gravity, spec.tick, spec.substeps, tuning}, bodies, manifolds);

    hold_if_not_finite();
    bodies.push.assign(bodies.size(), {});
    ticks++;
}

template<int Dim> void World<Dim>::State::prepare_colliders() {
    colliders.clear();
    const auto tick = static_cast<float>(spec.tick);
    for (std::uint32_t i = 0; i < rows.size(); i++) {
        const auto& row = rows[i];
        const auto& body = bodies.pose[i];
        const bool dynamic = bodies.motion[i] == Motion::Dynamic;
        const Vec<Dim> acceleration =
            dynamic ? spec.gravity + bodies.push[i].force * bodies.mass[i].inverse_mass : Vec<Dim>{};
        for (std::uint32_t k = 0; k < row.shapes.size(); k++) {
            const auto& shape = row.shapes[k];
            flow::Collider<Dim> c;
            c.key = row.keys[k];
            c.body = i, c.shape = k, c.spec = &shape;
            c.reach = row.reach[k];
            c.thickness = shape::thickness(shape.geometry);
            c.travel = travel(bodies.velocity[i], acceleration, c.reach, c.thickness, tick);
            const Vec<Dim> arm = rotate(body.rotation, shape.placement.position - bodies.mass[i].centre);
            c.bounds =
                shape::bounds(shape.geometry, body.centre + arm, body.rotation * shape.placement.rotation);
            for (int d = 0; d < Dim; d++) c.bounds.low[d] -= c.travel, c.bounds.high[d] += c.travel;
            colliders.push_back(c);
        }
    }
}

// A body whose next state would not be finite stays where it last was, at rest, and pushes nothing.
template<int Dim> void World<Dim>::State::hold_if_not_finite() {
    const auto tick = static_cast<float>(spec.tick);
    for (std::uint32_t i = 0; i < rows.size(); i++) {
        const auto& v = bodies.velocity[i];
        const auto& push = bodies.push[i];
        const auto& mass = bodies.mass[i];
        const Vec<Dim> next = v.linear + (spec.gravity + push.force * mass.inverse_mass) * tick;
        const float turning =
            math::magnitude(v.angular) + math::magnitude(mass.inverse_inertia * push.torque) * tick;
        if (math::is_finite(bodies.pose[i].centre) && math::is_finite(bodies.pose[i].rotation) &&
            math::is_finite(length_squared(next)) && math::is_finite(turning * turning))
            continue;
        rows[i].held = true;
        bodies.motion[i] = Motion::Static;
        bodies.velocity[i] = bodies.remainder[i] = {};
        bodies.push[i] = {};
        bodies.mass[i].inverse_mass = 0;
        bodies.mass[i].inverse_inertia = {};
        if (!math::is_finite(bodies.pose[i].centre) || !math::is_finite(bodies.pose[i].rotation))
            put(i, rows[i].previous);
    }
}

template void World<2>::State::step();
template void World<3>::State::step();

}
