// A tick: the stages in their order.
#include "math/numbers.h"
#include "report/measures.h"
#include "world/flight.h"
#include "world/stopwatch.h"

#include "base/float_control.h"

#include <algorithm>

namespace astasis {

// Reads like docs/architecture.md, "A tick".
template<int Dim> void World<Dim>::State::step() {
    const base::FloatControl float_control;
    Stopwatch watch(timing);
    hold_if_not_finite();
    for (std::uint32_t i = 0; i < bodies.moving; i++) rows[i].previous = pose(i);

    group_sleepers();
    drive();
    foresee(spec.tick);
    double rest_time = watch.lap();
    times.pairs = times.manifolds = 0;
    manifolds.swap(manifolds_before);
    for (bool again = true; again;) { // once more when something that slept is met
        broad.find(colliders, bodies.motion, moving_colliders, index, pairs, bodies.moving);
        times.pairs += watch.lap();
        narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds);
        again = wake_met();
        if (again) foresee(spec.tick);
        times.manifolds += watch.lap();
    }
    if (!flight) flight = std::make_shared<Flight>();
    flight->fly(*this);
    leave_to_flight();
    const double looking = solve_contacts();
    flight->land(*this);
    times.manifolds += looking;
    times.solving = watch.lap() - looking;

    hold_if_not_finite();
    report::add_work<Dim>(bodies, manifolds, spec.tick, work);
    work.thrusts += work_of_thrusts();
    std::fill_n(bodies.push.begin(), bodies.moving, flow::Push<Dim>{});
    arrive();
    settle();
    fall_asleep();
    wake_struck();
    ticks++;
    times.rest = rest_time + watch.lap();
}

// What flyers pass, or have met, is none of the solver's, nor is what still sleeps.
template<int Dim> void World<Dim>::State::leave_to_flight() {
    if (!flight->any() && narrow.substeps_before_next(spec.substeps, tuning.way) == spec.substeps) return;
    if (flight->handed_over()) { // it may meet others from there
        settle();
        foresee(spec.tick);
        broad.find(colliders, bodies.motion, moving_colliders, index, pairs, bodies.moving);
    }
    drop_pairs_of_flight(pairs);
    if (flight->handed_over()) narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds);
    else if (flight->any()) {
        std::erase_if(manifolds,
                      [&](const flow::Manifold<Dim>& m) { return flight->takes(*this, m.body_a, m.body_b); });
        narrow.see(colliders, pairs, manifolds);
    }
}

template<int Dim> void World<Dim>::State::drop_pairs_of_flight(std::vector<flow::Pair>& list) const {
    const auto sleeps = [&](std::uint32_t i) { return is_asleep(i) && bodies.motion[i] == Motion::Dynamic; };
    std::erase_if(list, [&](const flow::Pair& p) {
        const std::uint32_t a = colliders[p.a].body, b = colliders[p.b].body;
        return sleeps(a) || sleeps(b) || flight->takes(*this, a, b);
    });
}

// The velocities that flyers gave to what slept.
template<int Dim> void World<Dim>::State::wake_struck() {
    for (const BodyId id : flight->struck_sleepers()) {
        const flow::Velocity<Dim> v = bodies.velocity[slots.place(id)];
        bodies.velocity[wake(slots.place(id))] = v;
    }
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

template void World<2>::State::drop_pairs_of_flight(std::vector<flow::Pair>&) const;
template void World<3>::State::drop_pairs_of_flight(std::vector<flow::Pair>&) const;
template void World<2>::State::step();
template void World<3>::State::step();

}
