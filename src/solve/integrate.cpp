#include "solve/integrate.h"

#include "math/locks.h"
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

// Drag is a damping whose rate follows the speed, taken in the middle of the substep: a few rounds find it.
// At the speed of the fastest fall rate and gravity balance exactly.
template<int Dim>
typename Integrator<Dim>::Decay Integrator<Dim>::dragged(const flow::Bodies<Dim>& bodies,
                                                         std::size_t i) const {
    constexpr int kRounds = 3;
    const auto& free = bodies.free[i];
    const Vec<Dim> v = bodies.velocity[i].linear;
    const float inverse_mass = bodies.mass[i].inverse_mass;
    const Vec<Dim> a = gravity_ * free.gravity_scale + bodies.push[i].force * inverse_mass;
    Vec<Dim> middle = v;
    Decay out{1, seconds_};
    for (int round = 0; round < kRounds; round++) {
        out = decay_of(free.linear_damping + free.drag * inverse_mass * length(middle), seconds_);
        middle = (v * static_cast<float>(1 + out.keep) + a * static_cast<float>(out.seconds)) * 0.5f;
    }
    return out;
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
        linear_[i] = decay_of(bodies.free[i].linear_damping, seconds);
        angular_[i] = decay_of(bodies.free[i].angular_damping, seconds);
    }
}

template<int Dim> void Integrator<Dim>::turn_inertia(const flow::Bodies<Dim>& bodies) {
    for (std::size_t i = 0; i < bodies.moving; i++) {
        const auto& mass = bodies.mass[i];
        const auto& locks = bodies.free[i].locks;
        inverse_inertia_[i] =
            math::turns_freely(locks)
                ? math::turned_tensor(mass.inverse_inertia, bodies.pose[i].rotation)
                : math::inverse_where_free(math::turned_tensor(mass.inertia, bodies.pose[i].rotation), locks);
    }
}

template<int Dim> void Integrator<Dim>::advance_velocities(flow::Bodies<Dim>& bodies) {
    for (std::size_t i = 0; i < bodies.moving; i++) {
        auto& v = bodies.velocity[i];
        free_[i] = v;
        if (bodies.motion[i] != Motion::Dynamic) continue;
        auto& rest = bodies.remainder[i];
        const auto& push = bodies.push[i];
        const double inverse_mass = bodies.mass[i].inverse_mass;
        const auto& free = bodies.free[i];
        const Decay linear = free.drag > 0 ? dragged(bodies, i) : linear_[i];
        for (int k = 0; k < Dim; k++) {
            if (math::is_locked(free.locks, k)) continue;
            const double whole = static_cast<double>(v.linear[k]) + rest.linear[k];
            const double a =
                static_cast<double>(gravity_[k]) * free.gravity_scale + push.force[k] * inverse_mass;
            const double change = whole * (linear.keep - 1.0) + a * linear.seconds;
            math::add_exactly(v.linear[k], rest.linear[k], change);
            gained_[i].linear[k] = static_cast<float>(change);
        }
        const Axial<Dim> turning = inverse_inertia_[i] * push.torque;
        for (int k = 0; k < math::kAxialSize<Dim>; k++) {
            if (math::is_turn_locked(free.locks, k)) continue;
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
        pose.rotation = math::turns_freely(bodies.free[i].locks)
                            ? turned_freely(pose.rotation, angular, v.angular, bodies.mass[i], seconds_)
                            : math::turned_by(pose.rotation, angular * static_cast<float>(seconds_));
    }
}

template class Integrator<2>;
template class Integrator<3>;

}
