// A tick: the stages in their order.
#include "math/numbers.h"
#include "report/measures.h"
#include "world/flight.h"

#include "base/float_control.h"

#include <algorithm>
#include <chrono>

namespace astasis {
namespace {

// Seconds since the last lap; 0 if it does not run.
class Stopwatch {
public:
    explicit Stopwatch(bool runs) : runs_(runs) {
        if (runs_) last_ = Clock::now();
    }
    double lap() {
        if (!runs_) return 0;
        const auto now = Clock::now();
        const double seconds = std::chrono::duration<double>(now - last_).count();
        last_ = now;
        return seconds;
    }

private:
    using Clock = std::chrono::steady_clock;
    bool runs_;
    Clock::time_point last_{};
};

}

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
    const auto sleeps = [&](std::uint32_t i) { return is_asleep(i) && bodies.motion[i] == Motion::Dynamic; };
    std::erase_if(pairs, [&](const flow::Pair& p) {
        const std::uint32_t a = colliders[p.a].body, b = colliders[p.b].body;
        return sleeps(a) || sleeps(b) || flight->takes(*this, a, b);
    });
    if (flight->handed_over()) narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds);
    else if (flight->any()) {
        std::erase_if(manifolds,
                      [&](const flow::Manifold<Dim>& m) { return flight->takes(*this, m.body_a, m.body_b); });
        narrow.see(colliders, pairs, manifolds);
    }
}

// The velocities that flyers gave to what slept.
template<int Dim> void World<Dim>::State::wake_struck() {
    for (const BodyId id : flight->struck_sleepers()) {
        const flow::Velocity<Dim> v = bodies.velocity[slots.place(id)];
        bodies.velocity[wake(slots.place(id))] = v;
    }
}

// Where bodies come on fast they are turned by what they meet, and then meet others by corners that nothing
// could foresee when the tick began: part-way through it contacts are looked for once more. Returns the
// seconds that this takes.
template<int Dim> double World<Dim>::State::solve_contacts() {
    double looking = 0;
    const double substep = spec.tick / spec.substeps;
    for (int left = spec.substeps; left > 0;) {
        if (left < spec.substeps) {
            Stopwatch watch(timing);
            foresee(left * substep);
            manifolds.swap(manifolds_before);
            narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds,
                        narrow::ManifoldFinder<Dim>::When::WithinTick);
            looking += watch.lap();
        }
        const int next = narrow.substeps_before_next(left, tuning.way);
        solver.solve({spec.gravity, next < spec.substeps ? next * substep : spec.tick, next, tuning}, bodies,
                     manifolds);
        left -= next;
    }
    return looking;
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
