// Hooks: what a tick asks of the game.
#include "world/state.h"

#include <algorithm>
#include <cmath>

namespace astasis {

template<int Dim> void World<Dim>::State::refuse_in_tick() const {
    if (in_tick)
        throw Error("world", "a call within a tick, from a hook or a field's function",
                    "edits and saving between ticks, before or after step()");
}

template<int Dim> bool World<Dim>::State::filter_keeps_apart(std::uint32_t i, std::uint32_t j) {
    BodyId a = slots.ids()[i], b = slots.ids()[j];
    if (b.index < a.index) std::swap(a, b);
    auto& answers = hooks.answers;
    // Answers about bodies that are gone would pile up.
    constexpr std::size_t kMany = 1024;
    if (answers.size() > kMany + 64 * bodies.size()) answers.clear();
    const auto [at, is_new] = answers.try_emplace((std::uint64_t{a.index} << 32) | b.index);
    auto& answer = at->second;
    if (is_new || answer.generation_a != a.generation || answer.generation_b != b.generation) {
        answer = {a.generation, b.generation, true};
        call_out([&] { answer.may_touch = hooks.pair_filter(a, b); });
    }
    return !answer.may_touch;
}

// Numbers of no sense are left as they were.
template<int Dim> bool World<Dim>::State::ask_contact(flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at) {
    if (m.count == 0) return true;
    const auto nearest =
        std::min_element(m.points.begin(), m.points.begin() + m.count,
                         [](const auto& p, const auto& q) { return p.separation < q.separation; });
    const flow::PointNow<Dim> now = flow::evaluate(m, *nearest, at.pose_a, at.pose_b);
    const auto velocity = [&](std::uint32_t i, const Vec<Dim>& arm) {
        return bodies.velocity[i].linear + cross(bodies.velocity[i].angular, arm);
    };
    ContactAsked<Dim> asked;
    asked.body_a = slots.ids()[m.body_a], asked.body_b = slots.ids()[m.body_b];
    asked.shape_a = rows[m.body_a].numbers[m.shape_a], asked.shape_b = rows[m.body_b].numbers[m.shape_b];
    asked.position = at.pose_a.centre + now.arm_a, asked.normal = now.normal,
    asked.separation = now.separation;
    asked.velocity = velocity(m.body_b, now.arm_b) - velocity(m.body_a, now.arm_a);
    asked.friction = m.friction, asked.restitution = m.restitution, asked.surface_velocity = m.slip * -1.0f;
    call_out([&] { hooks.contact(asked); });
    if (asked.friction >= 0 && std::isfinite(asked.friction)) m.friction = asked.friction;
    if (asked.restitution >= 0 && asked.restitution <= 1) m.restitution = asked.restitution;
    if (const Vec<Dim> slip = asked.surface_velocity * -1.0f; std::isfinite(length_squared(slip)))
        m.slip = slip;
    if (asked.most_push >= 0) m.most_force = asked.most_push;
    return asked.keep;
}

template<int Dim> void World<Dim>::set_pair_filter(const PairFilter& filter) {
    state_->refuse_in_tick();
    state_->hooks.pair_filter = filter;
    state_->hooks.answers.clear();
    state_->wake_all();
}
template<int Dim> void World<Dim>::set_contact_hook(ContactHook<Dim> hook) {
    state_->refuse_in_tick();
    state_->hooks.contact = std::move(hook);
    state_->wake_all();
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::refuse_in_tick() const;                                                 \
    template bool World<Dim>::State::filter_keeps_apart(std::uint32_t, std::uint32_t);                       \
    template bool World<Dim>::State::ask_contact(flow::Manifold<Dim>&, const narrow::PairAt<Dim>&);          \
    template void World<Dim>::set_pair_filter(const PairFilter&);                                            \
    template void World<Dim>::set_contact_hook(ContactHook<Dim>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
