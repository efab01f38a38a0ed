// Contacts of a tick solved: in one go, and in parts where something comes on fast.
#include "base/room.h"
#include "math/numbers.h"
#include "world/flight.h"
#include "world/stopwatch.h"

#include <algorithm>
#include <iterator>
#include <tuple>

namespace astasis {

namespace {

// Of a growth, how much of it goes on from the one before: all of it where that was at least half as large,
// nothing where that was none or the other way. (As slopes are limited in schemes of the second order: van
// Leer 1974, J. Comput. Phys. 14, 361.)
constexpr float kGoesOn = 2;

float product(float a, float b) { return a * b; }
template<typename V> float product(const V& a, const V& b) { return dot(a, b); }
template<typename V> V going_on(const V& grows, const V& grew) {
    const float square = product(grows, grows);
    if (!(square > 0)) return {};
    return grows * std::clamp(kGoesOn * product(grew, grows) / square, 0.0f, 1.0f);
}

}

// What is driven and speeds up evenly from tick to tick does so within the tick too, and comes as far in it:
// a velocity that went up in steps would leave what stands there behind by a part of each step.
template<int Dim> void World<Dim>::State::speed_up() {
    speeding.clear();
    base::make_room(speeding, bodies.moving);
    const auto rate = static_cast<float>(1 / spec.tick);
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (bodies.motion[i] != Motion::Kinematic) continue;
        if (speeding.empty()) speeding.resize(bodies.moving);
        Row& row = rows[i];
        const flow::Velocity<Dim>& v = bodies.velocity[i];
        const flow::Velocity<Dim> grows{v.linear - row.before.linear, v.angular - row.before.angular};
        speeding[i] = {going_on(grows.linear, row.grew.linear) * rate,
                       going_on(grows.angular, row.grew.angular) * rate};
        row.before = v, row.grew = grows;
    }
}

// The velocities of kinematic bodies at a time within the tick; in its middle those that they were given.
template<int Dim> void World<Dim>::State::drive_at(double time) {
    const double since = time - spec.tick / 2;
    for (std::uint32_t i = 0; i < speeding.size(); i++) {
        if (bodies.motion[i] != Motion::Kinematic) continue;
        flow::Velocity<Dim>&v = bodies.velocity[i], &left = bodies.remainder[i];
        v = rows[i].before, left = {};
        for (int k = 0; k < Dim; k++)
            math::add_exactly(v.linear[k], left.linear[k], speeding[i].linear[k] * since);
        for (int k = 0; k < math::kAxialSize<Dim>; k++)
            math::add_exactly(math::component(v.angular, k), math::component(left.angular, k),
                              math::component(speeding[i].angular, k) * since);
    }
}

template<int Dim> double World<Dim>::State::solve_contacts() {
    speed_up();
    drive_at(0);
    const double looking = solve_in_parts();
    drive_at(spec.tick / 2);
    return looking;
}

// Where bodies come on fast they are turned by what they meet, and then meet others by corners that nothing
// could foresee when the tick began: there contacts are looked for once more, part-way through it. Returns
// the seconds that this takes.
template<int Dim> double World<Dim>::State::solve_in_parts() {
    const int next = narrow.substeps_before_next(spec.substeps, tuning.way);
    if (next == spec.substeps) {
        solver.solve({spec.gravity, spec.tick, spec.substeps, tuning, speeding}, bodies, manifolds);
        return 0;
    }
    find_hurried();
    solve_others();
    const double looking = solve_hurried(next);
    parts.merged.clear();
    base::make_room(parts.merged, manifolds.size() + parts.others.size());
    std::merge(manifolds.begin(), manifolds.end(), parts.others.begin(), parts.others.end(),
               std::back_inserter(parts.merged), [](const auto& p, const auto& q) {
                   return std::tie(p.key_a, p.key_b) < std::tie(q.key_a, q.key_b);
               });
    manifolds.swap(parts.merged);
    return looking;
}

template<int Dim> void World<Dim>::State::find_hurried() {
    const auto around = [&](std::uint32_t k, float distance, FunctionRef<void(std::uint32_t)> visit) {
        Bounds<Dim> near = colliders[k].bounds;
        for (int axis = 0; axis < Dim; axis++) near.low[axis] -= distance, near.high[axis] += distance;
        index.query_moving(broad::box_around(near), [&](std::uint32_t other) {
            if (!flight->takes(*this, colliders[k].body, colliders[other].body)) visit(other);
        });
    };
    parts.hurry.find(bodies, colliders, moving_colliders, pairs, manifolds, narrow.coming(), around);
}

// What is not hurried, through the whole tick. Only the manifolds of the hurried remain; what others cannot
// move goes back to where it was, to go along with these.
template<int Dim> void World<Dim>::State::solve_others() {
    const auto hurries = [&](std::uint32_t i) { return i < bodies.moving && parts.hurry.marks()[i] != 0; };
    base::make_room(parts.others, manifolds.size());
    parts.others.clear();
    std::erase_if(manifolds, [&](const flow::Manifold<Dim>& m) {
        if (hurries(m.body_a) || hurries(m.body_b)) return false;
        parts.others.push_back(m);
        return true;
    });
    base::make_room(parts.began, bodies.moving);
    parts.began.assign(bodies.pose.begin(), bodies.pose.begin() + static_cast<std::ptrdiff_t>(bodies.moving));
    solver.solve({spec.gravity, spec.tick, spec.substeps, tuning, speeding}, bodies, parts.others,
                 {parts.hurry.marks(), 0});
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        if (!(bodies.mass[i].inverse_mass > 0)) bodies.pose[i] = parts.began[i];
    drive_at(0);
}

// Whether a body moves in the hurried parts of a tick, or cannot be moved by them. The others are where they
// will be when the tick ends: no hurried one can reach them before.
template<int Dim> bool World<Dim>::State::goes_along(std::uint32_t i) const {
    return i >= bodies.moving || !(bodies.mass[i].inverse_mass > 0) || parts.hurry.marks()[i] != 0;
}

template<int Dim> double World<Dim>::State::solve_hurried(int next) {
    begin_hurried();
    const double substep = spec.tick / spec.substeps;
    double looking = 0;
    for (int left = spec.substeps; left > 0; next = narrow.substeps_before_next(left, tuning.way)) {
        solver.solve({spec.gravity, next * substep, next, tuning, speeding}, bodies, manifolds,
                     {parts.hurry.marks(), 1});
        left -= next;
        if (left == 0) break;
        Stopwatch watch(timing);
        foresee(left * substep);
        look_farther();
        manifolds.swap(manifolds_before);
        narrow.find(colliders, parts.pairs, bodies, materials, manifolds_before, manifolds,
                    narrow::ManifoldFinder<Dim>::When::WithinTick);
        looking += watch.lap();
    }
    return looking;
}

template<int Dim> void World<Dim>::State::begin_hurried() {
    base::make_room(parts.pairs, pairs.size());
    parts.pairs.clear();
    std::copy_if(pairs.begin(), pairs.end(), std::back_inserter(parts.pairs), [&](const flow::Pair& p) {
        return goes_along(colliders[p.a].body) && goes_along(colliders[p.b].body);
    });
    base::make_room(parts.looked, colliders.size()), base::make_room(parts.farther, moving_colliders.size());
    parts.looked.resize(colliders.size());
    for (const std::uint32_t k : moving_colliders) parts.looked[k] = flow::reached(colliders[k]);
}

// What is hit by something fast comes farther than it would have when the tick's pairs were found. It is
// looked for at once as far again as it comes, so that it is not looked for in each part.
template<int Dim> void World<Dim>::State::look_farther() {
    const auto reach = [&](std::uint32_t k) {
        return colliders[k].body < bodies.moving ? parts.looked[k] : flow::reached(colliders[k]);
    };
    parts.farther.clear();
    for (const std::uint32_t k : moving_colliders) {
        auto& c = colliders[k];
        if (!goes_along(c.body)) continue;
        set_bounds(c);
        if (broad::holds(parts.looked[k], flow::reached(c))) continue;
        parts.looked[k] = flow::reached(c);
        for (int axis = 0; axis < Dim; axis++)
            parts.looked[k].low[axis] -= c.travel, parts.looked[k].high[axis] += c.travel;
        parts.farther.push_back(k);
    }
    if (parts.farther.empty()) return;
    broad.find_farther(colliders, bodies.motion, parts.farther, reach, index, parts.pairs, bodies.moving);
    drop_pairs_of_flight(parts.pairs);
    std::erase_if(parts.pairs, [&](const flow::Pair& p) {
        return !goes_along(colliders[p.a].body) || !goes_along(colliders[p.b].body);
    });
}

template double World<2>::State::solve_contacts();
template double World<3>::State::solve_contacts();

}
