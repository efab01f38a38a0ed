// Continuous collision within a substep: where swept bodies come no farther, because further impacts are not
// looked for, or passes have turned them into the way of something.
#include "world/advance.h"

#include "broad/box.h"
#include "math/numbers.h"

#include <algorithm>

namespace astasis {
namespace {

// A body is pressed by no more than this share of the thinner one's thickness in a substep into what it
// touches: half of what bodies may overlap by while they are hit (docs/decisions/constants.md).
constexpr float kPressed = 0.05f;

}

// A body stands at a pose for the rest of the substep.
template<int Dim>
void Advance<Dim>::stop(const Run& run, std::uint32_t body, double time, const flow::CentrePose<Dim>& pose) {
    const std::size_t row = rows_[body];
    stopped_in_[row] = run.stamp(), stopped_at_[row] = pose;
    stops_.push_back({static_cast<std::uint32_t>(row), time, pose});
}

// Free turning leaves the constant spin of a leg by the square of the turn. A body that was hit and turns far
// in the substep ends it on its leg, where it was swept: beside it there may be a wall. It takes its spin
// along, as it is in its own frame, which keeps its energy.
template<int Dim> bool Advance<Dim>::follows_leg(const Run& run, std::uint32_t body) const {
    const auto& mass = run.bodies.mass[body];
    if (Dim == 2 || !(mass.inverse_mass > 0) || mass.isotropic || rows_[body] == 0) return false;
    if (!impacts_.on_path(body) || is_stopped(run, rows_[body])) return false;
    const float spin = math::magnitude(velocity(run, rows_[body]).angular);
    return spin * static_cast<float>(run.seconds) > kFarTurn;
}

// A body's present path ends at a time of the substep.
template<int Dim> void Advance<Dim>::end_path(const Run& run, std::uint32_t body, double time) {
    const std::size_t row = rows_[body];
    const auto end = static_cast<float>(time);
    if (is_stopped(run, row) || (ends_in_[row] == run.stamp() && path_end_[row] <= end)) return;
    if (ends_in_[row] != run.stamp()) ending_.push_back(body);
    ends_in_[row] = run.stamp(), path_end_[row] = end;
}

// Passes may have turned fast bodies, that were swept with another velocity or not at all, towards others
// that they were to pass: these bodies come no farther than to there.
template<int Dim> void Advance<Dim>::stop_short(Run& run) {
    for (const std::uint32_t i : ending_)
        if (!is_stopped(run, rows_[i]) && ends_in_[rows_[i]] == run.stamp())
            stop(run, i, path_end_[rows_[i]], leg(run, i).at(path_end_[rows_[i]]));
    if (run.around.index == nullptr) return;
    const auto watched = integrator_.watch(paths_, static_cast<float>(run.time()));
    for_each_row(watched, &solve::Watched::swept, [&](std::size_t r) {
        if (is_stopped(run, r) || !is_swept(run, r)) return;
        const flow::Velocity<Dim> v = integrator_.velocity(r), &swept = swept_velocity_[r];
        if (is_swept_[r] && v.linear == swept.linear && v.angular == swept.angular) return;
        if (out_of_sweeps_) return slow(run, r);
        const std::uint32_t i = bodies_[r - 1];
        mark_swept(r);
        sweep::Leg<Dim> own = leg(run, i);
        const double from = resolved_ && impacts_.was_hit(i) ? static_cast<double>(impacts_.last_hit(i)) : 0;
        own.from = own.at(from);
        const double left = run.seconds - from;
        const double time = first_in_way(run, i, own, from, first_pressed(run, i, own, from, left));
        if (out_of_sweeps_) return slow(run, r);
        if (time < left) stop(run, i, from + time, own.at(time));
    });
}

// The time at which a collider first touches another, led off the contacts that it has at the start; 0 if it
// cannot be led off them.
template<int Dim>
std::optional<double> Advance<Dim>::leaves_and_meets(const Run& run, const flow::Collider<Dim>& c,
                                                     const sweep::Leg<Dim>& own, const flow::Collider<Dim>& d,
                                                     const sweep::Leg<Dim>& theirs, double seconds) {
    const auto time_of_impact = [&](const sweep::Leg<Dim>& mine) -> std::optional<double> {
        if (!buy_sweep()) return std::nullopt;
        return sweep::time_of_impact(c, run.bodies.mass[c.body].centre, mine, d,
                                     run.bodies.mass[d.body].centre, theirs, seconds);
    };
    std::optional<double> time = time_of_impact(own);
    if (!time || *time > 0) return time;
    const bool is_a = c.key < d.key;
    before_.clear(), after_.clear();
    find_touching(run,
                  {is_a ? c : d, is_a ? d : c, is_a ? own.from : theirs.from, is_a ? theirs.from : own.from,
                   kNear * c.thickness},
                  true);
    Vec<Dim> off{};
    for (const auto& m : after_) off += m.normal * (is_a ? -1.0f : 1.0f);
    sweep::Leg<Dim> mine = own;
    for (float share = kStandOff; share <= kMostOff && time && *time == 0; share *= 10) {
        mine.from.centre = own.from.centre + off * (share * c.thickness);
        time = time_of_impact(mine);
    }
    if (time && *time == 0) return std::nullopt;
    return time;
}

// The time from which the points of a manifold would press two bodies into each other on their legs; `left`
// if they never do.
template<int Dim>
double Advance<Dim>::pressed_at(const flow::Manifold<Dim>& m, const sweep::Leg<Dim>& a,
                                const sweep::Leg<Dim>& b, double left) {
    double first = left;
    for (std::size_t n = 0; n < m.count; n++) {
        const flow::PointNow<Dim> now = flow::evaluate(m, m.points[n], a.from, b.from);
        const auto closing = static_cast<double>(
            -dot(solve::relative_at(a.velocity, now.arm_a, b.velocity, now.arm_b), now.normal));
        const double gap = std::max(now.separation, 0.0f);
        if (closing * first - gap > kPressed * m.thickness) first = gap / closing;
    }
    return first;
}

// The time from which a body is pressed into another that it touches: passes have not yet found the impulses
// that would keep them apart.
template<int Dim>
double Advance<Dim>::first_pressed(const Run& run, std::uint32_t body, const sweep::Leg<Dim>& own,
                                   double from, double left) const {
    double first = left;
    lists_.for_each(body, [&](std::uint32_t k) {
        const flow::Manifold<Dim>& m = run.manifolds[k];
        if (m.passed_by || m.is_bounded()) return;
        const bool is_a = m.body_a == body;
        sweep::Leg<Dim> theirs = leg(run, is_a ? m.body_b : m.body_a);
        theirs.from = theirs.at(from);
        first = pressed_at(m, is_a ? own : theirs, is_a ? theirs : own, first);
    });
    return first;
}

// The time at which a body first touches another from which no manifold keeps it.
template<int Dim>
double Advance<Dim>::first_in_way(Run& run, std::uint32_t body, const sweep::Leg<Dim>& own, double from,
                                  double left) {
    double first = left;
    for (const std::uint32_t index : run.around.colliders_of(body)) {
        const auto& c = run.around.colliders[index];
        flow::Collider<Dim> path = c;
        path.bounds = bounds_at(run, c, own.from);
        path.drift = own.velocity.linear * static_cast<float>(left);
        path.slack = sweep::turning_way(c, own.velocity, static_cast<float>(left));
        near_.clear();
        run.around.index->query(broad::box_around(flow::reached(path)), [&](std::uint32_t other) {
            const auto& d = run.around.colliders[other];
            if (d.body != body && looks_at(run, body, d.body) && may_touch(*c.spec, *d.spec) &&
                !run.around.keeps_apart(body, d.body))
                near_.push_back(other);
        });
        for (const std::uint32_t other : near_) {
            const auto& d = run.around.colliders[other];
            // Convex shapes are kept apart by what manifolds they have; surfaces may have more to meet.
            bool kept = false, bounded = false;
            lists_.for_each(body, [&](std::uint32_t k) {
                const auto& m = run.manifolds[k];
                const bool is_pair =
                    (m.key_a == c.key && m.key_b == d.key) || (m.key_b == c.key && m.key_a == d.key);
                kept = kept || (is_pair && !m.passed_by);
                bounded = bounded || (is_pair && m.is_bounded());
            });
            if (bounded) continue;
            if (kept && !shape::is_surface(d.spec->geometry)) continue;
            sweep::Leg<Dim> theirs = leg(run, d.body);
            theirs.from = theirs.at(from);
            if (!sweep::may_meet(c, own, d, theirs, first, kMostOff * c.thickness)) continue;
            if (const auto time = leaves_and_meets(run, c, own, d, theirs, first))
                first = std::min(first, *time);
        }
    }
    return first;
}

// A pair that turns far may be found to touch, early rather than late, where it does not come nearer; and a
// body that was hit meets others without an impact where further ones cannot be bought. A swept body goes no
// farther than to there, and on from there in the next substep.
template<int Dim> void Advance<Dim>::block_unmet(Run& run) {
    for (const std::uint32_t k : swept_hits_) {
        const flow::Manifold<Dim>& m = run.manifolds[k];
        const auto& at = swept_at_[k];
        if (swept_in_[k] != run.stamp() || m.passed_by || !(at.time > 0)) continue;
        if (!at.far_turn && !impacts_.was_hit(m.body_a) && !impacts_.was_hit(m.body_b)) continue;
        const auto is_it = [&](const auto& hit) { return hit.manifold == k; };
        if (resolved_ && std::any_of(impacts_.hits().begin(), impacts_.hits().end(), is_it)) continue;
        for (const bool is_a : {true, false}) {
            const std::uint32_t i = is_a ? m.body_a : m.body_b;
            const bool goes_on = impacts_.was_hit(i) && impacts_.last_hit(i) > at.time; // another way
            if (goes_on || !looks_at(run, i, is_a ? m.body_b : m.body_a)) continue;
            end_path(run, i, static_cast<double>(at.time));
        }
    }
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void Advance<Dim>::stop(const Run&, std::uint32_t, double, const flow::CentrePose<Dim>&);       \
    template bool Advance<Dim>::follows_leg(const Run&, std::uint32_t) const;                                \
    template void Advance<Dim>::end_path(const Run&, std::uint32_t, double);                                 \
    template void Advance<Dim>::stop_short(Run&);                                                            \
    template double Advance<Dim>::pressed_at(const flow::Manifold<Dim>&, const sweep::Leg<Dim>&,             \
                                             const sweep::Leg<Dim>&, double);                                \
    template double Advance<Dim>::first_pressed(const Run&, std::uint32_t, const sweep::Leg<Dim>&, double,   \
                                                double) const;                                               \
    template double Advance<Dim>::first_in_way(Run&, std::uint32_t, const sweep::Leg<Dim>&, double, double); \
    template std::optional<double> Advance<Dim>::leaves_and_meets(                                           \
        const Run&, const flow::Collider<Dim>&, const sweep::Leg<Dim>&, const flow::Collider<Dim>&,          \
        const sweep::Leg<Dim>&, double);                                                                     \
    template void Advance<Dim>::block_unmet(Run&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
