// The façade: what is asked of a world and set in it, each value checked where it enters.
#include "astasis/world.h"

#include "base/float_control.h"
#include "base/text.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "report/measures.h"
#include "shape/usable.h"
#include "world/checks.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {

template<int Dim> World<Dim>::World(const WorldSpec<Dim>& spec) : state_(std::make_unique<State>()) {
    check_world(spec, "");
    if (!base::arithmetic_is_exact())
        throw Error("this build", "floats that are contracted (a*b+c rounded once)",
                    "a build with -ffp-contract=off, without which runs differ between machines");
    state_->spec = spec;
}
template<int Dim> World<Dim>::~World() = default;
template<int Dim> World<Dim>::World(World&&) noexcept = default;
template<int Dim> World<Dim>& World<Dim>::operator=(World&&) noexcept = default;

template<int Dim> bool World<Dim>::contains(BodyId id) const noexcept {
    return state_->slots.place(id) != base::SlotMap<BodyId>::kNone;
}
template<int Dim> std::span<const BodyId> World<Dim>::bodies() const noexcept { return state_->listed; }
template<int Dim> void World<Dim>::step() {
    state_->refuse_in_tick();
    state_->step();
}
template<int Dim> std::uint64_t World<Dim>::ticks() const noexcept { return state_->ticks; }
template<int Dim> double World<Dim>::time() const noexcept { return state_->time(); }

template<int Dim> Motion World<Dim>::motion(BodyId id) const {
    return state_->bodies.motion[state_->place(id)];
}
template<int Dim> const Pose<Dim> World<Dim>::pose(BodyId id) const {
    return state_->pose(state_->place(id));
}
template<int Dim> const Point<Dim> World<Dim>::centre_of_mass(BodyId id) const {
    return state_->bodies.pose[state_->place(id)].centre;
}
template<int Dim> const Vec<Dim> World<Dim>::velocity(BodyId id) const {
    return state_->bodies.velocity[state_->place(id)].linear;
}
template<int Dim> const Vec<Dim> World<Dim>::velocity_at(BodyId id, const Point<Dim>& at) const {
    const auto i = state_->place(id);
    check_finite(at, "at", "m");
    const auto& v = state_->bodies.velocity[i];
    return v.linear + cross(v.angular, at - state_->bodies.pose[i].centre);
}
template<int Dim> Axial<Dim> World<Dim>::angular_velocity(BodyId id) const {
    return state_->bodies.velocity[state_->place(id)].angular;
}
template<int Dim> const MassProperties<Dim> World<Dim>::mass(BodyId id) const {
    const auto& column = state_->bodies.mass[state_->place(id)];
    MassProperties<Dim> out;
    out.mass = column.mass;
    out.centre = column.centre;
    shape::set_tensor(out, column.inertia);
    return out;
}
template<int Dim> std::uint64_t World<Dim>::user_data(BodyId id) const {
    return state_->rows[state_->place(id)].user_data;
}
template<int Dim> void World<Dim>::set_user_data(BodyId id, std::uint64_t data) {
    state_->refuse_in_tick();
    state_->rows[state_->place(id)].user_data = data;
}
template<int Dim> std::span<const ShapeSpec<Dim>> World<Dim>::shapes(BodyId id) const {
    return state_->rows[state_->place(id)].shapes;
}
template<int Dim> std::span<const std::uint32_t> World<Dim>::shape_numbers(BodyId id) const {
    return state_->rows[state_->place(id)].numbers;
}
template<int Dim> const ShapeSpec<Dim>& World<Dim>::shape(BodyId id, std::uint32_t shape) const {
    return state_->shape(state_->place(id), shape);
}
template<int Dim> void World<Dim>::set_tag(BodyId id, std::uint32_t shape, std::uint32_t tag) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape).tag = tag;
}
template<int Dim> void World<Dim>::set_user_data(BodyId id, std::uint32_t shape, std::uint64_t data) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape).user_data = data;
}
template<int Dim> Energy World<Dim>::energy(BodyId id) const {
    return report::energy_of(state_->bodies, state_->place(id), state_->spec.gravity);
}

template<int Dim> void World<Dim>::set_pose(BodyId id, const Pose<Dim>& pose) {
    state_->refuse_in_tick();
    state_->place(id);
    shape::check_pose(pose, "");
    const auto i = state_->disturbed_place(id);
    state_->rows[i].target.reset();
    state_->put(i, {pose.position, math::normalized(pose.rotation)});
    if (state_->event_kinds.poses) state_->placed.push_back(id);
    state_->forget_contacts(i);
    state_->disturbed_place(id); // and where it now is
}

template<int Dim> void World<Dim>::set_velocity(BodyId id, const Vec<Dim>& velocity) {
    state_->refuse_in_tick();
    const bool is_held = state_->rows[state_->movable_place(id)].nonfinite;
    check_finite(velocity, "velocity", "m/s");
    if (is_held) return;
    const auto i = state_->disturbed_place(id);
    state_->bodies.velocity[i].linear = math::unlocked(velocity, state_->bodies.free[i].locks);
    state_->bodies.remainder[i].linear = {};
    state_->rows[i].target.reset(), state_->rows[i].driven = false;
}
template<int Dim> void World<Dim>::set_angular_velocity(BodyId id, const Axial<Dim>& velocity) {
    state_->refuse_in_tick();
    const bool is_held = state_->rows[state_->movable_place(id)].nonfinite;
    check_finite(velocity, "angular_velocity", "rad/s");
    if (is_held) return;
    const auto i = state_->disturbed_place(id);
    state_->bodies.velocity[i].angular = math::unlocked_turn(velocity, state_->bodies.free[i].locks);
    state_->bodies.remainder[i].angular = {};
    state_->rows[i].target.reset(), state_->rows[i].driven = false;
}

template<int Dim>
void World<Dim>::State::push(std::uint32_t i, const Vec<Dim>& force, const Axial<Dim>& torque) {
    if (rows[i].nonfinite) return;
    flow::Push<Dim> sum = bodies.push[i];
    sum.force += force, sum.torque = sum.torque + torque;
    const char* accepted = "a push that together with those before it is a number that a float can hold";
    if (!math::is_finite(sum.force)) throw Error("force", base::text_of(force) + " N", accepted);
    if (!math::is_finite(sum.torque)) throw Error("torque", base::text_of(torque) + " N m", accepted);
    bodies.push[wake(i)] = sum;
}
template<int Dim>
void World<Dim>::State::kick(std::uint32_t i, const Vec<Dim>& impulse, const Axial<Dim>& turning) {
    if (rows[i].nonfinite) return;
    const flow::Velocity<Dim> after = kicked(i, impulse, turning);
    bodies.velocity[wake(i)] = after;
}
template<int Dim>
flow::Velocity<Dim> World<Dim>::State::kicked(std::uint32_t i, const Vec<Dim>& impulse,
                                              const Axial<Dim>& turning) const {
    const auto& locks = bodies.free[i].locks;
    flow::Velocity<Dim> after = bodies.velocity[i];
    after.linear += math::unlocked(impulse, locks) * bodies.mass[i].inverse_mass;
    if (turning != Axial<Dim>{})
        after.angular =
            after.angular + math::inverse_where_free(
                                math::turned_tensor(bodies.mass[i].inertia, bodies.pose[i].rotation), locks) *
                                turning;
    if (!math::is_finite(after.linear) || !math::is_finite(after.angular))
        throw Error("impulse", base::text_of(impulse) + " N s, " + base::text_of(turning) + " N m s",
                    "an impulse that gives this body a velocity that a float can hold");
    return after;
}

template<int Dim> const Vec<Dim> World<Dim>::applied_force(BodyId id) const {
    return state_->bodies.push[state_->place(id)].force;
}
template<int Dim> void World<Dim>::apply_force(BodyId id, const Vec<Dim>& force) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(force, "force", "N");
    state_->push(i, force, {});
}
template<int Dim> void World<Dim>::apply_force_at(BodyId id, const Vec<Dim>& force, const Point<Dim>& at) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(force, "force", "N");
    check_finite(at, "at", "m");
    state_->push(i, force, cross(at - state_->bodies.pose[i].centre, force));
}
template<int Dim> void World<Dim>::apply_torque(BodyId id, const Axial<Dim>& torque) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(torque, "torque", "N m");
    state_->push(i, {}, torque);
}
template<int Dim> void World<Dim>::apply_impulse(BodyId id, const Vec<Dim>& impulse) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(impulse, "impulse", "N s");
    state_->kick(i, impulse, {});
}
template<int Dim>
void World<Dim>::apply_impulse_at(BodyId id, const Vec<Dim>& impulse, const Point<Dim>& at) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(impulse, "impulse", "N s");
    check_finite(at, "at", "m");
    const Axial<Dim> turning = cross(at - state_->bodies.pose[i].centre, impulse);
    check_finite(turning, "at", "m, with a lever whose moment a float can hold");
    state_->kick(i, impulse, turning);
}
template<int Dim> void World<Dim>::apply_angular_impulse(BodyId id, const Axial<Dim>& impulse) {
    state_->refuse_in_tick();
    const auto i = state_->dynamic_place(id);
    check_finite(impulse, "impulse", "N m s");
    state_->kick(i, {}, impulse);
}

template<int Dim>
void World<Dim>::set_layers(BodyId id, std::uint32_t shape, std::uint64_t layers,
                            std::uint64_t collides_with) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape);
    const auto i = state_->disturbed_place(id);
    ShapeSpec<Dim>& s = state_->shape(i, shape);
    s.layers = layers, s.collides_with = collides_with;
    state_->forget_contacts(i);
    state_->place_colliders(i);
}
template<int Dim> void World<Dim>::set_group(BodyId id, std::uint32_t shape, std::uint32_t group) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape);
    const auto i = state_->disturbed_place(id);
    state_->shape(i, shape).group = group;
    state_->forget_contacts(i);
    state_->place_colliders(i);
}

template<int Dim> void World<Dim>::reserve(std::size_t bodies, std::size_t shapes) {
    state_->refuse_in_tick();
    constexpr std::size_t kMost = 1u << 28; // places are of 32 bits, and a body takes some hundred bytes
    if (bodies > kMost || shapes > kMost)
        throw Error(bodies > kMost ? "bodies" : "shapes", std::to_string(std::max(bodies, shapes)),
                    "up to " + std::to_string(kMost));
    State& s = *state_;
    auto& b = s.bodies;
    s.slots.reserve(bodies), s.rows.reserve(bodies), s.listed.reserve(bodies);
    b.pose.reserve(bodies), b.velocity.reserve(bodies), b.remainder.reserve(bodies), b.mass.reserve(bodies);
    b.push.reserve(bodies), b.free.reserve(bodies), b.motion.reserve(bodies), b.still.reserve(bodies),
        b.claim.reserve(bodies);
    s.colliders.reserve(shapes), s.moving_colliders.reserve(shapes), s.index.reserve(shapes);
}

template<int Dim> const WorldSpec<Dim>& World<Dim>::settings() const noexcept { return state_->spec; }
template<int Dim> void World<Dim>::set_gravity(const Vec<Dim>& gravity) {
    state_->refuse_in_tick();
    check_finite(gravity, "gravity", "m/s2");
    state_->wake_all();
    state_->spec.gravity = gravity;
}

template<int Dim> void World<Dim>::set_tick(double seconds) {
    state_->refuse_in_tick();
    WorldSpec<Dim> spec = state_->spec;
    spec.tick = seconds;
    check_world(spec, "");
    state_->time_then = state_->time(), state_->ticks_then = state_->ticks;
    state_->spec.tick = seconds;
}
template<int Dim> void World<Dim>::set_substeps(int substeps) {
    state_->refuse_in_tick();
    WorldSpec<Dim> spec = state_->spec;
    spec.substeps = substeps;
    check_world(spec, "");
    state_->spec = spec;
}

template<int Dim> void World<Dim>::set_extra_work(float share) {
    state_->refuse_in_tick();
    WorldSpec<Dim> spec = state_->spec;
    spec.extra_work = share;
    check_world(spec, "");
    state_->spec = spec;
}

template<int Dim> std::vector<Contact<Dim>> World<Dim>::contacts() const {
    return state_->contacts_in(state_->all_manifolds());
}
template<int Dim> std::vector<Contact<Dim>> World<Dim>::contacts_of(BodyId id) const {
    const std::uint32_t i = state_->place(id);
    std::vector<flow::Manifold<Dim>> of_body = state_->all_manifolds();
    std::erase_if(of_body, [i](const auto& m) { return m.body_a != i && m.body_b != i; });
    return state_->contacts_in(of_body);
}
template<int Dim> Sweep World<Dim>::sweep(BodyId id) const { return state_->rows[state_->place(id)].sweep; }
template<int Dim> void World<Dim>::set_sweep(BodyId id, Sweep sweep) {
    state_->refuse_in_tick();
    const auto i = state_->place(id);
    check_sweep(sweep);
    state_->rows[i].sweep = sweep;
}

template<int Dim> bool World<Dim>::is_asleep(BodyId id) const { return state_->is_asleep(state_->place(id)); }
template<int Dim> void World<Dim>::wake(BodyId id) {
    state_->refuse_in_tick();
    state_->wake(state_->place(id));
}
template<int Dim> bool World<Dim>::may_sleep(BodyId id) const {
    return state_->rows[state_->place(id)].may_sleep;
}
template<int Dim> void World<Dim>::set_may_sleep(BodyId id, bool may) {
    state_->refuse_in_tick();
    std::uint32_t i = state_->place(id);
    if (!may) i = state_->wake(i);
    state_->rows[i].may_sleep = may;
}
template<int Dim> void World<Dim>::set_sleeping(bool on) {
    state_->refuse_in_tick();
    if (!on) state_->wake_all();
    state_->spec.sleeping = on;
}
template<int Dim> SleepCount World<Dim>::sleepers() const noexcept {
    SleepCount out;
    for (const auto& island : state_->asleep) {
        out.bodies += island.bodies.size();
        out.islands += !island.bodies.empty();
    }
    out.bodies += state_->ungrouped.size();
    return out;
}
template<int Dim> void World<Dim>::set_timing(bool on) noexcept {
    state_->timing = on;
    state_->times = {};
}
template<int Dim> StageTimes World<Dim>::stage_times() const noexcept { return state_->times; }

template<int Dim> TickCounts World<Dim>::tick_counts() const {
    const State& s = *state_;
    TickCounts out;
    out.moving = s.bodies.moving, out.pairs = s.pairs.size(), out.joints = s.active_joints.size();
    out.manifolds = s.manifolds.size(), out.turns = s.turns.size();
    for (const auto& m : s.manifolds) out.points += m.count;
    const auto roots = s.advance.roots();
    std::vector<std::uint32_t> of_dynamic;
    for (std::uint32_t i = 0; i < std::min(roots.size(), s.bodies.moving); i++)
        if (s.bodies.motion[i] == Motion::Dynamic) of_dynamic.push_back(roots[i]);
    std::sort(of_dynamic.begin(), of_dynamic.end());
    out.islands =
        static_cast<std::size_t>(std::unique(of_dynamic.begin(), of_dynamic.end()) - of_dynamic.begin());
    return out;
}
template<int Dim> WorkOfTick World<Dim>::work_of_tick() const noexcept { return state_->advance.work(); }

template<int Dim> Energy World<Dim>::energy() const {
    Energy sum;
    for (std::size_t i = 0; i < state_->bodies.size(); i++) {
        const Energy one = report::energy_of(state_->bodies, i, state_->spec.gravity);
        sum.kinetic += one.kinetic, sum.potential += one.potential;
    }
    return sum;
}
template<int Dim> Penetration World<Dim>::penetration() const {
    return report::penetration_of<Dim>(state_->bodies, state_->all_manifolds());
}
template<int Dim> Work World<Dim>::work() const noexcept { return state_->work; }
template<int Dim> Momentum<Dim> World<Dim>::momentum() const { return report::momentum_of(state_->bodies); }
template<int Dim> std::vector<BodyId> World<Dim>::nonfinite() const {
    std::vector<BodyId> out;
    for (std::size_t i = 0; i < state_->rows.size(); i++)
        if (state_->rows[i].nonfinite) out.push_back(state_->slots.ids()[i]);
    return out;
}

template class World<2>;
template class World<3>;

}
