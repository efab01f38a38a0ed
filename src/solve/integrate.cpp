#include "solve/integrate.h"

#include "math/numbers.h"
#include "math/trig.h"
#include "math/turn.h"

#include <algorithm>

namespace astasis::solve {
namespace {

// Half the change of a velocity, but no more than half of what free motion gained: see the head of
// integrate.h.
template<typename V> V mean_shift(V change, V gained) {
    const float size = math::magnitude(change), most = math::magnitude(gained);
    return change * (size > most ? 0.5f * most / size : 0.5f);
}

Rotation<2> turned_freely(Rotation<2> r, float mean, float& /*velocity*/, const flow::Mass<2>&,
                          double seconds) {
    return math::turned_by(r, static_cast<float>(mean * seconds));
}

// Turns by the mean velocity and carries the angular velocity so that the angular momentum stays.
Rotation<3> turned_freely(Rotation<3> r, Vec3 mean, Vec3& velocity, const flow::Mass<3>& mass,
                          double seconds) {
    const auto h = static_cast<float>(seconds);
    if (mass.isotropic) return math::turned_by(r, mean * h);
    const auto momentum = [&](Vec3 w) { return rotate(r, mass.inertia * rotate_back(r, w)); };
    const auto velocity_of = [&](Rotation<3> at, Vec3 l) {
        return rotate(at, mass.inverse_inertia * rotate_back(at, l));
    };
    const Vec3 mean_momentum = momentum(mean), end_momentum = momentum(velocity);
    Vec3 middle = mean;
    for (int i = 0; i < 4; i++) middle = velocity_of(math::turned_by(r, middle * (0.5f * h)), mean_momentum);
    const Rotation<3> end = math::turned_by(r, middle * h);
    velocity = velocity_of(end, end_momentum);
    return end;
}

}

template<int Dim> typename Integrator<Dim>::Decay Integrator<Dim>::decay_of(float damping, double seconds) {
    if (damping == 0) return {1.0, seconds};
    const double keep = math::exponential(-damping * seconds);
    return {keep, (1.0 - keep) / damping};
}

template<int Dim>
void Integrator<Dim>::begin_tick(const flow::Bodies<Dim>& bodies, const Vec<Dim>& gravity, double seconds) {
    gravity_ = gravity;
    seconds_ = seconds;
    if (linear_.size() != bodies.size() || moving_ != bodies.moving) { // what stands still has zeros for ever
        linear_.resize(bodies.size());
        angular_.resize(bodies.size());
        inverse_inertia_.assign(bodies.size(), {});
        gained_.assign(bodies.size(), {});
        free_.resize(bodies.size());
        moving_ = bodies.moving;
    }
    std::fill_n(gained_.begin(), moving_, flow::Velocity<Dim>{});
    for (std::size_t i = 0; i < moving_; i++) {
        linear_[i] = decay_of(bodies.damping[i].linear, seconds);
        angular_[i] = decay_of(bodies.damping[i].angular, seconds);
    }
}

template<int Dim> void Integrator<Dim>::turn_inertia(const flow::Bodies<Dim>& bodies) {
    for (std::size_t i = 0; i < bodies.moving; i++)
        inverse_inertia_[i] = math::turned_tensor(bodies.mass[i].inverse_inertia, bodies.pose[i].rotation);
}

template<int Dim> void Integrator<Dim>::advance_velocities(flow::Bodies<Dim>& bodies) {
    for (std::size_t i = 0; i < bodies.moving; i++) {
        auto& v = bodies.velocity[i];
        free_[i] = v;
        if (bodies.motion[i] != Motion::Dynamic) continue;
        auto& rest = bodies.remainder[i];
        const auto& push = bodies.push[i];
        const double inverse_mass = bodies.mass[i].inverse_mass;
        for (int k = 0; k < Dim; k++) {
            const double whole = static_cast<double>(v.linear[k]) + rest.linear[k];
            const double a = gravity_[k] + push.force[k] * inverse_mass;
            const double change = whole * (linear_[i].keep - 1.0) + a * linear_[i].seconds;
            math::add_exactly(v.linear[k], rest.linear[k], change);
            gained_[i].linear[k] = static_cast<float>(change);
        }
        const Axial<Dim> turning = inverse_inertia_[i] * push.torque;
        for (int k = 0; k < math::kAxialSize<Dim>; k++) {
            float &value = math::component(v.angular, k), &left = math::component(rest.angular, k);
            const double whole = static_cast<double>(value) + left;
            const double change =
                whole * (angular_[i].keep - 1.0) + math::component(turning, k) * angular_[i].seconds;
            math::add_exactly(value, left, change);
            math::component(gained_[i].angular, k) = static_cast<float>(change);
        }
        free_[i] = v;
    }
}

template<int Dim> void Integrator<Dim>::advance_poses(flow::Bodies<Dim>& bodies) const {
    for (std::size_t i = 0; i < bodies.moving; i++) {
        auto& v = bodies.velocity[i];
        auto& rest = bodies.remainder[i];
        auto& pose = bodies.pose[i];
        const Vec<Dim> linear =
            v.linear - mean_shift(gained_[i].linear + (v.linear - free_[i].linear), gained_[i].linear);
        const Axial<Dim> angular =
            v.angular - mean_shift(gained_[i].angular + (v.angular - free_[i].angular), gained_[i].angular);
        pose.centre = math::moved(pose.centre, linear, rest.linear, seconds_);
        pose.rotation = turned_freely(pose.rotation, angular, v.angular, bodies.mass[i], seconds_);
    }
}

template class Integrator<2>;
template class Integrator<3>;

}
