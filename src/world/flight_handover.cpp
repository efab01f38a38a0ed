// What flyers share with the solver: what they hit and it moves, and where it takes over.
#include "world/flight.h"

#include "math/locks.h"
#include "shape/ask.h"

#include <algorithm>

namespace astasis {
// Whether the solver has it meet something in this tick.
template<int Dim> bool World<Dim>::State::Flight::is_alone(const State& s, std::uint32_t i) const {
    return std::none_of(s.manifolds.begin(), s.manifolds.end(), [&](const flow::Manifold<Dim>& m) {
        return (m.body_a == i && flyer_of_[m.body_b] == 0) || (m.body_b == i && flyer_of_[m.body_a] == 0);
    });
}

// Whether a velocity would bring a body well into something that it touches within a tick. However late in
// the tick it was hit, what leans on it would go without it all through the tick if it flew.
template<int Dim>
bool World<Dim>::State::Flight::is_held(const State& s, std::uint32_t i, const flow::Velocity<Dim>& v) const {
    if (s.bodies.motion[i] != Motion::Dynamic || flyer_of_[i] != 0) return false;
    const auto tick = static_cast<float>(tick_);
    for (const auto& m : s.manifolds) {
        if (m.body_a != i && m.body_b != i) continue;
        const bool is_a = m.body_a == i;
        const std::uint32_t other = is_a ? m.body_b : m.body_a;
        if (flyer_of_[other] != 0) continue;
        const flow::Velocity<Dim> w = way_of(s, other);
        for (int p = 0; p < m.count; p++) {
            const auto at = flow::evaluate(m, m.points[static_cast<std::size_t>(p)], s.bodies);
            if (at.separation > kTouches * s.bodies.still[i].size) continue;
            const Vec<Dim> mine = v.linear + cross(v.angular, is_a ? at.arm_a : at.arm_b),
                           its = w.linear + cross(w.angular, is_a ? at.arm_b : at.arm_a);
            const float closing = dot(is_a ? mine - its : its - mine, at.normal);
            if (closing * tick > kTouches * s.bodies.still[i].size) return true;
        }
    }
    return false;
}

// Whether a body that the solver moves would have come into something else that it moves by then: where it is
// then only the solver can tell.
template<int Dim> bool World<Dim>::State::Flight::is_stopped(const State& s, std::uint32_t i, double now) {
    if (s.bodies.motion[i] != Motion::Dynamic || flyer_of_[i] != 0 || s.is_asleep(i)) return false;
    auto& b = two_.bodies;
    b.pose.resize(2);
    for (const auto& m : s.manifolds) {
        if (m.body_a != i && m.body_b != i) continue;
        if (flyer_of_[m.body_a == i ? m.body_b : m.body_a] != 0) continue;
        flow::Manifold<Dim> then = m;
        then.body_a = 0, then.body_b = 1;
        b.pose[0] = pose_at(s, m.body_a, now), b.pose[1] = pose_at(s, m.body_b, now);
        for (std::size_t p = 0; p < m.count; p++) {
            const float before = flow::evaluate(m, m.points[p], s.bodies).separation;
            if (flow::evaluate(then, then.points[p], b).separation <
                std::min(before, 0.0f) - kTouches * s.bodies.still[i].size)
                return true;
        }
    }
    return false;
}

// Whether two that have just met, the flyer and what it met, now go on together.
template<int Dim>
bool World<Dim>::State::Flight::clings(const State& s, const Flyer& f, std::uint32_t other,
                                       const flow::Velocity<Dim>& mine,
                                       const flow::Velocity<Dim>& others) const {
    const auto at = [&](const flow::Velocity<Dim>& v, const flow::CentrePose<Dim>& pose) {
        return v.linear + cross(v.angular, f.impact.position - pose.centre);
    };
    const Vec<Dim> apart = at(others, pose_at(s, other, f.time)) - at(mine, f.pose);
    return dot(apart, f.impact.normal) * static_cast<float>(tick_) < kTouches * s.bodies.still[f.place].size;
}

// A body that was hit takes its share, and flies itself if that sends it far or nothing else is near it: the
// solver would have it go its new way from the start of the tick. What sleeps goes when it is awake.
template<int Dim>
void World<Dim>::State::Flight::send_on(State& s, std::uint32_t body, const flow::Velocity<Dim>& v,
                                        double now) {
    if (s.bodies.motion[body] != Motion::Dynamic) return;
    if (flyer_of_[body] == 0) {
        const flow::CentrePose<Dim> at = pose_at(s, body, now);
        s.bodies.velocity[body] = v;
        if (body >= s.bodies.moving) return struck_sleepers_.push_back(s.slots.ids()[body]);
        if (!goes_far(s, body, v) && !is_alone(s, body)) return; // the solver moves it
        start(s, body);
        flyers_[count_ - 1].pose = at, flyers_[count_ - 1].time = now;
    }
    Flyer& g = flyers_[flyer_of_[body] - 1];
    g.from = g.pose, g.since = now, g.velocity = v.linear, g.spin = v.angular, g.flies = true;
}

// The solver begins where the other was when the tick began: from there the flyer touches it as it does now,
// or stands off by as much as the other has turned into it on its way. It comes no farther there than what
// else the solver moves lets it from where it began the tick.
template<int Dim> void World<Dim>::State::Flight::hand_over(const State& s, Flyer& f, std::uint32_t other) {
    const auto k = flyer_of_[other];
    const Point<Dim> there = f.pose.centre;
    const flow::CentrePose<Dim> now = pose_at(s, other, f.time),
                                then = k ? flyers_[k - 1].pose : s.bodies.pose[other];
    const Vec<Dim> arm = rotate_back(now.rotation, f.impact.position - now.centre);
    f.pose.centre = f.pose.centre + ((then.centre + rotate(then.rotation, arm)) - f.impact.position);
    const auto gap =
        shape::nearest_points<Dim>(s.colliders[f.met.a].spec->geometry, placed(s, f.met.a, f.pose),
                                   s.colliders[f.met.b].spec->geometry, placed(s, f.met.b, then));
    if (gap.separation < 0) f.pose.centre = f.pose.centre + gap.normal * static_cast<float>(gap.separation);
    const auto at_start = [&](std::uint32_t body) {
        const auto m = flyer_of_[body];
        return m != 0 && flyers_[m - 1].handed_over ? flyers_[m - 1].pose : s.bodies.pose[body];
    };
    const flow::CentrePose<Dim>& start = s.bodies.pose[f.place];
    flow::Velocity<Dim> way = way_between(start, f.pose);
    way.linear = math::unlocked(way.linear, s.bodies.free[f.place].locks);
    const float share = clear_share(s, f.place, start, way, f.place, at_start);
    f.pose = gone(start, way, share);
    go_back(f.velocity, f.acceleration, f.pose.centre - there);
    leave_to_solver(f, way_of(s, other).linear);
}

// For how long, of the tick so far, a flyer could have come straight to where it is at a velocity, past the
// others on their ways; its partner comes along.
template<int Dim>
double World<Dim>::State::Flight::clear_before(const State& s, const Flyer& f, const Vec<Dim>& v,
                                               std::uint32_t partner) const {
    double clear = f.time;
    for (const std::uint32_t c : s.rows[f.place].colliders) {
        Moving<Dim> back{.from = placed(s, c, f.pose), .velocity = v * -1.0f};
        Bounds<Dim> reach{f.pose.centre, f.pose.centre};
        for (int k = 0; k < Dim; k++) {
            const double way = static_cast<double>(back.velocity[k]) * f.time;
            reach.low[k] += std::min(way, 0.0) - s.colliders[c].reach;
            reach.high[k] += std::max(way, 0.0) + s.colliders[c].reach;
        }
        visit_near(s, c, reach, partner, [&](std::uint32_t d) {
            Moving<Dim> others = moving(s, d, f.time);
            others.velocity = others.velocity * -1.0f;
            others.angular_velocity = others.angular_velocity * -1.0f;
            const auto met =
                shape::first_touch<Dim>(s.colliders[c].spec->geometry, back, s.colliders[d].spec->geometry,
                                        others, clear, kMostSteps);
            if (met) clear = std::min(clear, met->time);
        });
    }
    return clear;
}

// The solver has two that have met and go on together. What it moved anyway, and moves on by little, stays
// where it is; else it moves both all through the tick, so they begin as far back as brings them to where
// they are now, if nothing stands there. If something does, and they have come straight there, they begin
// where the tick did: from where they are now they would go twice their way, through others.
template<int Dim>
void World<Dim>::State::Flight::leave_together(State& s, std::size_t which, std::uint32_t other,
                                               const flow::Velocity<Dim>& mine,
                                               const flow::Velocity<Dim>& others) {
    const double now = flyers_[which].time;
    flyers_[which].velocity = mine.linear, flyers_[which].spin = mine.angular;
    if (flyer_of_[other] == 0 && !goes_far(s, other, others) && !is_alone(s, other)) {
        hand_over(s, flyers_[which], other);
        s.bodies.velocity[other] = others;
        return;
    }
    send_on(s, other, others, now); // may make room for flyers: references begin behind it
    Flyer &f = flyers_[which], &g = flyers_[flyer_of_[other] - 1];
    const float mass_f = s.bodies.mass[f.place].mass, mass_g = s.bodies.mass[other].mass;
    const Vec<Dim> together = (f.velocity * mass_f + g.velocity * mass_g) * (1 / (mass_f + mass_g));
    const double clear = std::min(clear_before(s, f, together, other), clear_before(s, g, together, f.place));
    const auto came_straight = [&](const Flyer& one) {
        const Vec<Dim> way = one.pose.centre - s.bodies.pose[one.place].centre;
        return length(way - together * static_cast<float>(now)) < kFar * s.bodies.still[one.place].size;
    };
    const bool from_start = clear < now && came_straight(f) && came_straight(g);
    for (Flyer* one : {&f, &g}) {
        const Vec<Dim> back = together * -static_cast<float>(clear);
        const Point<Dim> there = one->pose.centre;
        if (from_start) one->pose = s.bodies.pose[one->place];
        else one->pose.centre = one->pose.centre + math::unlocked(back, s.bodies.free[one->place].locks);
        go_back(one->velocity, one->acceleration, one->pose.centre - there);
        leave_to_solver(*one, together);
    }
}

// Others see it on that way from where it begins.
template<int Dim> void World<Dim>::State::Flight::leave_to_solver(Flyer& f, const Vec<Dim>& way) const {
    f.handed_over = f.halted = f.flies = true;
    f.mean = way, f.time = 0;
    f.next = 2 * tick_;
}

template<int Dim> void World<Dim>::State::Flight::put_back(State& s, const Flyer& f) const {
    s.bodies.pose[f.place] = f.pose;
    s.bodies.velocity[f.place] = {f.velocity, f.spin};
    s.bodies.remainder[f.place] = {};
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template bool World<Dim>::State::Flight::is_held(const State&, std::uint32_t,                            \
                                                     const flow::Velocity<Dim>&) const;                      \
    template bool World<Dim>::State::Flight::is_stopped(const State&, std::uint32_t, double);                \
    template bool World<Dim>::State::Flight::clings(const State&, const Flyer&, std::uint32_t,               \
                                                    const flow::Velocity<Dim>&, const flow::Velocity<Dim>&)  \
        const;                                                                                               \
    template void World<Dim>::State::Flight::send_on(State&, std::uint32_t, const flow::Velocity<Dim>&,      \
                                                     double);                                                \
    template void World<Dim>::State::Flight::hand_over(const State&, Flyer&, std::uint32_t);                 \
    template void World<Dim>::State::Flight::leave_together(                                                 \
        State&, std::size_t, std::uint32_t, const flow::Velocity<Dim>&, const flow::Velocity<Dim>&);         \
    template void World<Dim>::State::Flight::put_back(State&, const Flyer&) const;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
