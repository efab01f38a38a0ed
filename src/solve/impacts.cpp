// Finds the times of impact within a substep and their order. impacts_meet.cpp resolves those of one time.
#include "solve/impacts.h"

#include "base/room.h"
#include "math/numbers.h"
#include "solve/contact_kernels.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// Impacts whose times differ by less than this share of a substep are of the same time.
constexpr float kSameTime = 1e-4f;
// Impacts are taken in order to within this share of a substep, in which one that comes before may change
// others.
constexpr float kWindow = 0.03125f;
// Places of the same two bodies that are level to within this share of the thickness meet together. One after
// the other is right for two corners that are hard without limit; bodies that were put level, or bounced so,
// are off by no more than rounding, and such a box would leave the floor spinning (seen with 3e-8 m between
// its corners).
constexpr float kLevel = 5e-4f;
// Points that have met are still where they met while they have slipped by less than this share of the
// thickness, and their bodies have turned by less than so much, rad. (With 0.05 parcels that slide down a
// chute overlap by up to 16 % of their thickness, with 0.005 by 6.)
constexpr float kHere = 0.005f;
// Closing by less than this share of the thinner shape's thickness in a substep is standing still.
constexpr float kStill = 1e-6f;
// Newton's method for round shapes ends after so many steps, or when a step is less than this share of the
// substep.
constexpr int kMostSteps = 16;
constexpr float kSoon = 1e-6f;
// After this many passes within a substep all further impacts are without restitution.
constexpr int kMostPasses = 256;

// The closing speed when the gap is gone, 0 if that never is. What still moves apart may be turned round on
// the way.
float meeting_speed(float gap, float speed, float acceleration) {
    if (speed <= 0 && acceleration <= 0) return 0;
    return std::sqrt(std::max(speed * speed + 2 * acceleration * std::max(gap, 0.0f), 0.0f));
}

// By what two that close at a speed, of which they gain so much in a substep, may close in it and stand
// still.
template<int Dim> float stillness(const flow::Manifold<Dim>& m, float speed, float gained) {
    const bool bounces = m.restitution * speed > gained || m.tangential_restitution > 0;
    return (bounces ? kStill : kSlow) * m.thickness;
}

}

template<int Dim> Meeting meeting(const Closing& c, float seconds, const flow::Manifold<Dim>& m) {
    const float start = c.speed - c.gained;
    const float speed = meeting_speed(c.gap, start, c.gained / seconds);
    if (!(speed > std::max(c.gained, stillness(m, speed, c.gained) / seconds))) return Meeting::Rest;
    if (c.gap <= 0) return start > 0 ? Meeting::Within : Meeting::Rest;
    return 2 * c.gap <= seconds * (start + speed) ? Meeting::Within : Meeting::Later;
}

template<int Dim>
void Impacts<Dim>::begin_tick(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges) {
    const std::size_t count = edges.size();
    for (auto* v : {&moved_, &active_, &stopped_}) base::make_room(*v, bodies.moving + 1);
    base::make_room(hits_, bodies.size());
    hits_.resize(bodies.size());
    flow::begin_column(entered_, bodies, edges, 0);
    base::make_room(listed_, count);
    listed_.assign(count, 0);
    number_ = pass_ = 0;
    base::make_room(points_, count);
    for (auto* v : {&picked_, &near_points_, &anew_}) base::make_room(*v, 4 * count);
    for (auto* v : {&touched_, &ends_}) base::make_room(*v, bodies.moving + count + 1);
    base::make_room(first_point_, count);
    first_point_.resize(count);
    base::make_room(impact_rows_, 2 * count), base::make_room(hits_list_, 4 * count);
    base::make_room(impulses_, 2 * count), base::make_room(runs_, 2 * count);
}

// Whether it carried a load in the substep before that a blow would not dwarf.
template<int Dim> bool Impacts<Dim>::rests(const Bundle& b, const ImpactPoint& s) const {
    const float load = b.manifolds[s.manifold].points[s.point].normal_force * b.seconds;
    if (!(load > 0)) return false;
    const Vec<Dim> v = relative(b, s);
    const float closing = std::max(-dot(v, s.normal), -dot(v - gained(b, s), s.normal));
    return !(load * inverse_mass(b, s, s.normal, s.normal) <= kDwarfed * closing);
}

template<int Dim> void Impacts<Dim>::enter(const Bundle& b, std::uint32_t body) {
    if (entered_[body] == number_) return;
    entered_[body] = number_;
    hits_[body] = {};
    if (b.callbacks.path_end) hits_[body].end = b.callbacks.path_end(body);
    if (b.callbacks.enter_body) b.callbacks.enter_body(body);
}

template<int Dim> void Impacts<Dim>::add_points(const Bundle& b, std::uint32_t manifold) {
    if (manifold >= listed_.size()) listed_.resize(manifold + 1), first_point_.resize(manifold + 1);
    if (listed_[manifold] == number_) return;
    listed_[manifold] = number_;
    first_point_[manifold] = static_cast<std::uint32_t>(points_.size());
    auto& m = b.manifolds[manifold];
    const SweptContact* swept = b.callbacks.swept ? b.callbacks.swept(manifold) : nullptr;
    if (m.passed_by || (!m.exact && swept == nullptr)) return; // passes serve
    enter(b, m.body_a), enter(b, m.body_b);
    if (b.callbacks.enter_contact) b.callbacks.enter_contact(manifold);
    for (std::uint32_t i = 0; i < m.count; i++) {
        const flow::PointNow<Dim> now = swept != nullptr
                                            ? flow::evaluate(m, m.points[i], swept->pose_a, swept->pose_b)
                                            : flow::evaluate(m, m.points[i], b.bodies);
        if (swept != nullptr && now.separation > swept->within) continue; // meets later
        ImpactPoint& s = points_.emplace_back();
        s.manifold = manifold, s.point = i;
        s.body_a = m.body_a, s.body_b = m.body_b;
        s.normal = now.normal, s.gap = now.separation;
        s.arm_a = now.arm_a, s.arm_b = now.arm_b;
        s.swept_time = swept != nullptr ? swept->time : kNever;
        s.between = now.normal * (now.separation + (m.skin_a + m.skin_b));
        if (swept == nullptr && rests(b, s)) points_.pop_back();
        else set_levers(b, s);
    }
}

template<int Dim> void Impacts<Dim>::set_levers(const Bundle& b, ImpactPoint& s) const {
    s.lever_a = cross(s.arm_a, s.normal), s.lever_b = cross(s.arm_b, s.normal);
    s.gains = normal_speed(s, b.gained[s.body_a], b.gained[s.body_b]);
}

// The time of impact of a point, from the present velocities of its bodies.
template<int Dim> void Impacts<Dim>::find_time(const Bundle& b, ImpactPoint& s) {
    s.time = kNever, s.grazes = false;
    const Struck &ha = hits_[s.body_a], &hb = hits_[s.body_b];
    if (s.met < kNever) {
        const float opening = normal_speed(s, b.bodies.velocity[s.body_a], b.bodies.velocity[s.body_b]);
        if (opening * b.seconds > kSlow * b.manifolds[s.manifold].thickness) s.met = kNever;
    }
    if (s.swept_time < kNever) {
        if (s.swept_time < std::max(now(s.body_a), now(s.body_b))) return; // its bodies go other ways since
        const float left = 1 - s.swept_time / b.seconds;
        const flow::Velocity<Dim> still{};
        const auto velocity = [&](std::uint32_t i) {
            return hits_[i].stopped ? still : b.bodies.velocity[i];
        };
        if (ha.stopped && hb.stopped) return;
        const float closing = s.gains * left - normal_speed(s, velocity(s.body_a), velocity(s.body_b));
        s.grazes = !(closing > stillness(b.manifolds[s.manifold], closing, -s.gains) / b.seconds) &&
                   s.swept_time > std::max(now(s.body_a), now(s.body_b));
        if (!(closing > stillness(b.manifolds[s.manifold], closing, -s.gains) / b.seconds)) return;
        if (ha.stopped || hb.stopped || s.swept_time <= std::min(ha.end, hb.end))
            s.time = s.swept_time, s.speed = closing;
        return;
    }
    if (ha.stopped || hb.stopped) return;
    const int most = refused_ ? 1 : kMostHits;
    if (ha.count >= most || hb.count >= most) return;
    if (b.manifolds[s.manifold].guide == flow::Guide::Centres) return find_time_of_round(b, s);
    // Along the normal, at the start of the substep; what impacts have shifted is seen from there.
    const float shift = ha.known || hb.known ? normal_speed(s, ha.shift, hb.shift) : 0.0f;
    const float v = normal_speed(s, b.bodies.velocity[s.body_a], b.bodies.velocity[s.body_b]) - s.gains;
    const float now = std::max(ha.since, hb.since), rate = 1 / b.seconds;
    const float gap = s.gap + (shift + (v + s.gains * (0.5f * now * rate)) * now);
    const float closing = -(v + s.gains * (now * rate)), faster = -s.gains;
    const float meeting = meeting_speed(gap, closing, faster * rate);
    const auto& m = b.manifolds[s.manifold];
    const float thickness = m.thickness, touching = kStill * thickness;
    if (!(meeting > std::max(faster, stillness(m, meeting, faster) * rate))) return;
    float t = now;
    if (gap > touching) t = now + 2 * gap / (closing + meeting);
    else if (closing <= 0) return;
    if (!(t <= b.seconds + kLevel * thickness / meeting)) return;
    s.time = t, s.speed = meeting;
}

// The normal of round shapes turns on their way: the time at which their centres are near enough is found by
// Newton's method. From an earlier time the method approaches it with each step and never passes it, since
// the distance of points that move straight on is convex; if there is none, the shapes pass each other.
template<int Dim> void Impacts<Dim>::find_time_of_round(const Bundle& b, ImpactPoint& s) const {
    const auto& m = b.manifolds[s.manifold];
    const Struck &ha = hits_[s.body_a], &hb = hits_[s.body_b];
    const Vec<Dim> core_a = s.arm_a - s.normal * m.skin_a, core_b = s.arm_b + s.normal * m.skin_b;
    const Vec<Dim> from = s.between + relative_at(ha.shift, core_a, hb.shift, core_b);
    const Vec<Dim> gained = relative_at(b.gained[s.body_a], core_a, b.gained[s.body_b], core_b);
    const Vec<Dim> v =
        relative_at(b.bodies.velocity[s.body_a], core_a, b.bodies.velocity[s.body_b], core_b) - gained;
    const float rate = 1 / b.seconds, touching = kStill * m.thickness;
    float t = std::max(ha.since, hb.since);
    for (int i = 0; i < kMostSteps; i++) {
        const Vec<Dim> at = from + (v + gained * (0.5f * t * rate)) * t;
        const float apart = length(at), gap = apart - (m.skin_a + m.skin_b);
        const Vec<Dim> n = direction(at, s.normal);
        const float closing = -dot(v + gained * (t * rate), n), faster = -dot(gained, n);
        if (!(closing > std::max(faster, stillness(m, closing, faster) * rate))) return;
        const float later = t + std::max(gap, 0.0f) / closing;
        if (!(later <= b.seconds + kLevel * m.thickness / closing)) return;
        if (gap <= touching || later - t <= kSoon * b.seconds || i == kMostSteps - 1) {
            s.arm_a = core_a + n * m.skin_a, s.arm_b = core_b - n * m.skin_b;
            s.normal = n, s.time = t, s.speed = closing;
            set_levers(b, s);
            return;
        }
        t = later;
    }
}

// The sites of a body that can be moved.
template<int Dim>
template<typename Visit>
void Impacts<Dim>::each_point(const Bundle& b, std::uint32_t body, const Visit& visit) {
    b.lists.for_each(body, [&](std::uint32_t k) {
        if (k >= listed_.size() || listed_[k] != number_) return;
        for (std::uint32_t i = first_point_[k]; i < points_.size() && points_[i].manifold == k; i++) visit(i);
    });
}

// The bodies that the last pass hit or of which a manifold was found anew, and those that have a site with
// them: the times of others' sites, and which of them is first, are as they were. At first, all.
template<int Dim> void Impacts<Dim>::update_times(const Bundle& b, bool all) {
    const auto touch = [&](std::uint32_t body) {
        if (!(b.bodies.mass[body].inverse_mass > 0) || hits_[body].touched == pass_) return;
        Struck& hit = hits_[body];
        hit.touched = pass_;
        touched_.push_back(body);
        if (!hit.stopped && b.callbacks.path_end) hit.end = b.callbacks.path_end(body);
    };
    const auto touch_both = [&](std::uint32_t i) { touch(points_[i].body_a), touch(points_[i].body_b); };
    touched_.clear();
    if (all) {
        for (std::uint32_t i = 0; i < points_.size(); i++) find_time(b, points_[i]), touch_both(i);
        for (const std::uint32_t body : b.callbacks.ending) touch(body);
        return;
    }
    for (const std::uint32_t i : picked_) touch_both(i);
    for (const std::uint32_t body : stopped_) touch(body);
    for (const std::uint32_t k : anew_) touch(b.manifolds[k].body_a), touch(b.manifolds[k].body_b);
    const std::size_t hit = touched_.size();
    for (std::size_t k = 0; k < hit; k++)
        each_point(b, touched_[k], [&](std::uint32_t i) { find_time(b, points_[i]), touch_both(i); });
}

// Whether no impact of a body comes before the site's. What lies just beyond the substep waits for the next
// unless it is level with one that does not.
template<int Dim>
bool Impacts<Dim>::is_first(const Bundle& b, std::uint32_t body, const ImpactPoint& s) const {
    const Struck& hit = hits_[body];
    if (!(b.bodies.mass[body].inverse_mass > 0)) return true;
    if (s.time <= b.seconds && s.time <= hit.first + kSameTime * b.seconds) return true;
    if (!(hit.first < kNever)) return false;
    const ImpactPoint& first = points_[hit.first_point];
    const bool same = (s.body_a == first.body_a && s.body_b == first.body_b) ||
                      (s.body_a == first.body_b && s.body_b == first.body_a);
    return same && (s.time - hit.first) * s.speed <= kLevel * b.manifolds[s.manifold].thickness;
}

// The sites that meet first, each before all others of its bodies, in clusters that share no body that can be
// moved.
template<int Dim> bool Impacts<Dim>::pick(const Bundle& b, bool all) {
    pass_++;
    update_times(b, all);
    for (const std::uint32_t body : touched_) {
        Struck& hit = hits_[body];
        hit.first = kNever, hit.cluster = body;
        each_point(b, body, [&](std::uint32_t i) {
            if (points_[i].grazes && !hit.stopped) hit.end = std::min(hit.end, points_[i].swept_time);
            if (points_[i].time <= b.seconds && points_[i].time < hit.first)
                hit.first = points_[i].time, hit.first_point = i;
        });
        if (!hit.active) hit.active = true, active_.push_back(body);
    }
    const float until = earliest() + kWindow * b.seconds;
    stop_ended(until);
    near_points_.clear();
    for (const std::uint32_t body : active_)
        if (hits_[body].first <= until)
            each_point(b, body, [&](std::uint32_t i) {
                if (points_[i].time < kNever) near_points_.push_back(i);
            });
    std::sort(near_points_.begin(), near_points_.end());
    near_points_.erase(std::unique(near_points_.begin(), near_points_.end()), near_points_.end());
    picked_.clear();
    const auto moves = [&](std::uint32_t i) { return b.bodies.mass[i].inverse_mass > 0; };
    for (const std::uint32_t i : near_points_) {
        ImpactPoint& s = points_[i];
        if (!is_first(b, s.body_a, s) || !is_first(b, s.body_b, s)) continue;
        if (std::min(hits_[s.body_a].first, hits_[s.body_b].first) > until) continue;
        float time = s.time;
        for (const std::uint32_t body : {s.body_a, s.body_b}) // what is level meets when the first does
            if (moves(body)) time = std::min(time, hits_[body].first + kSameTime * b.seconds);
        take(b, i, time);
    }
    for (std::size_t n = 0; n < picked_.size(); n++)
        for (const std::uint32_t body : {points_[picked_[n]].body_a, points_[picked_[n]].body_b}) {
            if (!moves(body)) continue;
            each_point(b, body, [&](std::uint32_t i) {
                if (stays_in_contact(b, points_[i], points_[picked_[n]].time))
                    take(b, i, points_[picked_[n]].time);
            });
        }
    sort_by_cluster(b);
    return !picked_.empty() || !stopped_.empty();
}

// The first impact or end of a path of all.
template<int Dim> float Impacts<Dim>::earliest() const {
    float out = kNever;
    for (const std::uint32_t body : active_) {
        const Struck& hit = hits_[body];
        out = std::min(out, hit.stopped ? hit.first : std::min(hit.first, hit.end));
    }
    return out;
}

// Bodies whose paths end by a time stand from there on.
template<int Dim> void Impacts<Dim>::stop_ended(float time) {
    stopped_.clear();
    for (const std::uint32_t body : active_) {
        Struck& hit = hits_[body];
        if (hit.end > time || hit.first <= hit.end || hit.stopped) continue;
        hit.stopped = true;
        stopped_.push_back(body);
    }
}

template<int Dim> void Impacts<Dim>::take(const Bundle& b, std::uint32_t i, float time) {
    ImpactPoint& s = points_[i];
    s.time = time, s.pass = pass_;
    picked_.push_back(i);
    const auto moves = [&](std::uint32_t body) { return b.bodies.mass[body].inverse_mass > 0; };
    for (const std::uint32_t body :
         {s.body_a, s.body_b}) // a partner of one that was touched stands alone so far
        if (hits_[body].touched != pass_) hits_[body].touched = pass_, hits_[body].cluster = body;
    if (moves(s.body_a) && moves(s.body_b)) join(s.body_a, s.body_b);
}

template<int Dim> bool Impacts<Dim>::bounces(const Bundle& b, const ImpactPoint& s) const {
    const auto& m = b.manifolds[s.manifold];
    return (m.restitution > 0 || m.tangential_restitution > 0) && !is_exhausted(s.body_a) &&
           !is_exhausted(s.body_b);
}

// Whether a site has met and bears what its bodies are hit by: one after the other the impacts of a body that
// is caught between two would never end.
template<int Dim>
bool Impacts<Dim>::stays_in_contact(const Bundle& b, const ImpactPoint& s, float time) const {
    if (!(s.met < kNever) || s.pass == pass_ || bounces(b, s) || now(s.body_a) > time || now(s.body_b) > time)
        return false;
    const float since = time - s.met;
    const auto turn = [&](std::uint32_t i) { return math::magnitude(b.bodies.velocity[i].angular) * since; };
    return length(relative(b, s)) * since <= kHere * b.manifolds[s.manifold].thickness &&
           std::max(turn(s.body_a), turn(s.body_b)) <= kHere;
}

template<int Dim> std::uint32_t Impacts<Dim>::cluster_of(std::uint32_t body) {
    while (hits_[body].cluster != body) body = hits_[body].cluster = hits_[hits_[body].cluster].cluster;
    return body;
}
template<int Dim> void Impacts<Dim>::join(std::uint32_t a, std::uint32_t b) {
    a = cluster_of(a), b = cluster_of(b);
    hits_[std::max(a, b)].cluster = std::min(a, b);
}

template<int Dim> void Impacts<Dim>::sort_by_cluster(const Bundle& b) {
    const auto cluster = [&](std::uint32_t i) {
        const ImpactPoint& s = points_[i];
        return cluster_of(b.bodies.mass[s.body_a].inverse_mass > 0 ? s.body_a : s.body_b);
    };
    std::sort(picked_.begin(), picked_.end(), [&](std::uint32_t i, std::uint32_t k) {
        return std::pair(cluster(i), i) < std::pair(cluster(k), k);
    });
    ends_.clear();
    for (std::uint32_t k = 1; k <= picked_.size(); k++)
        if (k == picked_.size() || cluster(picked_[k]) != cluster(picked_[k - 1])) ends_.push_back(k);
    // Contacts join clusters of several times: then all meet with the first.
    std::uint32_t from = 0;
    for (const std::uint32_t end : ends_) {
        const auto sites = std::span(picked_).subspan(from, end - from);
        from = end;
        if (std::none_of(sites.begin(), sites.end(),
                         [&](std::uint32_t i) { return points_[i].met < kNever; }))
            continue;
        float time = kNever;
        for (const std::uint32_t i : sites) time = std::min(time, points_[i].time);
        for (const std::uint32_t i : sites) points_[i].time = time;
    }
}

template<int Dim>
bool Impacts<Dim>::resolve(flow::Bodies<Dim>& bodies, std::vector<flow::Manifold<Dim>>& manifolds,
                           std::span<const flow::Velocity<Dim>> gained,
                           std::span<math::Inertia<Dim>> inverse_inertia, const flow::ContactLists& lists,
                           float seconds, std::span<const ImpactCandidate> candidates,
                           const Callbacks& callbacks) {
    moved_.clear(), hits_list_.clear(), anew_.clear();
    if (candidates.empty() && callbacks.ending.empty()) return false;
    const Bundle b{bodies, manifolds, gained, inverse_inertia, lists, seconds, callbacks};
    number_++;
    refused_ = false;
    points_.clear(), active_.clear(), stopped_.clear();
    for (const std::uint32_t body : callbacks.ending) enter(b, body);
    for (const ImpactCandidate& s : candidates) add_points(b, s.manifold);
    for (int pass = 0; pass < kMostPasses && pick(b, pass == 0); pass++) {
        const std::size_t known = moved_.size();
        collide(b);
        look_again(b);
        for (std::size_t i = known; i < moved_.size(); i++)
            if (bodies.mass[moved_[i]].inverse_mass > 0)
                lists.for_each(moved_[i], [&](std::uint32_t k) { add_points(b, k); });
    }
    return !moved_.empty();
}

// Finds the next impacts of the bodies that the pass hit; manifolds that are found anew have other points
// from now on.
template<int Dim> void Impacts<Dim>::look_again(const Bundle& b) {
    if (!b.callbacks.after_hit) return;
    anew_.clear();
    for (const std::uint32_t body : stopped_) b.callbacks.after_hit(body, hits_[body].end);
    for (const std::uint32_t i : picked_)
        for (const std::uint32_t body : {points_[i].body_a, points_[i].body_b}) {
            Struck& struck = hits_[body];
            if (struck.last != pass_ || struck.looked == pass_) continue;
            struck.looked = pass_;
            b.callbacks.after_hit(body, now(body));
        }
    for (const std::uint32_t k : anew_) {
        if (k < listed_.size()) listed_[k] = 0;
        add_points(b, k);
    }
}

template Meeting meeting(const Closing&, float, const flow::Manifold<2>&);
template Meeting meeting(const Closing&, float, const flow::Manifold<3>&);
template class Impacts<2>;
template class Impacts<3>;

}
