// A tick: the stages in their order.
#include "math/numbers.h"
#include "world/state.h"

#include "base/float_control.h"

#include <algorithm>

namespace astasis {
// Reads like docs/architecture.md, "A tick".
template<int Dim> void World<Dim>::State::step() {
    const base::FloatControl float_control;
    hold_if_not_finite();
    for (std::uint32_t i = 0; i < bodies.moving; i++) rows[i].previous = pose(i);

    drive();
    foresee();
    broad.find(colliders, bodies.motion, moving_colliders, index, pairs);
    manifolds.swap(manifolds_before);
    narrow.find(colliders, pairs, bodies, manifolds_before, manifolds);
    solver.solve({spec.gravity, spec.tick, spec.substeps, tuning}, bodies, manifolds);

    hold_if_not_finite();
    std::fill_n(bodies.push.begin(), bodies.moving, flow::Push<Dim>{});
    arrive();
    settle();
    ticks++;
}

// A body whose next state would not be finite stays where it last was, at rest, and pushes nothing.
template<int Dim> void World<Dim>::State::hold_if_not_finite() {
    const auto tick = static_cast<float>(spec.tick);
    for (auto i = static_cast<std::uint32_t>(bodies.moving);
         i-- > 0;) { // downwards: what is held changes place
        const auto& v = bodies.velocity[i];
        const auto& push = bodies.push[i];
        const auto& mass = bodies.mass[i];
        const Vec<Dim> next =
            v.linear + (spec.gravity * bodies.free[i].gravity_scale + push.force * mass.inverse_mass) * tick;
        const float turning =
            math::magnitude(v.angular) + math::magnitude(mass.inverse_inertia * push.torque) * tick;
        if (math::is_finite(bodies.pose[i].centre) && math::is_finite(bodies.pose[i].rotation) &&
            math::is_finite(length_squared(next)) && math::is_finite(turning * turning))
            continue;
        rows[i].held = true;
        bodies.velocity[i] = bodies.remainder[i] = {};
        bodies.push[i] = {};
        bodies.mass[i].inverse_mass = 0;
        bodies.mass[i].inverse_inertia = {};
        if (!math::is_finite(bodies.pose[i].centre) || !math::is_finite(bodies.pose[i].rotation))
            put(i, rows[i].previous);
        set_motion(i, Motion::Static);
    }
}

template void World<2>::State::step();
template void World<3>::State::step();

}
