#include "solve/integrate.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/trig.h"
#include "math/turn.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace astasis::solve {
namespace {

template<int Dim> constexpr std::size_t kRow = static_cast<std::size_t>(Layout<Dim>::kRow);

// Rotations in double: cosine and sine; a quaternion, its scalar part first.
using Turn2 = std::array<double, 2>;
using Turn3 = std::array<double, 4>;
Turn2 wide(const Rotation<2>& r) { return {r.c, r.s}; }
Turn3 wide(const Rotation<3>& r) { return {r.w, r.x, r.y, r.z}; }
Rotation<2> narrow(const Turn2& n) { return {static_cast<float>(n[0]), static_cast<float>(n[1])}; }
Rotation<3> narrow(const Turn3& n) {
    return {static_cast<float>(n[0]), static_cast<float>(n[1]), static_cast<float>(n[2]),
            static_cast<float>(n[3])};
}
Turn2 product(const Turn2& p, const Turn2& q) {
    return {p[0] * q[0] - p[1] * q[1], p[1] * q[0] + p[0] * q[1]};
}
Turn2 inverse(const Turn2& p) { return {p[0], -p[1]}; }
Turn3 inverse(const Turn3& p) { return {p[0], -p[1], -p[2], -p[3]}; }
Turn3 product(const Turn3& p, const Turn3& q) {
    return {((p[0] * q[0] - p[1] * q[1]) - p[2] * q[2]) - p[3] * q[3],
            ((p[0] * q[1] + p[1] * q[0]) + p[2] * q[3]) - p[3] * q[2],
            ((p[0] * q[2] - p[1] * q[3]) + p[2] * q[0]) + p[3] * q[1],
            ((p[0] * q[3] + p[1] * q[2]) - p[2] * q[1]) + p[3] * q[0]};
}
template<std::size_t N> std::array<double, N> unit(std::array<double, N> r) {
    double sum = 0;
    for (const double x : r) sum += x * x;
    const double over = 1 / std::sqrt(sum);
    for (double& x : r) x *= over;
    return r;
}

// As the kernels want it: see Layout::kRow.
void write_turn(Rotation<2> r, float* row) {
    row[2] = r.s, row[3] = r.c > 0 ? -(r.s * r.s) / (1 + r.c) : r.c - 1;
}
void write_turn(Rotation<3> r, float* row) {
    row[3] = 0;
    row[4] = r.x, row[5] = r.y, row[6] = r.z, row[7] = r.w;
}

// The principal axes where they are now, and the inertia about them; whether the spin follows from the
// angular momentum.
template<typename Lane>
void fill_inertia(const Lane&, const flow::Mass<2>&, const Rotation<2>&, bool /*turns_freely*/) {}
template<typename Lane>
void fill_inertia(const Lane& lane, const flow::Mass<3>& mass, const Rotation<3>& at, bool turns_freely) {
    using M = MotionLayout<3>;
    if (mass.inverse_mass == 0 || mass.isotropic || !turns_freely) return;
    const auto axes = unit(product(wide(at), wide(mass.principal.frame)));
    for (int k = 0; k < 4; k++) lane[M::kStart + k] = axes[static_cast<std::size_t>(k)];
    for (int k = 0; k < 3; k++) {
        lane[M::kInertia + k] = mass.principal.moments[k];
        lane[M::kInverseInertia + k] = 1 / static_cast<double>(mass.principal.moments[k]);
    }
    lane[M::kFollows] = 1;
}

}

template<int Dim> typename Integrator<Dim>::Decay Integrator<Dim>::decay_of(float damping, double seconds) {
    if (damping == 0) return {0.0, seconds};
    const double keep = math::exponential(-damping * seconds);
    return {keep - 1.0, (1.0 - keep) / damping};
}

// Drag is a damping whose rate follows the speed, taken in the middle of the substep: a few rounds find it.
// At the speed of the fastest fall rate and gravity balance exactly.
template<int Dim>
typename Integrator<Dim>::Decay Integrator<Dim>::dragged(const flow::Bodies<Dim>& bodies, std::size_t row,
                                                         const Vec<Dim>& v) const {
    constexpr int kRounds = 3;
    const std::uint32_t i = body_[row - 1];
    const auto& free = bodies.free[i];
    const float inverse_mass = bodies.mass[i].inverse_mass;
    const Vec<Dim> a = gravity_ * free.gravity_scale + push_of(bodies, row).force * inverse_mass;
    Vec<Dim> middle = v;
    Decay out{0, seconds_};
    for (int round = 0; round < kRounds; round++) {
        out = decay_of(free.linear_damping + free.drag * inverse_mass * length(middle), seconds_);
        middle = (v * static_cast<float>(2 + out.lost) + a * static_cast<float>(out.seconds)) * 0.5f;
    }
    return out;
}

template<int Dim>
flow::Push<Dim> Integrator<Dim>::push_of(const flow::Bodies<Dim>& bodies, std::size_t row) const {
    const flow::Push<Dim>& own = bodies.push[body_[row - 1]];
    if (field_pushes_.empty()) return own;
    const flow::Push<Dim>&field = field_pushes_[row], &drag = field_drags_[row];
    return {own.force + (field.force + drag.force), own.torque + (field.torque + drag.torque)};
}

template<int Dim>
void Integrator<Dim>::set_field(const flow::Bodies<Dim>& bodies, std::size_t row, const flow::Push<Dim>& push,
                                const flow::Push<Dim>& drag, bool as_end) {
    if (field_pushes_.empty()) field_pushes_.resize(row_count()), field_drags_.resize(row_count());
    field_drags_[row] = drag;
    flow::Push<Dim>& field = field_pushes_[row];
    const std::uint32_t i = body_[row - 1];
    const auto& free = bodies.free[i];
    if (as_end) {
        // Beside the float velocity, which the next substep takes along whole.
        const Lane own = lane(row);
        const Vec<Dim> force = push.force - field.force;
        const Axial<Dim> turning = inverse_inertia(row) * (push.torque - field.torque);
        const double half = 0.5 * seconds_;
        for (int k = 0; k < Dim; k++)
            if (!math::is_locked(free.locks, k))
                own[M::kRemainder + k] += double{force[k]} * bodies.mass[i].inverse_mass * half;
        for (int k = 0; k < M::kAxial; k++)
            own[M::kRemainder + Dim + k] += double{math::component(turning, k)} * half;
    }
    field = push;
    if (!(free.drag > 0)) push_linear(bodies, row, decay_of(free.linear_damping, seconds_));
    push_angular(bodies, row);
}

template<int Dim> void Integrator<Dim>::write(Floats& floats, std::size_t row, const flow::Velocity<Dim>& v) {
    float* f = floats.data() + row * kRow<Dim>;
    std::fill_n(f, kRow<Dim>, 0.0f);
    for (int k = 0; k < Dim; k++) f[k] = v.linear[k];
    for (int k = 0; k < math::kAxialSize<Dim>; k++) f[(Dim == 2 ? 2 : 4) + k] = math::component(v.angular, k);
}

template<int Dim> void Integrator<Dim>::write_inertia(std::size_t row, const math::Inertia<Dim>& inverse) {
    float* f = inertia_.data() + row * kRow<Dim>;
    if constexpr (Dim == 2) f[0] = inverse;
    else
        f[0] = inverse.xx, f[1] = inverse.xy, f[2] = inverse.xz, f[3] = inverse.yy, f[4] = inverse.yz,
        f[5] = inverse.zz;
}

template<int Dim> math::Inertia<Dim> Integrator<Dim>::inverse_inertia(std::size_t row) const {
    const float* f = inertia_.data() + row * kRow<Dim>;
    if constexpr (Dim == 2) return f[0];
    else return {f[0], f[1], f[2], f[3], f[4], f[5]};
}

// Since the start of the tick.
template<int Dim> auto Integrator<Dim>::turn(std::size_t row) const {
    const auto own = lane(row);
    std::array<double, M::kTurnSize> out;
    for (std::size_t k = 0; k < out.size(); k++) out[k] = own[M::kTurn + static_cast<int>(k)];
    return out;
}

template<int Dim> void Integrator<Dim>::read_wide(std::size_t row, Speeds& velocity) const {
    const flow::Velocity<Dim> v = this->velocity(row);
    const auto own = lane(row);
    const auto read_one = [&](int f, float speed) {
        velocity[static_cast<std::size_t>(f)] = speed + own[M::kRemainder + f];
    };
    for (int k = 0; k < Dim; k++) read_one(k, v.linear[k]);
    for (int k = 0; k < M::kAxial; k++) read_one(Dim + k, math::component(v.angular, k));
}

template<int Dim> void Integrator<Dim>::write_wide(std::size_t row, const Speeds& velocity, bool as_gain) {
    const Lane own = lane(row);
    flow::Velocity<Dim> v, gain = gained(row);
    const flow::Velocity<Dim> before = this->velocity(row);
    const auto write_one = [&](int f, float& to, float was, float& gained) {
        const double exact = velocity[static_cast<std::size_t>(f)];
        to = static_cast<float>(exact);
        own[M::kRemainder + f] = exact - static_cast<double>(to);
        if (!as_gain) return;
        const float change = to - was;
        gained += change, own[M::kFree + f] += static_cast<double>(change);
    };
    for (int k = 0; k < Dim; k++) write_one(k, v.linear[k], before.linear[k], gain.linear[k]);
    for (int k = 0; k < M::kAxial; k++)
        write_one(Dim + k, math::component(v.angular, k), math::component(before.angular, k),
                  math::component(gain.angular, k));
    write(velocity_, row, v);
    if (as_gain) write(gained_, row, gain);
}

template<int Dim> math::Wide<Dim> Integrator<Dim>::wide_centre(std::size_t row) const {
    math::Wide<Dim> out;
    const auto own = lane(row);
    for (int k = 0; k < Dim; k++) out[k] = start_[row].centre[k] + own[M::kPlace + k];
    return out;
}

template<int Dim> math::Turn<Dim> Integrator<Dim>::wide_turn(std::size_t row) const {
    const auto r = product(turn(row), wide(start_[row].rotation));
    if constexpr (Dim == 3) return math::turn_of_quaternion(r[0], {{r[1], r[2], r[3]}});
    else {
        const auto n = unit(r);
        return {{math::Wide2{{n[0], n[1]}}, math::Wide2{{-n[1], n[0]}}}};
    }
}

template<int Dim>
void Integrator<Dim>::move_on(const flow::Bodies<Dim>& bodies, std::size_t row, const Speeds& way) {
    const Lane own = lane(row);
    for (int k = 0; k < Dim; k++) own[M::kPlace + k] += way[static_cast<std::size_t>(k)];
    std::array<double, M::kTurnSize> by{1};
    for (std::size_t k = Dim; k < kSpeeds; k++) by[k - Dim + 1] = (Dim == 2 ? 1 : 0.5) * way[k];
    const auto turned = unit(product(by, turn(row)));
    for (std::size_t k = 0; k < turned.size(); k++) own[M::kTurn + static_cast<int>(k)] = turned[k];
    write_moved(row);
    if constexpr (Dim == 3) turn_inertia(bodies, row);
}

template<int Dim> void Integrator<Dim>::write_moved(std::size_t row) {
    const Lane own = lane(row);
    float* f = moved_.data() + row * kRow<Dim>;
    for (int k = 0; k < Dim; k++) f[k] = static_cast<float>(own[M::kPlace + k]);
    write_turn(narrow(turn(row)), f);
}

// A body that has not turned keeps its rotation to the bit.
template<int Dim> Rotation<Dim> Integrator<Dim>::rotation(std::size_t row) const {
    const auto turned = turn(row);
    const Rotation<Dim>& start = start_[row].rotation;
    return turned == wide(Rotation<Dim>{}) ? start : narrow(unit(product(turned, wide(start))));
}

template<int Dim>
void Integrator<Dim>::begin(const flow::Bodies<Dim>& bodies, std::span<const std::uint32_t> which,
                            const Vec<Dim>& gravity, double seconds,
                            std::span<const flow::Velocity<Dim>> speeding) {
    gravity_ = gravity;
    seconds_ = seconds;
    make_room(bodies.moving + 1 + lanes());
    body_.assign(which.begin(), which.end());
    dragged_.clear(), twisted_.clear(), locked_.clear(), field_pushes_.clear(), field_drags_.clear();
    pushed_.clear(), given_.clear(), given_at_.clear(), given_work_ = 0;
    const std::size_t padded = padded_row_count();
    start_.assign(padded, {});
    fields_.resize(padded * M::kFields);
    std::fill_n(fields_.data(), padded * M::kFields, 0.0);
    for (Floats* f : {&velocity_, &gained_, &moved_, &inertia_}) {
        f->resize(padded * kRow<Dim>);
        std::fill_n(f->data(), padded * kRow<Dim>, 0.0f);
    }
    for (std::size_t r = 0; r < padded; r++) {
        lane(r)[M::kTurn] = 1;
        if (r > 0 && r < row_count()) fill(bodies, r);
        write_moved(r);
    }
    if (speeding.empty()) return;
    for (std::size_t r = 1; r < row_count(); r++) {
        if (bodies.motion[body_[r - 1]] != Motion::Kinematic) continue;
        const flow::Velocity<Dim>& grows = speeding[body_[r - 1]];
        const Lane own = lane(r);
        for (int k = 0; k < Dim; k++) own[M::kAdded + k] = grows.linear[k] * seconds;
        for (int k = 0; k < M::kAxial; k++)
            own[M::kAdded + Dim + k] = math::component(grows.angular, k) * seconds;
    }
}

// For all that moves: how many of them are taken over at a time changes from tick to tick.
template<int Dim> void Integrator<Dim>::make_room(std::size_t rows) {
    for (auto* v : {&body_, &dragged_, &twisted_, &locked_}) base::make_room(*v, rows);
    base::make_room(start_, rows), base::make_room(watched_, rows);
    fields_.make_room(rows * M::kFields);
    for (Floats* f : {&velocity_, &gained_, &moved_, &inertia_}) f->make_room(rows * kRow<Dim>);
}

template<int Dim> void Integrator<Dim>::fill(const flow::Bodies<Dim>& bodies, std::size_t row) {
    const std::uint32_t i = body_[row - 1];
    const auto& mass = bodies.mass[i];
    const auto& free = bodies.free[i];
    const Lane own = lane(row);
    write(velocity_, row, bodies.velocity[i]);
    start_[row] = bodies.pose[i];
    for (int k = 0; k < Dim; k++) own[M::kRemainder + k] = bodies.remainder[i].linear[k];
    for (int k = 0; k < M::kAxial; k++)
        own[M::kRemainder + Dim + k] = math::component(bodies.remainder[i].angular, k);
    if (mass.inverse_mass > 0) {
        turn_inertia(bodies, row);
        if (!math::turns_freely(free.locks)) locked_.push_back(static_cast<std::uint32_t>(row));
    }
    fill_inertia(own, mass, start_[row].rotation, math::turns_freely(free.locks));
    if (bodies.motion[i] != Motion::Dynamic) return;
    push_linear(bodies, row, decay_of(free.linear_damping, seconds_));
    push_angular(bodies, row);
    if (free.drag > 0) dragged_.push_back(static_cast<std::uint32_t>(row));
    if (!mass.isotropic && math::magnitude(bodies.push[i].torque) > 0)
        twisted_.push_back(static_cast<std::uint32_t>(row));
}

template<int Dim>
void Integrator<Dim>::push_linear(const flow::Bodies<Dim>& bodies, std::size_t row, const Decay& decay) {
    const std::uint32_t i = body_[row - 1];
    const auto& free = bodies.free[i];
    const double inverse_mass = bodies.mass[i].inverse_mass;
    const Vec<Dim> force = push_of(bodies, row).force;
    const Lane own = lane(row);
    for (int k = 0; k < Dim; k++) {
        if (math::is_locked(free.locks, k)) continue;
        const double a = static_cast<double>(gravity_[k]) * free.gravity_scale + force[k] * inverse_mass;
        own[M::kLost + k] = decay.lost, own[M::kAdded + k] = a * decay.seconds;
    }
}

template<int Dim> void Integrator<Dim>::push_angular(const flow::Bodies<Dim>& bodies, std::size_t row) {
    const std::uint32_t i = body_[row - 1];
    const Lane own = lane(row);
    const Decay decay = decay_of(bodies.free[i].angular_damping, seconds_);
    const Axial<Dim> turning = inverse_inertia(row) * push_of(bodies, row).torque;
    for (int k = 0; k < M::kAxial; k++) {
        if (math::is_turn_locked(bodies.free[i].locks, k)) continue;
        own[M::kLost + Dim + k] = decay.lost;
        own[M::kAdded + Dim + k] = math::component(turning, k) * decay.seconds;
    }
}

template<int Dim> void Integrator<Dim>::turn_inertia(const flow::Bodies<Dim>& bodies, std::size_t row) {
    const auto& mass = bodies.mass[body_[row - 1]];
    const auto& locks = bodies.free[body_[row - 1]].locks;
    if (!math::turns_freely(locks))
        write_inertia(row, math::inverse_where_free(math::turned_tensor(mass.inertia, rotation(row)), locks));
    else if (mass.isotropic) write_inertia(row, mass.inverse_inertia);
    else write_inertia(row, math::turned_tensor(mass.inverse_inertia, rotation(row)));
}

template<int Dim> void Integrator<Dim>::advance_velocities(const flow::Bodies<Dim>& bodies) {
    for (const std::uint32_t r : dragged_) push_linear(bodies, r, dragged(bodies, r, velocity(r).linear));
    for (const std::uint32_t r : twisted_) push_angular(bodies, r);
    if (!pushed_.empty()) add_pushed(bodies);
    most_gained_ = kernels_->advance_velocities(fields_.data(), groups(), motion_rows());
    if (!pushed_.empty()) end_pushed(bodies);
    if (!given_.empty()) set_given(bodies);
}

template<int Dim> void Integrator<Dim>::advance_poses(const flow::Bodies<Dim>& bodies) {
    kernels_->advance_poses(fields_.data(), groups(), motion_rows(), seconds_);
    for (const std::uint32_t r : locked_) turn_inertia(bodies, r);
}

template<int Dim> std::span<const Watched> Integrator<Dim>::watch(std::span<const Path> paths, float time) {
    watched_.resize(static_cast<std::size_t>(groups()));
    const int found = kernels_->watch(paths.data(), groups(), motion_rows(), time,
                                      static_cast<float>(seconds_), watched_.data());
    return std::span<const Watched>(watched_).first(static_cast<std::size_t>(found));
}

template<int Dim> Point<Dim> Integrator<Dim>::place(std::size_t row) const {
    const auto own = lane(row);
    Point<Dim> out;
    for (int k = 0; k < Dim; k++) out[k] = own[M::kPlace + k];
    return out;
}

template<int Dim> flow::CentrePose<Dim> Integrator<Dim>::pose(std::size_t row) const {
    return {math::sum(start_[row].centre, place(row)), rotation(row)};
}

template<int Dim>
void Integrator<Dim>::stop(const flow::Bodies<Dim>& bodies, std::size_t row,
                           const flow::CentrePose<Dim>& pose, const flow::Velocity<Dim>& velocity,
                           double seconds) {
    put(row, pose);
    const auto lost = static_cast<float>(1 - seconds / seconds_);
    const flow::Velocity<Dim> gain = gained(row);
    write(velocity_, row, {velocity.linear - gain.linear * lost, velocity.angular - gain.angular * lost});
    turn_inertia(bodies, row);
}

template<int Dim> void Integrator<Dim>::slow(std::size_t row, float share) {
    const flow::Velocity<Dim> v = velocity(row);
    write(velocity_, row, {v.linear * share, v.angular * share});
    const Lane own = lane(row);
    for (int k = 0; k < Dim + M::kAxial; k++)
        own[M::kFree + k] *= static_cast<double>(share), own[M::kRemainder + k] = 0;
}

template<int Dim> void Integrator<Dim>::show(flow::Bodies<Dim>& bodies, std::size_t row) {
    const std::uint32_t i = body_[row - 1];
    const Lane own = lane(row);
    bodies.pose[i] = pose(row);
    // Zeros lose their sign, which may differ between kernels and means nothing.
    flow::Velocity<Dim> v = velocity(row), left;
    for (int k = 0; k < Dim; k++) {
        v.linear[k] += 0.0f;
        left.linear[k] = static_cast<float>(own[M::kRemainder + k]) + 0.0f;
    }
    for (int k = 0; k < M::kAxial; k++) {
        math::component(v.angular, k) += 0.0f;
        math::component(left.angular, k) = static_cast<float>(own[M::kRemainder + Dim + k]) + 0.0f;
    }
    bodies.velocity[i] = v, bodies.remainder[i] = left;
}

template<int Dim> void Integrator<Dim>::show(flow::Bodies<Dim>& bodies) {
    for (std::size_t r = 1; r < row_count(); r++) show(bodies, r);
}

template<int Dim>
void Integrator<Dim>::redirect(const flow::Bodies<Dim>& bodies, std::size_t row,
                               const flow::Velocity<Dim>& velocity, const flow::CentrePose<Dim>& pose,
                               bool keeps_spin) {
    const std::uint32_t i = body_[row - 1];
    flow::Velocity<Dim> v = velocity;
    if (!keeps_spin && !bodies.mass[i].isotropic)
        v.angular = math::axial_rotated(
            narrow(unit(product(wide(pose.rotation), inverse(wide(bodies.pose[i].rotation))))), v.angular);
    write(velocity_, row, v);
    const Lane own = lane(row);
    const flow::Velocity<Dim>& left = bodies.remainder[i];
    for (int k = 0; k < Dim; k++) own[M::kFree + k] = v.linear[k], own[M::kRemainder + k] = left.linear[k];
    for (int k = 0; k < M::kAxial; k++) {
        own[M::kFree + Dim + k] = math::component(v.angular, k);
        own[M::kRemainder + Dim + k] = math::component(left.angular, k);
    }
    put(row, pose);
}

// A body stands at a pose from now on.
template<int Dim> void Integrator<Dim>::put(std::size_t row, const flow::CentrePose<Dim>& pose) {
    const Lane own = lane(row);
    for (int k = 0; k < Dim; k++) own[M::kPlace + k] = pose.centre[k] - start_[row].centre[k];
    const auto turned = unit(product(wide(pose.rotation), inverse(wide(start_[row].rotation))));
    for (std::size_t k = 0; k < turned.size(); k++) own[M::kTurn + static_cast<int>(k)] = turned[k];
    write_moved(row);
}

template class Integrator<2>;
template class Integrator<3>;

}
