// Continuous collision within a substep: swept bodies are led to what they touch first on their paths.
#include "world/advance.h"

#include "base/room.h"
#include "broad/box.h"
#include "math/numbers.h"

#include <algorithm>

namespace astasis {
namespace {

// Points of a manifold that are farther apart than the nearest by no more than this share of a swept body's
// size meet at once with it.
constexpr float kAtOnce = 2e-4f;
// Normals that differ by less (cosine) are of one contact.
constexpr float kOneNormal = 0.99f;
// The share of the way from which it is swept that a body goes on by in a substep after it was slowed: with
// more of it, boxes that fall on one another at a thousand widths a second overlap more
// (docs/decisions/constants.md).
constexpr float kSlowed = 0.25f;

}

template<int Dim> bool Advance<Dim>::is_swept(const Run& run, std::size_t row) const {
    const auto h = static_cast<float>(run.seconds);
    const flow::Velocity<Dim> v = velocity(run, row);
    return is_longer(v.linear * h, v.angular, paths_[row].reach * h, paths_[row].swept_from);
}

template<int Dim> bool Advance<Dim>::looks_at(const Run& run, std::uint32_t body, std::uint32_t other) const {
    return body < run.bodies.moving && rows_[body] > 0 && is_swept_[rows_[body]] != 0 &&
           (run.around.sweep_of(body) == Sweep::Everything || run.bodies.motion[other] != Motion::Dynamic);
}

template<int Dim> void Advance<Dim>::find_swept(Run& run, std::span<const solve::Watched> watched) {
    for (const std::uint32_t i : swept_) is_swept_[rows_[i]] = 0;
    swept_.clear();
    for_each_row(watched, &solve::Watched::swept, [&](std::size_t row) {
        if (is_swept(run, row)) mark_swept(row);
    });
    for (std::size_t n = 0; n < swept_.size() && !out_of_sweeps_; n++) {
        swept_velocity_[rows_[swept_[n]]] = integrator_.velocity(rows_[swept_[n]]);
        sweep(run, swept_[n], {});
    }
    if (!out_of_sweeps_) return;
    for (const std::uint32_t i : swept_) slow(run, rows_[i]), is_swept_[rows_[i]] = 0;
    for (const std::uint32_t k : swept_hits_) swept_in_[k] = 0;
    swept_.clear(), swept_hits_.clear();
}

// If the budget has no sweeps left, a fast body is slowed to a speed at which its contacts alone keep it from
// tunnelling.
template<int Dim> void Advance<Dim>::slow(const Run& run, std::size_t row) {
    const flow::Velocity<Dim> v = integrator_.velocity(row);
    const float way =
        (length(v.linear) + math::magnitude(v.angular) * paths_[row].reach) * static_cast<float>(run.seconds);
    if (way > paths_[row].swept_from) integrator_.slow(row, kSlowed * paths_[row].swept_from / way);
}

// Finds a body's first impact with each of its pairs, from the start of the substep or from a hit within it.
template<int Dim> void Advance<Dim>::sweep(Run& run, std::uint32_t body, std::optional<double> hit_at) {
    std::vector<std::uint32_t>& all = its_manifolds_;
    all.clear();
    lists_.for_each(body, [&](std::uint32_t k) { all.push_back(k); });
    std::sort(all.begin(), all.end());
    for (const std::uint32_t k : all) // what lay ahead on the path that it was turned from
        if (hit_at && swept_in_[k] == run.stamp() && !run.manifolds[k].passed_by &&
            static_cast<double>(swept_at_[k].time) > *hit_at)
            pass_by(run, k, false), impacts_.found_anew(k);
    if (out_of_sweeps_) return; // it is slowed
    for (const std::uint32_t k : all) {
        if (!hit_at && looked_in_[k] == run.stamp()) continue;
        std::uint32_t first = k;
        for_each_of_pair(run, k, [&](std::uint32_t n) { first = std::min(first, n); });
        if (first == k) sweep_pair(run, k, hit_at);
    }
}

template<int Dim> void Advance<Dim>::sweep_pair(Run& run, std::uint32_t k, std::optional<double> hit_at) {
    if (run.manifolds[k].is_bounded()) return;
    const double from = hit_at.value_or(0);
    struct {
        std::uint32_t body_a, body_b;
        bool passed_by;
    } m{run.manifolds[k].body_a, run.manifolds[k].body_b, run.manifolds[k].passed_by}; // others may come
    const auto &a = collider(run, m.body_a, run.manifolds[k].shape_a),
               &b = collider(run, m.body_b, run.manifolds[k].shape_b);
    sweep::Leg<Dim> leg_a = leg(run, m.body_a), leg_b = leg(run, m.body_b);
    // By how much one passes the other in the substep, against what may take it through.
    const float way =
        sweep::passing_way(a, leg_a.velocity, b, leg_b.velocity, static_cast<float>(run.seconds));
    float most = 1e30f;
    if (looks_at(run, m.body_a, m.body_b)) most = std::min(most, paths_[rows_[m.body_a]].swept_from);
    if (looks_at(run, m.body_b, m.body_a)) most = std::min(most, paths_[rows_[m.body_b]].swept_from);
    if (!(way > most)) {
        // Slow from now on, or standing for the rest of the substep.
        if (stands(run, m.body_a) || stands(run, m.body_b)) return;
        if (hit_at && m.passed_by) find_again(run, k);
        else if (swept_in_[k] == run.stamp()) swept_in_[k] = 0, impacts_.found_anew(k);
        return;
    }
    leg_a.from = leg_a.at(from), leg_b.from = leg_b.at(from);
    const float size = most / sweep::kSweptShare;
    if (const auto* hit = hit_at ? last_hit(run, k, from) : nullptr)
        return sweep_on(run, k, *hit, leg_a, leg_b, from, size);
    const double left = run.seconds - from;
    std::optional<double> time;
    if (sweep::may_meet(a, leg_a, b, leg_b, left, kNear * size) && buy_sweep())
        time = sweep::time_of_impact(a, run.bodies.mass[m.body_a].centre, leg_a, b,
                                     run.bodies.mass[m.body_b].centre, leg_b, left);
    // A contact keeps apart two shapes that touch already, with a margin for the whole substep. It does not
    // serve for a body that turns far in the substep, or that has just been hit: another part of it may
    // arrive.
    if (time && *time == 0) {
        if (!hit_at && !turns_far(run, {a, b, leg_a.from, leg_b.from, 0})) {
            update(run, k, {a, b, leg_a.from, leg_b.from, way + kNear * size});
            if (pressed_at(run.manifolds[k], leg_a, leg_b, run.seconds) > 0) return;
        }
        update(run, k, {a, b, leg_a.from, leg_b.from, kNear * size}, from);
        if (run.manifolds[k].passed_by) return;
        const auto now = flow::evaluate(run.manifolds[k], run.manifolds[k].points[0], leg_a.from, leg_b.from);
        const typename solve::Impacts<Dim>::Hit touch{.normal = now.normal,
                                                      .position = leg_a.from.centre + now.arm_a};
        return sweep_on(run, k, touch, leg_a, leg_b, from, size);
    }
    update(run, k,
           {a, b, leg_a.at(time.value_or(0)), leg_b.at(time.value_or(0)), time ? kNear * size : -1.0f},
           time ? std::optional(from + *time) : std::nullopt);
}

// A pair that has just met may meet again within the substep: the other end comes round, or on a surface it
// comes at another piece. Convex shapes have a plane between them when they meet, through which one has to
// come first, and which turns with the one that spins less: times of impact with the plane are exact where
// both begin at hardly any distance.
template<int Dim>
void Advance<Dim>::sweep_on(Run& run, std::uint32_t k, const typename solve::Impacts<Dim>::Hit& hit,
                            sweep::Leg<Dim> leg_a, sweep::Leg<Dim> leg_b, double from, float size) {
    const flow::Manifold<Dim> m = run.manifolds[k];
    const auto &a = collider(run, m.body_a, m.shape_a), &b = collider(run, m.body_b, m.shape_b);
    const Vec<Dim> normal = hit.normal;
    const Vec<Dim> centre_a = run.bodies.mass[m.body_a].centre, centre_b = run.bodies.mass[m.body_b].centre;
    const double left = run.seconds - from;
    const bool on_surface = shape::is_surface(a.spec->geometry) || shape::is_surface(b.spec->geometry);
    // The one that turns more meets the other's plane; a half-space, which may turn too, is that plane.
    const bool a_turns_more =
        math::magnitude(leg_a.velocity.angular) > math::magnitude(leg_b.velocity.angular);
    const bool a_moves =
        shape::is_unbounded(b.spec->geometry) || (a_turns_more && !shape::is_unbounded(a.spec->geometry));
    const sweep::Leg<Dim> from_a = leg_a, from_b = leg_b;
    const auto first_time = [&](const Vec<Dim>& by) -> std::optional<double> {
        if (!buy_sweep()) return std::nullopt;
        if (a_moves) leg_a.from.centre = from_a.from.centre + by * -1.0f;
        else leg_b.from.centre = from_b.from.centre + by;
        if (on_surface) return sweep::time_of_impact(a, centre_a, leg_a, b, centre_b, leg_b, left);
        if (a_moves)
            return sweep::time_of_impact(a, centre_a, leg_a, {hit.position, normal * -1.0f, leg_b}, left);
        return sweep::time_of_impact(b, centre_b, leg_b, {hit.position, normal, leg_a}, left);
    };
    // By as much as they overlap, and farther off where times of impact are less exact: of shapes of very
    // different sizes.
    float depth = 0;
    for (std::size_t n = 0; n < m.count && !on_surface; n++)
        depth = std::max(depth, -flow::evaluate(m, m.points[n], from_a.from, from_b.from).separation);
    double time = 0;
    Vec<Dim> away = normal;
    for (float share = kStandOff; share <= kMostOff; share *= 10) {
        const auto first = first_time(away * (depth + share * std::min(a.reach, b.reach)));
        if (!first) return;
        time = *first;
        const narrow::PairAt<Dim> at{a, b, from_a.at(time), from_b.at(time), kNear * size};
        before_.clear(), after_.clear();
        find_touching(run, at, true);
        // The contact that it has just had stays, and so do those of a surface that it does not come nearer
        // to; others of the same pair join it.
        std::erase_if(after_, [&](const flow::Manifold<Dim>& next) {
            const bool same = dot(next.normal, normal) > kOneNormal;
            const bool stays = (time == 0 && same) || (on_surface && !closes(next, at, from_a.velocity,
                                                                             from_b.velocity, run.seconds));
            if (stays && !same) away += next.normal;
            return stays;
        });
        for (const auto& next : after_) {
            const std::uint32_t added = add_manifold(run, next);
            set_swept(run, added, from + time, at);
            impacts_.found_anew(added);
        }
        if (!after_.empty()) return;
        if (time > 0 && !on_surface) break;
    }
    // It comes through the plane beside the other: how it goes on there is looked at from there. If it cannot
    // leave the other at all, its contact slows it while it stands.
    for (const bool is_a : {true, false}) {
        const std::uint32_t i = is_a ? m.body_a : m.body_b;
        if (looks_at(run, i, is_a ? m.body_b : m.body_a)) end_path(run, i, from + time);
    }
    impacts_.found_anew(k);
    if (from + time > 0 || on_surface) return;
    update(run, k, {a, b, from_a.from, from_b.from, kNear * size});
}

// The separation up to which points of a manifold count as touching at a time of impact: that of the nearest,
// and of all that are level with it.
template<int Dim>
float Advance<Dim>::touching_within(const flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at) {
    float nearest = 1e30f;
    for (std::size_t n = 0; n < m.count; n++)
        nearest = std::min(nearest, flow::evaluate(m, m.points[n], at.pose_a, at.pose_b).separation);
    return nearest + kAtOnce / kNear * at.margin;
}

// Whether two bodies approach each other where they touch, so fast that it is an impact.
template<int Dim>
bool Advance<Dim>::closes(const flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at,
                          const flow::Velocity<Dim>& a, const flow::Velocity<Dim>& b, double seconds) {
    const float least = solve::kSlow * m.thickness / static_cast<float>(seconds),
                within = touching_within(m, at);
    return std::any_of(m.points.begin(), m.points.begin() + m.count, [&](const auto& p) {
        const flow::PointNow<Dim> now = flow::evaluate(m, p, at.pose_a, at.pose_b);
        return now.separation <= within &&
               -dot(solve::relative_at(a, now.arm_a, b, now.arm_b), now.normal) > least;
    });
}

// The impact of a pair at a time, or none.
template<int Dim>
const typename solve::Impacts<Dim>::Hit* Advance<Dim>::last_hit(const Run& run, std::uint32_t k,
                                                                double time) const {
    const auto hits = impacts_.hits();
    for (std::size_t n = hits.size(); n-- > 0;)
        if (static_cast<double>(hits[n].time) == time && is_same_pair(run, k, hits[n].manifold))
            return &hits[n];
    return nullptr;
}

template<int Dim> bool Advance<Dim>::turns_far(const Run& run, const narrow::PairAt<Dim>& at) const {
    const auto turn = [&](const flow::Collider<Dim>& c) {
        const flow::Velocity<Dim> v = mean_velocity(run, c.body);
        return sweep::turning_speed(c, v) > 0 ? math::magnitude(v.angular)
                                              : 0.0f; // what is round turns nothing
    };
    return (turn(at.a) + turn(at.b)) * static_cast<float>(run.seconds) > kFarTurn;
}

// A manifold that touches at a time within the substep. Where bodies are led back from their impact to the
// start of the substep they may stand on the wrong sides of each other: the normal is that of the impact.
template<int Dim>
void Advance<Dim>::set_swept(Run& run, std::uint32_t k, double time, const narrow::PairAt<Dim>& at) {
    if (run.manifolds[k].guide == flow::Guide::Centres) {
        run.manifolds[k].guide = flow::Guide::World, run.manifolds[k].may_keep = false;
        contacts_.replace(run.input, k, start(run, run.manifolds[k].body_a),
                          start(run, run.manifolds[k].body_b));
    }
    const flow::Manifold<Dim>& m = run.manifolds[k];
    swept_at_[k] = {static_cast<float>(time), touching_within(m, at), turns_far(run, at), at.pose_a,
                    at.pose_b};
    swept_in_[k] = run.stamp();
    swept_hits_.push_back(k);
    if (swept_at_[k].far_turn) contacts_.clear(k); // passes see its start alone
}

// A contact that was found on a path and has had its impact leaves the passes: these see the start of the
// substep, to which its bodies were led back, where the contact has another geometry.
template<int Dim> void Advance<Dim>::end_swept_hits(Run& run) {
    for (const std::uint32_t k : swept_hits_) {
        const auto& m = run.manifolds[k];
        if (swept_in_[k] == run.stamp() && !m.passed_by &&
            (impacts_.was_hit(m.body_a) || impacts_.was_hit(m.body_b)))
            pass_by(run, k, false);
    }
}

template<int Dim> void Advance<Dim>::list_swept_meetings(const Run& run) {
    for (const auto& hit : impacts_.hits()) {
        const auto& m = run.manifolds[hit.manifold];
        const bool a = looks_at(run, m.body_a, m.body_b), b = looks_at(run, m.body_b, m.body_a);
        const SweptMeeting<Dim> meeting{run.time() + static_cast<double>(hit.time),
                                        m.body_a,
                                        m.body_b,
                                        m.shape_a,
                                        m.shape_b,
                                        a,
                                        b,
                                        hit.impulse,
                                        hit.normal,
                                        hit.position,
                                        hit.centre_a,
                                        hit.centre_b,
                                        hit.speed};
        if (a || b) swept_meetings_.push_back(meeting);
        if (hit.speed >= run.settings.least_strike) add_strike(meeting);
    }
}

// Points of one pair that meet at one time are one strike.
template<int Dim> std::size_t Advance<Dim>::add_strike(const SweptMeeting<Dim>& meeting) {
    const auto same = [&](const SweptMeeting<Dim>& s) {
        return s.time == meeting.time && s.body_a == meeting.body_a && s.body_b == meeting.body_b &&
               s.shape_a == meeting.shape_a && s.shape_b == meeting.shape_b;
    };
    auto found = strikes_.end();
    while (found != strikes_.begin() && std::prev(found)->time >= meeting.time && !same(*std::prev(found)))
        --found;
    if (found == strikes_.begin() || !same(*std::prev(found))) {
        strikes_.push_back(meeting);
        return strikes_.size() - 1;
    }
    --found;
    const float own = length(meeting.impulse), all = length(found->impulse) + own;
    const float share = all > 0 ? own / all : 0.5f;
    found->position = found->position + (meeting.position - found->position) * share;
    found->impulse += meeting.impulse;
    found->speed = std::max(found->speed, meeting.speed);
    return static_cast<std::size_t>(found - strikes_.begin());
}

// Points that come on fast where passes are to stop them, while their bodies have their ways still.
template<int Dim> void Advance<Dim>::note_pass_hits(const Run& run) {
    base::make_room(pass_hits_, 2 * run.manifolds.size());
    const auto place = [](const solve::Found& f) { return std::pair{f.manifold, f.point}; };
    std::sort(to_passes_.begin(), to_passes_.end(),
              [&](const auto& p, const auto& q) { return place(p) < place(q); });
    for (std::size_t n = 0; n < to_passes_.size(); n++) {
        const solve::Found& f = to_passes_[n];
        if (n > 0 && place(f) == place(to_passes_[n - 1])) continue;
        const auto& [gap, speed, gained] = f.closing;
        const double share =
            std::clamp(gap > 0 ? double{gap} / (double{speed} * run.seconds) : 0.0, 0.0, 1.0);
        const float meets = speed - gained * static_cast<float>(1 - share);
        if (!(meets >= run.settings.least_strike)) continue;
        const auto& m = run.manifolds[f.manifold];
        const double after = share * run.seconds;
        const auto at_a = leg(run, m.body_a).at(after), at_b = leg(run, m.body_b).at(after);
        const auto now = flow::evaluate(m, m.points[f.point], at_a, at_b);
        const bool is_same = !pass_hits_.empty() && pass_hits_.back().manifold == f.manifold &&
                             pass_hits_.back().strike == kNotTold;
        SweptMeeting<Dim> meeting;
        meeting.time = is_same ? pass_hits_.back().meeting.time : run.time() + after;
        meeting.body_a = m.body_a, meeting.body_b = m.body_b;
        meeting.shape_a = m.shape_a, meeting.shape_b = m.shape_b;
        meeting.normal = now.normal, meeting.position = at_a.centre + now.arm_a, meeting.speed = meets;
        pass_hits_.push_back({f.manifold, f.point, kNotTold, meeting});
    }
}

// After the passes: what these points gave. Passes let them come as far as they touch, and stop them in the
// next substep: what they give in that is a part of the impact.
template<int Dim> void Advance<Dim>::tell_pass_hits(const Run& run) {
    std::size_t kept = 0;
    for (PassHit& hit : pass_hits_) {
        flow::Manifold<Dim>& m = run.manifolds[hit.manifold];
        contacts_.give_forces(m, hit.manifold);
        const auto& p = m.points[hit.point];
        const Vec<Dim> impulse =
            hit.point < m.count
                ? (hit.meeting.normal * p.normal_force + p.friction_force) * static_cast<float>(run.seconds)
                : Vec<Dim>{};
        if (hit.strike != kNotTold) {
            strikes_[hit.strike].impulse += impulse;
            continue;
        }
        hit.meeting.impulse = impulse;
        hit.strike = add_strike(hit.meeting);
        pass_hits_[kept++] = hit;
    }
    pass_hits_.resize(kept);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template bool Advance<Dim>::is_swept(const Run&, std::size_t) const;                                     \
    template bool Advance<Dim>::looks_at(const Run&, std::uint32_t, std::uint32_t) const;                    \
    template void Advance<Dim>::find_swept(Run&, std::span<const solve::Watched>);                           \
    template void Advance<Dim>::slow(const Run&, std::size_t);                                               \
    template void Advance<Dim>::sweep(Run&, std::uint32_t, std::optional<double>);                           \
    template void Advance<Dim>::sweep_pair(Run&, std::uint32_t, std::optional<double>);                      \
    template void Advance<Dim>::sweep_on(Run&, std::uint32_t, const typename solve::Impacts<Dim>::Hit&,      \
                                         sweep::Leg<Dim>, sweep::Leg<Dim>, double, float);                   \
    template const typename solve::Impacts<Dim>::Hit* Advance<Dim>::last_hit(const Run&, std::uint32_t,      \
                                                                             double) const;                  \
    template void Advance<Dim>::set_swept(Run&, std::uint32_t, double, const narrow::PairAt<Dim>&);          \
    template bool Advance<Dim>::turns_far(const Run&, const narrow::PairAt<Dim>&) const;                     \
    template float Advance<Dim>::touching_within(const flow::Manifold<Dim>&, const narrow::PairAt<Dim>&);    \
    template bool Advance<Dim>::closes(const flow::Manifold<Dim>&, const narrow::PairAt<Dim>&,               \
                                       const flow::Velocity<Dim>&, const flow::Velocity<Dim>&, double);      \
    template void Advance<Dim>::end_swept_hits(Run&);                                                        \
    template void Advance<Dim>::note_pass_hits(const Run&);                                                  \
    template void Advance<Dim>::tell_pass_hits(const Run&);                                                  \
    template std::size_t Advance<Dim>::add_strike(const SweptMeeting<Dim>&);                                 \
    template void Advance<Dim>::list_swept_meetings(const Run&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
