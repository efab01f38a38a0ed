#include "shape/impact.h"

#include <algorithm>
#include <cmath>

namespace astasis::shape {
namespace {

using math::Wide;

constexpr double kTouching = 1e-5, kTouchingUnturned = 4e-7; // of the smaller size
constexpr double kRayTouching = 1e-9;                        // of the shape that a ray meets
constexpr int kMostDoubts = 64;

template<int Dim> Gap<Dim> gap_at(const MovingPart<Dim>& a, const MovingPart<Dim>& b, double t, bool depth) {
    const Convex<Dim> ca = placed(*a.convex, a.path->position(t), a.path->turn_at(t));
    if (b.convex == nullptr) return gap_to_plane(ca, b.path->position(t), b.path->turn_at(t) * b.outward);
    return gap_of(ca, placed(*b.convex, b.path->position(t), b.path->turn_at(t)), depth);
}

// No gap closes faster than this along n, from a to b.
template<int Dim>
double fastest(const MovingPart<Dim>& a, const MovingPart<Dim>& b, const Wide<Dim>& n, double reach_b) {
    return dot(a.path->velocity - b.path->velocity, n) + spin_across(a.path->spin, n) * a.reach +
           spin_across(b.path->spin, n) * reach_b;
}

// Newton's steps with the true speed of the nearest points, while they help.
template<int Dim>
void refine(const MovingPart<Dim>& a, const MovingPart<Dim>& b, double horizon, Met<Dim>& met) {
    for (int i = 0; i < 6; i++) {
        const Gap<Dim>& g = met.gap;
        const double closing =
            dot(a.path->velocity_of(g.on_a, met.time) - b.path->velocity_of(g.on_b, met.time), g.normal);
        if (!(closing > 0)) return;
        const double t = std::clamp(met.time + g.separation / closing, 0.0, horizon);
        const Gap<Dim> next = gap_at(a, b, t, false);
        if (!next.apart || !(std::fabs(next.separation) < std::fabs(g.separation))) return;
        met = {t, next};
    }
}

}

template<int Dim>
MovingPart<Dim>::MovingPart(const Path<Dim>& p, const Convex<Dim>& c) : path(&p), convex(&c) {
    for (const Vec<Dim> corner : c.corners) reach = std::max(reach, norm(math::widened(corner) - p.centre));
    reach += c.rim + c.skin;
}

template<int Dim>
std::optional<Met<Dim>> meet(const MovingPart<Dim>& a, const MovingPart<Dim>& b, double horizon) {
    const double size_a = a.convex->size(), size_b = b.convex ? b.convex->size() : size_a;
    const bool turning = a.path->turns() || b.path->turns(), ray = !(size_a > 0);
    const double touching =
        ray ? kRayTouching * size_b
            : std::max((turning ? kTouching : kTouchingUnturned) * std::min(size_a, size_b),
                       3 * touching_distance(size_a, size_b));
    Met<Dim> met;
    double before = 0; // the time of the last gap
    int doubts = 0;
    const int most_steps = std::min(a.path->most_steps, b.path->most_steps);
    for (int step = 0; step < most_steps; step++) {
        met.gap = gap_at(a, b, met.time, step == 0);
        // Each advance stops short of contact, so an overlap here is a flat simplex that seemed to hold the
        // origin: ask again a little earlier.
        if (!met.gap.apart && step > 0 && doubts < kMostDoubts) {
            doubts++;
            met.time = 0.5 * (before + met.time);
            continue;
        }
        if (!met.gap.apart && met.gap.separation > 0) met.gap.separation = 0;
        if (met.gap.separation <= touching) {
            if (step == 0) return met; // at the start, however deep
            refine(a, b, horizon, met);
            return met;
        }
        // A half-space reaches as far as the shape is away.
        const double reach_b =
            b.convex ? b.reach : norm(a.path->pivot_at(met.time) - b.path->pivot_at(met.time)) + a.reach;
        const double speed = fastest(a, b, met.gap.normal, reach_b);
        if (!(speed > 0)) return {};
        before = met.time;
        met.time +=
            (met.gap.separation - 0.5 * touching) / speed; // stays just apart, where there is a normal
        if (!(met.time <= horizon)) return {};
    }
    return met; // still closing after very many steps: as near as that, and early rather than late
}

template std::optional<Met<2>> meet(const MovingPart<2>&, const MovingPart<2>&, double);
template std::optional<Met<3>> meet(const MovingPart<3>&, const MovingPart<3>&, double);
template struct MovingPart<2>;
template struct MovingPart<3>;

}
