#include "report/measures.h"

#include "math/numbers.h"

#include <algorithm>
#include <cmath>

namespace astasis::report {
namespace {

// Angular momentum about the body's centre of mass, in world axes.
float spin_momentum(const flow::Mass<2>& mass, Rotation<2>, float velocity) {
    return mass.inertia * velocity;
}
Vec3 spin_momentum(const flow::Mass<3>& mass, Rotation<3> r, Vec3 velocity) {
    return rotate(r, mass.inertia * rotate_back(r, velocity));
}

// r x p in double: far from the origin it is a small difference of large numbers.
void add_orbit(double (&sum)[1], const Point<2>& r, Vec2 p) { sum[0] += r.x * p.y - r.y * p.x; }
void add_orbit(double (&sum)[3], const Point<3>& r, Vec3 p) {
    sum[0] += r.y * p.z - r.z * p.y;
    sum[1] += r.z * p.x - r.x * p.z;
    sum[2] += r.x * p.y - r.y * p.x;
}

}

template<int Dim> Energy energy_of(const flow::Bodies<Dim>& bodies, std::size_t i, const Vec<Dim>& gravity) {
    Energy out;
    if (bodies.motion[i] != Motion::Dynamic) return out;
    const auto& mass = bodies.mass[i];
    const auto& v = bodies.velocity[i];
    double squared = 0, height = 0;
    for (int k = 0; k < Dim; k++) {
        squared += static_cast<double>(v.linear[k]) * v.linear[k];
        height -= bodies.pose[i].centre[k] * gravity[k] * static_cast<double>(bodies.free[i].gravity_scale);
    }
    out.kinetic =
        0.5 * (mass.mass * squared) +
        0.5 * static_cast<double>(dot(v.angular, spin_momentum(mass, bodies.pose[i].rotation, v.angular)));
    out.potential = mass.mass * height;
    return out;
}

template<int Dim> Momentum<Dim> momentum_of(const flow::Bodies<Dim>& bodies) {
    double linear[Dim] = {}, angular[math::kAxialSize<Dim>] = {};
    for (std::size_t i = 0; i < bodies.size(); i++) {
        if (bodies.motion[i] != Motion::Dynamic) continue;
        const Vec<Dim> p = bodies.velocity[i].linear * bodies.mass[i].mass;
        for (int k = 0; k < Dim; k++) linear[k] += p[k];
        add_orbit(angular, bodies.pose[i].centre, p);
        const Axial<Dim> spin =
            spin_momentum(bodies.mass[i], bodies.pose[i].rotation, bodies.velocity[i].angular);
        for (int k = 0; k < math::kAxialSize<Dim>; k++) angular[k] += math::component(spin, k);
    }
    Momentum<Dim> out;
    for (int k = 0; k < Dim; k++) out.linear[k] = static_cast<float>(linear[k]);
    for (int k = 0; k < math::kAxialSize<Dim>; k++)
        math::component(out.angular, k) = static_cast<float>(angular[k]);
    return out;
}

template<int Dim>
Penetration penetration_of(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds) {
    Penetration out;
    double squares = 0;
    for (const auto& m : manifolds)
        for (int i = 0; i < m.count && !m.passed_by; i++) {
            const float separation = flow::evaluate(m, m.points[i], bodies).separation;
            if (separation >= 0 && m.points[i].tick_impulse == Vec<Dim>{}) continue;
            out.contacts++;
            if (separation >= 0) continue;
            out.overlapping++;
            out.deepest = std::max(out.deepest, -separation);
            squares += static_cast<double>(separation) * separation;
        }
    if (out.overlapping > 0) out.typical = static_cast<float>(std::sqrt(squares / out.overlapping));
    return out;
}

template<int Dim>
void add_work(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds, double tick,
              Work& work) {
    const auto dynamic = [&](std::uint32_t i) { return bodies.motion[i] == Motion::Dynamic; };
    for (const auto& m : manifolds) {
        const bool a = dynamic(m.body_a), b = dynamic(m.body_b), runs = m.slip != Vec<Dim>{};
        if (a == b && !runs) continue;
        // A pushes B with +impulse. What is pushed is dynamic, what pushes is the other.
        const std::uint32_t pusher = a ? m.body_b : m.body_a;
        const float sign = a ? -1.0f : 1.0f;
        const bool moves = a != b && bodies.motion[pusher] == Motion::Kinematic;
        if (!moves && !runs) continue;
        const auto& v = bodies.velocity[pusher];
        for (int i = 0; i < m.count; i++) {
            const Vec<Dim>& impulse = m.points[i].tick_impulse;
            if (impulse == Vec<Dim>{}) continue;
            const flow::PointNow<Dim> now = flow::evaluate(m, m.points[i], bodies);
            if (moves)
                work.kinematic += sign * dot(impulse, v.linear + cross(v.angular, a ? now.arm_b : now.arm_a));
            // A's surface runs with -slip as seen from B's: the impulse on B does its work along it.
            if (runs) work.surfaces -= dot(impulse, m.slip - now.normal * dot(m.slip, now.normal));
        }
        if (moves) work.kinematic += sign * dot(m.turning_torque, v.angular) * tick;
    }
}

template<int Dim> bool touches(const flow::Manifold<Dim>& m, const flow::Bodies<Dim>& bodies) {
    for (int i = 0; i < m.count; i++)
        if (m.points[i].tick_impulse != Vec<Dim>{}) return true;
    for (int i = 0; i < m.count && !m.passed_by; i++)
        if (flow::evaluate(m, m.points[i], bodies).separation < 0) return true;
    return false;
}

template<int Dim>
std::vector<Contact<Dim>> contacts_of(const flow::Bodies<Dim>& bodies,
                                      std::span<const flow::Manifold<Dim>> manifolds,
                                      std::span<const BodyId> ids) {
    std::vector<Contact<Dim>> out;
    for (const auto& m : manifolds)
        for (int i = 0; i < m.count; i++) {
            const auto& p = m.points[i];
            const flow::PointNow<Dim> now = flow::evaluate(m, p, bodies);
            const float separation = m.passed_by ? 0 : now.separation;
            if (separation >= 0 && p.tick_impulse == Vec<Dim>{}) continue;
            out.push_back({ids[m.body_a], ids[m.body_b], m.shape_a, m.shape_b,
                           bodies.pose[m.body_a].centre + now.arm_a, now.normal, separation, p.tick_impulse,
                           p.feature});
        }
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Energy energy_of(const flow::Bodies<Dim>&, std::size_t, const Vec<Dim>&);                       \
    template Momentum<Dim> momentum_of(const flow::Bodies<Dim>&);                                            \
    template Penetration penetration_of(const flow::Bodies<Dim>&, std::span<const flow::Manifold<Dim>>);     \
    template void add_work(const flow::Bodies<Dim>&, std::span<const flow::Manifold<Dim>>, double, Work&);   \
    template bool touches(const flow::Manifold<Dim>&, const flow::Bodies<Dim>&);                             \
    template std::vector<Contact<Dim>> contacts_of(                                                          \
        const flow::Bodies<Dim>&, std::span<const flow::Manifold<Dim>>, std::span<const BodyId>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
