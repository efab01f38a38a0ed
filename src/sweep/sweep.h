// Continuous collision of two colliders on straight legs of their paths: whether and when they first touch.
// Stage sweep. Reads colliders and legs; free functions.
//
// A leg is a body's path within a part of a substep: a constant velocity, the mean of what free motion makes
// of it, and a constant spin. The time of impact is found by conservative advancement (shape/ask.h). Tested
// by tests/world/sweep_test.cpp.
#pragma once

#include "flow/contacts.h"

#include <algorithm>
#include <optional>

namespace astasis::sweep {

// A body whose motion in a substep is longer than this share of its smallest width is swept: less than half
// of it cannot take a convex body past the middle of anything.
inline constexpr float kSweptShare = 0.5f;

template<int Dim> struct Leg {
    flow::CentrePose<Dim> from{};
    flow::Velocity<Dim> velocity{};

    flow::CentrePose<Dim> at(double seconds) const;
};

// The speed of a collider's surface by its body's spin, m/s; 0 for round shapes.
template<int Dim> float turning_speed(const flow::Collider<Dim>& c, const flow::Velocity<Dim>& v);
// Its way within a time, m: no turn takes it out of the sphere of its reach.
template<int Dim>
float turning_way(const flow::Collider<Dim>& c, const flow::Velocity<Dim>& v, float seconds) {
    const float speed = turning_speed(c, v);
    return speed > 0 ? std::min(speed * seconds, 2 * c.reach) : 0.0f;
}
// The farthest way of two colliders past each other, m.
template<int Dim>
float passing_way(const flow::Collider<Dim>& a, const flow::Velocity<Dim>& va, const flow::Collider<Dim>& b,
                  const flow::Velocity<Dim>& vb, float seconds) {
    return length(va.linear - vb.linear) * seconds +
           (turning_way(a, va, seconds) + turning_way(b, vb, seconds));
}

// Whether the surfaces of two colliders may come nearer than `margin` on these legs: a quick test by spheres
// and boxes that never misses.
template<int Dim>
bool may_meet(const flow::Collider<Dim>& a, const Leg<Dim>& leg_a, const flow::Collider<Dim>& b,
              const Leg<Dim>& leg_b, double seconds, float margin);

// The time of their first touch, s from the start of the legs; 0 if they touch there. `centre_a` and
// `centre_b` are the centres of mass in the bodies' frames.
template<int Dim>
std::optional<double> time_of_impact(const flow::Collider<Dim>& a, const Vec<Dim>& centre_a,
                                     const Leg<Dim>& leg_a, const flow::Collider<Dim>& b,
                                     const Vec<Dim>& centre_b, const Leg<Dim>& leg_b, double seconds);

// The time at which a collider first touches a plane that moves as a body does, given at the start of its
// leg.
template<int Dim> struct Plane {
    Point<Dim> on{};
    Vec<Dim> outward{};
    Leg<Dim> leg{};
};
template<int Dim>
std::optional<double> time_of_impact(const flow::Collider<Dim>& a, const Vec<Dim>& centre_a,
                                     const Leg<Dim>& leg_a, const Plane<Dim>& plane, double seconds);

extern template struct Leg<2>;
extern template struct Leg<3>;

}
