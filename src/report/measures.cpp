#include "report/measures.h"

#include "math/numbers.h"

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
std::vector<Contact<Dim>> contacts_of(const flow::Bodies<Dim>& bodies,
                                      std::span<const flow::Manifold<Dim>> manifolds,
                                      std::span<const BodyId> ids) {
    std::vector<Contact<Dim>> out;
    for (const auto& m : manifolds)
        for (int i = 0; i < m.count; i++) {
            const auto& p = m.points[i];
            const flow::PointNow<Dim> now = flow::evaluate(m, p, bodies);
            if (now.separation >= 0 && p.tick_impulse == Vec<Dim>{}) continue;
            out.push_back({ids[m.body_a], ids[m.body_b], m.shape_a, m.shape_b,
                           bodies.pose[m.body_a].centre + now.arm_a, now.normal, now.separation,
                           p.tick_impulse, p.feature});
        }
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Energy energy_of(const flow::Bodies<Dim>&, std::size_t, const Vec<Dim>&);                       \
    template Momentum<Dim> momentum_of(const flow::Bodies<Dim>&);                                            \
    template std::vector<Contact<Dim>> contacts_of(                                                          \
        const flow::Bodies<Dim>&, std::span<const flow::Manifold<Dim>>, std::span<const BodyId>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
