// Simultaneous impacts: impulses, restitution, and its bound by the energy.
#include "solve/impacts.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// Points of the same time agree when a round changes speeds by less than this share of the fastest.
constexpr double kAgreed = 1e-10;
constexpr int kMostIterations = 64;
// Rounds that are part of any tick: the others are bought.
constexpr int kPlainIterations = 4;
// Energy that impacts may add by rounding, as a share of what they move.
constexpr float kGained = 1e-5f;

}

template<int Dim>
auto Impacts<Dim>::axis(const Bundle& b, const ImpactPoint& s, const Vec<Dim>& along) const -> Axis {
    const auto mass = [&](std::uint32_t i) {
        return math::inverse_mass(b.bodies.mass[i].inverse_mass, b.bodies.free[i].locks);
    };
    Axis out{along, cross(s.arm_a, along), cross(s.arm_b, along), {}, {}};
    out.kick_a = {math::times(along, mass(s.body_a)), b.inverse_inertia[s.body_a] * out.lever_a};
    out.kick_b = {math::times(along, mass(s.body_b)), b.inverse_inertia[s.body_b] * out.lever_b};
    return out;
}

// Adds an impulse along an axis.
template<int Dim> void Impacts<Dim>::apply(ImpactRow& blow, std::size_t axis, double impulse) {
    blow.impulse[axis] += impulse;
    const auto give = [&](std::uint32_t body, const flow::Velocity<Dim>& kick, double times) {
        Change& c = hits_[body].change;
        for (int k = 0; k < Dim; k++) c.linear[k] += kick.linear[k] * times;
        for (int k = 0; k < math::kAxialSize<Dim>; k++)
            c.angular[k] += math::component(kick.angular, k) * times;
    };
    give(blow.body_a, blow.axes[axis].kick_a, -impulse), give(blow.body_b, blow.axes[axis].kick_b, impulse);
}

// By what the pass has changed how the surfaces run over each other, along an axis of the blow.
template<int Dim> double Impacts<Dim>::changed_along(const ImpactRow& blow, std::size_t axis) const {
    const Change &ca = hits_[blow.body_a].change, &cb = hits_[blow.body_b].change;
    const Axis& x = blow.axes[axis];
    double out = 0;
    for (int k = 0; k < Dim; k++) out += x.along[k] * (cb.linear[k] - ca.linear[k]);
    for (int k = 0; k < math::kAxialSize<Dim>; k++)
        out += math::component(x.lever_b, k) * cb.angular[k] - math::component(x.lever_a, k) * ca.angular[k];
    return out;
}
template<int Dim> Vec<Dim> Impacts<Dim>::changed(const ImpactRow& blow) const {
    std::array<double, Dim> along;
    for (std::size_t k = 0; k < Dim; k++) along[k] = changed_along(blow, k);
    return in_world(blow, along);
}

// The change of velocity along w by a unit impulse along u: u.w/m summed over both, and the levers' share.
template<int Dim>
float Impacts<Dim>::inverse_mass(const Bundle& b, const ImpactPoint& s, const Vec<Dim>& u,
                                 const Vec<Dim>& w) const {
    const auto& m = b.manifolds[s.manifold];
    const auto of = [&](std::uint32_t i, const Vec<Dim>& arm) {
        const Vec<Dim> mass = math::inverse_mass(b.bodies.mass[i].inverse_mass, b.bodies.free[i].locks);
        return dot(math::times(u, mass), w) + dot(b.inverse_inertia[i] * cross(arm, u), cross(arm, w));
    };
    return of(m.body_a, s.arm_a) + of(m.body_b, s.arm_b);
}

// The relative velocity of the surfaces along an axis of an impact at its time, as exactly as velocities are
// known. Those of the bodies are of the end of the substep: free motion adds a share `late` of its gain after
// the impact.
template<int Dim>
double Impacts<Dim>::run_along(const Bundle& b, const ImpactRow& blow, std::size_t axis, float late) const {
    const Axis& x = blow.axes[axis];
    double out = 0;
    const auto add = [&](std::uint32_t body, const Axial<Dim>& lever, double sign) {
        const auto &v = b.bodies.velocity[body], &left = b.bodies.remainder[body], &gain = b.gained[body];
        const auto at_impact = [&](float now, float remainder, float gained) {
            return sign * ((static_cast<double>(now) + remainder) - static_cast<double>(gained) * late);
        };
        for (int k = 0; k < Dim; k++)
            out += x.along[k] * at_impact(v.linear[k], left.linear[k], gain.linear[k]);
        for (int k = 0; k < math::kAxialSize<Dim>; k++) {
            const auto of = [&](const Axial<Dim>& w) { return math::component(w, k); };
            out += of(lever) * at_impact(of(v.angular), of(left.angular), of(gain.angular));
        }
    };
    add(blow.body_b, x.lever_b, 1), add(blow.body_a, x.lever_a, -1);
    return out;
}

// The target speeds of an impact, and its effective masses.
template<int Dim> auto Impacts<Dim>::blow(const Bundle& b, const ImpactPoint& s) const -> ImpactRow {
    const auto& m = b.manifolds[s.manifold];
    ImpactRow out;
    out.body_a = s.body_a, out.body_b = s.body_b;
    const auto tangent = math::tangents(s.normal);
    out.axes[0] = axis(b, s, s.normal);
    for (std::size_t t = 0; t < tangent.size(); t++) out.axes[t + 1] = axis(b, s, tangent[t]);
    const float k = inverse_mass(b, s, s.normal, s.normal);
    out.mass = k > 0 ? 1 / k : 0;
    math::SmallSym<Dim - 1> kt;
    math::fill(kt, [&](int i, int j) { return inverse_mass(b, s, tangent[i], tangent[j]); });
    out.friction_mass = math::stiffest(kt) > 0 ? 1 / math::stiffest(kt) : 0;
    out.friction = m.friction;

    const float late = 1 - s.time / b.seconds;
    const double closing = -run_along(b, out, 0, late);
    const double bounce = m.restitution * closing;
    out.bounce = bounce > std::max(-s.gains, 0.0f) && bounces(b, s) ? bounce : 0.0;
    out.wanted = closing + out.bounce;
    out.met = (relative(b, s) - gained(b, s) * late) + m.slip;
    for (std::size_t t = 0; t < tangent.size(); t++) {
        const double back = -(run_along(b, out, t + 1, late) + dot(m.slip, tangent[t]));
        out.turned[t] = m.tangential_restitution * back;
        out.slip[t] = back + out.turned[t];
    }
    out.impulse = {};
    return out;
}

// One point's share of a round; returns by how much a speed changed.
template<int Dim> double Impacts<Dim>::push(ImpactRow& s) {
    if (!(s.mass > 0)) return 0;
    const double old = s.impulse[0];
    const double pushed = std::max(old + s.mass * (s.wanted - changed_along(s, 0)), 0.0) - old;
    if (pushed == 0 && old == 0) return 0; // nor was there friction
    apply(s, 0, pushed);
    if (!(s.friction_mass > 0)) return std::fabs(pushed) / s.mass;
    // Within Coulomb's disc.
    std::array<double, Dim - 1> drag;
    double size = 0, change = 0;
    for (std::size_t t = 0; t < drag.size(); t++) {
        drag[t] = s.impulse[t + 1] + s.friction_mass * (s.slip[t] - changed_along(s, t + 1));
        size += drag[t] * drag[t];
    }
    const double most = s.friction * s.impulse[0];
    const double share = size > most * most ? most / std::sqrt(size) : 1;
    for (std::size_t t = 0; t < drag.size(); t++) {
        const double by = drag[t] * share - s.impulse[t + 1];
        apply(s, t + 1, by);
        change += by * by;
    }
    return std::fabs(pushed) / s.mass + std::sqrt(change) / s.friction_mass;
}

template<int Dim> bool Impacts<Dim>::buy(const Bundle& b, std::size_t rounds) {
    refused_ = refused_ || (b.callbacks.buy && !b.callbacks.buy(rounds));
    return !refused_;
}

template<int Dim> void Impacts<Dim>::iterate(const Bundle& b, std::span<ImpactRow> cluster) {
    double fastest = 0;
    for (const ImpactRow& s : cluster) fastest = std::max<double>(fastest, length(s.met));
    for (int round = 0; round < kMostIterations; round++) {
        if (round >= kPlainIterations && !buy(b, cluster.size())) break;
        double change = 0;
        for (ImpactRow& s : cluster) change = std::max(change, push(s));
        if (change <= kAgreed * fastest) break;
    }
}

template<int Dim>
Vec<Dim> Impacts<Dim>::in_world(const ImpactRow& s, const std::array<double, Dim>& along) const {
    Vec<Dim> out;
    for (std::size_t k = 0; k < Dim; k++) out += s.axes[k].along * static_cast<float>(along[k]);
    return out;
}

// Restitution that looks at speeds alone can give energy where friction turns what rebounds (Stronge 1990).
// Impulses without restitution never do, and all between both sets keep Coulomb's law: the largest share of
// restitution that adds nothing. The work of an impulse is its product with the mean of the speeds before and
// after.
template<int Dim> void Impacts<Dim>::keep_energy(const Bundle& b, std::span<ImpactRow> cluster) {
    double work = 0, size = 0;
    for (const ImpactRow& s : cluster) {
        const Vec<Dim> impulse = in_world(s, s.impulse);
        work += dot(impulse, s.met + (s.met + changed(s)));
        size += length(impulse) * length(s.met);
    }
    if (!(work > kGained * size)) return;
    impulses_.clear(), runs_.clear();
    for (const ImpactRow& s : cluster) impulses_.push_back(s.impulse), runs_.push_back(s.met + changed(s));
    for (ImpactRow& s : cluster) {
        for (std::size_t k = 0; k < Dim; k++) apply(s, k, -s.impulse[k]);
        s.wanted -= s.bounce;
        for (std::size_t t = 0; t < s.slip.size(); t++) s.slip[t] -= s.turned[t];
    }
    iterate(b, cluster);
    double square = 0, linear = 0, constant = 0; // of the work, twice, by the share of restitution
    for (std::size_t n = 0; n < cluster.size(); n++) {
        const ImpactRow& s = cluster[n];
        const Vec<Dim> impulse = in_world(s, s.impulse), run = s.met + changed(s);
        const Vec<Dim> more = in_world(s, impulses_[n]) - impulse, faster = runs_[n] - run;
        square += dot(more, faster), linear += dot(more, s.met + run) + dot(impulse, faster);
        constant += dot(impulse, s.met + run);
    }
    const double root = std::sqrt(std::max(linear * linear - 4 * square * constant, 0.0));
    const double share = square > 0 ? std::clamp((root - linear) / (2 * square), 0.0, 1.0) : 0.0;
    for (std::size_t n = 0; n < cluster.size(); n++) {
        ImpactRow& s = cluster[n];
        for (std::size_t k = 0; k < Dim; k++) apply(s, k, (impulses_[n][k] - s.impulse[k]) * share);
    }
}

template<int Dim>
void Impacts<Dim>::add_exactly(flow::Velocity<Dim>& v, flow::Velocity<Dim>& remainder, const Change& by) {
    for (int k = 0; k < Dim; k++)
        math::add_exactly(v.linear[k], remainder.linear[k], by.linear[static_cast<std::size_t>(k)]);
    for (int k = 0; k < math::kAxialSize<Dim>; k++)
        math::add_exactly(math::component(v.angular, k), math::component(remainder.angular, k),
                          by.angular[static_cast<std::size_t>(k)]);
}

// Till they meet its bodies have turned, and so has their inertia: about the velocity of spin, which keeps
// their energy; with the inertia that they have there the impact does so too. What is round needs none of it
// unless it was swept.
template<int Dim> void Impacts<Dim>::turn_to_impact(const Bundle& b, const ImpactPoint& s) {
    const SweptContact* swept =
        s.swept_time < kNever && !(s.met < kNever) ? b.callbacks.swept(s.manifold) : nullptr;
    for (const bool is_a : {true, false}) {
        const std::uint32_t body = is_a ? s.body_a : s.body_b;
        const auto& mass = b.bodies.mass[body];
        Struck& struck = hits_[body];
        if (!(mass.inverse_mass > 0) || (mass.isotropic && swept == nullptr && !struck.on_path)) continue;
        if (swept == nullptr && struck.turned == pass_) continue;
        const Rotation<Dim> now = swept != nullptr
                                      ? (is_a ? swept->pose_a : swept->pose_b).rotation
                                      : math::turned_by(start(b.bodies, body, b.bodies.pose[body]).rotation,
                                                        b.bodies.velocity[body].angular * time_at(s, body));
        struck.turned = pass_;
        struck.rotation_now = now;
        b.inverse_inertia[body] =
            math::inverse_where_free(math::turned_tensor(mass.inertia, now), b.bodies.free[body].locks);
    }
}

template<int Dim>
flow::CentrePose<Dim> Impacts<Dim>::start(const flow::Bodies<Dim>& bodies, std::uint32_t body,
                                          const flow::CentrePose<Dim>& pose) const {
    const Struck& struck = hits_[body];
    return {pose.centre + struck.shift.linear,
            struck.on_path ? math::turned_by(struck.rotation, bodies.velocity[body].angular * -struck.since)
                           : math::turned_by(pose.rotation, struck.shift.angular)};
}

// As it was before the bodies take up the impulse.
template<int Dim>
void Impacts<Dim>::list_hit(const Bundle& b, const ImpactPoint& s, const Vec<Dim>& impulse) {
    const auto centre = [&](std::uint32_t body) {
        const Struck& hit = hits_[body];
        const flow::Velocity<Dim>&v = b.bodies.velocity[body], &gain = b.gained[body];
        const float time = time_at(s, body);
        const Vec<Dim> way =
            hit.shift.linear + (v.linear - gain.linear * (1 - 0.5f * time / b.seconds)) * time;
        return b.bodies.pose[body].centre + way;
    };
    const Point<Dim> centre_a = centre(s.body_a), centre_b = centre(s.body_b);
    hits_list_.push_back(
        {s.manifold, s.point, s.time, s.speed, impulse, s.normal, centre_a + s.arm_a, centre_a, centre_b});
}

// All picked sites meet.
template<int Dim> void Impacts<Dim>::collide(const Bundle& b) {
    impact_rows_.clear();
    for (const std::uint32_t i : picked_) {
        const ImpactPoint& s = points_[i];
        turn_to_impact(b, s);
        impact_rows_.push_back(blow(b, s));
        for (const std::uint32_t body : {s.body_a, s.body_b}) {
            Struck& hit = hits_[body];
            hit.change = {};
        }
    }
    std::size_t from = 0;
    for (const std::uint32_t end : ends_) {
        const auto cluster = std::span(impact_rows_).subspan(from, end - from);
        iterate(b, cluster);
        keep_energy(b, cluster);
        from = end;
    }
    for (std::size_t n = 0; n < picked_.size(); n++) {
        ImpactPoint& s = points_[picked_[n]];
        const Vec<Dim> impulse = in_world(impact_rows_[n], impact_rows_[n].impulse);
        b.manifolds[s.manifold].points[s.point].tick_impulse += impulse;
        if (s.met < kNever && impulse == Vec<Dim>{}) continue; // it was not needed
        list_hit(b, s, impulse);
        s.met = s.time;
        for (const std::uint32_t body : {s.body_a, s.body_b}) {
            Struck& hit = hits_[body];
            if (hit.last != pass_ && b.bodies.mass[body].inverse_mass > 0) hit.last = pass_, hit.count++;
            if (!hit.known) hit.known = true, moved_.push_back(body);
            const flow::Velocity<Dim> change = hit.change.rounded();
            add_exactly(b.bodies.velocity[body], b.bodies.remainder[body], hit.change);
            const float time = time_at(s, body);
            hit.shift.linear = hit.shift.linear - change.linear * time;
            hit.shift.angular = hit.shift.angular - change.angular * time;
            hit.change = {}; // once for each body
            hit.since = time;
            if (hit.turned == pass_) hit.rotation = hit.rotation_now, hit.on_path = true;
        }
    }
    stop_exhausted(b);
}

// Swept bodies of which no further impacts are looked for go no farther, and neither does what meets them and
// would go on into them.
template<int Dim> void Impacts<Dim>::stop_exhausted(const Bundle& b) {
    const auto moves = [&](std::uint32_t body) { return b.bodies.mass[body].inverse_mass > 0; };
    const auto ends = [&](std::uint32_t body, const ImpactPoint& s) {
        const int most = refused_ ? 1 : bounces(b, s) ? kMostHits : kMostDullHits;
        return hits_[body].stopped || hits_[body].count >= most;
    };
    bool again = true;
    while (again) {
        again = false;
        for (const std::uint32_t i : picked_) {
            const ImpactPoint& s = points_[i];
            if (!(s.swept_time < kNever) || (!ends(s.body_a, s) && !ends(s.body_b, s))) continue;
            for (const std::uint32_t body : {s.body_a, s.body_b}) {
                Struck& hit = hits_[body];
                if (hit.stopped || !moves(body)) continue;
                hit.stopped = again = true, hit.end = hit.since;
            }
        }
    }
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template float Impacts<Dim>::inverse_mass(const Bundle&, const ImpactPoint&, const Vec<Dim>&,            \
                                              const Vec<Dim>&) const;                                        \
    template flow::CentrePose<Dim> Impacts<Dim>::start(const flow::Bodies<Dim>&, std::uint32_t,              \
                                                       const flow::CentrePose<Dim>&) const;                  \
    template void Impacts<Dim>::collide(const Bundle&);                                                      \
    template void Impacts<Dim>::stop_exhausted(const Bundle&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
