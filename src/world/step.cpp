// A tick: the stages in their order.
#include "math/numbers.h"
#include "report/measures.h"
#include "world/state.h"
#include "world/stopwatch.h"

#include "base/float_control.h"

#include <algorithm>
#include <utility>

namespace astasis {

// Reads like docs/architecture.md, "A tick".
template<int Dim> void World<Dim>::State::step() {
    const base::FloatControl float_control;
    Stopwatch watch(timing);
    told.clear();
    in_tick = true, hooks.thrown = nullptr;
    stop_nonfinite();
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        rows[i].previous = pose(i), rows[i].velocity_then = bodies.velocity[i].linear;

    group_sleepers();
    drive();
    set_travel(spec.tick);
    double rest_time = watch.lap();
    times.pairs = times.manifolds = 0;
    manifolds.swap(manifolds_before);
    const auto ask = [&](flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at) {
        return ask_contact(m, at);
    };
    narrow.set_look_at(hooks.contact ? narrow::LookAt<Dim>(ask) : narrow::LookAt<Dim>{});
    for (bool again = true; again;) { // once more when something that slept is met
        broad.find(colliders, bodies.motion, moving_colliders, index, pairs, bodies.moving);
        if (!joints.empty() || hooks.pair_filter)
            std::erase_if(
                pairs, [&](const flow::Pair& p) { return apart(colliders[p.a].body, colliders[p.b].body); });
        times.pairs += watch.lap();
        narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds);
        again = wake_met();
        if (again) set_travel(spec.tick);
        times.manifolds += watch.lap();
    }
    find_active_joints();
    find_accelerations();
    set_kinematic_velocities(0);
    advance_bodies();
    move_kinematic();
    times.solving = watch.lap();

    stop_nonfinite();
    report::add_work<Dim>(bodies, manifolds, spec.tick, work);
    work.thrusts += work_of_thrusts();
    work.motors += advance.motor_work(), work.fields += advance.field_work();
    work.hooks += advance.hook_work();
    std::fill_n(bodies.push.begin(), bodies.moving, flow::Push<Dim>{});
    snap_to_targets();
    break_joints();
    update_bounds();
    list_turns();
    times.rest = rest_time + watch.lap();
    tell_events();
    times.events = watch.lap();
    fall_asleep();
    tell_edits();
    ticks++, in_tick = false;
    times.sleep = watch.lap();
    if (hooks.thrown) std::rethrow_exception(std::exchange(hooks.thrown, nullptr));
}

template<int Dim> void World<Dim>::State::advance_bodies() {
    const auto colliders_of = [&](std::uint32_t i) {
        return std::span<const std::uint32_t>(rows[i].colliders);
    };
    const auto sweep_of = [&](std::uint32_t i) { return rows[i].sweep; };
    const auto is_apart = [&](std::uint32_t i, std::uint32_t j) { return apart(i, j); };
    const auto ask = [&](flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at) {
        return ask_contact(m, at);
    };
    const narrow::LookAt<Dim> look_at = hooks.contact ? narrow::LookAt<Dim>(ask) : narrow::LookAt<Dim>{};
    const auto hook = [&](auto&&... args) { before_substep(args...); };
    const bool is_hooked = hooks.substep || !hooks.own_motions.empty();
    using BeforeSubstep = decltype(Surroundings<Dim>::before_substep);
    const BeforeSubstep before = is_hooked ? BeforeSubstep(hook) : BeforeSubstep{};
    const auto go = [&](const solve::FieldInput<Dim>* input) {
        const float least_strike = event_kinds.strikes ? event_kinds.least_speed : kUnlimited;
        advance.advance(
            {spec.gravity, spec.tick, spec.substeps, spec.extra_work, tuning, least_strike, accelerations},
            {colliders, &materials, &index, colliders_of, sweep_of, is_apart, look_at, before, &joints,
             active_joints, input, field_edges, field_sources},
            bodies, manifolds, bodies.claim);
    };
    find_field_edges(); // none without fields: those of the last one that was removed name places of then
    if (fields.empty()) return go(nullptr);
    with_fields([&](const solve::FieldInput<Dim>& input) { go(&input); });
}

// A body whose next state would not be finite stays where it last was, at rest, and pushes nothing.
template<int Dim> void World<Dim>::State::stop_nonfinite() {
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
        rows[i].nonfinite = true;
        stopped.push_back(slots.ids()[i]);
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
