// The time at which two moving convex parts first touch: conservative advancement.
//
// The gap closes no faster than the relative velocity along its normal and what turning adds; so the time
// that this takes is free of contact, and is gone ahead, again and again (Mirtich 1996, 2.3). Steps shrink
// with the gap; where nothing turns they are Newton's on a convex function, and converge as fast. The last
// bit is Newton's with the true speed.
#pragma once

#include "math/trig.h"
#include "shape/gap.h"

namespace astasis::shape {

inline math::Turn<2> spun(const math::Turn<2>& turn, float rate, double seconds) {
    const math::SinCos r = math::sin_cos(rate * seconds);
    const auto turned = [&](const math::Wide2& v) {
        return math::Wide2{{r.cos * v[0] - r.sin * v[1], r.sin * v[0] + r.cos * v[1]}};
    };
    return {{turned(turn.column[0]), turned(turn.column[1])}};
}
inline math::Turn<3> spun(const math::Turn<3>& turn, Vec3 rate, double seconds) {
    const math::Wide3 w = math::widened(rate);
    const double speed = norm(w);
    if (!(speed > 0)) return turn;
    const math::Wide3 u = w * (1 / speed);
    const math::SinCos r = math::sin_cos(speed * seconds);
    const auto turned = [&](const math::Wide3& v) {
        return v * r.cos + cross(u, v) * r.sin + u * (dot(u, v) * (1 - r.cos));
    };
    return {{turned(turn.column[0]), turned(turn.column[1]), turned(turn.column[2])}};
}

// What turning adds: the velocity at an arm, and the most along n at an arm of a metre, 1/s.
inline math::Wide2 spin_velocity(float spin, const math::Wide2& arm) {
    return {{-spin * arm[1], spin * arm[0]}};
}
inline math::Wide3 spin_velocity(Vec3 spin, const math::Wide3& arm) {
    return cross(math::widened(spin), arm);
}
inline double spin_across(float spin, const math::Wide2&) { return std::fabs(spin); }
inline double spin_across(Vec3 spin, const math::Wide3& n) { return norm(cross(n, math::widened(spin))); }
inline double spin_rate(float spin) { return std::fabs(spin); }
inline double spin_rate(Vec3 spin) { return norm(math::widened(spin)); }

// Steps of the advancement after which two are said to touch, early rather than late: what turns along a wall
// at a hair's breadth takes very many.
inline constexpr int kMostSteps = 20000;

template<int Dim> struct Path {
    math::Wide<Dim> pivot{}, velocity{},
        centre{}; // where it turns about, at time 0; its velocity; the same in its frame
    math::Turn<Dim> turn{};
    Axial<Dim> spin{};
    int most_steps = kMostSteps;

    math::Turn<Dim> turn_at(double t) const { return spun(turn, spin, t); }
    math::Wide<Dim> pivot_at(double t) const { return pivot + velocity * t; }
    math::Wide<Dim> position(double t) const { return pivot_at(t) - turn_at(t) * centre; }
    math::Wide<Dim> velocity_of(const math::Wide<Dim>& point, double t) const { // of its matter at a place
        return velocity + spin_velocity(spin, point - pivot_at(t));
    }
    bool turns() const { return spin_rate(spin) > 0; }
};

// A convex part, or a half-space, on its way.
template<int Dim> struct MovingPart {
    const Path<Dim>* path;
    const Convex<Dim>* convex; // null: a half-space through the path's position
    math::Wide<Dim> outward{};
    double reach = 0; // of the convex part from the pivot

    MovingPart(const Path<Dim>& p, const Convex<Dim>& c);
    MovingPart(const Path<Dim>& p, const math::Wide<Dim>& outwards)
        : path(&p), convex(nullptr), outward(outwards) {}
};

template<int Dim> struct Met {
    double time = 0;
    Gap<Dim> gap;
};

// The first time up to `horizon` at which a convex part and another touch; `a` must be convex.
template<int Dim>
std::optional<Met<Dim>> meet(const MovingPart<Dim>& a, const MovingPart<Dim>& b, double horizon);
extern template std::optional<Met<2>> meet(const MovingPart<2>&, const MovingPart<2>&, double);
extern template std::optional<Met<3>> meet(const MovingPart<3>&, const MovingPart<3>&, double);
extern template struct MovingPart<2>;
extern template struct MovingPart<3>;

}
