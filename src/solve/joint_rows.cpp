#include "solve/joint_rows.h"

#include "math/trig.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

using flow::JointKind;
using math::Wide;
using math::Wide2;
using math::Wide3;

constexpr double kTwoPi = 6.28318530717958647692;

ASTASIS_INLINE void put(Lever<2>& lever, const Wide2& linear, double angular) {
    lever = {linear[0], linear[1], angular};
}
ASTASIS_INLINE void put(Lever<3>& lever, const Wide3& linear, const Wide3& angular) {
    lever = {linear[0], linear[1], linear[2], angular[0], angular[1], angular[2]};
}

template<int Dim> math::Turn<Dim> product(const math::Turn<Dim>& t, const math::Turn<Dim>& u) {
    math::Turn<Dim> out;
    for (std::size_t k = 0; k < Dim; k++) out.column[k] = t * u.column[k];
    return out;
}

// The angle nearest to one before it.
double counted_on(double angle, double before) {
    return angle + kTwoPi * std::floor((before - angle) / kTwoPi + 0.5);
}

// Writes the rows of one joint at one pair of poses. The first body moves against the second, which is its
// base. Axes of a frame are its columns.
template<int Dim> class Maker {
public:
    Maker(const flow::Joint<Dim>& joint, const WidePose<Dim>& a, const WidePose<Dim>& b, JointRow<Dim>* rows,
          JointAxes<Dim>& axes, Wants wants)
        : joint_(joint), next_(rows), axes_(axes), wants_(wants), a_(a), b_(b),
          arm_mover_(a.turn * math::widened(joint.at_a)), arm_base_(b.turn * math::widened(joint.at_b)),
          place_mover_(a.centre + arm_mover_), place_base_(b.centre + arm_base_),
          apart_(place_mover_ - place_base_) {
        axes.arm_a = arm_mover_;
    }

    // Returns one past the last row.
    JointRow<Dim>* make();

private:
    using AxialOf = std::conditional_t<Dim == 2, double, Wide3>;

    struct Both {
        Lever<Dim> mover, base;
    };
    // The axes of the frames, for joints that look at them.
    void find_axes() {
        mover_ = product(a_.turn, math::turn_of(joint_.turn_a));
        base_ = product(b_.turn, math::turn_of(joint_.turn_b));
    }
    // Whether a free axis is looked at: its angle costs an arctangent.
    bool looks_at(std::size_t axis) const {
        const flow::JointAxis& of = joint_.axes[axis];
        return wants_ == Wants::All || of.motor.most > 0 || of.limits.lower > -kUnlimited ||
               of.limits.upper < kUnlimited;
    }
    [[gnu::always_inline]] JointRow<Dim>& next(Asks asks, const Both& levers, double position, bool turns) {
        JointRow<Dim>& row = *next_++;
        row.position = position;
        if (wants_ == Wants::Positions) return row;
        row.a = levers.mover, row.b = levers.base;
        row.asks = asks, row.turns = turns, row.axis = 0, row.most = 0, row.of = nullptr;
        return row;
    }
    // The mover's anchor along a direction, against a place on the base.
    [[gnu::always_inline]] Both along(const Wide<Dim>& n, const Wide<Dim>& arm_base) const {
        Both out;
        if (wants_ == Wants::Positions) return out;
        put(out.mover, n, cross(arm_mover_, n)), put(out.base, -n, -cross(arm_base, n));
        return out;
    }
    [[gnu::always_inline]] Both about(const AxialOf& axis) const {
        Both out;
        if (wants_ == Wants::Positions) return out;
        put(out.mover, {}, axis), put(out.base, {}, -axis);
        return out;
    }
    // Along an axis that turns with the base: the place on it that counts is beside the mover's anchor.
    [[gnu::always_inline]] Both along_its(const Wide<Dim>& n) const { return along(n, arm_base_ + apart_); }

    [[gnu::always_inline]] void held(const Both& levers, double error, bool turns = false) {
        next(Asks::Held, levers, error, turns);
    }
    // A free axis: its stops and its motor are rows where it has them.
    void free(std::size_t axis, const Both& levers, double position, bool turns) {
        const flow::JointAxis& of = joint_.axes[axis];
        if (turns) position = counted_on(position, of.position);
        axes_.position[axis] = position;
        if (wants_ == Wants::All) axes_.a[axis] = levers.mover, axes_.b[axis] = levers.base;
        const auto fill = [&](JointRow<Dim>& row) {
            row.axis = static_cast<std::uint8_t>(axis), row.of = &of, row.most = of.motor.most;
        };
        if (of.limits.lower > -kUnlimited || of.limits.upper < kUnlimited)
            fill(next(Asks::Range, levers, position, turns));
        if (of.motor.most > 0) fill(next(Asks::Drive, levers, position, turns));
    }

    [[gnu::always_inline]] void point() {
        for (int k = 0; k < Dim; k++) {
            Wide<Dim> n{};
            n[k] = 1;
            held(along(n, arm_base_), apart_[k]);
        }
    }
    void hold_turn();
    // Two axes, one of each body, are to be square.
    void square(const Wide3& of_base, const Wide3& of_mover) {
        held(about(cross(of_mover, of_base)), dot(of_base, of_mover), true);
    }
    double turn_about(const Wide3& axis, const Wide3& from, const Wide3& to) const {
        return math::arc_tangent(dot(cross(from, to), axis), dot(from, to));
    }
    void hinge();
    void slider();
    void distance();
    void ball();
    void universal();
    void wheel();
    void pulley();
    void gear();
    void tow();

    const flow::Joint<Dim>& joint_;
    JointRow<Dim>* next_;
    JointAxes<Dim>& axes_;
    Wants wants_;
    const WidePose<Dim>&a_, &b_;
    Wide<Dim> arm_mover_, arm_base_, place_mover_, place_base_, apart_;
    math::Turn<Dim> mover_, base_;
};

template<> void Maker<2>::hold_turn() {
    const Wide2 &x = base_.column[0], &y = mover_.column[0];
    held(about(1), math::arc_tangent(cross(x, y), dot(x, y)), true);
}
template<> void Maker<3>::hold_turn() {
    const auto &base = base_.column, &mover = mover_.column;
    for (std::size_t k = 0; k < 3; k++) square(base[k], mover[(k + 1) % 3]);
}

template<> void Maker<2>::hinge() {
    point();
    if (!looks_at(0)) return;
    find_axes();
    const Wide2 &x = base_.column[0], &y = mover_.column[0];
    free(0, about(1), math::arc_tangent(cross(x, y), dot(x, y)), true);
}
// The axis is the third of each frame.
template<> void Maker<3>::hinge() {
    point();
    const auto &base = base_.column, &mover = mover_.column;
    square(base[0], mover[2]), square(base[1], mover[2]);
    if (looks_at(0)) free(0, about(base[2]), turn_about(base[2], base[0], mover[0]), true);
}

// The line is the first axis of the base.
template<int Dim> void Maker<Dim>::slider() {
    const auto& base = base_.column;
    for (std::size_t k = 1; k < Dim; k++) held(along_its(base[k]), dot(base[k], apart_));
    hold_turn();
    free(0, along_its(base[0]), dot(base[0], apart_), false);
}

// Rods hold their length, for ropes and springs it is a free axis. Two places at one point have no direction:
// the first axis stands for it.
template<int Dim> void Maker<Dim>::distance() {
    const double length = math::norm(apart_);
    const Both levers = along(math::unit(apart_, base_.column[0]), arm_base_);
    if (joint_.kind == JointKind::Rod) held(levers, length - joint_.length);
    free(0, levers, length, false); // a rod has neither stops nor a motor
}

// The limb is the first axis of each frame. Swing and twist of a rotation q = (w, x, y, z) of the mover
// against the base: the twist is 2 atan(x / w) (Dobrowolski 2015, Swing-twist decomposition in Clifford
// algebra).
template<> void Maker<2>::ball() {}
template<> void Maker<3>::ball() {
    point();
    if (!looks_at(0) && !looks_at(1) && !(joint_.friction > 0)) return;
    find_axes();
    const auto &base = base_.column, &mover = mover_.column;
    const Wide3 across = cross(base[0], mover[0]);
    const double cosine = dot(base[0], mover[0]), swing = math::arc_tangent(math::norm(across), cosine);
    free(0, about(math::unit(across, base[2])), swing, true);
    // Of the rotation matrix r_ik = a_i . b_k the quaternion has x : w = (r_21 - r_12) : (1 + trace).
    const double x = dot(base[2], mover[1]) - dot(base[1], mover[2]),
                 w = 1 + ((dot(base[0], mover[0]) + dot(base[1], mover[1])) + dot(base[2], mover[2]));
    const Wide3 mean = (base[0] + mover[0]) * (1 / std::max(1 + cosine, 1e-3));
    free(1, about(mean), 2 * math::arc_tangent(x, w), true);
    if (!(joint_.friction > 0)) return;
    for (std::size_t k = 0; k < 3; k++) {
        JointRow<3>& row = next(Asks::Drive, about(base[k]), 0, true);
        row.axis = 2, row.most = joint_.friction;
    }
}

// The mover's shaft is the first axis of its frame, that of the base the third of its own.
template<> void Maker<2>::universal() {}
template<> void Maker<3>::universal() {
    point();
    const auto &base = base_.column, &mover = mover_.column;
    square(base[2], mover[0]);
    free(0, about(mover[0]), turn_about(mover[0], base[2], mover[2]), true);
    free(1, about(base[2]), turn_about(base[2], base[0], mover[0]), true);
}

// The base's first axis is forward, the second its way of travel, the third the axle as it stands straight
// on.
template<> void Maker<2>::wheel() {
    const auto &base = base_.column, &mover = mover_.column;
    held(along_its(base[0]), dot(base[0], apart_));
    free(0, along_its(base[1]), dot(base[1], apart_), false);
    free(1, about(1), math::arc_tangent(cross(base[0], mover[0]), dot(base[0], mover[0])), true);
}
template<> void Maker<3>::wheel() {
    const auto &base = base_.column, &mover = mover_.column;
    held(along_its(base[0]), dot(base[0], apart_)), held(along_its(base[2]), dot(base[2], apart_));
    square(base[1], mover[2]);
    free(0, along_its(base[1]), dot(base[1], apart_), false);
    const Wide3 forward = math::unit(cross(base[1], mover[2]), base[0]);
    free(1, about(mover[2]), turn_about(mover[2], forward, mover[0]), true);
    free(2, about(base[1]), turn_about(base[1], base[2], mover[2]), true);
}

template<int Dim> void Maker<Dim>::pulley() {
    const auto from = [](const Point<Dim>& p, const Wide<Dim>& place) {
        Wide<Dim> out = place;
        for (int k = 0; k < Dim; k++) out[k] = place[k] - p[k];
        return out;
    };
    const Wide<Dim> way_a = from(joint_.over_a, place_mover_), way_b = from(joint_.over_b, place_base_);
    const Wide<Dim> down = -base_.column[1], n_a = math::unit(way_a, down),
                    n_b = math::unit(way_b, down) * joint_.ratio;
    Both levers;
    put(levers.mover, n_a, cross(arm_mover_, n_a)), put(levers.base, n_b, cross(arm_base_, n_b));
    free(0, levers, math::norm(way_a) + joint_.ratio * math::norm(way_b), false);
}

// Each body's turn about its axis in the world, counted on; the first of each frame stands at a right angle
// to it.
template<> void Maker<2>::gear() {
    const auto of = [&](const Wide2& x, std::size_t k) {
        return counted_on(math::arc_tangent(x[1], x[0]), joint_.axes[k].position);
    };
    const double a = of(mover_.column[0], 0), b = of(base_.column[0], 1);
    Both levers;
    put(levers.mover, {}, 1), put(levers.base, {}, joint_.ratio);
    axes_.position[0] = a, axes_.position[1] = b, axes_.a[0] = levers.mover;
    held(levers, a + joint_.ratio * b, true);
}
template<> void Maker<3>::gear() {
    const auto of = [&](const math::Turn<3>& now, const Rotation<3>& then, std::size_t k) {
        // `then` is the frame at the start of the turn, whose third axis is that of the gear.
        const math::Turn<3> start = math::turn_of(then);
        const double angle = turn_about(start.column[2], start.column[0], now.column[0]);
        return counted_on(angle, joint_.axes[k].position);
    };
    const double a = of(mover_, joint_.start_a, 0), b = of(base_, joint_.start_b, 1);
    Both levers;
    put(levers.mover, {}, mover_.column[2]), put(levers.base, {}, base_.column[2] * joint_.ratio);
    axes_.position[0] = a, axes_.position[1] = b, axes_.a[0] = levers.mover;
    held(levers, a + joint_.ratio * b, true);
}

// The force along each axis of the world is bounded by its part of the way, and a tenth at least, which
// damps.
template<int Dim> void Maker<Dim>::tow() {
    constexpr double kAcross = 0.1;
    const double length = math::norm(apart_);
    const Both away = along(math::unit(apart_, base_.column[0]), arm_base_);
    axes_.position[0] = length, axes_.a[0] = away.mover, axes_.b[0] = away.base;
    for (int k = 0; k < Dim; k++) {
        Wide<Dim> n{};
        n[k] = 1;
        JointRow<Dim>& row = next(Asks::Drive, along(n, arm_base_), apart_[k], false);
        row.of = &joint_.axes[0];
        const double share = length > 0 ? std::fabs(apart_[k]) / length : 1;
        row.most = joint_.axes[0].motor.most * static_cast<float>(std::max(share, kAcross));
    }
}

template<int Dim> JointRow<Dim>* Maker<Dim>::make() {
    const bool is_bare = (Dim == 2 && joint_.kind == JointKind::Hinge) || joint_.kind == JointKind::Ball;
    if (!is_bare) find_axes(); // those look at their axes only where something asks for them
    switch (joint_.kind) {
    case JointKind::Hinge: hinge(); break;
    case JointKind::Slider: slider(); break;
    case JointKind::Weld: point(), hold_turn(); break;
    case JointKind::Rod:
    case JointKind::Rope:
    case JointKind::Spring: distance(); break;
    case JointKind::Ball: ball(); break;
    case JointKind::Universal: universal(); break;
    case JointKind::Wheel: wheel(); break;
    case JointKind::Pulley: pulley(); break;
    case JointKind::Gear: gear(); break;
    case JointKind::Tow: tow(); break;
    }
    return next_;
}

}

template<int Dim>
std::size_t find_rows(const flow::Joint<Dim>& joint, const WidePose<Dim>& a, const WidePose<Dim>& b,
                      JointRow<Dim>* rows, JointAxes<Dim>& axes, Wants wants) {
    return static_cast<std::size_t>(Maker<Dim>(joint, a, b, rows, axes, wants).make() - rows);
}

template<int Dim> int axis_count(JointKind kind) {
    switch (kind) {
    case JointKind::Weld: return 0;
    case JointKind::Ball:
    case JointKind::Universal: return 2;
    case JointKind::Wheel: return Dim == 2 ? 2 : 3;
    default: return 1;
    }
}

template std::size_t find_rows(const flow::Joint<2>&, const WidePose<2>&, const WidePose<2>&, JointRow<2>*,
                               JointAxes<2>&, Wants);
template std::size_t find_rows(const flow::Joint<3>&, const WidePose<3>&, const WidePose<3>&, JointRow<3>*,
                               JointAxes<3>&, Wants);
template int axis_count<2>(JointKind);
template int axis_count<3>(JointKind);

}
