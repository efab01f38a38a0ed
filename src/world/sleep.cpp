// Falling asleep and waking: islands leave the moving bodies whole, and come back whole.
#include "world/state.h"

#include <algorithm>
#include <numeric>

namespace astasis {
namespace {

// The index of boxes finds in an order of its own, which must not reach the state.
void sort_unique(std::vector<BodyId>& ids) {
    std::sort(ids.begin(), ids.end(), [](BodyId a, BodyId b) { return a.index < b.index; });
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
}

}

// The new place of each body after some have changed places, for the manifolds that refer to places.
template<int Dim> class World<Dim>::State::Moves {
public:
    explicit Moves(State& state) : state_(state), before_(state.places_before) {
        base::make_room(before_, state.bodies.size());
        before_.resize(state.bodies.size());
        std::iota(before_.begin(), before_.end(), 0u);
    }
    void swap(std::uint32_t i, std::uint32_t j) {
        if (i == j) return;
        state_.swap_columns(i, j);
        std::swap(before_[i], before_[j]);
    }
    void finish() {
        std::vector<std::uint32_t>& now = state_.places_now;
        base::make_room(now, before_.size());
        now.resize(before_.size());
        for (std::uint32_t i = 0; i < before_.size(); i++) now[before_[i]] = i;
        for (auto& m : state_.manifolds) m.body_a = now[m.body_a], m.body_b = now[m.body_b];
    }

private:
    State& state_;
    std::vector<std::uint32_t>& before_;
};

template<int Dim> bool World<Dim>::State::is_asleep(std::uint32_t i) const {
    return rows[i].island != Row::kAwake;
}

template<int Dim> std::uint32_t World<Dim>::State::new_island() {
    if (free_islands.empty()) {
        asleep.emplace_back();
        return static_cast<std::uint32_t>(asleep.size() - 1);
    }
    const std::uint32_t k = free_islands.back();
    free_islands.pop_back();
    return k;
}

// A body stands still where it is until it is woken. Its place must be at the end of the moving ones.
template<int Dim> void World<Dim>::State::lay(std::uint32_t i, std::uint32_t island) {
    rows[i].island = island;
    rows[i].previous = pose(i);
    bodies.velocity[i] = bodies.remainder[i] = {};
    bodies.push[i] = {};
    asleep[island].bodies.push_back(slots.ids()[i]);
    if (event_kinds.sleep) told.fell_asleep.push_back(slots.ids()[i]);
    place_colliders(i);
}

template<int Dim> void World<Dim>::State::fall_asleep() {
    if (!spec.sleeping) return;
    rest.watch(bodies, manifolds, joints, active_joints, spec.tick, length(spec.gravity));
    const auto island_of = advance.roots();
    if (island_of.size() != bodies.moving) return; // a body was held in this tick
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        bodies.still[i].kept_awake = !rows[i].may_sleep || rows[i].thrust || rows[i].target || rows[i].driven;
    if (!fields.empty()) keep_attracted_awake();
    keep_own_movers_awake();
    if (!rest.find(bodies, manifolds, joints, active_joints, island_of, spec.tick)) return;

    going.clear(), active_joints_known = false;
    base::make_room(going, bodies.moving), base::make_room(island_at, bodies.moving);
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        if (rest.may_sleep(island_of[i])) going.push_back({island_of[i], i, slots.ids()[i]});
    std::sort(going.begin(), going.end(), [](const Going& p, const Going& q) {
        return p.root != q.root ? p.root < q.root : p.place < q.place;
    });
    island_at.resize(bodies.moving); // of each root
    for (std::size_t k = 0; k < going.size(); k++)
        if (k == 0 || going[k].root != going[k - 1].root) island_at[going[k].root] = new_island();
    std::erase_if(manifolds, [&](const flow::Manifold<Dim>& m) {
        const bool a = m.body_a < bodies.moving && bodies.motion[m.body_a] == Motion::Dynamic;
        const std::uint32_t root = island_of[a ? m.body_a : m.body_b];
        if (!rest.may_sleep(root)) return false;
        asleep[island_at[root]].contacts.push_back({m, slots.ids()[m.body_a], slots.ids()[m.body_b]});
        return true;
    });
    Moves moves(*this);
    for (const Going& g : going) {
        const auto last = static_cast<std::uint32_t>(--bodies.moving);
        moves.swap(slots.place(g.id), last);
        lay(last, island_at[g.root]);
    }
    moves.finish();
}

// The island's bodies move again; its contacts join those given, by their keys.
template<int Dim>
void World<Dim>::State::wake_island(std::uint32_t k, std::vector<flow::Manifold<Dim>>& into) {
    active_joints_known = false;
    Asleep& island = waking;
    std::swap(island, asleep[k]); // which has room for what sleeps there next
    asleep[k].bodies.clear(), asleep[k].contacts.clear();
    free_islands.push_back(k);
    Moves moves(*this);
    for (const BodyId id : island.bodies)
        moves.swap(slots.place(id), static_cast<std::uint32_t>(bodies.moving++));
    moves.finish();
    for (const BodyId id : island.bodies) {
        const std::uint32_t i = slots.place(id);
        rows[i].island = Row::kAwake;
        if (event_kinds.sleep) woken.push_back(id);
        bodies.still[i].ticks = bodies.still[i].leaving = 0;
        bodies.still[i].way = 0;
        bodies.still[i].since = bodies.pose[i];
        place_colliders(i);
    }
    const std::size_t sorted = into.size();
    for (auto& c : island.contacts) {
        if (!slots.contains(c.a) || !slots.contains(c.b)) continue;
        c.manifold.body_a = slots.place(c.a), c.manifold.body_b = slots.place(c.b);
        into.push_back(c.manifold);
    }
    base::merge_tail(into, sorted, merge_room, [](const auto& p, const auto& q) {
        return p.key_a != q.key_a ? p.key_a < q.key_a : p.key_b < q.key_b;
    });
}

template<int Dim> std::uint32_t World<Dim>::State::wake(std::uint32_t i) {
    if (!is_asleep(i)) return i;
    const BodyId id = slots.ids()[i];
    group_sleepers();
    wake_island(rows[i].island, manifolds);
    return slots.place(id);
}

template<int Dim> void World<Dim>::State::wake_all() {
    group_sleepers();
    for (std::uint32_t k = 0; k < asleep.size(); k++)
        if (!asleep[k].bodies.empty()) wake_island(k, manifolds);
}

// Wakes what sleeps about the shapes of a body, before or after they change.
template<int Dim> void World<Dim>::State::wake_around(std::uint32_t i) {
    if (asleep.size() == free_islands.size() && ungrouped.empty()) return;
    std::vector<BodyId> found;
    for (const std::uint32_t c : rows[i].colliders) {
        if (colliders[c].spec->is_sensor) continue;
        const Bounds<Dim> bounds = flow::reached(colliders[c]);
        index.query(broad::box_around(bounds), [&](std::uint32_t other) {
            const std::uint32_t body = colliders[other].body;
            if (body != i && is_asleep(body)) found.push_back(slots.ids()[body]);
        });
    }
    sort_unique(found);
    for (const BodyId id : found) wake(slots.place(id));
}

template<int Dim> std::uint32_t World<Dim>::State::disturbed_place(BodyId id) {
    const std::uint32_t i = wake(place(id));
    if (bodies.motion[i] == Motion::Dynamic) return i;
    wake_around(i), wake_joined(place(id)), wake_attracted(id);
    return place(id);
}

// Bodies that were added asleep form islands with those whose bounds they overlap.
template<int Dim> void World<Dim>::State::group_sleepers() {
    if (ungrouped.empty()) return;
    std::erase_if(ungrouped, [&](BodyId id) {
        const std::uint32_t i = slots.place(id);
        return i == base::SlotMap<BodyId>::kNone || rows[i].island != Row::kUngrouped;
    });
    std::vector<std::uint32_t> stack;
    std::vector<BodyId> found;
    for (const BodyId first : ungrouped) {
        if (rows[slots.place(first)].island != Row::kUngrouped) continue;
        const std::uint32_t island = new_island();
        const auto join = [&](std::uint32_t i) {
            rows[i].island = island;
            asleep[island].bodies.push_back(slots.ids()[i]);
            stack.push_back(i);
        };
        join(slots.place(first));
        while (!stack.empty()) {
            const std::uint32_t i = stack.back();
            stack.pop_back();
            found.clear();
            for (const std::uint32_t c : rows[i].colliders)
                index.query(broad::box_around(flow::reached(colliders[c])), [&](std::uint32_t other) {
                    const std::uint32_t body = colliders[other].body;
                    if (rows[body].island == Row::kUngrouped &&
                        may_touch(*colliders[c].spec, *colliders[other].spec))
                        found.push_back(slots.ids()[body]);
                });
            sort_unique(found);
            for (const BodyId id : found) join(slots.place(id));
        }
    }
    ungrouped.clear();
}

// After contacts were found: islands that something moving may meet wake. Returns whether any did, and then
// contacts have to be found anew.
template<int Dim> bool World<Dim>::State::wake_met() {
    const auto stands = [&](std::uint32_t i) {
        return bodies.motion[i] == Motion::Kinematic && bodies.velocity[i].linear == Vec<Dim>{} &&
               length(bodies.velocity[i].angular) == 0;
    };
    std::vector<std::uint32_t>& met = met_islands;
    met.clear();
    const std::size_t all = manifolds.size();
    std::erase_if(manifolds, [&](const flow::Manifold<Dim>& m) {
        const bool a = is_asleep(m.body_a), b = is_asleep(m.body_b);
        const std::uint32_t sleeper = a ? m.body_a : m.body_b, other = a ? m.body_b : m.body_a;
        if (!(a || b) || bodies.motion[sleeper] != Motion::Dynamic) return false;
        if (!stands(other)) met.push_back(rows[sleeper].island);
        return true;
    });
    if (manifolds.size() == all) return false;
    std::sort(met.begin(), met.end());
    met.erase(std::unique(met.begin(), met.end()), met.end());
    for (const std::uint32_t k : met) wake_island(k, manifolds_before);
    return !met.empty();
}

template<int Dim> std::vector<flow::Manifold<Dim>> World<Dim>::State::all_manifolds() const {
    auto out = manifolds;
    for (const Asleep& island : asleep)
        for (const SleepingContact& c : island.contacts) {
            if (!slots.contains(c.a) || !slots.contains(c.b)) continue;
            out.push_back(c.manifold);
            out.back().body_a = slots.place(c.a), out.back().body_b = slots.place(c.b);
        }
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template bool World<Dim>::State::is_asleep(std::uint32_t) const;                                         \
    template std::uint32_t World<Dim>::State::wake(std::uint32_t);                                           \
    template void World<Dim>::State::wake_all();                                                             \
    template void World<Dim>::State::wake_around(std::uint32_t);                                             \
    template std::uint32_t World<Dim>::State::disturbed_place(BodyId);                                       \
    template void World<Dim>::State::group_sleepers();                                                       \
    template std::vector<flow::Manifold<Dim>> World<Dim>::State::all_manifolds() const;                      \
    template bool World<Dim>::State::wake_met();                                                             \
    template void World<Dim>::State::fall_asleep();
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
