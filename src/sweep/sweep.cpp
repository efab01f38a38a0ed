#include "sweep/sweep.h"

#include "math/numbers.h"
#include "math/turn.h"
#include "shape/ask.h"

#include <algorithm>
#include <cmath>

namespace astasis::sweep {
namespace {

// Steps of the advancement after which two colliders are said to touch, early rather than late.
constexpr int kMostSteps = 200;

template<int Dim>
Moving<Dim> moving(const flow::Collider<Dim>& c, const Vec<Dim>& centre, const Leg<Dim>& leg) {
    const Placement<Dim>& on = c.spec->placement;
    const Vec<Dim> arm = on.position - centre;
    return {.from = {leg.from.centre + rotate(leg.from.rotation, arm), leg.from.rotation * on.rotation},
            .velocity = leg.velocity.linear,
            .angular_velocity = leg.velocity.angular,
            .centre = rotate_back(on.rotation, arm * -1.0f)};
}

}

template<int Dim> flow::CentrePose<Dim> Leg<Dim>::at(double seconds) const {
    flow::CentrePose<Dim> out = from;
    for (int k = 0; k < Dim; k++) out.centre[k] += static_cast<double>(velocity.linear[k]) * seconds;
    if (math::magnitude(velocity.angular) > 0)
        out.rotation = math::turned_by(from.rotation, velocity.angular * static_cast<float>(seconds));
    return out;
}

template<int Dim> float turning_speed(const flow::Collider<Dim>& c, const flow::Velocity<Dim>& v) {
    constexpr float kRound = 0.5001f; // its reach: half of its thickness
    const float spin = math::magnitude(v.angular);
    return spin > 0 && math::is_finite(c.reach) && c.reach > kRound * c.thickness ? spin * c.reach : 0;
}

template<int Dim>
bool may_meet(const flow::Collider<Dim>& a, const Leg<Dim>& leg_a, const flow::Collider<Dim>& b,
              const Leg<Dim>& leg_b, double seconds, float margin) {
    const Vec<Dim> way = (leg_b.velocity.linear - leg_a.velocity.linear) * static_cast<float>(seconds);
    if (!math::is_finite(a.reach) || !math::is_finite(b.reach) ||
        std::max(a.reach, b.reach) > 1e3f * std::min(a.reach, b.reach)) {
        // The very large one is taken by its bounds, the other as a sphere on a straight way.
        const bool large_is_b = !(b.reach <= a.reach);
        const auto &large = large_is_b ? b : a, &small = large_is_b ? a : b;
        const auto &of_large = large_is_b ? leg_b : leg_a, &of_small = large_is_b ? leg_a : leg_b;
        if (of_large.velocity.linear != Vec<Dim>{} || math::magnitude(of_large.velocity.angular) > 0)
            return true;
        const Vec<Dim> far = of_small.velocity.linear * static_cast<float>(seconds);
        for (int k = 0; k < Dim; k++) {
            const double at = of_small.from.centre[k], wide = small.reach + margin;
            if (at + std::max(far[k], 0.0f) + wide < large.bounds.low[k] - large.slack ||
                at + std::min(far[k], 0.0f) - wide > large.bounds.high[k] + large.slack)
                return false;
        }
        return true;
    }
    // The nearest that two spheres come to each other.
    const Vec<Dim> between = leg_b.from.centre - leg_a.from.centre;
    const float square = length_squared(way);
    const float t = square > 0 ? std::clamp(-dot(between, way) / square, 0.0f, 1.0f) : 0.0f;
    const float reach = (a.reach + b.reach) + margin;
    return length_squared(between + way * t) <= reach * reach;
}

template<int Dim>
std::optional<double> time_of_impact(const flow::Collider<Dim>& a, const Vec<Dim>& centre_a,
                                     const Leg<Dim>& leg_a, const flow::Collider<Dim>& b,
                                     const Vec<Dim>& centre_b, const Leg<Dim>& leg_b, double seconds) {
    const auto met = shape::first_touch<Dim>(a.spec->geometry, moving(a, centre_a, leg_a), b.spec->geometry,
                                             moving(b, centre_b, leg_b), seconds, kMostSteps);
    return met ? std::optional(met->time) : std::nullopt;
}

template<int Dim>
std::optional<double> time_of_impact(const flow::Collider<Dim>& a, const Vec<Dim>& centre_a,
                                     const Leg<Dim>& leg_a, const Plane<Dim>& plane, double seconds) {
    const Moving<Dim> half{.from = {plane.on, {}},
                           .velocity = plane.leg.velocity.linear,
                           .angular_velocity = plane.leg.velocity.angular,
                           .centre = plane.leg.from.centre - plane.on};
    const auto met = shape::first_touch<Dim>(a.spec->geometry, moving(a, centre_a, leg_a),
                                             HalfSpace<Dim>{plane.outward}, half, seconds, kMostSteps);
    return met ? std::optional(met->time) : std::nullopt;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::optional<double> time_of_impact(const flow::Collider<Dim>&, const Vec<Dim>&,               \
                                                  const Leg<Dim>&, const Plane<Dim>&, double);               \
    template struct Leg<Dim>;                                                                                \
    template float turning_speed(const flow::Collider<Dim>&, const flow::Velocity<Dim>&);                    \
    template bool may_meet(const flow::Collider<Dim>&, const Leg<Dim>&, const flow::Collider<Dim>&,          \
                           const Leg<Dim>&, double, float);                                                  \
    template std::optional<double> time_of_impact(const flow::Collider<Dim>&, const Vec<Dim>&,               \
                                                  const Leg<Dim>&, const flow::Collider<Dim>&,               \
                                                  const Vec<Dim>&, const Leg<Dim>&, double);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
