// Contacts that are found anew within a tick, of pairs that approach fast, and the manifolds that come to
// those of its start.
#include "world/advance.h"

#include "math/numbers.h"

#include <algorithm>

namespace astasis {
namespace {

// A pair that has moved against itself by more than this share of the thickness since its contact was found
// may meet by other features (docs/decisions/constants.md).
constexpr float kStale = 0.06f;

// Whether two shapes may come to touch by other features than those of a manifold. Balls have one feature; a
// ball does not come through the plane of a face that it is over, whatever turns it.
template<int Dim> bool has_other_features(const flow::Collider<Dim>& c, bool guides_ball) {
    const auto& shape = c.spec->geometry;
    if (std::holds_alternative<HalfSpace<Dim>>(shape) || std::holds_alternative<Ball<Dim>>(shape))
        return false;
    return !guides_ball || shape::is_surface(shape);
}
template<int Dim>
bool may_meet_by_others(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, flow::Guide guide) {
    const bool ball_a = std::holds_alternative<Ball<Dim>>(a.spec->geometry),
               ball_b = std::holds_alternative<Ball<Dim>>(b.spec->geometry);
    return has_other_features(a, ball_b && guide == flow::Guide::FaceOfA) ||
           has_other_features(b, ball_a && guide == flow::Guide::FaceOfB);
}

template<int Dim> float nearest_of(const flow::Manifold<Dim>& m) {
    float nearest = 1e30f;
    for (std::size_t i = 0; i < m.count; i++) nearest = std::min(nearest, m.points[i].separation);
    return nearest;
}

}

// All within a substep, after its velocities and geometry.
template<int Dim> void Advance<Dim>::update_contacts(Run& run) {
    swept_hits_.clear(), ending_.clear(), stops_.clear();
    if (run.around.index == nullptr) return;
    updated_.clear();
    if (run.substep == 0) find_accelerations(run), find_lively(run);
    const auto watched = integrator_.watch(paths_, static_cast<float>(run.time()));
    find_strays(run, watched);
    find_swept(run, watched);
    find_passed(run);
    update_stale(run);
    if (!updated_.empty()) refresh_updated();
}

// A body's path through the substep, from its start.
template<int Dim> sweep::Leg<Dim> Advance<Dim>::leg(const Run& run, std::uint32_t body) const {
    const std::size_t row = body < run.bodies.moving ? rows_[body] : 0;
    if (row == 0) return {run.bodies.pose[body], {}};
    if (is_stopped(run, row)) return {stopped_at_[row], {}};
    flow::CentrePose<Dim> from = integrator_.pose(row);
    if (resolving_ && impacts_.was_hit(body)) from = impacts_.start(run.bodies, body, from);
    return {from, mean_velocity(run, body)};
}

// A body's pose at the start of the tick.
template<int Dim> flow::CentrePose<Dim> Advance<Dim>::start(const Run& run, std::uint32_t body) const {
    return body < run.bodies.moving && rows_[body] > 0 ? integrator_.start(rows_[body])
                                                       : run.bodies.pose[body];
}

template<int Dim> bool Advance<Dim>::is_same_pair(const Run& run, std::uint32_t k, std::uint32_t n) const {
    return run.manifolds[k].key_a == run.manifolds[n].key_a &&
           run.manifolds[k].key_b == run.manifolds[n].key_b;
}

template<int Dim>
std::uint32_t Advance<Dim>::first_of_pair(const Run& run, std::uint64_t key_a, std::uint64_t key_b) const {
    const auto end = run.manifolds.begin() + static_cast<std::ptrdiff_t>(sorted_manifolds_);
    const auto at = std::partition_point(run.manifolds.begin(), end, [&](const auto& m) {
        return m.key_a < key_a || (m.key_a == key_a && m.key_b < key_b);
    });
    return static_cast<std::uint32_t>(at - run.manifolds.begin());
}

// One more manifold within the tick, behind all others.
template<int Dim> std::uint32_t Advance<Dim>::add_manifold(Run& run, const flow::Manifold<Dim>& m) {
    const auto k = static_cast<std::uint32_t>(run.manifolds.size());
    run.manifolds.push_back(m);
    treat_alike(run, run.manifolds.back());
    found_at_.push_back(static_cast<float>(run.time())), looked_in_.push_back(run.stamp());
    found_gap_.push_back(nearest_of(m)), is_lively_.push_back(0), due_.push_back(0);
    swept_at_.emplace_back(), swept_in_.push_back(0);
    for (const std::uint32_t i : {m.body_a, m.body_b}) {
        if (i >= run.bodies.moving) rows_[i] = 0, impacts_.add_body(i);
        if (run.bodies.mass[i].inverse_mass > 0) lists_.add(i, k);
    }
    contacts_.append(run.input, start(run, m.body_a), start(run, m.body_b));
    updated_.push_back(k);
    return k;
}

// A manifold that is found within the tick is treated as the islands of its bodies are.
template<int Dim> void Advance<Dim>::treat_alike(const Run& run, flow::Manifold<Dim>& m) const {
    m.exact = !m.is_bounded();
    for (const std::uint32_t i : {m.body_a, m.body_b}) {
        if (!(run.bodies.mass[i].inverse_mass > 0)) continue;
        const islands::Treatment& t = islands_.treatment_of(i);
        m.exact = m.exact && t.exact, m.unconverged = m.unconverged || t.unconverged;
    }
}

// Finds the manifolds of a pair anew, at poses of any time within the substep: where both touch, s from its
// start, if they were swept. Without a margin they go past each other.
template<int Dim>
void Advance<Dim>::update(Run& run, std::uint32_t k, const narrow::PairAt<Dim>& at,
                          std::optional<double> swept) {
    const std::uint32_t body_a = run.manifolds[k].body_a, body_b = run.manifolds[k].body_b;
    pair_.clear(), before_.clear(), after_.clear();
    bool had_points = false;
    for_each_of_pair(run, k, [&](std::uint32_t n) {
        pair_.push_back(n);
        had_points = had_points || !run.manifolds[n].passed_by;
    });
    std::sort(pair_.begin(), pair_.end());
    for (const std::uint32_t n : pair_) looked_in_[n] = run.stamp(), swept_in_[n] = 0;
    if (!(at.margin > 0) && !had_points) return; // they went past each other before
    for (const std::uint32_t n : pair_) {
        contacts_.hand_over(run.manifolds[n], n);
        before_.push_back(run.manifolds[n]);
    }
    find_touching(run, at, swept.has_value());
    for (std::size_t n = 0; n < std::max(pair_.size(), after_.size()); n++) {
        if (n >= after_.size()) {
            pass_by(run, pair_[n], !after_.empty());
        } else if (n < pair_.size()) {
            run.manifolds[pair_[n]] = after_[n];
            treat_alike(run, run.manifolds[pair_[n]]);
            contacts_.replace(run.input, pair_[n], start(run, body_a), start(run, body_b));
            found_at_[pair_[n]] = static_cast<float>(run.time()),
            found_gap_[pair_[n]] = nearest_of(after_[n]), due_[pair_[n]] = 0;
            updated_.push_back(pair_[n]);
        } else {
            pair_.push_back(add_manifold(run, after_[n]));
        }
        if (n < after_.size() && swept) set_swept(run, pair_[n], *swept, at);
        impacts_.found_anew(pair_[n]);
    }
}

template<int Dim>
bool Advance<Dim>::is_seam(const Run& run, const flow::Manifold<Dim>& m,
                           const narrow::PairAt<Dim>& at) const {
    const auto others_of = [&](std::uint32_t body, FunctionRef<void(const flow::Manifold<Dim>&)> visit) {
        lists_.for_each(body, [&](std::uint32_t k) {
            const auto& other = run.manifolds[k];
            if (!other.passed_by && (other.key_a != m.key_a || other.key_b != m.key_b)) visit(other);
        });
    };
    const auto collider_of = [&](std::uint32_t body, std::uint32_t shape) -> const flow::Collider<Dim>& {
        return collider(run, body, shape);
    };
    return narrow::is_seam<Dim>(m, at.a, at.b, run.bodies, others_of, collider_of);
}

// The manifolds of a pair into after_. Times of impact of shapes of very different sizes are less exact:
// where they touch then is found with a larger margin.
template<int Dim>
void Advance<Dim>::find_touching(const Run& run, const narrow::PairAt<Dim>& at, bool swept) {
    constexpr int kTries = 4;
    constexpr float kLarger = 10;
    narrow::PairAt<Dim> wider = at;
    for (int n = 0; n < (swept ? kTries : 1) && at.margin > 0 && after_.empty(); n++, wider.margin *= kLarger)
        finder_.find_pair(wider, run.bodies, *run.around.materials, before_, true, after_);
    if (!swept) std::erase_if(after_, [&](const flow::Manifold<Dim>& m) { return is_seam(run, m, at); });
}

// A manifold's bodies go past each other: it keeps what its points gave, unless others have taken that over.
template<int Dim> void Advance<Dim>::pass_by(Run& run, std::uint32_t k, bool carried_over) {
    flow::Manifold<Dim>& m = run.manifolds[k];
    for (auto& p : m.points) {
        p.normal_force = 0, p.friction_force = {};
        if (carried_over) p.tick_impulse = {};
    }
    m.turning_torque = {};
    if (!m.passed_by) passed_.push_back(k);
    m.passed_by = true, m.may_keep = false;
    any_passed_ = true;
    contacts_.clear(k);
    updated_.push_back(k);
}

// Pairs that went past each other and are not swept any more, or met on their paths: they have contacts like
// others from now on.
template<int Dim> void Advance<Dim>::find_passed(Run& run) {
    std::swap(passed_, its_manifolds_);
    passed_.clear();
    for (const std::uint32_t k : its_manifolds_) {
        if (run.manifolds[k].passed_by && looked_in_[k] != run.stamp()) find_again(run, k);
        if (run.manifolds[k].passed_by) passed_.push_back(k);
    }
}

// A pair's contacts at the start of the substep, with a margin for the rest of the tick.
template<int Dim> void Advance<Dim>::find_again(Run& run, std::uint32_t k) {
    const flow::Manifold<Dim>& m = run.manifolds[k];
    const auto &a = collider(run, m.body_a, m.shape_a), &b = collider(run, m.body_b, m.shape_b);
    const sweep::Leg<Dim> leg_a = leg(run, m.body_a), leg_b = leg(run, m.body_b);
    const float margin =
        sweep::passing_way(a, leg_a.velocity, b, leg_b.velocity, static_cast<float>(run.left())) +
        kRoom * m.thickness;
    update(run, k, {a, b, leg_a.from, leg_b.from, margin});
}

// The speed, in m/s, at which the bodies of a manifold may come to touch by other features: that of turning
// and of passing. A manifold that bears a load follows sliding along its face by itself; an approach along
// the normal of a face does not change the features before they touch.
template<int Dim> float Advance<Dim>::ageing_speed(const Run& run, std::uint32_t k) const {
    const flow::Manifold<Dim>& m = run.manifolds[k];
    const auto &a = collider(run, m.body_a, m.shape_a), &b = collider(run, m.body_b, m.shape_b);
    const flow::Velocity<Dim> va = mean_velocity(run, m.body_a), vb = mean_velocity(run, m.body_b);
    const Vec<Dim> speed = va.linear - vb.linear;
    const float turning = sweep::turning_speed(a, va) + sweep::turning_speed(b, vb),
                along = dot(speed, m.normal);
    if (contacts_.bears(k)) return turning + std::fabs(along);
    return turning + (m.guide == flow::Guide::Centres ? length(speed) : length(speed - m.normal * along));
}

template<int Dim>
float Advance<Dim>::most_passing_speed(const Run& run, std::uint32_t a, std::uint32_t b) const {
    return flow::most_passing_speed(run.bodies, a, mean_velocity(run, a), b, mean_velocity(run, b));
}

// The manifolds of a level whose bodies may come to touch by others of their features within the tick.
template<int Dim> void Advance<Dim>::find_lively(Run& run) {
    const auto tick = static_cast<float>(run.settings.tick);
    for (const std::uint32_t k : manifolds_) {
        const flow::Edge& e = edges_[k];
        const float stale = kStale * e.thickness, most = most_passing_speed(run, e.body_a, e.body_b) * tick;
        if (most > stale && e.nearest < most && ageing_speed(run, k) * tick > stale) add_lively(run, k);
    }
}

template<int Dim> void Advance<Dim>::add_lively(const Run& run, std::uint32_t k) {
    const flow::Manifold<Dim>& m = run.manifolds[k];
    due_[k] = 0;
    if (is_lively_[k]) return;
    is_lively_[k] = 1;
    if (may_meet_by_others(collider(run, m.body_a, m.shape_a), collider(run, m.body_b, m.shape_b), m.guide))
        lively_.push_back(k);
}

// Contacts that were found so long ago that other features may touch in this substep: their bodies may have
// come as near to each other as their distance then, less what they have passed each other by since.
template<int Dim> void Advance<Dim>::update_stale(Run& run) {
    for (const solve::Found& f : found_)
        if (looked_in_[f.manifold] != run.stamp()) add_lively(run, f.manifold);
    const auto h = static_cast<float>(run.seconds), now = static_cast<float>(run.time());
    for (std::size_t n = 0; n < lively_.size(); n++) {
        const std::uint32_t k = lively_[n];
        if (due_[k] > now || looked_in_[k] == run.stamp()) continue;
        const flow::Manifold<Dim>& m = run.manifolds[k];
        if (m.passed_by) continue;
        const float since = now - found_at_[k], stale = kStale * m.thickness;
        const float most = most_passing_speed(run, m.body_a, m.body_b);
        if (!(most * since > stale) || found_gap_[k] > most * (since + h)) {
            if (most > 0) due_[k] = found_at_[k] + std::max(stale, found_gap_[k] - most * h) / most;
            continue;
        }
        if (!(ageing_speed(run, k) * since > stale)) continue;
        looked_in_[k] = run.stamp();
        if (budget_.buy_update()) find_again(run, k);
    }
}

// Geometry of what was found anew; points found before in the same groups are found again.
template<int Dim> void Advance<Dim>::refresh_updated() {
    contacts_.refresh_some(integrator_.rows(), updated_, found_again_);
    for (const solve::Found& f : found_again_) updated_.push_back(f.manifold);
    std::sort(updated_.begin(), updated_.end());
    updated_.erase(std::unique(updated_.begin(), updated_.end()), updated_.end());
    std::erase_if(found_, [&](const solve::Found& f) {
        return std::binary_search(updated_.begin(), updated_.end(), f.manifold);
    });
    found_.insert(found_.end(), found_again_.begin(), found_again_.end());
    std::sort(found_.begin(), found_.end(), [](const solve::Found& p, const solve::Found& q) {
        return p.manifold != q.manifold ? p.manifold < q.manifold : p.point < q.point;
    });
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void Advance<Dim>::update_contacts(Run&);                                                       \
    template sweep::Leg<Dim> Advance<Dim>::leg(const Run&, std::uint32_t) const;                             \
    template flow::CentrePose<Dim> Advance<Dim>::start(const Run&, std::uint32_t) const;                     \
    template bool Advance<Dim>::is_same_pair(const Run&, std::uint32_t, std::uint32_t) const;                \
    template std::uint32_t Advance<Dim>::first_of_pair(const Run&, std::uint64_t, std::uint64_t) const;      \
    template std::uint32_t Advance<Dim>::add_manifold(Run&, const flow::Manifold<Dim>&);                     \
    template void Advance<Dim>::update(Run&, std::uint32_t, const narrow::PairAt<Dim>&,                      \
                                       std::optional<double>);                                               \
    template void Advance<Dim>::treat_alike(const Run&, flow::Manifold<Dim>&) const;                         \
    template bool Advance<Dim>::is_seam(const Run&, const flow::Manifold<Dim>&, const narrow::PairAt<Dim>&)  \
        const;                                                                                               \
    template void Advance<Dim>::find_touching(const Run&, const narrow::PairAt<Dim>&, bool);                 \
    template void Advance<Dim>::pass_by(Run&, std::uint32_t, bool);                                          \
    template void Advance<Dim>::find_passed(Run&);                                                           \
    template void Advance<Dim>::find_again(Run&, std::uint32_t);                                             \
    template float Advance<Dim>::ageing_speed(const Run&, std::uint32_t) const;                              \
    template float Advance<Dim>::most_passing_speed(const Run&, std::uint32_t, std::uint32_t) const;         \
    template void Advance<Dim>::find_lively(Run&);                                                           \
    template void Advance<Dim>::add_lively(const Run&, std::uint32_t);                                       \
    template void Advance<Dim>::update_stale(Run&);                                                          \
    template void Advance<Dim>::refresh_updated();
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
