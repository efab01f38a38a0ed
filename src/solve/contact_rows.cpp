#include "solve/contact_rows.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// The points of a manifold agree when a round changes their impulses by less than this share.
constexpr float kAgreed = 1e-3f;

// Where locks leave nothing that could move, an impulse has no effect and none is given.
float one_over(float inverse_mass) { return inverse_mass > 0 ? 1.0f / inverse_mass : 0.0f; }

}

template<int Dim>
Vec<Dim> ContactRows<Dim>::relative(const PointRow& p, const flow::Velocity<Dim>& a,
                                    const flow::Velocity<Dim>& b) {
    return (b.linear + cross(b.angular, p.arm_b)) - (a.linear + cross(a.angular, p.arm_a));
}

template<int Dim>
void ContactRows<Dim>::apply(const Row& row, const PointRow& p, const Vec<Dim>& impulse,
                             flow::Velocity<Dim>& a, flow::Velocity<Dim>& b) {
    a.linear = a.linear - math::times(impulse, row.mass_a);
    a.angular = a.angular - row.inertia_a * cross(p.arm_a, impulse);
    b.linear = b.linear + math::times(impulse, row.mass_b);
    b.angular = b.angular + row.inertia_b * cross(p.arm_b, impulse);
}

template<int Dim>
void ContactRows<Dim>::begin_tick(const flow::Bodies<Dim>& bodies, std::span<flow::Manifold<Dim>> manifolds,
                                  const Tuning& tuning, double seconds) {
    tuning_ = tuning;
    seconds_ = static_cast<float>(seconds);
    rows_.clear();
    first_ = manifolds.data();
    // What is solved last in a pass holds best: that is what cannot give way.
    for (const bool fixed : {false, true})
        for (auto& m : manifolds) {
            const bool both =
                bodies.mass[m.body_a].inverse_mass > 0 && bodies.mass[m.body_b].inverse_mass > 0;
            if (both == fixed) continue;
            Row& row = rows_.emplace_back();
            row.manifold = &m;
            row.most_push = tuning.most_thicknesses_a_second * m.thickness;
        }
}

template<int Dim>
void ContactRows<Dim>::refresh(const flow::Bodies<Dim>& bodies,
                               const std::vector<math::Inertia<Dim>>& inverse_inertia) {
    for (Row& row : rows_) {
        auto& m = *row.manifold;
        row.mass_a = math::inverse_mass(bodies.mass[m.body_a].inverse_mass, bodies.free[m.body_a].locks);
        row.mass_b = math::inverse_mass(bodies.mass[m.body_b].inverse_mass, bodies.free[m.body_b].locks);
        row.inertia_a = inverse_inertia[m.body_a], row.inertia_b = inverse_inertia[m.body_b];
        for (int i = 0; i < m.count; i++) {
            const flow::PointNow<Dim> now = flow::evaluate(m, m.points[i], bodies);
            m.normal = now.normal; // the same for all points: round shapes have one only
            m.points[i].separation = now.separation;
            row.points[i].separation = now.separation;
            row.points[i].arm_a = now.arm_a, row.points[i].arm_b = now.arm_b;
        }
        row.normal = m.normal;
        row.tangent = math::tangents(row.normal);

        for (int i = 0; i < m.count; i++) {
            PointRow& p = row.points[i];
            // The mass that an impulse along u meets along v: u.v/m summed over both, and the levers' share.
            const auto inverse_mass = [&](const Vec<Dim>& u, const Vec<Dim>& v) {
                const Axial<Dim> la = cross(p.arm_a, u), lb = cross(p.arm_b, u);
                return (dot(math::times(u, row.mass_a + row.mass_b), v) +
                        dot(row.inertia_a * la, cross(p.arm_a, v))) +
                       dot(row.inertia_b * lb, cross(p.arm_b, v));
            };
            p.normal_mass = one_over(inverse_mass(row.normal, row.normal));
            math::SmallSym<Dim - 1> k;
            math::fill(k, [&](int s, int t) { return inverse_mass(row.tangent[s], row.tangent[t]); });
            p.friction_mass = one_over(math::stiffest(k));
            p.normal_impulse = m.points[i].normal_impulse;
            for (int t = 0; t < Dim - 1; t++)
                p.friction_impulse[t] = dot(m.points[i].friction_impulse, row.tangent[t]);
        }
    }
}

template<int Dim>
void ContactRows<Dim>::find_impacts(const flow::Bodies<Dim>& bodies,
                                    const std::vector<flow::Velocity<Dim>>& gained,
                                    std::vector<Suspect>& out) const {
    out.clear();
    for (const Row& row : rows_) {
        const auto& m = *row.manifold;
        for (int i = 0; i < m.count; i++) {
            const PointRow& p = row.points[i];
            if (p.normal_impulse > 0) continue;
            const Closing c{.gap = p.separation,
                            .speed = -dot(relative(p, bodies.velocity[m.body_a], bodies.velocity[m.body_b]), row.normal),
                            .gained = -dot(relative(p, gained[m.body_a], gained[m.body_b]), row.normal)};
            if (is_impact(c, seconds_, m.thickness))
                out.push_back({static_cast<std::uint32_t>(row.manifold - first_), static_cast<std::uint32_t>(i)});
        }
    }
}

template<int Dim> void ContactRows<Dim>::warm_start(flow::Bodies<Dim>& bodies) const {
    for (const Row& row : rows_) {
        const auto& m = *row.manifold;
        auto &a = bodies.velocity[m.body_a], &b = bodies.velocity[m.body_b];
        for (int i = 0; i < m.count; i++) {
            const PointRow& p = row.points[i];
            Vec<Dim> impulse = row.normal * p.normal_impulse;
            for (int t = 0; t < Dim - 1; t++) impulse += row.tangent[t] * p.friction_impulse[t];
            apply(row, p, impulse, a, b);
        }
        if (m.rolling > 0 || m.spinning > 0) apply_turning(row, m.turning_impulse, a, b);
    }
}

template<int Dim>
void ContactRows<Dim>::apply_turning(const Row& row, const Axial<Dim>& impulse, flow::Velocity<Dim>& a,
                                     flow::Velocity<Dim>& b) {
    a.angular = a.angular - row.inertia_a * impulse;
    b.angular = b.angular + row.inertia_b * impulse;
}

// Rolling and spinning in place: a torque against them, of at most the resistance times the load. One number
// stands for the inertia about all axes, as for friction, so that the fixed point is a torque against the
// turning.
template<int Dim>
void ContactRows<Dim>::solve_turning(Row& row, float load, flow::Velocity<Dim>& a, flow::Velocity<Dim>& b) {
    auto& m = *row.manifold;
    const float mass = one_over(math::trace(row.inertia_a) + math::trace(row.inertia_b));
    const Axial<Dim> old = m.turning_impulse;
    m.turning_impulse = math::limited_turning(old - (b.angular - a.angular) * mass, row.normal,
                                              m.rolling * load, m.spinning * load);
    apply_turning(row, m.turning_impulse - old, a, b);
}

template<int Dim>
float ContactRows<Dim>::solve_normal(const Row& row, PointRow& p, flow::Velocity<Dim>& a,
                                     flow::Velocity<Dim>& b, bool with_feedback) const {
    float wanted = 0, leak = 0; // wanted: the least relative velocity along the normal
    if (p.separation > 0) wanted = -p.separation / seconds_;
    else if (with_feedback)
        wanted = std::min(-tuning_.share * p.separation / seconds_, row.most_push), leak = tuning_.leak;
    const float missing = wanted - dot(relative(p, a, b), row.normal);
    const float old = p.normal_impulse;
    p.normal_impulse = std::max(old + p.normal_mass * (1 - leak) * missing - leak * old, 0.0f);
    apply(row, p, row.normal * (p.normal_impulse - old), a, b);
    return std::fabs(p.normal_impulse - old);
}

template<int Dim>
void ContactRows<Dim>::solve_friction(const Row& row, PointRow& p, flow::Velocity<Dim>& a,
                                      flow::Velocity<Dim>& b) {
    const Vec<Dim> v = relative(p, a, b) + row.manifold->slip;
    const math::Row<Dim - 1> old = p.friction_impulse;
    for (int t = 0; t < Dim - 1; t++)
        p.friction_impulse[t] = old[t] - p.friction_mass * dot(v, row.tangent[t]);
    p.friction_impulse = math::limited(p.friction_impulse, row.manifold->friction * p.normal_impulse);
    Vec<Dim> change{};
    for (int t = 0; t < Dim - 1; t++) change += row.tangent[t] * (p.friction_impulse[t] - old[t]);
    apply(row, p, change, a, b);
}

template<int Dim> void ContactRows<Dim>::solve_pass(flow::Bodies<Dim>& bodies, bool with_feedback) {
    for (Row& row : rows_) {
        const auto& m = *row.manifold;
        auto &a = bodies.velocity[m.body_a], &b = bodies.velocity[m.body_b];
        for (int round = 0; round < rounds(m.count); round++) {
            float change = 0, all = 0;
            for (int i = 0; i < m.count; i++) {
                change += solve_normal(row, row.points[i], a, b, with_feedback);
                all += row.points[i].normal_impulse;
            }
            for (int i = 0; i < m.count; i++) solve_friction(row, row.points[i], a, b);
            if (m.rolling > 0 || m.spinning > 0) solve_turning(row, all, a, b);
            if (change <= kAgreed * all) break;
        }
    }
}

// Hands the impulses back to the manifolds.
template<int Dim> void ContactRows<Dim>::end_substep() {
    for (Row& row : rows_) {
        for (int i = 0; i < row.manifold->count; i++) {
            const PointRow& p = row.points[i];
            auto& to = row.manifold->points[i];
            Vec<Dim> friction{};
            for (int t = 0; t < Dim - 1; t++) friction += row.tangent[t] * p.friction_impulse[t];
            to.tick_impulse += row.normal * p.normal_impulse + friction;
            to.normal_impulse = p.normal_impulse;
            to.friction_impulse = friction;
        }
    }
}

template class ContactRows<2>;
template class ContactRows<3>;

}
