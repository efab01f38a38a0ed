#include "world/flight.h"

#include "math/inertia.h"
#include "math/locks.h"
#include "shape/ask.h"

#include <algorithm>

namespace astasis {
namespace {

// Impacts of one body within a tick; after the last it stays where it is for the rest of the tick.
constexpr int kMostImpacts = 32;
// A body that meets others and goes on with them time after time is in a crowd, where such meetings never end
// (inelastic collapse: McNamara and Young 1992, Phys. Fluids A 4, 496): the solver has it after so many.
constexpr int kMostClinging = 2;
// Contacts are looked for within this share of the flyer's size, and points that are farther apart than the
// nearest by no more than the second share meet at once with it.
constexpr float kNear = 1e-2f, kAtOnce = 2e-4f;

}

template<int Dim> void World<Dim>::State::Flight::predict(const State& s, Flyer& f) {
    f.next = 2 * tick_;
    f.halted = f.handed_over || f.count >= kMostImpacts;
    if (!f.halted) look_for(s, f, [](std::uint32_t) { return true; });
}

// Among the bodies that are asked for: what comes before its next impact so far takes that one's place.
template<int Dim>
void World<Dim>::State::Flight::look_for(const State& s, Flyer& f,
                                         FunctionRef<bool(std::uint32_t)> is_asked) {
    for (const flow::Pair& pair : f.pairs) {
        const std::uint32_t other = s.colliders[pair.b].body;
        if (!is_asked(other)) continue;
        // Before the first impact only what the body is to look at can make it a flyer.
        if (!f.flies && !looks_at(s, f.place, other)) continue;
        const auto met = shape::first_touch<Dim>(
            s.colliders[pair.a].spec->geometry, moving(s, pair.a, f.time), s.colliders[pair.b].spec->geometry,
            moving(s, pair.b, f.time), std::min(tick_, f.next) - f.time, kMostSteps);
        if (!met || !(f.time + met->time < f.next)) continue;
        f.next = f.time + met->time;
        f.met = pair, f.impact = *met;
    }
}

template<int Dim>
void World<Dim>::State::Flight::set_two(const State& s, std::uint32_t place,
                                        const flow::CentrePose<Dim>& pose, const flow::Velocity<Dim>& v,
                                        std::size_t k) {
    auto& b = two_.bodies;
    b.pose[k] = pose, b.velocity[k] = v, b.remainder[k] = {};
    b.mass[k] = s.bodies.mass[place], b.free[k] = s.bodies.free[place], b.motion[k] = s.bodies.motion[place];
    two_.inverse_inertia[k] =
        math::inverse_where_free(math::turned_tensor(b.mass[k].inertia, pose.rotation), b.free[k].locks);
    if (b.mass[k].inverse_mass == 0) two_.inverse_inertia[k] = {};
}

// The pairs of shapes by which both may meet, in two_: of a table that comes down level, all four legs.
template<int Dim>
void World<Dim>::State::Flight::pair_two(const State& s, const Flyer& f, std::uint32_t other, float near) {
    two_.colliders.clear(), two_.pairs.clear();
    const auto add = [&](std::uint32_t collider, std::uint32_t body, float travel) {
        auto& c = two_.colliders.emplace_back(s.colliders[collider]);
        c.body = body, c.travel = travel, c.drift = {}, c.turn = {};
        return static_cast<std::uint32_t>(two_.colliders.size() - 1);
    };
    for (const flow::Pair& p : f.pairs) {
        if (s.colliders[p.b].body != other) continue;
        const std::uint32_t a = add(p.a, 0, near), b = add(p.b, 1, 0);
        two_.pairs.push_back(two_.colliders[a].key < two_.colliders[b].key ? flow::Pair{a, b}
                                                                           : flow::Pair{b, a});
    }
}

// The points of both that meet now, as manifolds of two_.
template<int Dim> void World<Dim>::State::Flight::find_meeting(const State& s, const Flyer& f) {
    auto& t = two_;
    auto& b = t.bodies;
    const std::uint32_t other = s.colliders[f.met.b].body;
    b.pose.resize(2), b.velocity.resize(2), b.remainder.resize(2), b.mass.resize(2), b.free.resize(2),
        b.motion.resize(2);
    t.inverse_inertia.resize(2), t.gained.assign(2, {});
    b.moving = 2;
    set_two(s, f.place, f.pose, velocity_of(s, f.place), 0);
    set_two(s, other, pose_at(s, other, f.time), velocity_of(s, other), 1);
    const float size = s.bodies.still[f.place].size;
    pair_two(s, f, other, kNear * size);
    finder_.find(t.colliders, t.pairs, b, s.materials, t.before, t.manifolds);
    t.suspects.clear();
    float nearest = kNear * size; // of the two shapes that meet: another may have lain there before
    const auto keys = std::minmax(s.colliders[f.met.a].key, s.colliders[f.met.b].key);
    for (const auto& m : t.manifolds)
        for (std::size_t p = 0; p < m.count; p++)
            if (m.key_a == keys.first && m.key_b == keys.second)
                nearest = std::min(nearest, m.points[p].separation);
    t.nearest = nearest;
    for (std::uint32_t m = 0; m < t.manifolds.size(); m++) {
        auto& manifold = t.manifolds[m];
        std::uint8_t kept = 0;
        for (std::size_t p = 0; p < manifold.count; p++)
            if (manifold.points[p].separation <= nearest + kAtOnce * size)
                manifold.points[kept++] = manifold.points[p];
        manifold.count = kept;
        for (std::uint32_t p = 0; p < kept; p++) t.suspects.push_back({m, p});
    }
    collider_.begin_tick(b, t.manifolds);
    t.lists.find(b, t.manifolds);
}

// Where a collider may come in the rest of the tick.
template<int Dim>
broad::Box<Dim> World<Dim>::State::Flight::box_ahead(const State& s, std::uint32_t collider,
                                                     const flow::CentrePose<Dim>& at,
                                                     const flow::Velocity<Dim>& way, double left) {
    Bounds<Dim> out{at.centre, at.centre};
    for (int k = 0; k < Dim; k++) {
        const double far = static_cast<double>(way.linear[k]) * left;
        out.low[k] += std::min(far, 0.0) - s.colliders[collider].reach;
        out.high[k] += std::max(far, 0.0) + s.colliders[collider].reach;
    }
    return broad::box_around(out);
}

// Pairs with another flyer, which may be far from where the tick found it.
template<int Dim>
void World<Dim>::State::Flight::look_at(const State& s, Flyer& f, const Flyer& other) const {
    const double left = tick_ - f.time;
    const auto there = pose_at(s, other.place, f.time);
    const auto way = way_of(s, other.place);
    for (const std::uint32_t c : s.rows[f.place].colliders) {
        const auto box = box_ahead(s, c, f.pose, way_of(s, f.place), left);
        for (const std::uint32_t d : s.rows[other.place].colliders)
            if (meet(box, box_ahead(s, d, there, way, left)) &&
                may_meet(*s.colliders[c].spec, *s.colliders[d].spec))
                f.pairs.push_back({c, d});
    }
}

// What a flyer may meet in the rest of the tick: after a blow it may come to where it was not on its way to.
template<int Dim> void World<Dim>::State::Flight::look_around(const State& s, Flyer& f) {
    f.pairs.clear();
    for (const std::uint32_t c : s.rows[f.place].colliders) {
        const auto box = box_ahead(s, c, f.pose, way_of(s, f.place), tick_ - f.time);
        s.index.query(box, [&](std::uint32_t d) {
            const std::uint32_t body = s.colliders[d].body;
            // Fat boxes depend on a world's past: what is found by them alone does not count.
            if (body != f.place && flyer_of_[body] == 0 &&
                meet(box, broad::box_around(flow::reached(s.colliders[d]))) &&
                may_meet(*s.colliders[c].spec, *s.colliders[d].spec))
                f.pairs.push_back({c, d});
        });
    }
    for (std::size_t k = 0; k < count_; k++)
        if (flyers_[k].place != f.place) look_at(s, f, flyers_[k]);
    sort_by_keys(s, f.pairs);
}

template<int Dim> void World<Dim>::State::Flight::hit(State& s, std::size_t which) {
    const double now = flyers_[which].next;
    const std::uint32_t other = s.colliders[flyers_[which].met.b].body;
    advance(flyers_[which], now);
    const auto flies_on = [&] { return flies(other); };
    if (flies_on()) advance(flyers_[flyer_of_[other] - 1], now);
    flyers_[which].count++, flyers_[which].flies = true;

    if (is_stopped(s, other, now)) {
        hand_over(s, flyers_[which], other);
        return foretell_others(s, which, other, now);
    }
    find_meeting(s, flyers_[which]);
    auto& t = two_;
    const Vec<Dim> before = t.bodies.velocity[0].linear;
    const auto seconds = static_cast<float>(tick_ / s.spec.substeps);
    const bool turned =
        collider_.resolve(t.bodies, t.manifolds, t.gained, t.inverse_inertia, t.lists, seconds, t.suspects);
    const flow::Velocity<Dim> mine = t.bodies.velocity[0], others = t.bodies.velocity[1];
    if ((turned && is_held(s, other, others)) || (flyer_of_[other] != 0 && !flies_on())) {
        hand_over(s, flyers_[which], other);
        return foretell_others(s, which, other, now);
    }
    if (s.bodies.motion[other] == Motion::Dynamic && !s.is_asleep(other)) {
        Flyer& f = flyers_[which];
        const bool deep = !turned && t.nearest < -kTouches * s.bodies.still[f.place].size;
        // What spins too fast for the search to come to an end has not met: it only stands off.
        if (!t.suspects.empty()) f.clung += clings(s, f, other, mine, others);
        if (deep || f.clung >= kMostClinging) {
            leave_together(s, which, other, mine, others);
            return foretell_others(s, which, other, now);
        }
    }
    const Point<Dim> others_centre = pose_at(s, other, now).centre;
    send_on(s, other, others, now); // may make room for flyers: references begin behind it
    Flyer& f = flyers_[which];
    const Vec<Dim> n = f.impact.normal; // from the flyer to the other
    f.velocity = mine.linear, f.spin = mine.angular;
    // What began the tick in overlap stands off too, or it would be met there for ever.
    const float size = s.bodies.still[f.place].size, overlap = std::clamp(-t.nearest, 0.0f, kTouches * size);
    f.pose.centre =
        f.pose.centre + math::unlocked(n * -(overlap + kStandOff * size), s.bodies.free[f.place].locks);
    f.from = f.pose, f.since = now;
    // What presses it on, but cannot bring it back within the tick, would only make it tremble there.
    const float pressing = dot(f.acceleration, n), leaving = -dot(f.velocity - others.linear, n);
    if (pressing > 0 && leaving < pressing * static_cast<float>(tick_ - f.time))
        f.acceleration = f.acceleration - math::unlocked(n * pressing, s.bodies.free[f.place].locks);
    if (turned)
        impacts_.push_back({s.slots.ids()[f.place], s.slots.ids()[other], s.colliders[f.met.a].shape,
                            s.colliders[f.met.b].shape, f.time, f.impact.position, f.pose.centre,
                            others_centre, false, false, n,
                            (f.velocity - before) * s.bodies.mass[f.place].mass});
    set_mean(f);
    if (flies_on()) set_mean(flyers_[flyer_of_[other] - 1]);
    look_around(s, f);
    predict(s, f);
    foretell_others(s, which, other, now);
}

// After an impact its two bodies have new ways; those of all others stay as they were foreseen. One that
// stands now looks for nobody itself, and may stand where nobody looked for it.
template<int Dim>
void World<Dim>::State::Flight::foretell_others(const State& s, std::size_t which, std::uint32_t other,
                                                double now) {
    const auto is_one = [&](std::uint32_t collider) {
        const std::uint32_t body = s.colliders[collider].body;
        return body == flyers_[which].place || body == other;
    };
    for (std::size_t k = 0; k < count_; k++) {
        Flyer& h = flyers_[k];
        if (k == which || h.halted) continue;
        if (h.place == other) {
            advance(h, now);
            look_around(s, h);
            predict(s, h);
            continue;
        }
        for (const auto m : {static_cast<std::uint32_t>(which + 1), flyer_of_[other]}) {
            if (m == 0 || !flyers_[m - 1].halted) continue;
            const Flyer& standing = flyers_[m - 1];
            std::erase_if(h.pairs,
                          [&](const flow::Pair& p) { return s.colliders[p.b].body == standing.place; });
            look_at(s, h, standing);
            sort_by_keys(s, h.pairs);
        }
        const bool meets_one = h.next <= tick_ && is_one(h.met.b);
        if (!meets_one &&
            std::none_of(h.pairs.begin(), h.pairs.end(), [&](const flow::Pair& p) { return is_one(p.b); }))
            continue;
        advance(h, now);
        if (meets_one) predict(s, h);
        else
            look_for(s, h, [&](std::uint32_t body) { return body == flyers_[which].place || body == other; });
    }
}

template<int Dim> void World<Dim>::State::Flight::fly(State& s) {
    impacts_.clear(), met_.clear(), struck_sleepers_.clear();
    tick_ = s.spec.tick;
    find_flyers(s);
    if (count_ == 0) return;
    for (std::size_t k = 0; k < count_; k++) set_mean(flyers_[k]);
    for (std::size_t k = 0; k < count_; k++) predict(s, flyers_[k]);
    for (;;) {
        std::size_t first = count_;
        for (std::size_t k = 0; k < count_; k++)
            if (flyers_[k].next <= tick_ && (first == count_ || flyers_[k].next < flyers_[first].next))
                first = k;
        if (first == count_) break;
        hit(s, first);
    }
    leave_unmet(s);
    for (std::size_t k = 0; k < count_; k++)
        if (flyers_[k].handed_over) put_back(s, flyers_[k]);
    list_met(s);
}

// Those whose ways lead through their impacts: what the solver has begins elsewhere.
template<int Dim> void World<Dim>::State::Flight::list_met(const State& s) {
    const auto flew = [&](BodyId id) { return flies(s.slots.place(id)); };
    for (std::uint32_t k = 0; k < impacts_.size(); k++) {
        SweptImpact<Dim>& impact = impacts_[k];
        impact.swept = flew(impact.body), impact.other_swept = flew(impact.other);
        if (impact.swept) met_.push_back({impact.body.index, k});
        if (impact.other_swept) met_.push_back({impact.other.index, k});
    }
    std::sort(met_.begin(), met_.end());
}

#define ASTASIS_INSTANTIATE(Dim) template void World<Dim>::State::Flight::fly(State&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
