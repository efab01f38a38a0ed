// Pushes and velocities that hooks give bodies for one substep.
#include "solve/integrate.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

namespace astasis::solve {

template<int Dim> void Integrator<Dim>::add_pushed(const flow::Bodies<Dim>& bodies) {
    for (const Pushed& p : pushed_) {
        const std::uint32_t i = body_[p.row - 1];
        const auto& free = bodies.free[i];
        const double inverse_mass = bodies.mass[i].inverse_mass;
        const Lane own = lane(p.row);
        const double linear = decay_of(free.linear_damping, seconds_).seconds;
        for (int k = 0; k < Dim; k++)
            if (!math::is_locked(free.locks, k))
                own[M::kAdded + k] += p.push.force[k] * inverse_mass * linear;
        const double angular = decay_of(free.angular_damping, seconds_).seconds;
        const Axial<Dim> turning = inverse_inertia(p.row) * p.push.torque;
        for (int k = 0; k < M::kAxial; k++) own[M::kAdded + Dim + k] += math::component(turning, k) * angular;
    }
}

template<int Dim> void Integrator<Dim>::end_pushed(const flow::Bodies<Dim>& bodies) {
    for (const Pushed& p : pushed_) {
        push_linear(bodies, p.row, decay_of(bodies.free[body_[p.row - 1]].linear_damping, seconds_));
        push_angular(bodies, p.row);
        const flow::Velocity<Dim> v = velocity(p.row);
        given_work_ += 0.5 * seconds_ *
                       (dot(p.push.force, p.before.linear + v.linear) +
                        dot(p.push.torque, p.before.angular + v.angular));
    }
    pushed_.clear();
}

template<int Dim> void Integrator<Dim>::give(std::size_t row, const flow::Velocity<Dim>& v) {
    base::make_room(given_at_, row_count());
    given_at_.resize(row_count());
    std::uint32_t& at = given_at_[row];
    if (at > 0) {
        given_[at - 1].velocity = v;
        return;
    }
    given_.push_back({row, v, velocity(row)});
    at = static_cast<std::uint32_t>(given_.size());
}

// The work is what the kinetic energy gains, and what lifts the body against its share of gravity.
template<int Dim> void Integrator<Dim>::set_given(const flow::Bodies<Dim>& bodies) {
    for (const Given& g : given_) {
        given_at_[g.row] = 0;
        const std::uint32_t i = body_[g.row - 1];
        const auto& mass = bodies.mass[i];
        const auto& locks = bodies.free[i].locks;
        const flow::Velocity<Dim> v{math::unlocked(g.velocity.linear, locks),
                                    math::unlocked_turn(g.velocity.angular, locks)};
        write(velocity_, g.row, v), write(gained_, g.row, {});
        const Lane own = lane(g.row);
        for (int k = 0; k < Dim; k++) own[M::kFree + k] = v.linear[k];
        for (int k = 0; k < M::kAxial; k++) own[M::kFree + Dim + k] = math::component(v.angular, k);
        for (int k = 0; k < Dim + M::kAxial; k++) own[M::kRemainder + k] = 0;
        const auto inertia = math::turned_tensor(mass.inertia, rotation(g.row));
        const auto twice_kinetic = [&](const flow::Velocity<Dim>& at) {
            return double{mass.mass * length_squared(at.linear)} +
                   double{dot(at.angular, inertia * at.angular)};
        };
        given_work_ += 0.5 * (twice_kinetic(v) - twice_kinetic(g.before)) -
                       double{mass.mass * bodies.free[i].gravity_scale * dot(gravity_, v.linear)} * seconds_;
    }
    given_.clear();
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void Integrator<Dim>::add_pushed(const flow::Bodies<Dim>&);                                     \
    template void Integrator<Dim>::end_pushed(const flow::Bodies<Dim>&);                                     \
    template void Integrator<Dim>::give(std::size_t, const flow::Velocity<Dim>&);                            \
    template void Integrator<Dim>::set_given(const flow::Bodies<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
