#include "solve/impacts.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "solve/contact_kernels.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

constexpr float kNever = 1e30f;
// Impacts whose times differ by less than this share of a substep are of the same time.
constexpr float kSameTime = 1e-4f;
// Closing by less than this share of the thinner shape's thickness in a substep is standing still.
constexpr float kStill = 1e-6f;
// Points of the same time agree when a round changes speeds by less than this share.
constexpr float kAgreed = 1e-7f;
constexpr int kMostRounds = 64;
// Energy that impacts may add by rounding, as a share of what they move.
constexpr float kGained = 1e-5f;
// Where more meet within a substep than this many passes can tell apart, the rest meet without bouncing.
constexpr int kMostPasses = 64;
// A body that is hit more often than that within a substep is in a crowd that has fallen together, where
// blows never end (inelastic collapse: McNamara and Young 1992, Phys. Fluids A 4, 496): the rest of its
// meetings are without bouncing too.
constexpr int kMostHits = 8;

// The closing speed when the gap is gone, 0 if that never is. What still moves apart may be turned round on
// the way.
float meeting_speed(float gap, float speed, float acceleration) {
    if (speed <= 0 && acceleration <= 0) return 0;
    return std::sqrt(std::max(speed * speed + 2 * acceleration * std::max(gap, 0.0f), 0.0f));
}

}

bool is_impact(const Closing& c, float seconds, float thickness) {
    const float start = c.speed - c.gained;
    const float meeting = meeting_speed(c.gap, start, c.gained / seconds);
    if (!(meeting > std::max(c.gained, kStill * thickness / seconds))) return false;
    return c.gap <= 0 ? start > 0 : 2 * c.gap <= seconds * (start + meeting);
}

template<int Dim>
void Impacts<Dim>::begin_tick(const flow::Bodies<Dim>& bodies,
                              std::span<const flow::Manifold<Dim>> manifolds) {
    const std::size_t count = manifolds.size();
    base::make_room(moved_, bodies.moving + 1);
    base::make_room(hits_, bodies.size());
    hits_.resize(bodies.size());
    flow::begin_column(entered_, bodies, manifolds, 0);
    base::make_room(listed_, count);
    listed_.assign(count, 0);
    number_ = pass_ = 0;
    base::make_room(sites_, count);
    for (auto* v : {&picked_, &near_sites_}) base::make_room(*v, 4 * count);
    for (auto* v : {&touched_, &ends_}) base::make_room(*v, bodies.moving + count + 1);
    base::make_room(first_site_, count);
    first_site_.resize(count);
    for (auto* v : {&impulses_, &runs_}) base::make_room(*v, 2 * count);
}

template<int Dim> struct Impacts<Dim>::Bundle {
    flow::Bodies<Dim>& bodies;
    std::span<flow::Manifold<Dim>> manifolds;
    std::span<const flow::Velocity<Dim>> gained;
    std::span<const math::Inertia<Dim>> inverse_inertia;
    const flow::ContactLists& lists;
    float seconds;
    FunctionRef<void(std::uint32_t)> enter_body, enter_contact;
};

template<int Dim> Vec<Dim> Impacts<Dim>::relative(const Bundle& b, const Site& s) const {
    const auto& m = b.manifolds[s.manifold];
    const auto &va = b.bodies.velocity[m.body_a], &vb = b.bodies.velocity[m.body_b];
    return (vb.linear + cross(vb.angular, s.arm_b)) - (va.linear + cross(va.angular, s.arm_a));
}

template<int Dim> Vec<Dim> Impacts<Dim>::gained(const Bundle& b, const Site& s) const {
    const auto& m = b.manifolds[s.manifold];
    const auto &ga = b.gained[m.body_a], &gb = b.gained[m.body_b];
    return (gb.linear + cross(gb.angular, s.arm_b)) - (ga.linear + cross(ga.angular, s.arm_a));
}

template<int Dim> void Impacts<Dim>::apply(const Bundle& b, const Site& s, const Vec<Dim>& impulse) const {
    const auto& m = b.manifolds[s.manifold];
    auto &va = b.bodies.velocity[m.body_a], &vb = b.bodies.velocity[m.body_b];
    const auto mass = [&](std::uint32_t i) {
        return math::inverse_mass(b.bodies.mass[i].inverse_mass, b.bodies.free[i].locks);
    };
    va.linear = va.linear - math::times(impulse, mass(m.body_a));
    va.angular = va.angular - b.inverse_inertia[m.body_a] * cross(s.arm_a, impulse);
    vb.linear = vb.linear + math::times(impulse, mass(m.body_b));
    vb.angular = vb.angular + b.inverse_inertia[m.body_b] * cross(s.arm_b, impulse);
}

// What an impulse along u meets along w: u.w/m summed over both, and the levers' share.
template<int Dim>
float Impacts<Dim>::inverse_mass(const Bundle& b, const Site& s, const Vec<Dim>& u, const Vec<Dim>& w) const {
    const auto& m = b.manifolds[s.manifold];
    const auto of = [&](std::uint32_t i, const Vec<Dim>& arm) {
        const Vec<Dim> mass = math::inverse_mass(b.bodies.mass[i].inverse_mass, b.bodies.free[i].locks);
        return dot(math::times(u, mass), w) + dot(b.inverse_inertia[i] * cross(arm, u), cross(arm, w));
    };
    return of(m.body_a, s.arm_a) + of(m.body_b, s.arm_b);
}

// Whether it carried a load in the substep before that a blow would not dwarf.
template<int Dim> bool Impacts<Dim>::rests(const Bundle& b, const Site& s) const {
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
    if (b.enter_body) b.enter_body(body);
}

template<int Dim> void Impacts<Dim>::add_sites(const Bundle& b, std::uint32_t manifold) {
    if (listed_[manifold] == number_) return;
    listed_[manifold] = number_;
    first_site_[manifold] = static_cast<std::uint32_t>(sites_.size());
    auto& m = b.manifolds[manifold];
    enter(b, m.body_a), enter(b, m.body_b);
    if (b.enter_contact) b.enter_contact(manifold);
    for (std::uint32_t i = 0; i < m.count; i++) {
        const flow::PointNow<Dim> now = flow::evaluate(m, m.points[i], b.bodies);
        Site& s = sites_.emplace_back();
        s.manifold = manifold, s.point = i;
        s.normal = now.normal, s.gap = now.separation;
        s.arm_a = now.arm_a, s.arm_b = now.arm_b;
        s.between = now.normal * (now.separation + (m.skin_a + m.skin_b));
        if (rests(b, s)) sites_.pop_back();
    }
}

// When the site meets, from what its bodies do now.
template<int Dim> void Impacts<Dim>::foresee(const Bundle& b, Site& s) {
    s.time = kNever;
    const auto& m = b.manifolds[s.manifold];
    const Hit &ha = hits_[m.body_a], &hb = hits_[m.body_b];
    if (ha.count >= kMostHits || hb.count >= kMostHits) return;
    const Vec<Dim> shift = (hb.shift.linear + cross(hb.shift.angular, s.arm_b)) -
                           (ha.shift.linear + cross(ha.shift.angular, s.arm_a));
    const Vec<Dim> speed_up = gained(b, s), v = relative(b, s) - speed_up;
    const float now = std::max(ha.since, hb.since), rate = 1 / b.seconds;
    const auto gone = [&](float t) { return shift + (v + speed_up * (0.5f * t * rate)) * t; };

    const Vec<Dim> n = s.normal;
    const float gap = s.gap + dot(gone(now), n);
    const float closing = -dot(v + speed_up * (now * rate), n), faster = -dot(speed_up, n);
    const float meeting = meeting_speed(gap, closing, faster * rate);
    const float touching = kStill * m.thickness;
    if (!(meeting > std::max(faster, touching * rate))) return;
    float t = now;
    if (gap > touching) t = now + 2 * gap / (closing + meeting);
    else if (closing <= 0) return;
    if (!(t <= b.seconds)) return;
    s.time = t;
}

// Normal and levers at the time of impact, and what the impact wants.
template<int Dim> void Impacts<Dim>::prepare(const Bundle& b, Site& s) const {
    const auto& m = b.manifolds[s.manifold];
    const float share = s.time / b.seconds;
    if (m.guide == flow::Guide::Centres) { // the normal turns on the way: put the time right, then the normal
        const Hit &ha = hits_[m.body_a], &hb = hits_[m.body_b];
        const Vec<Dim> core_a = s.arm_a - s.normal * m.skin_a, core_b = s.arm_b + s.normal * m.skin_b;
        const Vec<Dim> shift = (hb.shift.linear + cross(hb.shift.angular, core_b)) -
                               (ha.shift.linear + cross(ha.shift.angular, core_a));
        const Vec<Dim> speed_up = gained(b, s), v = relative(b, s) - speed_up;
        for (int i = 0; i < 4; i++) {
            const float rate = s.time / b.seconds;
            const Vec<Dim> at = (s.between + shift) + (v + speed_up * (0.5f * rate)) * s.time;
            const float apart = length(at);
            const Vec<Dim> n = direction(at, s.normal);
            const float closing = -dot(v + speed_up * rate, n);
            s.arm_a = core_a + n * m.skin_a, s.arm_b = core_b - n * m.skin_b;
            s.normal = n;
            if (closing <= 0) break;
            s.time = std::clamp(s.time + (apart - (m.skin_a + m.skin_b)) / closing,
                                std::max(ha.since, hb.since), b.seconds);
        }
    }
    s.tangent = math::tangents(s.normal);
    const float k = inverse_mass(b, s, s.normal, s.normal);
    s.mass = k > 0 ? 1 / k : 0;
    math::SmallSym<Dim - 1> kt;
    math::fill(kt, [&](int i, int j) { return inverse_mass(b, s, s.tangent[i], s.tangent[j]); });
    s.friction_mass = math::stiffest(kt) > 0 ? 1 / math::stiffest(kt) : 0;

    // Velocities here are those of the end of the substep: free motion adds (1 - share) of its gain after the
    // impact.
    const Vec<Dim> later = gained(b, s) * (1 - share), v = relative(b, s) - later;
    const float closing = -dot(v, s.normal), faster = std::max(-dot(gained(b, s), s.normal), 0.0f);
    const float bounce = m.restitution * closing;
    s.bounce = bounce > faster ? bounce : 0.0f;
    s.wanted = s.bounce + dot(later, s.normal);
    s.met = v + m.slip;
    for (int t = 0; t < Dim - 1; t++) {
        s.turned[t] = m.tangential_restitution * -dot(s.met, s.tangent[t]);
        s.slip[t] = dot(later - m.slip, s.tangent[t]) + s.turned[t];
    }
    s.push = 0, s.drag = {};
}

// The sites of a body that can be moved.
template<int Dim>
template<typename Visit>
void Impacts<Dim>::each_site(const Bundle& b, std::uint32_t body, const Visit& visit) {
    for (const std::uint32_t k : b.lists.of(body)) {
        if (listed_[k] != number_) continue;
        for (std::uint32_t i = first_site_[k]; i < sites_.size() && sites_[i].manifold == k; i++) visit(i);
    }
}

// The bodies that the last pass hit, and those that have a site with them: the times of others' sites, and
// which of them is first, are as they were. At first, all.
template<int Dim> void Impacts<Dim>::foresee_changed(const Bundle& b, bool all) {
    const auto touch = [&](std::uint32_t body) {
        if (!(b.bodies.mass[body].inverse_mass > 0) || hits_[body].touched == pass_) return;
        hits_[body].touched = pass_;
        touched_.push_back(body);
    };
    const auto touch_both = [&](std::uint32_t i) {
        const auto& m = b.manifolds[sites_[i].manifold];
        touch(m.body_a), touch(m.body_b);
    };
    touched_.clear();
    if (all) {
        for (std::uint32_t i = 0; i < sites_.size(); i++) foresee(b, sites_[i]), touch_both(i);
        return;
    }
    for (const std::uint32_t i : picked_) touch_both(i);
    const std::size_t hit = touched_.size();
    for (std::size_t k = 0; k < hit; k++)
        each_site(b, touched_[k], [&](std::uint32_t i) { foresee(b, sites_[i]), touch_both(i); });
}

// The sites that meet first, each before all others of its bodies, in clusters that share no body that can be
// moved.
template<int Dim> bool Impacts<Dim>::pick(const Bundle& b, bool all) {
    pass_++;
    foresee_changed(b, all);
    near_sites_.clear();
    for (const std::uint32_t body : touched_) {
        hits_[body].first = kNever, hits_[body].cluster = body;
        each_site(b, body, [&](std::uint32_t i) {
            hits_[body].first = std::min(hits_[body].first, sites_[i].time);
            if (sites_[i].time < kNever) near_sites_.push_back(i);
        });
    }
    std::sort(near_sites_.begin(), near_sites_.end());
    near_sites_.erase(std::unique(near_sites_.begin(), near_sites_.end()), near_sites_.end());
    picked_.clear();
    const float slack = kSameTime * b.seconds;
    const auto moves = [&](std::uint32_t i) { return b.bodies.mass[i].inverse_mass > 0; };
    for (const std::uint32_t i : near_sites_) {
        const Site& s = sites_[i];
        const auto& m = b.manifolds[s.manifold];
        const auto is_first = [&](std::uint32_t body) {
            return !moves(body) || s.time <= hits_[body].first + slack;
        };
        if (!is_first(m.body_a) || !is_first(m.body_b)) continue;
        picked_.push_back(i);
        for (const std::uint32_t body :
             {m.body_a, m.body_b}) // a partner of one that was touched stands alone so far
            if (hits_[body].touched != pass_) hits_[body].touched = pass_, hits_[body].cluster = body;
        if (moves(m.body_a) && moves(m.body_b)) join(m.body_a, m.body_b);
    }
    sort_by_cluster(b);
    return !picked_.empty();
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
        const auto& m = b.manifolds[sites_[i].manifold];
        return cluster_of(b.bodies.mass[m.body_a].inverse_mass > 0 ? m.body_a : m.body_b);
    };
    std::sort(picked_.begin(), picked_.end(), [&](std::uint32_t i, std::uint32_t k) {
        return std::pair(cluster(i), i) < std::pair(cluster(k), k);
    });
    ends_.clear();
    for (std::uint32_t k = 1; k <= picked_.size(); k++)
        if (k == picked_.size() || cluster(picked_[k]) != cluster(picked_[k - 1])) ends_.push_back(k);
}

// One point's share of a round; returns by how much a speed changed.
template<int Dim> float Impacts<Dim>::push(const Bundle& b, Site& s) const {
    const auto& m = b.manifolds[s.manifold];
    const float old = s.push;
    s.push = std::max(old + s.mass * (s.wanted - dot(relative(b, s), s.normal)), 0.0f);
    apply(b, s, s.normal * (s.push - old));
    const Vec<Dim> v = relative(b, s);
    const math::Row<Dim - 1> before = s.drag;
    for (int t = 0; t < Dim - 1; t++) s.drag[t] += s.friction_mass * (s.slip[t] - dot(v, s.tangent[t]));
    s.drag = math::limited(s.drag, m.friction * s.push);
    Vec<Dim> change{};
    float moved = std::fabs(s.push - old) / std::max(s.mass, 1e-30f);
    for (int t = 0; t < Dim - 1; t++) change += s.tangent[t] * (s.drag[t] - before[t]);
    apply(b, s, change);
    return s.mass > 0 ? moved + length(change) / std::max(s.friction_mass, 1e-30f) : 0.0f;
}

template<int Dim> void Impacts<Dim>::agree(const Bundle& b, std::span<const std::uint32_t> cluster) {
    for (int round = 0; round < kMostRounds; round++) {
        float change = 0, all = 0;
        for (const std::uint32_t i : cluster) {
            change = std::max(change, push(b, sites_[i]));
            all = std::max(all, std::fabs(sites_[i].push) / std::max(sites_[i].mass, 1e-30f));
        }
        if (change <= kAgreed * all) break;
    }
}

template<int Dim> Vec<Dim> Impacts<Dim>::impulse_of(const Site& s) const {
    Vec<Dim> out = s.normal * s.push;
    for (int t = 0; t < Dim - 1; t++) out += s.tangent[t] * s.drag[t];
    return out;
}

// How the surfaces run over each other now, at the time of the impact.
template<int Dim> Vec<Dim> Impacts<Dim>::running(const Bundle& b, const Site& s) const {
    return (relative(b, s) - gained(b, s) * (1 - s.time / b.seconds)) + b.manifolds[s.manifold].slip;
}

// Restitution that looks at speeds alone can give energy where friction turns what rebounds (Stronge 1990).
// Impulses without restitution never do, and all between both sets keep Coulomb's law: the largest share of
// restitution that adds nothing. The work of an impulse is its product with the mean of the speeds before and
// after.
template<int Dim> void Impacts<Dim>::keep_energy(const Bundle& b, std::span<const std::uint32_t> cluster) {
    double work = 0, size = 0;
    for (const std::uint32_t i : cluster) {
        const Site& s = sites_[i];
        const Vec<Dim> impulse = impulse_of(s);
        work += dot(impulse, s.met + running(b, s));
        size += length(impulse) * length(s.met);
    }
    if (!(work > kGained * size)) return;
    impulses_.clear(), runs_.clear();
    for (const std::uint32_t i : cluster) {
        impulses_.push_back(impulse_of(sites_[i])), runs_.push_back(running(b, sites_[i]));
    }
    for (std::size_t k = 0; k < cluster.size(); k++) {
        Site& s = sites_[cluster[k]];
        apply(b, s, impulses_[k] * -1.0f);
        s.wanted -= s.bounce;
        for (int t = 0; t < Dim - 1; t++) s.slip[t] -= s.turned[t];
        s.push = 0, s.drag = {};
    }
    agree(b, cluster);
    double square = 0, linear = 0, constant = 0; // of the work, twice, by the share of restitution
    for (std::size_t k = 0; k < cluster.size(); k++) {
        const Site& s = sites_[cluster[k]];
        const Vec<Dim> impulse = impulse_of(s), run = running(b, s);
        const Vec<Dim> more = impulses_[k] - impulse, faster = runs_[k] - run;
        square += dot(more, faster), linear += dot(more, s.met + run) + dot(impulse, faster);
        constant += dot(impulse, s.met + run);
    }
    const double root = std::sqrt(std::max(linear * linear - 4 * square * constant, 0.0));
    const double share = square > 0 ? std::clamp((root - linear) / (2 * square), 0.0, 1.0) : 0.0;
    for (std::size_t k = 0; k < cluster.size(); k++) {
        Site& s = sites_[cluster[k]];
        const Vec<Dim> more = (impulses_[k] - impulse_of(s)) * static_cast<float>(share);
        apply(b, s, more);
        s.push += dot(more, s.normal);
        for (int t = 0; t < Dim - 1; t++) s.drag[t] += dot(more, s.tangent[t]);
    }
}

// All picked sites meet.
template<int Dim> void Impacts<Dim>::collide(const Bundle& b) {
    for (const std::uint32_t i : picked_) prepare(b, sites_[i]);
    for (const std::uint32_t i : picked_)
        for (const std::uint32_t body :
             {b.manifolds[sites_[i].manifold].body_a, b.manifolds[sites_[i].manifold].body_b}) {
            Hit& hit = hits_[body];
            hit.before = b.bodies.velocity[body];
            if (hit.last != pass_ && b.bodies.mass[body].inverse_mass > 0) hit.last = pass_, hit.count++;
            if (hit.known) continue;
            hit.known = true;
            moved_.push_back(body);
        }
    std::size_t from = 0;
    for (const std::uint32_t end : ends_) {
        const auto cluster = std::span<const std::uint32_t>(picked_).subspan(from, end - from);
        agree(b, cluster);
        keep_energy(b, cluster);
        from = end;
    }
    for (const std::uint32_t i : picked_) {
        const Site& s = sites_[i];
        auto& m = b.manifolds[s.manifold];
        m.points[s.point].tick_impulse += impulse_of(s);
        for (const std::uint32_t body : {m.body_a, m.body_b}) {
            Hit& hit = hits_[body];
            const auto& v = b.bodies.velocity[body];
            hit.shift.linear = hit.shift.linear - (v.linear - hit.before.linear) * s.time;
            hit.shift.angular = hit.shift.angular - (v.angular - hit.before.angular) * s.time;
            hit.before = v; // once for each body
            hit.since = s.time;
        }
    }
}

template<int Dim>
bool Impacts<Dim>::resolve(flow::Bodies<Dim>& bodies, std::span<flow::Manifold<Dim>> manifolds,
                           std::span<const flow::Velocity<Dim>> gained,
                           std::span<const math::Inertia<Dim>> inverse_inertia,
                           const flow::ContactLists& lists, float seconds, std::span<const Suspect> suspects,
                           FunctionRef<void(std::uint32_t)> enter_body,
                           FunctionRef<void(std::uint32_t)> enter_contact) {
    moved_.clear();
    if (suspects.empty()) return false;
    const Bundle b{bodies, manifolds, gained, inverse_inertia, lists, seconds, enter_body, enter_contact};
    number_++;
    sites_.clear();
    for (const Suspect& s : suspects) add_sites(b, s.manifold);
    for (int pass = 0; pass < kMostPasses && pick(b, pass == 0); pass++) {
        const std::size_t known = moved_.size();
        collide(b);
        for (std::size_t i = known; i < moved_.size(); i++) {
            if (!(bodies.mass[moved_[i]].inverse_mass > 0)) continue;
            for (const std::uint32_t k : lists.of(moved_[i])) add_sites(b, k);
        }
    }
    return !moved_.empty();
}

template class Impacts<2>;
template class Impacts<3>;

}
