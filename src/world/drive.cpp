// Calls that move and push single bodies: free motion, thrusts, poses to go to, blasts, wrapping.
#include "astasis/pushes.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/usable.h"
#include "world/checks.h"
#include "world/state.h"

#include <algorithm>
#include <unordered_set>

namespace astasis {
namespace {

// The part of a change of velocity that continues the one before: all of it if that was at least half as
// large, nothing if that was none or the other way. (As slopes are limited in schemes of the second order:
// van Leer 1974, J. Comput. Phys. 14, 361.)
constexpr float kContinues = 2;

float product(float a, float b) { return a * b; }
template<typename V> float product(const V& a, const V& b) { return dot(a, b); }
template<typename V> V continued(const V& change, const V& before) {
    const float square = product(change, change);
    if (!(square > 0)) return {};
    return change * std::clamp(kContinues * product(before, change) / square, 0.0f, 1.0f);
}

}

template<int Dim> const FreeMotion<Dim> World<Dim>::free_motion(BodyId id) const {
    return state_->bodies.free[state_->place(id)];
}
template<int Dim> void World<Dim>::set_free_motion(BodyId id, const FreeMotion<Dim>& free) {
    state_->refuse_in_tick();
    state_->place(id);
    check_free_motion(free, "");
    const auto i = state_->disturbed_place(id);
    state_->bodies.free[i] = free;
    for (auto* v : {&state_->bodies.velocity[i], &state_->bodies.remainder[i]})
        *v = {math::unlocked(v->linear, free.locks), math::unlocked_turn(v->angular, free.locks)};
}

template<int Dim> void World<Dim>::set_thrust(BodyId id, const Thrust<Dim>& thrust) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(thrust.force, "force", "N");
    check_finite(thrust.torque, "torque", "N m");
    if (thrust.at) check_finite(*thrust.at, "at", "m");
    if (!state_->rows[i].nonfinite) state_->rows[state_->wake(i)].thrust = thrust;
}
template<int Dim> void World<Dim>::clear_thrust(BodyId id) {
    state_->refuse_in_tick();
    state_->rows[state_->place(id)].thrust.reset();
}

template<int Dim> void World<Dim>::move_to(BodyId id, const Pose<Dim>& pose) {
    state_->refuse_in_tick();
    const auto at = state_->place(id);
    if (state_->bodies.motion[at] != Motion::Kinematic && !state_->rows[at].nonfinite)
        throw Error("body", "one that is not kinematic",
                    "a kinematic body; set_pose puts any body elsewhere at once");
    shape::check_pose(pose, "");
    if (state_->rows[at].nonfinite) return;
    const auto i = state_->disturbed_place(id);
    state_->rows[i].target = Pose<Dim>{pose.position, math::normalized(pose.rotation)};
}

// Thrusts become pushes of this tick, targets of kinematic bodies velocities.
template<int Dim> void World<Dim>::State::drive() {
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        Row& row = rows[i];
        const auto& pose = bodies.pose[i];
        if (row.thrust && bodies.motion[i] == Motion::Dynamic) {
            const Thrust<Dim>& t = *row.thrust;
            const Vec<Dim> force = t.turns_with_body ? rotate(pose.rotation, t.force) : t.force;
            const Vec<Dim> arm = t.at ? rotate(pose.rotation, *t.at - bodies.mass[i].centre) : Vec<Dim>{};
            auto& push = bodies.push[i];
            push.force += force;
            push.torque = push.torque +
                          math::axial_rotated(t.turns_with_body ? pose.rotation : Rotation<Dim>{}, t.torque) +
                          cross(arm, force);
        }
        if (!row.target && !row.driven) continue;
        auto& v = bodies.velocity[i];
        v = {}, bodies.remainder[i] = {};
        row.driven = row.target.has_value();
        if (!row.target) continue;
        const auto per_second = static_cast<float>(1 / spec.tick);
        v.linear = (row.target->position - pose.centre) * per_second;
        v.angular = math::turn_between(pose.rotation, row.target->rotation) * per_second;
    }
}

// A kinematic body whose velocity changes evenly from tick to tick is accelerated within the tick too, and
// comes as far in it: if its velocity went up in steps, bodies riding on it would be left behind by a part of
// each step.
template<int Dim> void World<Dim>::State::find_accelerations() {
    accelerations.clear();
    base::make_room(accelerations, bodies.moving);
    const auto rate = static_cast<float>(1 / spec.tick);
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (bodies.motion[i] != Motion::Kinematic) continue;
        if (accelerations.empty()) accelerations.resize(bodies.moving);
        Row& row = rows[i];
        const flow::Velocity<Dim>& v = bodies.velocity[i];
        const flow::Velocity<Dim> change{v.linear - row.last_velocity.linear,
                                         v.angular - row.last_velocity.angular};
        accelerations[i] = {continued(change.linear, row.last_change.linear) * rate,
                            continued(change.angular, row.last_change.angular) * rate};
        row.last_velocity = v, row.last_change = change;
    }
}

// The velocities of kinematic bodies at a time within the tick; in its middle those that they were given.
template<int Dim> void World<Dim>::State::set_kinematic_velocities(double time) {
    const double since = time - spec.tick / 2;
    for (std::uint32_t i = 0; i < accelerations.size(); i++) {
        if (bodies.motion[i] != Motion::Kinematic) continue;
        flow::Velocity<Dim>&v = bodies.velocity[i], &left = bodies.remainder[i];
        v = rows[i].last_velocity, left = {};
        for (int k = 0; k < Dim; k++)
            math::add_exactly(v.linear[k], left.linear[k], accelerations[i].linear[k] * since);
        for (int k = 0; k < math::kAxialSize<Dim>; k++)
            math::add_exactly(math::component(v.angular, k), math::component(left.angular, k),
                              math::component(accelerations[i].angular, k) * since);
    }
}

// Poses of kinematic bodies at the end of the tick, from the mean of their velocities in it.
template<int Dim> void World<Dim>::State::move_kinematic() {
    set_kinematic_velocities(spec.tick / 2);
    for (std::uint32_t i = 0; i < accelerations.size(); i++) {
        if (bodies.motion[i] != Motion::Kinematic) continue;
        flow::CentrePose<Dim>& pose = bodies.pose[i];
        const flow::Velocity<Dim>& v = bodies.velocity[i];
        for (int k = 0; k < Dim; k++) pose.centre[k] += v.linear[k] * spec.tick;
        const Axial<Dim> turn = v.angular * static_cast<float>(spec.tick);
        if (math::magnitude(turn) > 0) pose.rotation = math::turned_by(pose.rotation, turn);
    }
}

// Along the way that the bodies have come.
template<int Dim> double World<Dim>::State::work_of_thrusts() const {
    double sum = 0;
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (!rows[i].thrust || bodies.motion[i] != Motion::Dynamic) continue;
        const Thrust<Dim>& t = *rows[i].thrust;
        const Rotation<Dim> before = rows[i].previous.rotation;
        const auto in_world = [&](const auto& v) { return t.turns_with_body ? rotate(before, v) : v; };
        const Vec<Dim> centre = bodies.mass[i].centre, at = t.at.value_or(centre);
        const Vec<Dim> way = (bodies.pose[i].centre - to_world(rows[i].previous, centre)) +
                             (rotate(bodies.pose[i].rotation, at - centre) - rotate(before, at - centre));
        const Axial<Dim> torque = math::axial_rotated(t.turns_with_body ? before : Rotation<Dim>{}, t.torque);
        sum += dot(in_world(t.force), way) + dot(torque, math::turn_between(before, bodies.pose[i].rotation));
    }
    return sum;
}

// A body that was sent to a pose is put there exactly, whatever rounding made of its way.
template<int Dim> void World<Dim>::State::snap_to_targets() {
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (!rows[i].target) continue;
        bodies.pose[i] = {rows[i].target->position, rows[i].target->rotation};
        rows[i].target.reset();
    }
}

template<int Dim> int blast(World<Dim>& world, const Blast<Dim>& blast, const Filter& filter) {
    if (!(blast.radius > 0) || !math::is_finite(blast.radius))
        throw Error("radius", base::number(blast.radius), "a finite number above 0 (m)");
    check_finite(blast.impulse, "impulse", "N s");
    std::vector<Found<Dim>> found;
    nearest(world, blast.centre, blast.radius, found, filter);
    auto& s = WorldAccess::state(world);
    s.refuse_in_tick();
    std::vector<std::pair<BodyId, flow::Velocity<Dim>>> after; // of all, before any is changed
    std::unordered_set<BodyId> done;                           // of a body's shapes the nearest counts
    for (const Found<Dim>& f : found) {
        if (world.motion(f.body) != Motion::Dynamic || !done.insert(f.body).second) continue;
        const Point<Dim> centre = world.centre_of_mass(f.body);
        const Vec<Dim> way = f.separation > 0 ? f.position - blast.centre : centre - blast.centre;
        const float share = 1 - static_cast<float>(f.separation) / blast.radius;
        const Vec<Dim> impulse = direction(way, Vec<Dim>{0, 1}) * (blast.impulse * share);
        const Vec<Dim> arm = f.separation > 0 ? f.position - centre : Vec<Dim>{};
        after.emplace_back(f.body, s.kicked(s.place(f.body), impulse, cross(arm, impulse)));
    }
    for (const auto& [id, velocity] : after) s.bodies.velocity[s.wake(s.place(id))] = velocity;
    return static_cast<int>(after.size());
}

template<int Dim> bool wrap(World<Dim>& world, BodyId id, const Bounds<Dim>& region) {
    Pose<Dim> pose = world.pose(id);
    const Point<Dim> centre = world.centre_of_mass(id);
    bool out = false;
    for (int k = 0; k < Dim; k++) {
        const double side = region.high[k] - region.low[k];
        if (!(side > 0))
            throw Error("region", base::number(side) + " as a side", "low below high on each axis");
        if (!math::is_finite(side)) continue; // endless that way
        const double turns = std::floor((centre[k] - region.low[k]) / side);
        pose.position[k] -= turns * side;
        out = out || turns != 0;
    }
    if (out) world.set_pose(id, pose);
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template const FreeMotion<Dim> World<Dim>::free_motion(BodyId) const;                                    \
    template void World<Dim>::set_free_motion(BodyId, const FreeMotion<Dim>&);                               \
    template void World<Dim>::set_thrust(BodyId, const Thrust<Dim>&);                                        \
    template void World<Dim>::clear_thrust(BodyId);                                                          \
    template void World<Dim>::move_to(BodyId, const Pose<Dim>&);                                             \
    template void World<Dim>::State::drive();                                                                \
    template double World<Dim>::State::work_of_thrusts() const;                                              \
    template void World<Dim>::State::snap_to_targets();                                                      \
    template void World<Dim>::State::find_accelerations();                                                   \
    template void World<Dim>::State::set_kinematic_velocities(double);                                       \
    template void World<Dim>::State::move_kinematic();                                                       \
    template int blast(World<Dim>&, const Blast<Dim>&, const Filter&);                                       \
    template bool wrap(World<Dim>&, BodyId, const Bounds<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
