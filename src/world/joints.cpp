// Joints as a world holds them: adding and removing, edits, what they tell, and who of them has something to
// do.
#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "world/make_joint.h"
#include "world/state.h"

#include <algorithm>
#include <cmath>

namespace astasis {
namespace {

template<int Dim>
solve::WidePose<Dim> wide_pose(const flow::Joint<Dim>& joint, const flow::Bodies<Dim>& bodies,
                               std::uint32_t body) {
    const Point<Dim>& at = body == flow::kWorld ? joint.fixed : bodies.pose[body].centre;
    solve::WidePose<Dim> out{
        {}, math::turn_of(body == flow::kWorld ? Rotation<Dim>{} : bodies.pose[body].rotation)};
    for (int k = 0; k < Dim; k++) out.centre[k] = at[k];
    return out;
}

template<int Dim> double rate(const solve::Lever<Dim>& lever, const flow::Velocity<Dim>& v) {
    double sum = 0;
    for (int k = 0; k < Dim; k++)
        sum += lever[static_cast<std::size_t>(k)] * static_cast<double>(v.linear[k]);
    for (int k = 0; k < math::kAxialSize<Dim>; k++)
        sum += lever[std::size_t{Dim} + static_cast<std::size_t>(k)] *
               static_cast<double>(math::component(v.angular, k));
    return sum;
}

template<int Dim> JointState<Dim> state_of(const flow::Joint<Dim>& joint, const flow::Bodies<Dim>& bodies) {
    const auto a = wide_pose(joint, bodies, joint.body_a), b = wide_pose(joint, bodies, joint.body_b);
    const solve::JointRows<Dim> rows = solve::all_rows(joint, a, b);
    JointState<Dim> out;
    out.broken = joint.broken;
    out.axis_count = solve::axis_count<Dim>(joint.kind);
    for (std::size_t k = 0; k < static_cast<std::size_t>(out.axis_count); k++) {
        auto& axis = out.axes[k];
        axis.position = static_cast<float>(rows.axes.position[k]);
        double speed = rate<Dim>(rows.axes.a[k], bodies.velocity[joint.body_a]);
        if (joint.body_b != flow::kWorld) speed += rate<Dim>(rows.axes.b[k], bodies.velocity[joint.body_b]);
        axis.speed = static_cast<float>(speed);
        const solve::Lever<Dim>& lever = rows.axes.a[k];
        for (int i = 0; i < Dim; i++)
            out.directions[k][i] = static_cast<float>(lever[static_cast<std::size_t>(i)]);
        if constexpr (Dim == 3)
            if (out.directions[k] == Vec<Dim>{})
                for (int i = 0; i < Dim; i++)
                    out.directions[k][i] =
                        static_cast<float>(lever[std::size_t{3} + static_cast<std::size_t>(i)]);
        if (joint.broken) continue;
        axis.motor = joint.motor_load[k], axis.stop = joint.stop_load[k];
    }
    double stretch = 0, turned = 0;
    for (std::size_t k = 0; k < rows.count; k++)
        if (rows.row[k].asks == solve::Asks::Held)
            (rows.row[k].turns ? turned : stretch) += rows.row[k].position * rows.row[k].position;
    out.stretch = static_cast<float>(std::sqrt(stretch)), out.turned = static_cast<float>(std::sqrt(turned));
    const auto anchor = [&](std::uint32_t body, const Vec<Dim>& at) {
        return body == flow::kWorld ? joint.fixed
                                    : bodies.pose[body].centre + rotate(bodies.pose[body].rotation, at);
    };
    out.anchor_a = anchor(joint.body_a, joint.at_a), out.anchor_b = anchor(joint.body_b, joint.at_b);
    if (!joint.broken) out.force = joint.force, out.torque = joint.torque;
    return out;
}

}

template<int Dim> std::uint32_t World<Dim>::State::joint_place(JointId id) const {
    const std::uint32_t i = joint_slots.place(id);
    if (i == base::SlotMap<JointId>::kNone)
        throw Error("joint id",
                    id == JointId{} ? std::string("one that was never set")
                                    : "index " + std::to_string(id.index) + ", generation " +
                                          std::to_string(id.generation) + ", which is stale",
                    "the id of a joint of this world, made by add_joint");
    return i;
}

// The places of a body's joints' bodies, after it has changed its own.
template<int Dim> void World<Dim>::State::place_joints(std::uint32_t i) {
    for (const JointId id : rows[i].joints) {
        const std::uint32_t j = joint_slots.place(id);
        joints[j].body_a = slots.place(joint_entries[j].a);
        if (joint_entries[j].b) joints[j].body_b = slots.place(*joint_entries[j].b);
    }
    active_joints_known = false;
}

// Their anchors, after its centre of mass has changed.
template<int Dim> void World<Dim>::State::fit_joints(std::uint32_t i) {
    for (const JointId id : rows[i].joints) {
        const std::uint32_t j = joint_slots.place(id);
        const Joined<Dim>& joins = joined<Dim>(joint_entries[j].spec);
        if (joints[j].body_a == i) joints[j].at_a = *joins.on_a - bodies.mass[i].centre;
        if (joints[j].body_b == i) joints[j].at_b = *joins.on_b - bodies.mass[i].centre;
    }
    active_joints_known = false;
}

template<int Dim> void World<Dim>::State::find_active_joints() {
    if (active_joints_known) return;
    active_joints_known = true;
    active_joints.clear();
    const auto moves = [&](std::uint32_t i) { return i < bodies.moving && bodies.mass[i].inverse_mass > 0; };
    for (std::uint32_t j = 0; j < joints.size(); j++)
        if (!joints[j].broken && (moves(joints[j].body_a) || moves(joints[j].body_b)))
            active_joints.push_back(j);
}

// The sleepers at the other ends of a body's joints.
template<int Dim> void World<Dim>::State::wake_joined(std::uint32_t i) {
    const BodyId id = slots.ids()[i];
    for (std::size_t k = 0; k < rows[place(id)].joints.size(); k++) {
        const JointEntry& e = joint_entries[joint_place(rows[place(id)].joints[k])];
        if (e.b) wake(place(e.a == id ? *e.b : e.a));
    }
}

template<int Dim> void World<Dim>::State::drop_joint(JointId id) {
    const JointEntry entry = joint_entries[joint_place(id)];
    disturbed_place(entry.a);
    if (entry.b) disturbed_place(*entry.b);
    std::erase(rows[place(entry.a)].joints, id);
    if (entry.b) std::erase(rows[place(*entry.b)].joints, id);
    const std::uint32_t gap = joint_slots.remove(id);
    joints[gap] = joints.back(), joint_entries[gap] = joint_entries.back();
    joints.pop_back(), joint_entries.pop_back();
    active_joints_known = false;
}

template<int Dim> bool World<Dim>::State::keeps_apart(std::uint32_t i, std::uint32_t j) const {
    const auto &p = rows[i].joints, &q = rows[j].joints;
    if (p.empty() || q.empty()) return false;
    const auto& fewer = p.size() < q.size() ? p : q;
    return std::any_of(fewer.begin(), fewer.end(), [&](JointId id) {
        const flow::Joint<Dim>& joint = joints[joint_slots.place(id)];
        const bool same =
            (joint.body_a == i && joint.body_b == j) || (joint.body_a == j && joint.body_b == i);
        return same && !joint.collide && !joint.broken;
    });
}

template<int Dim> void World<Dim>::State::break_joints() {
    broken.clear();
    for (const std::uint32_t j : active_joints) {
        flow::Joint<Dim>& joint = joints[j];
        if (length(joint.force) <= joint.breaking_force &&
            math::magnitude(joint.torque) <= joint.breaking_torque)
            continue;
        joint.broken = true, joint.load = joint.load_before = {};
        broken.push_back(joint_slots.ids()[j]);
        active_joints_known = false;
    }
}

// Checks a spec and makes of it what the stages take, at the bodies' present places.
template<int Dim> flow::Joint<Dim> World<Dim>::State::made_joint(Joint<Dim>& joint) const {
    const Joined<Dim>& joins = joined<Dim>(joint);
    const std::uint32_t a = place(joins.a);
    const std::optional<std::uint32_t> b = joins.b ? std::optional(place(*joins.b)) : std::nullopt;
    if (b && *b == a) throw Error("b", "the first body again", "another body, or none for the world");
    const auto is_dynamic = [&](std::uint32_t i) { return bodies.motion[i] == Motion::Dynamic; };
    if (!is_dynamic(a) && !(b && is_dynamic(*b)))
        throw Error("a", "a body that is not dynamic" + std::string(b ? ", as is the second" : ""),
                    "a joint that holds at least one dynamic body");
    const auto body = [&](std::uint32_t i) {
        return JointBody<Dim>{pose(i), bodies.mass[i].centre, is_dynamic(i) ? bodies.still[i].size : 0.0f};
    };
    const JointBody<Dim> of_a = body(a), of_b = b ? body(*b) : JointBody<Dim>{};
    flow::Joint<Dim> out = make_joint<Dim>(joint, of_a, b ? &of_b : nullptr);
    out.body_a = a, out.body_b = b ? *b : flow::kWorld;
    return out;
}

template<int Dim> JointId World<Dim>::add_joint(const Joint<Dim>& joint) {
    state_->refuse_in_tick();
    State& s = *state_;
    typename State::JointEntry entry{joint, joined<Dim>(joint).a, joined<Dim>(joint).b};
    s.made_joint(entry.spec); // whatever it throws, nothing has woken
    s.disturbed_place(entry.a);
    if (entry.b) s.disturbed_place(*entry.b);
    entry.spec = joint;
    s.joints.push_back(s.made_joint(entry.spec));
    const JointId id = s.joint_slots.add();
    s.rows[s.place(entry.a)].joints.push_back(id);
    if (entry.b) s.rows[s.place(*entry.b)].joints.push_back(id);
    s.joint_entries.push_back(std::move(entry));
    s.active_joints_known = false;
    return id;
}

template<int Dim> void World<Dim>::remove_joint(JointId id) {
    state_->refuse_in_tick();
    state_->joint_place(id);
    state_->drop_joint(id);
}
template<int Dim> bool World<Dim>::contains(JointId id) const noexcept {
    return state_->joint_slots.contains(id);
}
template<int Dim> std::span<const JointId> World<Dim>::joints() const noexcept {
    return state_->joint_slots.ids();
}
template<int Dim> std::vector<JointId> World<Dim>::joints_of(BodyId id) const {
    return state_->rows[state_->place(id)].joints;
}
template<int Dim> const Joint<Dim>& World<Dim>::joint(JointId id) const {
    return state_->joint_entries[state_->joint_place(id)].spec;
}

template<int Dim> void World<Dim>::set_joint(JointId id, const Joint<Dim>& joint) {
    state_->refuse_in_tick();
    State& s = *state_;
    s.joint_place(id);
    typename State::JointEntry entry{joint, joined<Dim>(joint).a, joined<Dim>(joint).b};
    s.made_joint(entry.spec);
    const auto old = s.joint_entries[s.joint_place(id)];
    for (const BodyId body : {old.a, entry.a}) s.disturbed_place(body);
    for (const auto& body : {old.b, entry.b})
        if (body) s.disturbed_place(*body);
    std::erase(s.rows[s.place(old.a)].joints, id);
    if (old.b) std::erase(s.rows[s.place(*old.b)].joints, id);
    s.rows[s.place(entry.a)].joints.push_back(id);
    if (entry.b) s.rows[s.place(*entry.b)].joints.push_back(id);
    entry.spec = joint;
    const std::uint32_t j = s.joint_place(id);
    s.joints[j] = s.made_joint(entry.spec);
    s.joint_entries[j] = std::move(entry);
    s.active_joints_known = false;
}

namespace {

void check_axis(int axis, int count) {
    if (axis < 0 || axis >= count)
        throw Error("axis", std::to_string(axis),
                    count == 0 ? "a joint with a free axis" : "0 to " + std::to_string(count - 1));
}

// The limits and the motor of a free axis in a spec; null where the kind has none.
struct AxisOfSpec {
    Limits* limits = nullptr;
    Motor* motor = nullptr;
};
template<typename Kind> AxisOfSpec axis_of(Kind& s, int axis) {
    if constexpr (requires { s.limits_a; }) {
        return axis == 0 ? AxisOfSpec{&s.limits_a, &s.motor_a} : AxisOfSpec{&s.limits_b, &s.motor_b};
    } else if constexpr (requires { s.steering; }) {
        return axis == 0   ? AxisOfSpec{&s.travel, nullptr}
               : axis == 1 ? AxisOfSpec{nullptr, &s.drive}
                           : AxisOfSpec{nullptr, &s.steering};
    } else if constexpr (requires { s.drive; }) {
        return axis == 0 ? AxisOfSpec{&s.travel, nullptr} : AxisOfSpec{nullptr, &s.drive};
    } else if constexpr (requires { s.twist; }) {
        return axis == 1 ? AxisOfSpec{&s.twist, nullptr} : AxisOfSpec{};
    } else if constexpr (requires { s.motor; }) {
        return {&s.limits, &s.motor};
    } else if constexpr (requires { s.limits; }) {
        return {&s.limits, nullptr};
    } else return {};
}

}

template<int Dim> void World<Dim>::set_motor(JointId id, const Motor& motor, int axis) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t j = s.joint_place(id);
    check_axis(axis, solve::axis_count<Dim>(s.joints[j].kind));
    check_motor(motor, "motor");
    Motor* to = std::visit([&](auto& kind) { return axis_of(kind, axis).motor; }, s.joint_entries[j].spec);
    if (to == nullptr) throw Error("axis", std::to_string(axis), "an axis of a kind that has a motor");
    const auto entry = s.joint_entries[j];
    s.disturbed_place(entry.a);
    if (entry.b) s.disturbed_place(*entry.b);
    *to = motor;
    s.joints[j].axes[static_cast<std::size_t>(axis)].motor = motor;
    s.joints[j].load = {}, s.joints[j].load_before = {};
}

template<int Dim> void World<Dim>::set_limits(JointId id, const Limits& limits, int axis) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t j = s.joint_place(id);
    check_axis(axis, solve::axis_count<Dim>(s.joints[j].kind));
    check_limits(limits, "limits");
    Limits* to = std::visit([&](auto& kind) { return axis_of(kind, axis).limits; }, s.joint_entries[j].spec);
    if (to == nullptr) throw Error("axis", std::to_string(axis), "an axis of a kind that has limits");
    const auto entry = s.joint_entries[j];
    s.disturbed_place(entry.a);
    if (entry.b) s.disturbed_place(*entry.b);
    *to = limits;
    s.joints[j].axes[static_cast<std::size_t>(axis)].limits = limits;
    s.joints[j].load = {}, s.joints[j].load_before = {};
}

template<int Dim> void World<Dim>::set_tow_target(JointId id, const Point<Dim>& target) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t j = s.joint_place(id);
    auto* tow = std::get_if<Tow<Dim>>(&s.joint_entries[j].spec);
    if (tow == nullptr) throw Error("joint id", "a joint of another kind", "a tow");
    if (!math::is_finite(target)) throw Error("target", base::text_of(target), "finite numbers (m)");
    s.disturbed_place(s.joint_entries[j].a);
    tow->target = target, s.joints[j].fixed = target;
}

template<int Dim> JointState<Dim> World<Dim>::joint_state(JointId id) const {
    const State& s = *state_;
    const std::uint32_t j = s.joint_place(id);
    const flow::Joint<Dim>& joint = s.joints[j];
    return state_of(joint, s.bodies);
}

template<int Dim> std::span<const JointId> World<Dim>::broken_joints() const noexcept {
    return state_->broken;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::uint32_t World<Dim>::State::joint_place(JointId) const;                                    \
    template void World<Dim>::State::place_joints(std::uint32_t);                                            \
    template void World<Dim>::State::fit_joints(std::uint32_t);                                              \
    template void World<Dim>::State::find_active_joints();                                                   \
    template void World<Dim>::State::wake_joined(std::uint32_t);                                             \
    template void World<Dim>::State::drop_joint(JointId);                                                    \
    template bool World<Dim>::State::keeps_apart(std::uint32_t, std::uint32_t) const;                        \
    template void World<Dim>::State::break_joints();                                                         \
    template flow::Joint<Dim> World<Dim>::State::made_joint(Joint<Dim>&) const;                              \
    template JointId World<Dim>::add_joint(const Joint<Dim>&);                                               \
    template void World<Dim>::remove_joint(JointId);                                                         \
    template bool World<Dim>::contains(JointId) const noexcept;                                              \
    template std::span<const JointId> World<Dim>::joints() const noexcept;                                   \
    template std::vector<JointId> World<Dim>::joints_of(BodyId) const;                                       \
    template const Joint<Dim>& World<Dim>::joint(JointId) const;                                             \
    template void World<Dim>::set_joint(JointId, const Joint<Dim>&);                                         \
    template void World<Dim>::set_motor(JointId, const Motor&, int);                                         \
    template void World<Dim>::set_limits(JointId, const Limits&, int);                                       \
    template void World<Dim>::set_tow_target(JointId, const Point<Dim>&);                                    \
    template JointState<Dim> World<Dim>::joint_state(JointId) const;                                         \
    template std::span<const JointId> World<Dim>::broken_joints() const noexcept;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
