// Events of a tick: touches that begin and end, strikes, sleep, poses.
#include "base/text.h"
#include "math/numbers.h"
#include "report/measures.h"
#include "world/checks.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {

// Pairs of the moving bodies are those of the manifolds. A pair with a sleeper goes on as it was: its bodies
// wake before anything changes.
template<int Dim> void World<Dim>::State::tell_touches() {
    std::vector<Touching>& now = touching_now;
    now.clear();
    const auto before = [](const auto& p, const auto& q) {
        return p.key_a != q.key_a ? p.key_a < q.key_a : p.key_b < q.key_b;
    };
    std::vector<flow::Manifold<Dim>> all; // in the first tick also those of sleepers
    if (!sleepers_looked_at) {
        all = all_manifolds();
        std::stable_sort(all.begin(), all.end(), before);
    }
    for (const auto& m : sleepers_looked_at ? manifolds : all) {
        const bool known = !now.empty() && now.back().key_a == m.key_a && now.back().key_b == m.key_b;
        if (known || !report::touches(m, bodies)) continue;
        now.push_back({m.key_a,
                       m.key_b,
                       {slots.ids()[m.body_a], slots.ids()[m.body_b], rows[m.body_a].numbers[m.shape_a],
                        rows[m.body_b].numbers[m.shape_b]}});
    }
    const auto goes_on = [&](const Touching& t) {
        const std::uint32_t a = slots.place(t.touch.body_a), b = slots.place(t.touch.body_b);
        if (a == base::SlotMap<BodyId>::kNone || b == base::SlotMap<BodyId>::kNone) return false;
        const auto sleeps = [&](std::uint32_t i) {
            return is_asleep(i) && bodies.motion[i] == Motion::Dynamic;
        };
        return sleeps(a) || sleeps(b);
    };
    sleepers_looked_at = true;
    const std::size_t found = now.size();
    std::size_t k = 0;
    for (const Touching& t : touching) {
        for (; k < found && before(now[k], t); k++) told.touches_begun.push_back(now[k].touch);
        if (k < found && !before(t, now[k])) k++;
        else if (goes_on(t)) now.push_back(t);
        else told.touches_ended.push_back(t.touch);
    }
    for (; k < found; k++) told.touches_begun.push_back(now[k].touch);
    base::merge_tail(now, found, touching_room, before);
    touching.swap(now);
}

template<int Dim> void World<Dim>::State::tell_strikes() {
    for (const SweptMeeting<Dim>& m : advance.strikes()) {
        if (m.impulse == Vec<Dim>{}) continue; // something else stopped it
        told.strikes.push_back({slots.ids()[m.body_a], slots.ids()[m.body_b],
                                rows[m.body_a].numbers[m.shape_a], rows[m.body_b].numbers[m.shape_b], m.time,
                                m.position, m.normal, m.speed, m.impulse});
    }
}

// Bodies that the tick has moved, and those put elsewhere before it, by their places.
template<int Dim> void World<Dim>::State::tell_moved() {
    std::vector<std::uint32_t>& put = places_now;
    put.clear();
    for (const BodyId id : placed)
        if (const std::uint32_t i = slots.place(id); i != base::SlotMap<BodyId>::kNone) put.push_back(i);
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        if (!(pose(i) == rows[i].previous)) put.push_back(i);
    std::sort(put.begin(), put.end());
    put.erase(std::unique(put.begin(), put.end()), put.end());
    for (const std::uint32_t i : put) told.moved.push_back({slots.ids()[i], rows[i].user_data, pose(i)});
}

template<int Dim> void World<Dim>::State::tell_events() {
    sense();
    if (event_kinds.touches) tell_touches();
    if (event_kinds.strikes) tell_strikes();
    if (event_kinds.poses) tell_moved();
}

// Edits between ticks wake bodies and put them elsewhere.
template<int Dim> void World<Dim>::State::tell_edits() {
    const auto tell = [&](std::vector<BodyId>& from, std::vector<BodyId>& to) {
        for (const BodyId id : from)
            if (slots.contains(id)) to.push_back(id);
        from.clear();
    };
    tell(stopped, told.became_nonfinite);
    tell(woken, told.woke);
    placed.clear(), edited = false;
}

template<int Dim> void World<Dim>::collect_events(const EventKinds& kinds) {
    state_->refuse_in_tick();
    check_event_kinds(kinds);
    state_->event_kinds = kinds;
    if (!kinds.touches) state_->touching.clear(), state_->sleepers_looked_at = false;
    if (!kinds.sleep) state_->woken.clear();
    if (!kinds.poses) state_->placed.clear();
}
template<int Dim> const EventKinds& World<Dim>::event_kinds() const noexcept { return state_->event_kinds; }

template<int Dim> Events<Dim> World<Dim>::events() const noexcept {
    const auto& t = state_->told;
    return {t.touches_begun, t.touches_ended, t.strikes, t.entered,          t.left,
            state_->broken,  t.fell_asleep,   t.woke,    t.became_nonfinite, t.moved};
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::tell_events();                                                          \
    template void World<Dim>::State::tell_touches();                                                         \
    template void World<Dim>::State::tell_strikes();                                                         \
    template void World<Dim>::State::tell_moved();                                                           \
    template void World<Dim>::State::tell_edits();                                                           \
    template void World<Dim>::collect_events(const EventKinds&);                                             \
    template const EventKinds& World<Dim>::event_kinds() const noexcept;                                     \
    template Events<Dim> World<Dim>::events() const noexcept;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
