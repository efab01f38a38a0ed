// What those do to each other that meet at one time: impulses, restitution, and its bound by the energy.
#include "solve/impacts.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// Points of the same time agree when a round changes speeds by less than this share.
constexpr float kAgreed = 1e-7f;
constexpr int kMostRounds = 64;
// Energy that impacts may add by rounding, as a share of what they move.
constexpr float kGained = 1e-5f;

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

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template float Impacts<Dim>::inverse_mass(const Bundle&, const Site&, const Vec<Dim>&, const Vec<Dim>&)  \
        const;                                                                                               \
    template void Impacts<Dim>::collide(const Bundle&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
