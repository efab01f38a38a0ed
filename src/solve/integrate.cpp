#include "solve/integrate.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/trig.h"
#include "math/turn.h"
#include "math/wide.h"

#include <algorithm>

namespace astasis::solve {
namespace {

// Half the change of a velocity, but no more than half of what free motion gained: see the head of
// integrate.h.
template<typename V> V mean_shift(V change, V gained) {
    const float size = math::magnitude(change), most = math::magnitude(gained);
    return change * (size > most ? 0.5f * most / size : 0.5f);
}

Rotation<2> turned_freely(Rotation<2> turn, Rotation<2>, float mean, float& /*velocity*/,
                          float& /*remainder*/, const flow::Mass<2>&, double seconds) {
    return math::turned_by(turn, static_cast<float>(mean * seconds));
}

// Turns by the mean velocity and carries the angular velocity so that the angular momentum stays; in double,
// since what rounding loses in a substep adds up for as long as the body spins.
Rotation<3> turned_freely(Rotation<3> turn, Rotation<3> start, Vec3 mean, Vec3& velocity, Vec3& remainder,
                          const flow::Mass<3>& mass, double seconds) {
    using math::Wide3;
    // What turns farther than that in a substep is beyond this rule, which would give it energy: it turns on
    // about its axis.
    constexpr double kMostTurn = 1;
    if (static_cast<double>(length(mean)) * seconds > kMostTurn)
        return math::turned_by(turn, mean * static_cast<float>(seconds));
    const math::Turn<3> at_start = math::turn_of(start);
    // The exact inverse of the inertia in use: that of a float would gain or lose a little in every substep.
    const math::Sym3& m = mass.inertia;
    const Wide3 x{{m.xx, m.xy, m.xz}}, y{{m.xy, m.yy, m.yz}}, z{{m.xz, m.yz, m.zz}};
    const Wide3 yz = math::cross(y, z), zx = math::cross(z, x), xy = math::cross(x, y);
    const double scale = 1 / math::dot(x, yz);
    const auto momentum = [&](const math::Turn<3>& r, const Wide3& v) {
        const Wide3 w = math::turned_back(at_start, math::turned_back(r, v));
        return r * (at_start * Wide3{{math::dot(x, w), math::dot(y, w), math::dot(z, w)}});
    };
    const auto velocity_of = [&](const math::Turn<3>& r, const Wide3& l) {
        const Wide3 w = math::turned_back(at_start, math::turned_back(r, l));
        return r * (at_start * (Wide3{{math::dot(yz, w), math::dot(zx, w), math::dot(xy, w)}} * scale));
    };
    const math::Turn<3> now = math::turn_of(turn);
    const Wide3 whole = math::widened(velocity) + math::widened(remainder);
    const Wide3 middle_momentum = momentum(now, math::widened(mean) + math::widened(remainder));
    const Wide3 end_momentum = momentum(now, whole);
    Wide3 middle = math::widened(mean);
    for (int i = 0; i < 4; i++) {
        const Rotation<3> half = math::turned_by(turn, math::narrowed(middle * (0.5 * seconds)));
        middle = velocity_of(math::turn_of(half), middle_momentum);
    }
    const Rotation<3> end = math::turned_by(turn, math::narrowed(middle * seconds));
    const Wide3 after = velocity_of(math::turn_of(end), end_momentum);
    velocity = math::narrowed(after);
    remainder = math::narrowed(after - math::widened(velocity));
    return end;
}

// As the kernels want it: see Layout::kRow.
void write_turn(Rotation<2> r, float* row) { row[2] = r.s, row[3] = -(r.s * r.s) / (1 + r.c); }
void write_turn(Rotation<3> r, float* row) {
    row[3] = 0;
    row[4] = r.x, row[5] = r.y, row[6] = r.z, row[7] = r.w;
}
void write_inertia(float, float*) {}
void write_inertia(const math::Sym3& m, float* row) {
    row[0] = m.xx, row[1] = m.xy, row[2] = m.xz, row[3] = m.yy, row[4] = m.yz, row[5] = m.zz;
}

}

template<int Dim> typename Integrator<Dim>::Decay Integrator<Dim>::decay_of(float damping, double seconds) {
    if (damping == 0) return {1.0, seconds};
    const double keep = math::exponential(-damping * seconds);
    return {keep, (1.0 - keep) / damping};
}

// Drag is a damping whose rate follows the speed, taken in the middle of the substep: a few rounds find it.
// At the speed of the fastest fall rate and gravity balance exactly.
template<int Dim> flow::Velocity<Dim> Integrator<Dim>::read(const Floats& floats, std::size_t row) {
    const float* f = floats.data() + row * Layout<Dim>::kRow;
    flow::Velocity<Dim> v;
    for (int k = 0; k < Dim; k++) v.linear[k] = f[k];
    for (int k = 0; k < math::kAxialSize<Dim>; k++) math::component(v.angular, k) = f[(Dim == 2 ? 2 : 4) + k];
    return v;
}

template<int Dim> void Integrator<Dim>::write(Floats& floats, std::size_t row, const flow::Velocity<Dim>& v) {
    float* f = floats.data() + row * Layout<Dim>::kRow;
    std::fill_n(f, Layout<Dim>::kRow, 0.0f);
    for (int k = 0; k < Dim; k++) f[k] = v.linear[k];
    for (int k = 0; k < math::kAxialSize<Dim>; k++) f[(Dim == 2 ? 2 : 4) + k] = math::component(v.angular, k);
}

template<int Dim> void Integrator<Dim>::write_way(std::size_t row) {
    const Way& w = way_[row];
    float* f = moved_.data() + row * Layout<Dim>::kRow;
    for (int k = 0; k < Dim; k++) f[k] = static_cast<float>(w.place[k]);
    write_turn(w.turn, f);
}

// In space sums of rotations are products; a body that has not turned keeps its rotation to the bit.
template<int Dim> Rotation<Dim> Integrator<Dim>::rotation(std::size_t row) const {
    const Way& w = way_[row];
    return w.turn == Rotation<Dim>{} ? w.start.rotation : math::normalized(w.turn * w.start.rotation);
}

// Drag is a damping whose rate follows the speed, taken in the middle of the substep: a few rounds find it.
// At the speed of the fastest fall rate and gravity balance exactly.
template<int Dim>
typename Integrator<Dim>::Decay Integrator<Dim>::dragged(const flow::Bodies<Dim>& bodies, std::size_t i,
                                                         const Vec<Dim>& v) const {
    constexpr int kRounds = 3;
    const auto& free = bodies.free[i];
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
void Integrator<Dim>::begin(const flow::Bodies<Dim>& bodies, std::span<const std::uint32_t> which,
                            const Vec<Dim>& gravity, double seconds) {
    gravity_ = gravity;
    seconds_ = seconds;
    body_.assign(which.begin(), which.end());
    const std::size_t rows = row_count();
    linear_.resize(rows), angular_.resize(rows), free_.resize(rows);
    inverse_inertia_.assign(rows, {});
    way_.assign(rows, {});
    for (Floats* f : {&velocity_, &gained_, &moved_, &inertia_}) f->resize(rows * Layout<Dim>::kRow);
    std::fill_n(gained_.data(), rows * Layout<Dim>::kRow, 0.0f);
    std::fill_n(inertia_.data(), rows * Layout<Dim>::kRow, 0.0f);
    write(velocity_, 0, {});
    write_way(0);
    for (std::size_t r = 1; r < rows; r++) {
        const std::uint32_t i = body_[r - 1];
        write(velocity_, r, bodies.velocity[i]);
        way_[r].start = bodies.pose[i];
        write_way(r);
        linear_[r] = decay_of(bodies.free[i].linear_damping, seconds);
        angular_[r] = decay_of(bodies.free[i].angular_damping, seconds);
    }
}

template<int Dim> void Integrator<Dim>::turn_inertia(const flow::Bodies<Dim>& bodies) {
    for (std::size_t r = 1; r < row_count(); r++) {
        const auto& mass = bodies.mass[body_[r - 1]];
        const auto& locks = bodies.free[body_[r - 1]].locks;
        if (mass.inverse_mass == 0) continue;
        inverse_inertia_[r] =
            math::turns_freely(locks)
                ? (mass.isotropic ? mass.inverse_inertia
                                  : math::turned_tensor(mass.inverse_inertia, rotation(r)))
                : math::inverse_where_free(math::turned_tensor(mass.inertia, rotation(r)), locks);
        write_inertia(inverse_inertia_[r], inertia_.data() + r * Layout<Dim>::kRow);
    }
}

template<int Dim> void Integrator<Dim>::advance_velocities(flow::Bodies<Dim>& bodies) {
    for (std::size_t r = 1; r < row_count(); r++) {
        const std::uint32_t i = body_[r - 1];
        flow::Velocity<Dim> v = velocity(r), gain{};
        if (bodies.motion[i] == Motion::Dynamic) {
            auto& rest = bodies.remainder[i];
            const auto& push = bodies.push[i];
            const double inverse_mass = bodies.mass[i].inverse_mass;
            const auto& free = bodies.free[i];
            const Decay linear = free.drag > 0 ? dragged(bodies, i, v.linear) : linear_[r];
            for (int k = 0; k < Dim; k++) {
                if (math::is_locked(free.locks, k)) continue;
                const double whole = static_cast<double>(v.linear[k]) + rest.linear[k];
                const double a =
                    static_cast<double>(gravity_[k]) * free.gravity_scale + push.force[k] * inverse_mass;
                const double change = whole * (linear.keep - 1.0) + a * linear.seconds;
                math::add_exactly(v.linear[k], rest.linear[k], change);
                gain.linear[k] = static_cast<float>(change);
            }
            const Axial<Dim> turning = inverse_inertia_[r] * push.torque;
            for (int k = 0; k < math::kAxialSize<Dim>; k++) {
                if (math::is_turn_locked(free.locks, k)) continue;
                float &value = math::component(v.angular, k), &left = math::component(rest.angular, k);
                const double whole = static_cast<double>(value) + left;
                const double change =
                    whole * (angular_[r].keep - 1.0) + math::component(turning, k) * angular_[r].seconds;
                math::add_exactly(value, left, change);
                math::component(gain.angular, k) = static_cast<float>(change);
            }
            write(velocity_, r, v);
            write(gained_, r, gain);
        }
        free_[r] = v;
    }
}

template<int Dim> void Integrator<Dim>::advance_poses(flow::Bodies<Dim>& bodies) {
    for (std::size_t r = 1; r < row_count(); r++) {
        const std::uint32_t i = body_[r - 1];
        flow::Velocity<Dim> v = velocity(r);
        const flow::Velocity<Dim> gain = gained(r);
        auto& rest = bodies.remainder[i];
        const Vec<Dim> linear =
            v.linear - mean_shift(gain.linear + (v.linear - free_[r].linear), gain.linear);
        const Axial<Dim> angular =
            v.angular - mean_shift(gain.angular + (v.angular - free_[r].angular), gain.angular);
        Way& w = way_[r];
        w.place = math::moved(w.place, linear, rest.linear, seconds_);
        if (!math::turns_freely(bodies.free[i].locks) || bodies.mass[i].isotropic) {
            if (math::magnitude(angular) > 0)
                w.turn = math::turned_by(w.turn, angular * static_cast<float>(seconds_));
        } else {
            w.turn = turned_freely(w.turn, w.start.rotation, angular, v.angular, rest.angular, bodies.mass[i],
                                   seconds_);
            write(velocity_, r, v);
        }
        write_way(r);
    }
}

template<int Dim> void Integrator<Dim>::show(flow::Bodies<Dim>& bodies, std::size_t row) const {
    const Way& w = way_[row];
    const std::uint32_t i = body_[row - 1];
    bodies.pose[i] = {math::sum(w.start.centre, w.place), rotation(row)};
    // Zeros lose their sign, which may differ between kernels and means nothing.
    flow::Velocity<Dim> v = velocity(row);
    for (int k = 0; k < Dim; k++) v.linear[k] += 0.0f;
    for (int k = 0; k < math::kAxialSize<Dim>; k++) math::component(v.angular, k) += 0.0f;
    bodies.velocity[i] = v;
}

template<int Dim> void Integrator<Dim>::show(flow::Bodies<Dim>& bodies) const {
    for (std::size_t r = 1; r < row_count(); r++) show(bodies, r);
}

template<int Dim>
void Integrator<Dim>::redirect(const flow::Bodies<Dim>& bodies, std::size_t row,
                               const flow::Velocity<Dim>& velocity, const flow::Velocity<Dim>& shift) {
    // The body sets out from another pose than the one that the impact saw. What is not round would have
    // another energy there: it takes its velocity along, as it is in its own frame.
    flow::Velocity<Dim> v = velocity;
    if (!bodies.mass[body_[row - 1]].isotropic)
        v.angular = math::axial_rotated(math::turned_by(Rotation<Dim>{}, shift.angular), v.angular);
    write(velocity_, row, v);
    free_[row] = v;
    Way& w = way_[row];
    for (int k = 0; k < Dim; k++) w.place[k] += shift.linear[k];
    w.turn = math::turned_by(w.turn, shift.angular);
    write_way(row);
}

template class Integrator<2>;
template class Integrator<3>;

}
