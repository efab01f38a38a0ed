// Hooks within a substep: the game's own motion of bodies, and its hook before each.
#include "base/room.h"
#include "math/numbers.h"
#include "world/checks.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

template<int Dim, typename State> class SubstepNow final : public Substep<Dim> {
public:
    SubstepNow(State& state, solve::Integrator<Dim>& integrator, std::span<const std::uint32_t> which,
               std::span<const std::uint32_t> rows, double time, double seconds)
        : state_(state), integrator_(integrator), which_(which), rows_(rows), time_(time), seconds_(seconds) {
    }

    double time() const noexcept override { return time_; }
    double seconds() const noexcept override { return seconds_; }
    std::span<const BodyId> bodies() const override {
        auto& ids = state_.hooks.substep_ids;
        base::make_room(ids, which_.size());
        ids.clear();
        for (const std::uint32_t i : which_)
            if (state_.bodies.motion[i] == Motion::Dynamic) ids.push_back(state_.slots.ids()[i]);
        return ids;
    }
    bool contains(BodyId id) const noexcept override { return row_of(id) > 0; }
    SeenBody<Dim> body(BodyId id) const override { return seen(id, checked_row(id)); }
    void push(BodyId id, const Vec<Dim>& force, const Axial<Dim>& torque) override {
        const std::size_t row = checked_row(id);
        check_finite(force, "force", "N"), check_finite(torque, "torque", "N m");
        integrator_.push_once(row, {force, torque});
    }
    void set_velocities(BodyId id, const Velocities<Dim>& v) override {
        const std::size_t row = checked_row(id);
        check_finite(v.velocity, "velocity", "m/s");
        check_finite(v.angular_velocity, "angular velocity", "rad/s");
        integrator_.give(row, {v.velocity, v.angular_velocity});
    }

    // 0 if it is not in this substep.
    std::size_t row_of(BodyId id) const noexcept {
        const std::uint32_t i = state_.slots.place(id);
        if (i >= state_.bodies.moving || state_.bodies.motion[i] != Motion::Dynamic) return 0;
        return rows_[i];
    }
    SeenBody<Dim> seen(BodyId id, std::size_t row) const {
        const flow::CentrePose<Dim> pose = integrator_.pose(row);
        const flow::Velocity<Dim> v = integrator_.velocity(row);
        return {id,       pose.centre, pose.rotation,
                v.linear, v.angular,   state_.bodies.mass[which_[row - 1]].mass,
                time_,    seconds_};
    }

private:
    std::size_t checked_row(BodyId id) const {
        const std::size_t row = row_of(id);
        if (row == 0)
            throw Error("body id", "index " + std::to_string(id.index),
                        "a body of this substep: see bodies() and contains()");
        return row;
    }

    State& state_;
    solve::Integrator<Dim>& integrator_;
    std::span<const std::uint32_t> which_, rows_;
    double time_, seconds_;
};

}

template<int Dim>
void World<Dim>::State::before_substep(solve::Integrator<Dim>& integrator,
                                       std::span<const std::uint32_t> which,
                                       std::span<const std::uint32_t> at, double begins, double seconds) {
    SubstepNow<Dim, State> now(*this, integrator, which, at, time() + begins, seconds);
    for (const auto& own : hooks.own_motions) {
        const std::size_t row = now.row_of(own.body);
        if (row == 0) continue;
        call_out([&] {
            const Velocities<Dim> v = own.motion(now.seen(own.body, row));
            if (math::is_finite(v.velocity) && math::is_finite(v.angular_velocity))
                integrator.give(row, {v.velocity, v.angular_velocity});
        });
    }
    if (hooks.substep) call_out([&] { hooks.substep(now); });
}

template<int Dim> void World<Dim>::State::forget_own_motion(BodyId id) {
    std::erase_if(hooks.own_motions, [&](const auto& own) { return own.body == id; });
}

template<int Dim> void World<Dim>::State::keep_own_movers_awake() {
    for (const auto& own : hooks.own_motions)
        if (const std::uint32_t i = slots.place(own.body); i < bodies.moving)
            bodies.still[i].kept_awake = true;
}

template<int Dim> void World<Dim>::set_substep_hook(SubstepHook<Dim> hook) {
    state_->refuse_in_tick();
    state_->hooks.substep = std::move(hook);
}

template<int Dim> void World<Dim>::set_own_motion(BodyId id, OwnMotion<Dim> motion) {
    state_->refuse_in_tick();
    state_->wake(state_->place(id));
    state_->forget_own_motion(id);
    if (!motion) return;
    auto& all = state_->hooks.own_motions;
    const auto at =
        std::find_if(all.begin(), all.end(), [&](const auto& own) { return own.body.index > id.index; });
    all.insert(at, {id, std::move(motion)});
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::before_substep(solve::Integrator<Dim>&, std::span<const std::uint32_t>, \
                                                    std::span<const std::uint32_t>, double, double);         \
    template void World<Dim>::State::forget_own_motion(BodyId);                                              \
    template void World<Dim>::State::keep_own_movers_awake();                                                \
    template void World<Dim>::set_substep_hook(SubstepHook<Dim>);                                            \
    template void World<Dim>::set_own_motion(BodyId, OwnMotion<Dim>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
