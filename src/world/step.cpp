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
    foresee();
    double rest_time = watch.lap();
    times.pairs = times.manifolds = 0;
    manifolds.swap(manifolds_before);
    for (bool again = true; again;) { // once more when something that slept is met
        broad.find(colliders, bodies.motion, moving_colliders, index, pairs, bodies.moving);
        times.pairs += watch.lap();
        narrow.find(colliders, pairs, bodies, materials, manifolds_before, manifolds);
        again = wake_met();
        if (again) foresee();
        times.manifolds += watch.lap();
    }
    if (!flight) flight = std::make_shared<Flight>();
    flight->fly(*this);
    solver.solve({spec.gravity, spec.tick, spec.substeps, tuning}, bodies, manifolds);
    flight->land(*this);
    times.solving = watch.lap();

    hold_if_not_finite();
    report::add_work<Dim>(bodies, manifolds, spec.tick, work);
    work.thrusts += work_of_thrusts();
    std::fill_n(bodies.push.begin(), bodies.moving, flow::Push<Dim>{});
    arrive();
    settle();
    fall_asleep();
    ticks++;
    times.rest = rest_time + watch.lap();
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
