// Where bodies are on their ways through a tick in which some fly.
#include "world/flight.h"

#include "math/turn.h"
#include "math/wide.h"

#include <algorithm>
#include <cmath>

namespace astasis {
template<int Dim>
flow::CentrePose<Dim> World<Dim>::State::Flight::gone(const flow::CentrePose<Dim>& from,
                                                      const flow::Velocity<Dim>& v, double time) {
    flow::CentrePose<Dim> out = from;
    for (int k = 0; k < Dim; k++) out.centre[k] += static_cast<double>(v.linear[k]) * time;
    if (math::magnitude(v.angular) > 0)
        out.rotation = math::turned_by(from.rotation, v.angular * static_cast<float>(time));
    return out;
}

// The velocity that takes a body from one pose to the other in a second, turning the short way round.
template<int Dim>
flow::Velocity<Dim> World<Dim>::State::Flight::way_between(const flow::CentrePose<Dim>& from,
                                                           const flow::CentrePose<Dim>& to) {
    return {to.centre - from.centre, math::turn_between(from.rotation, to.rotation)};
}

// The velocity with which a body goes on through the rest of the tick.
template<int Dim>
flow::Velocity<Dim> World<Dim>::State::Flight::way_of(const State& s, std::uint32_t body) const {
    if (const auto k = flyer_of_[body]) {
        const Flyer& f = flyers_[k - 1];
        if (f.handed_over) return {f.mean, {}};
        return f.halted ? flow::Velocity<Dim>{} : flow::Velocity<Dim>{f.mean, f.spin};
    }
    return body < s.bodies.moving ? s.bodies.velocity[body] : flow::Velocity<Dim>{};
}

template<int Dim>
flow::CentrePose<Dim> World<Dim>::State::Flight::pose_at(const State& s, std::uint32_t body,
                                                         double time) const {
    if (const auto k = flyer_of_[body])
        return gone(flyers_[k - 1].pose, way_of(s, body), time - flyers_[k - 1].time);
    return gone(s.bodies.pose[body], way_of(s, body), time);
}

template<int Dim>
flow::Velocity<Dim> World<Dim>::State::Flight::velocity_of(const State& s, std::uint32_t body) const {
    if (const auto k = flyer_of_[body]) return {flyers_[k - 1].velocity, flyers_[k - 1].spin};
    return s.is_asleep(body) ? s.bodies.velocity[body] : way_of(s, body);
}

// Where a shape is when its body is there.
template<int Dim>
Pose<Dim> World<Dim>::State::Flight::placed(const State& s, std::uint32_t collider,
                                            const flow::CentrePose<Dim>& at) const {
    const auto& c = s.colliders[collider];
    const Placement<Dim>& on = c.spec->placement;
    return {at.centre + rotate(at.rotation, on.position - s.bodies.mass[c.body].centre),
            at.rotation * on.rotation};
}

template<int Dim>
Moving<Dim> World<Dim>::State::Flight::moving(const State& s, std::uint32_t collider, double time) const {
    const std::uint32_t body = s.colliders[collider].body;
    return moving(s, collider, pose_at(s, body, time), way_of(s, body));
}
template<int Dim>
Moving<Dim> World<Dim>::State::Flight::moving(const State& s, std::uint32_t collider,
                                              const flow::CentrePose<Dim>& from,
                                              const flow::Velocity<Dim>& v) const {
    const auto& c = s.colliders[collider];
    const Placement<Dim>& on = c.spec->placement;
    const Vec<Dim> arm = on.position - s.bodies.mass[c.body].centre;
    return {.from = placed(s, collider, from),
            .velocity = v.linear,
            .angular_velocity = v.angular,
            .centre = rotate_back(on.rotation, arm * -1.0f)};
}

template<int Dim> void World<Dim>::State::Flight::set_mean(Flyer& f) const {
    f.mean = f.velocity + f.acceleration * static_cast<float>(0.5 * (tick_ - f.time));
}

// What goes back on its way has not yet gained, or lost, what the acceleration gave it there: its energy
// stays.
template<int Dim>
void World<Dim>::State::Flight::go_back(Vec<Dim>& velocity, const Vec<Dim>& acceleration,
                                        const Vec<Dim>& back) {
    const auto a = math::widened(acceleration);
    const double work = dot(math::widened(back), a), along = dot(math::widened(velocity), a);
    if (!(work * along < 0)) return;
    const double squared = dot(a, a), then = std::sqrt(std::max(along * along + 2 * work * squared, 0.0));
    velocity += acceleration * static_cast<float>((std::copysign(then, along) - along) / squared);
}

// For one that stands time stands: gravity would give it speed for a fall that it does not make.
template<int Dim> void World<Dim>::State::Flight::advance(Flyer& f, double time) const {
    if (!f.halted) {
        f.pose = gone(f.pose, {f.mean, f.spin}, time - f.time);
        f.velocity += f.acceleration * static_cast<float>(time - f.time);
    }
    f.time = time;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template flow::Velocity<Dim> World<Dim>::State::Flight::way_of(const State&, std::uint32_t) const;       \
    template flow::CentrePose<Dim> World<Dim>::State::Flight::pose_at(const State&, std::uint32_t, double)   \
        const;                                                                                               \
    template flow::Velocity<Dim> World<Dim>::State::Flight::velocity_of(const State&, std::uint32_t) const;  \
    template Pose<Dim> World<Dim>::State::Flight::placed(const State&, std::uint32_t,                        \
                                                         const flow::CentrePose<Dim>&) const;                \
    template Moving<Dim> World<Dim>::State::Flight::moving(const State&, std::uint32_t, double) const;       \
    template Moving<Dim> World<Dim>::State::Flight::moving(                                                  \
        const State&, std::uint32_t, const flow::CentrePose<Dim>&, const flow::Velocity<Dim>&) const;        \
    template flow::CentrePose<Dim> World<Dim>::State::Flight::gone(const flow::CentrePose<Dim>&,             \
                                                                   const flow::Velocity<Dim>&, double);      \
    template flow::Velocity<Dim> World<Dim>::State::Flight::way_between(const flow::CentrePose<Dim>&,        \
                                                                        const flow::CentrePose<Dim>&);       \
    template void World<Dim>::State::Flight::set_mean(Flyer&) const;                                         \
    template void World<Dim>::State::Flight::go_back(Vec<Dim>&, const Vec<Dim>&, const Vec<Dim>&);           \
    template void World<Dim>::State::Flight::advance(Flyer&, double) const;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
