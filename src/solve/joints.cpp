#include "solve/joints.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/trig.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

constexpr double kTwoPi = 6.28318530717958647692;
// Poses that hold as exactly, m or rad, are left as they are.
constexpr double kExact = 1e-9;
// An error that is already there is taken back at no more than so many sizes of the smaller body a second, or
// rad a second: a body that was put elsewhere is reeled in and does not leap.
constexpr double kMostTakenBack = 10;
// A stop touches from so near, m or rad.
constexpr double kTouch = 1e-7;
// A spring of one mass follows its frequency exactly up to this square of its turn in a substep; above it is
// as stiff as that (explicit kicks are stable up to 4; several springs on a body add up).
constexpr double kMostTurnSquared = 1;
// An impulse that is so many times that of the substep before is a blow.
constexpr double kBlow = 2;
// The least and the most share of speed that damping takes in half a substep.
constexpr double kLeastDecay = 1e-9;

}

template<int Dim>
std::uint32_t JointSolver<Dim>::body_of(std::uint32_t place, const flow::Bodies<Dim>& bodies,
                                        std::span<const std::uint32_t> rows) {
    if (place == flow::kWorld) return kFixed;
    const std::uint32_t row = place < bodies.moving ? rows[place] : 0;
    if (row != 0 && here_[row] != 0) return here_[row];
    Body body;
    body.row = row, body.place = place;
    const auto& mass = bodies.mass[place];
    const Vec<Dim> inverse = math::inverse_mass(mass.inverse_mass, bodies.free[place].locks);
    for (std::size_t k = 0; k < Dim; k++) body.inverse_mass[k] = inverse[static_cast<int>(k)];
    body.precesses = mass.inverse_mass > 0 && !mass.isotropic;
    body.size = mass.inverse_mass > 0 && bodies.still[place].size > 0 ? bodies.still[place].size : 1;
    body.pose = {{}, math::turn_of(bodies.pose[place].rotation)};
    for (int k = 0; k < Dim; k++) body.pose.centre[k] = bodies.pose[place].centre[k];
    bodies_.push_back(body);
    const auto here = static_cast<std::uint32_t>(bodies_.size() - 1);
    if (row != 0) here_[row] = here;
    return here;
}

template<int Dim>
void JointSolver<Dim>::begin_tick(std::vector<flow::Joint<Dim>>& joints, std::span<const std::uint32_t> which,
                                  std::span<const std::uint8_t> further, const flow::Bodies<Dim>& bodies,
                                  std::span<const std::uint32_t> rows, const Integrator<Dim>& integrator,
                                  double seconds) {
    all_ = &joints, seconds_ = seconds, motor_work_ = 0;
    any_further_ = std::find(further.begin(), further.end(), true) != further.end();
    joints_.clear(), bodies_.clear(), is_.clear(), rows_.clear();
    if (which.empty()) return;
    base::make_room(here_, integrator.row_count());
    here_.assign(integrator.row_count(), 0);
    bodies_.emplace_back();
    for (std::size_t n = 0; n < which.size(); n++) {
        const std::uint32_t j = which[n];
        const flow::Joint<Dim>& joint = joints[j];
        Held h{};
        h.joint = j, h.further = further[n] != 0, h.fixed_b = joint.body_b == flow::kWorld;
        h.a = body_of(joint.body_a, bodies, rows), h.b = body_of(joint.body_b, bodies, rows);
        h.first = static_cast<std::uint32_t>(is_.size());
        is_.resize(h.first + flow::kMostJointRows);
        h.count = static_cast<std::uint32_t>(
            find_rows(joint, bodies_[h.a].pose, pose_b(h), &is_[h.first], axes_, Wants::Rows));
        is_.resize(h.first + h.count), rows_.resize(h.first + h.count);
        h.is_plain = true;
        h.precesses = bodies_[h.a].precesses || bodies_[h.b].precesses;
        h.most_back =
            kMostTakenBack * seconds *
            std::min(h.a == kFixed ? 1e30 : bodies_[h.a].size, h.b == kFixed ? 1e30 : bodies_[h.b].size);
        for (std::size_t k = 0; k < h.count; k++) {
            Row& row = rows_[h.first + k];
            h.is_plain = h.is_plain && is_[h.first + k].asks == Asks::Held;
            row.impulse = joint.load[k] * seconds, row.before = joint.load_before[k] * seconds;
            row.is_free = true;
        }
        joints_.push_back(h);
    }
    find_structure();
    plain_.assign(system_.part_count(), true);
    for (std::size_t part = 0; part < plain_.size(); part++)
        for (const std::uint32_t j : system_.blocks_of(part))
            if (!joints_[j].is_plain) plain_[part] = false;
    before_.resize(bodies_.size()), x_.resize(rows_.size());
    load(integrator), read_poses(integrator), read_masses(integrator);
    for (Held& h : joints_) find_rows_anew(h);
    begin_motors(integrator);
    for (std::size_t part = 0; part < system_.part_count(); part++) fill(part);
}

template<int Dim> void JointSolver<Dim>::find_structure() {
    shape_.clear();
    const auto moved = [&](std::uint32_t b) {
        const auto& m = bodies_[b].inverse_mass;
        return bodies_[b].row != 0 && std::any_of(m.begin(), m.end(), [](double x) { return x > 0; })
                   ? b
                   : kFixed;
    };
    for (const Held& h : joints_) shape_.push_back({moved(h.a), moved(h.b), h.count});
    if (shape_ == shape_before_) return;
    std::vector<typename BlockSystem::Block> blocks;
    std::vector<typename BlockSystem::Couple> couples;
    std::vector<std::vector<std::uint32_t>> of_body(bodies_.size());
    for (std::uint32_t n = 0; n < joints_.size(); n++) {
        blocks.push_back({joints_[n].count, joints_[n].first});
        for (const std::uint32_t b : {shape_[n].a, shape_[n].b}) {
            if (b == kFixed) continue;
            for (const std::uint32_t other : of_body[b])
                if (other != n) couples.push_back({other, n});
            of_body[b].push_back(n);
        }
    }
    system_.set_structure(blocks, couples);
    shape_before_ = shape_;
}

template<int Dim> void JointSolver<Dim>::read_masses(const Integrator<Dim>& integrator) {
    for (Body& b : bodies_) {
        if (b.row == 0) continue;
        const math::Inertia<Dim> m = integrator.inverse_inertia(b.row);
        if constexpr (Dim == 2) b.inverse_inertia[0] = m;
        else b.inverse_inertia = {m.xx, m.xy, m.xz, m.xy, m.yy, m.yz, m.xz, m.yz, m.zz};
    }
}

// A lever over the inertia.
template<int Dim, typename Body> Lever<Dim> over(const Body& body, const Lever<Dim>& lever) {
    Lever<Dim> out;
    for (std::size_t k = 0; k < Dim; k++) out[k] = lever[k] * body.inverse_mass[k];
    const auto& m = body.inverse_inertia;
    if constexpr (Dim == 2) out[2] = lever[2] * m[0];
    else
        for (std::size_t k = 0; k < 3; k++)
            out[3 + k] = (m[3 * k] * lever[3] + m[3 * k + 1] * lever[4]) + m[3 * k + 2] * lever[5];
    return out;
}

template<int Dim> WidePose<Dim> JointSolver<Dim>::pose_b(const Held& h) const {
    if (!h.fixed_b) return bodies_[h.b].pose;
    const flow::Joint<Dim>& joint = (*all_)[h.joint];
    WidePose<Dim> out{{}, math::turn_of(Rotation<Dim>{})};
    for (int k = 0; k < Dim; k++) out.centre[k] = joint.fixed[k];
    return out;
}

// The rows of a joint where its bodies are, with their masses; impulses stay.
template<int Dim> void JointSolver<Dim>::find_rows_anew(Held& h) {
    const Body &a = bodies_[h.a], &b = bodies_[h.b];
    find_rows((*all_)[h.joint], a.pose, pose_b(h), &is_[h.first], axes_, Wants::Rows);
    h.arm_a = axes_.arm_a;
    for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
        const JointRow<Dim>& is = is_[n];
        Row& row = rows_[n];
        row.over_a = over<Dim>(a, is.a), row.over_b = over<Dim>(b, is.b);
        row.own = product(is.a, row.over_a) + product(is.b, row.over_b);
        if (is.asks == Asks::Held) continue;
        row.is_bounded = true;
        choose_stop(n), soften(n);
    }
}

// Damping takes the share f of speed in a substep: a unit impulse gives way by own (1 - f) / f.
template<int Dim> void JointSolver<Dim>::soften(std::uint32_t n) {
    Row& row = rows_[n];
    const JointRow<Dim>& is = is_[n];
    row.soft = row.pull = 0;
    row.is_soft = false;
    if (is.of == nullptr || !(row.own > 0)) return;
    const Springing& s = is.asks == Asks::Range ? is.of->limits.spring : is.of->motor.spring;
    if (s == Springing{}) return;
    row.is_soft = true;
    const double rate = s.frequency > 0 ? kTwoPi * s.frequency : std::sqrt(s.stiffness * row.own),
                 decay = s.frequency > 0 ? 2 * s.damping_ratio * rate : s.damping * row.own;
    const double sine = math::sin_cos(std::min(0.5 * rate * seconds_, 0.6)).sin;
    const double square = std::min(4 * sine * sine, kMostTurnSquared);
    const double share = std::clamp(1 - math::exponential(-decay * seconds_), kLeastDecay, 1.0);
    row.soft = row.own * (1 - share) / share;
    row.pull = square / (2 * seconds_ * row.own);
}

template<int Dim> void JointSolver<Dim>::load(const Integrator<Dim>& integrator) {
    for (std::size_t n = 0; n < bodies_.size(); n++) {
        Body& b = bodies_[n];
        if (b.row == 0) continue;
        integrator.read_wide(b.row, b.v);
        before_[n] = b.v;
    }
}

template<int Dim> void JointSolver<Dim>::read_poses(const Integrator<Dim>& integrator) {
    for (Body& b : bodies_)
        if (b.row != 0) b.pose = {integrator.wide_centre(b.row), integrator.wide_turn(b.row)};
}

template<int Dim> void JointSolver<Dim>::store(Integrator<Dim>& integrator, bool as_gain) {
    for (std::size_t n = 0; n < bodies_.size(); n++) {
        const Body& b = bodies_[n];
        if (b.row == 0 || b.v == before_[n]) continue;
        integrator.write_wide(b.row, b.v, as_gain);
    }
}

// Impulses act along the rows as they are.
template<int Dim> void JointSolver<Dim>::begin(Integrator<Dim>& integrator) {
    load(integrator);
    for (const Held& h : joints_)
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) give(h, n, rows_[n].impulse);
    store(integrator, true);
}

// How far a row has come from where it should be, m or rad: of what holds and of stops, from there; of
// motors, from where their speed takes them. An error that stood there before this substep is taken back at a
// bounded speed.
template<int Dim> double JointSolver<Dim>::error_of(const Held& h, std::uint32_t n) {
    Row& r = rows_[n];
    const JointRow<Dim>& is = is_[n];
    if (r.is_soft) return 0;
    if (is.asks == Asks::Drive) return (is.position - r.last) - r.wanted * seconds_;
    const double most = is.turns ? kMostTakenBack * seconds_ : h.most_back, error = is.position - r.stop;
    const double back = (error - r.left) + std::clamp(r.left, -most, most);
    r.left = error - back;
    return back;
}

// A range is at one of its stops, or at none: it is free to move.
template<int Dim> void JointSolver<Dim>::choose_stop(std::uint32_t n) {
    Row& r = rows_[n];
    const JointRow<Dim>& is = is_[n];
    if (is.asks != Asks::Range) return;
    const Limits& l = is.of->limits;
    const bool lower = is.position - l.lower <= l.upper - is.position;
    r.stop = lower ? l.lower : l.upper;
    const double beyond = lower ? r.stop - is.position : is.position - r.stop;
    const bool both = l.lower == l.upper, stopped = both || beyond >= -kTouch;
    if (!stopped) r.left = 0;
    r.least = stopped && (both || !lower) ? -kInfinite : 0;
    r.most = stopped && (both || lower) ? kInfinite : 0;
    r.is_free = stopped;
}

// A range that has passed a stop in the substep meets it, one that has left its stop is free. Returns whether
// its set has changed.
template<int Dim> bool JointSolver<Dim>::meet_stop(std::uint32_t n) {
    Row& r = rows_[n];
    const JointRow<Dim>& is = is_[n];
    if (is.asks != Asks::Range || r.is_soft) return false;
    const bool was_free = r.is_free;
    const Limits& l = is.of->limits;
    if (l.lower == l.upper) return false;
    if (is.position < l.lower || is.position > l.upper) {
        r.stop = is.position < l.lower ? l.lower : l.upper;
        r.is_free = true;
    } else if (is.position > l.lower + kTouch && is.position < l.upper - kTouch) r.is_free = false;
    return r.is_free != was_free;
}

template<int Dim>
void JointSolver<Dim>::correct(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator) {
    project_poses(bodies, integrator);
    load(integrator), read_poses(integrator);
    if constexpr (Dim == 3) read_masses(integrator); // in the plane they stay
    turn_half();
    store(integrator);
}

// Takes the poses to where all that is held holds, along the rows at the substep's start, whose system
// stands: by a change of velocity that lasts a substep only.
template<int Dim>
void JointSolver<Dim>::project_poses(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator) {
    read_poses(integrator);
    for (Body& b : bodies_) b.v = {};
    for (std::size_t part = 0; part < system_.part_count(); part++) {
        bool is_smooth = true;
        const double worst = find_errors(part, is_smooth);
        if (!(worst * seconds_ > kExact)) continue;
        system_.solve(part, x_);
        for_rows(part, [&](const Held& h, std::uint32_t n) {
            if (!rows_[n].is_free) return;
            give(h, n, x_[n]);
            if (is_smooth) rows_[n].moved = x_[n];
        });
    }
    move_poses(bodies, integrator);
}

// The speeds that take a part's rows back in a substep, as the right side; returns the greatest, and whether
// neither a stop nor a motor nor what precesses has part in it.
template<int Dim> double JointSolver<Dim>::find_errors(std::size_t part, bool& is_smooth) {
    const double rate = 1 / seconds_;
    double worst = 0;
    bool changed = false;
    for (const std::uint32_t j : system_.blocks_of(part)) {
        const Held& h = joints_[j];
        is_smooth = is_smooth && !h.precesses;
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) rows_[n].last = is_[n].position;
        find_rows((*all_)[h.joint], bodies_[h.a].pose, pose_b(h), &is_[h.first], axes_, Wants::Positions);
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            r.moved = 0;
            if (r.is_bounded) changed = meet_stop(n) || changed;
            x_[n] = r.is_free ? -error_of(h, n) * rate : 0;
            const double size = std::fabs(x_[n]);
            worst = std::max(worst, size);
            is_smooth = is_smooth && (!r.is_bounded || size * seconds_ <= kExact);
        }
    }
    if (changed) fill(part);
    return worst;
}

template<int Dim>
void JointSolver<Dim>::move_poses(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator) {
    const Lever<Dim> none{};
    for (const Body& b : bodies_) {
        if (b.row == 0 || b.v == none) continue;
        Lever<Dim> way{};
        add(way, b.v, seconds_);
        integrator.move_on(bodies, b.row, way);
    }
}

// Half of each impulse acts along the rows as they now are instead of as they were.
template<int Dim> void JointSolver<Dim>::turn_half() {
    for (Held& h : joints_) {
        Lever<Dim> given_a{}, given_b{};
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            const double half = 0.5 * r.impulse, given = r.moved - half;
            r.first = half + r.moved, r.untold += r.first;
            r.impulse = r.first + half;
            add(given_a, is_[n].a, given), add(given_b, is_[n].b, given);
        }
        add(bodies_[h.a].v, over<Dim>(bodies_[h.a], given_a), 1);
        add(bodies_[h.b].v, over<Dim>(bodies_[h.b], given_b), 1);
        add_load(h);
    }
    for (Held& h : joints_) {
        find_rows_anew(h);
        for (std::uint32_t n = h.first; n < h.first + h.count; n++)
            give(h, n, rows_[n].impulse - rows_[n].first);
    }
    for (std::size_t part = 0; part < system_.part_count(); part++) fill(part);
}

// The impulses along the rows as they are, added up on the first body about its anchor.
template<int Dim> void JointSolver<Dim>::add_load(Held& h) {
    Lever<Dim> load{};
    for (std::uint32_t n = h.first; n < h.first + h.count; n++)
        add(load, is_[n].a, rows_[n].untold), rows_[n].untold = 0;
    math::Wide<Dim> linear;
    for (std::size_t k = 0; k < Dim; k++) linear[static_cast<int>(k)] = load[k];
    const auto moment = cross(h.arm_a, linear);
    add(h.sum, load, 1);
    if constexpr (Dim == 2) h.sum[2] -= moment;
    else
        for (int k = 0; k < 3; k++) h.sum[std::size_t{3} + static_cast<std::size_t>(k)] -= moment[k];
}

// The impulse with which the next substep begins: of springs that of their length now; of others that of this
// one, unless it was a blow, whose reaction would act once more on bodies that are free of the joint for a
// moment, and look like another blow.
template<int Dim> void JointSolver<Dim>::foresee(std::uint32_t n) {
    Row& r = rows_[n];
    const double now = r.impulse, before = r.before;
    r.before = now;
    if (!r.is_soft) {
        if (std::fabs(now) > kBlow * std::fabs(before)) r.impulse = before;
        return;
    }
    const JointRow<Dim>& is = is_[n];
    const bool is_motor = is.asks == Asks::Drive;
    if (is_motor && !is.of->motor.target) {
        r.impulse = 0;
        return;
    }
    const double to = is_motor ? double{*is.of->motor.target} : r.stop;
    r.impulse = std::clamp(-2 * r.pull * (is.position - to), r.least, r.most);
}

template<int Dim> void JointSolver<Dim>::end() {
    for (Held& h : joints_)
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            r.untold += r.impulse - r.first; // the other half acted along the old rows
            if (is_[n].asks == Asks::Drive) {
                h.motor[is_[n].axis] += r.impulse;
                const double now = speed(h, n);
                if (is_[n].of != nullptr) motor_work_ += r.impulse * 0.5 * (r.speed + now);
                r.speed = now;
            }
            if (is_[n].asks == Asks::Range) h.stop[is_[n].axis] += r.impulse;
            foresee(n);
        }
}

template<int Dim> void JointSolver<Dim>::end_tick(std::vector<flow::Joint<Dim>>& joints, int substeps) {
    const double rate = 1 / seconds_, mean = rate / substeps;
    for (Held& h : joints_) {
        flow::Joint<Dim>& joint = joints[h.joint];
        add_load(h);
        find_rows(joint, bodies_[h.a].pose, pose_b(h), &is_[h.first], axes_, Wants::All);
        const auto free_axes = static_cast<std::size_t>(axis_count<Dim>(joint.kind));
        for (std::size_t k = 0; k < 3; k++) {
            if (k < free_axes) joint.axes[k].position = axes_.position[k]; // the others are another joint's
            joint.motor_load[k] = static_cast<float>(h.motor[k] * mean);
            joint.stop_load[k] = static_cast<float>(h.stop[k] * mean);
        }
        for (std::uint32_t k = 0; k < h.count; k++) {
            joint.load[k] = static_cast<float>(rows_[h.first + k].impulse * rate);
            joint.load_before[k] = static_cast<float>(rows_[h.first + k].before * rate);
        }
        math::Wide<Dim> force;
        for (std::size_t k = 0; k < Dim; k++) force[static_cast<int>(k)] = h.sum[k] * mean;
        joint.force = math::narrowed(force);
        for (int k = 0; k < math::kAxialSize<Dim>; k++)
            math::component(joint.torque, k) =
                static_cast<float>(h.sum[std::size_t{Dim} + static_cast<std::size_t>(k)] * mean);
    }
}

template class JointSolver<2>;
template class JointSolver<3>;

}
