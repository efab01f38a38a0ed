// Where a flyer can be put without coming into others: where the solver begins, and where it lands.
#include "world/flight.h"

#include "math/locks.h"
#include "shape/ask.h"

#include <algorithm>

namespace astasis {
namespace {

// Of flyers that make room for what the solver moved, then for each other.
constexpr int kMostRounds = 3;

}

// The shapes of others that a body's shape may meet within bounds.
template<int Dim>
void World<Dim>::State::Flight::visit_near(const State& s, std::uint32_t collider, const Bounds<Dim>& reach,
                                           std::uint32_t partner,
                                           FunctionRef<void(std::uint32_t)> visit) const {
    const auto box = broad::box_around(reach);
    s.index.query(box, [&](std::uint32_t d) {
        const std::uint32_t body = s.colliders[d].body;
        // Fat boxes depend on a world's past: what is found by them alone does not count.
        if (body != s.colliders[collider].body && body != partner &&
            meet(box, broad::box_around(flow::reached(s.colliders[d]))) &&
            may_meet(*s.colliders[collider].spec, *s.colliders[d].spec))
            visit(d);
    });
}

// How much of a way, as the velocity that takes it there in a second, a body can go past others that stand
// still; its partner does not count, nor does what it touches and goes away from.
template<int Dim>
float World<Dim>::State::Flight::clear_share(
    const State& s, std::uint32_t place, const flow::CentrePose<Dim>& from, const flow::Velocity<Dim>& way,
    std::uint32_t partner, FunctionRef<flow::CentrePose<Dim>(std::uint32_t)> pose_of) const {
    double clear = 1;
    for (const std::uint32_t c : s.rows[place].colliders) {
        const Moving<Dim> ahead = moving(s, c, from, way);
        Bounds<Dim> reach{from.centre, from.centre};
        for (int k = 0; k < Dim; k++) {
            reach.low[k] += std::min(way.linear[k], 0.0f) - s.colliders[c].reach;
            reach.high[k] += std::max(way.linear[k], 0.0f) + s.colliders[c].reach;
        }
        visit_near(s, c, reach, partner, [&](std::uint32_t d) {
            const Moving<Dim> still{.from = placed(s, d, pose_of(s.colliders[d].body))};
            const auto met = shape::first_touch<Dim>(s.colliders[c].spec->geometry, ahead,
                                                     s.colliders[d].spec->geometry, still, clear, kMostSteps);
            if (met && (met->time > 0 || dot(way.linear, met->normal) > 0))
                clear = std::min(clear, met->time);
        });
    }
    return static_cast<float>(clear);
}

// A flyer that has met nothing goes where that was foreseen, unless it comes by others that the solver turns:
// then the solver has it among them. What stands apart or flies is not turned.
template<int Dim> void World<Dim>::State::Flight::leave_unmet(const State& s) {
    turned_.assign(s.bodies.size(), false);
    for (const auto& m : s.manifolds)
        if (!flies(m.body_a) && !flies(m.body_b)) turned_[m.body_a] = turned_[m.body_b] = true;
    for (std::size_t k = 0; k < count_; k++)
        if (flyers_[k].handed_over) turned_[flyers_[k].place] = true;
    for (bool again = true; again;) {
        again = false;
        for (std::size_t k = 0; k < count_; k++) {
            Flyer& f = flyers_[k];
            if (f.flies || f.handed_over || f.left ||
                std::none_of(f.pairs.begin(), f.pairs.end(), [&](const flow::Pair& p) {
                    const std::uint32_t other = s.colliders[p.b].body;
                    return turned_[other] && s.bodies.motion[other] == Motion::Dynamic;
                }))
                continue;
            f.left = again = true;
            turned_[f.place] = true;
        }
    }
}

template<int Dim> void World<Dim>::State::Flight::land(State& s) {
    for (std::size_t k = 0; k < count_; k++) {
        Flyer& f = flyers_[k];
        if (!flies(f.place)) continue;
        if (f.flies) advance(f, tick_);
        else f.pose = s.bodies.pose[f.place]; // met nothing: the solver moved it
    }
    bool moved = true;
    for (int round = 0; moved && round < kMostRounds; round++) {
        moved = false;
        for (std::size_t k = 0; k < count_; k++)
            if (flies(flyers_[k].place)) moved = make_room(s, flyers_[k]) || moved;
    }
    for (std::size_t k = 0; k < count_; k++) {
        const Flyer& f = flyers_[k];
        if (!flies(f.place)) continue;
        if (f.flies) put_back(s, f);
        else s.bodies.pose[f.place] = f.pose;
    }
    count_ = 0;
}

// The pairs of a flyer's shapes with those of others that may be where it lands.
template<int Dim> void World<Dim>::State::Flight::find_near(const State& s, const Flyer& f) {
    near_.clear();
    for (const std::uint32_t c : s.rows[f.place].colliders) {
        Bounds<Dim> reach{f.pose.centre, f.pose.centre};
        for (int k = 0; k < Dim; k++)
            reach.low[k] -= s.colliders[c].reach, reach.high[k] += s.colliders[c].reach;
        visit_near(s, c, reach, f.place, [&](std::uint32_t d) {
            const std::uint32_t body = s.colliders[d].body;
            if (body < s.bodies.moving && s.bodies.motion[body] == Motion::Dynamic && !flies(body))
                near_.push_back({c, d});
        });
        for (std::size_t k = 0; k < count_; k++) // those stand in the index where the tick began
            if (flies(flyers_[k].place) && flyers_[k].place != f.place && flyers_[k].made_room)
                for (const std::uint32_t d : s.rows[flyers_[k].place].colliders)
                    if (may_meet(*s.colliders[c].spec, *s.colliders[d].spec)) near_.push_back({c, d});
    }
    sort_by_keys(s, near_);
}

// What the solver moved may have been turned into the flyer's way since that was foreseen: then it goes no
// farther from its last impact than to where it touches that, as fast as it was there. What has come over
// that place itself it makes room for, by a part of its width at most; where something stands in its way,
// what the solver moved goes back by the rest. Returns whether anything moved.
template<int Dim> bool World<Dim>::State::Flight::make_room(State& s, Flyer& f) {
    const float size = s.bodies.still[f.place].size;
    const auto at_end = [&](std::uint32_t body) {
        return flies(body) ? flyers_[flyer_of_[body] - 1].pose : s.bodies.pose[body];
    };
    bool moved = false;
    find_near(s, f);
    for (const flow::Pair& pair : near_) {
        const std::uint32_t other = s.colliders[pair.b].body;
        if (!passes(s, f.place, other)) continue;
        const auto gap =
            shape::nearest_points<Dim>(s.colliders[pair.a].spec->geometry, placed(s, pair.a, f.pose),
                                       s.colliders[pair.b].spec->geometry, placed(s, pair.b, at_end(other)));
        const auto overlap = static_cast<float>(-gap.separation) - kStandOff * size;
        if (!(overlap > 0)) continue;
        f.made_room = moved = true;
        const flow::Velocity<Dim> leg = way_between(f.from, f.pose);
        const float before = clear_share(s, f.place, f.from, leg, f.place, at_end);
        if (before > 0 && before < 1) {
            const Point<Dim> there = f.pose.centre;
            f.pose = gone(f.from, leg, before);
            go_back(f.flies ? f.velocity : s.bodies.velocity[f.place].linear, f.acceleration,
                    f.pose.centre - there);
            continue;
        }
        const Vec<Dim> out =
            math::unlocked(gap.normal * -std::min(overlap, kFar * size), s.bodies.free[f.place].locks);
        const float share = clear_share(s, f.place, f.pose, {out, {}}, other, at_end);
        f.pose.centre = f.pose.centre + out * share;
        if (share == 1 || flies(other)) continue;
        const Vec<Dim> way = math::unlocked(out * (share - 1), s.bodies.free[other].locks);
        auto& pose = s.bodies.pose[other];
        const Vec<Dim> back = way * clear_share(s, other, pose, {way, {}}, f.place, at_end);
        pose.centre = pose.centre + back;
        const FreeMotion<Dim>& free = s.bodies.free[other];
        go_back(s.bodies.velocity[other].linear,
                math::unlocked(s.spec.gravity * free.gravity_scale, free.locks), back);
    }
    return moved;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::Flight::visit_near(const State&, std::uint32_t, const Bounds<Dim>&,     \
                                                        std::uint32_t, FunctionRef<void(std::uint32_t)>)     \
        const;                                                                                               \
    template float World<Dim>::State::Flight::clear_share(                                                   \
        const State&, std::uint32_t, const flow::CentrePose<Dim>&, const flow::Velocity<Dim>&,               \
        std::uint32_t, FunctionRef<flow::CentrePose<Dim>(std::uint32_t)>) const;                             \
    template void World<Dim>::State::Flight::leave_unmet(const State&);                                      \
    template void World<Dim>::State::Flight::land(State&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
