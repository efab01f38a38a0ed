// Who flies within a tick, and who is left to the solver.
#include "world/flight.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/convex.h"

#include <algorithm>

namespace astasis {
namespace {

// What rests or slides on something within this share of its width, and comes no nearer than that within the
// tick, is held by the solver.
constexpr float kLeaning = 0.25f;
// For which the tick is looked at so many times: a spin of 100 rad/s turns by 0.4 rad in between.
constexpr int kLooks = 4;

}

template<int Dim>
bool World<Dim>::State::Flight::goes_far(const State& s, std::uint32_t i,
                                         const flow::Velocity<Dim>& v) const {
    if (s.bodies.motion[i] != Motion::Dynamic || s.rows[i].sweep == Sweep::None) return false;
    const auto& still = s.bodies.still[i];
    const auto tick = static_cast<float>(s.spec.tick);
    return (length(v.linear) + math::magnitude(v.angular) * still.reach) * tick > kFar * still.size;
}

// The same against another body: what flies along with it does not come far.
template<int Dim>
bool World<Dim>::State::Flight::goes_far_past(const State& s, const flow::Pair& pair) const {
    const auto &c = s.colliders[pair.a], &d = s.colliders[pair.b];
    const auto &v = s.bodies.velocity[c.body],
               w = d.body < s.bodies.moving ? s.bodies.velocity[d.body] : flow::Velocity<Dim>{};
    const auto& still = s.bodies.still[c.body];
    const float spin = math::magnitude(w.angular);
    const float way = (length(v.linear - w.linear) + math::magnitude(v.angular) * still.reach) +
                      (spin > 0 && math::is_finite(d.reach) ? spin * d.reach : 0.0f);
    return way * static_cast<float>(s.spec.tick) > kFar * still.size;
}

// How far a dynamic body (its shapes are convex) reaches along a direction from its centre of mass when it is
// turned so.
template<int Dim>
float World<Dim>::State::Flight::reach_along(const State& s, std::uint32_t i, const Rotation<Dim>& rotation,
                                             const Vec<Dim>& d) const {
    const auto way = math::widened(d);
    double reach = 0;
    for (const std::uint32_t c : s.rows[i].colliders) {
        shape::ConvexRoom<Dim> room;
        const shape::Convex<Dim> convex = shape::convex_of(s.colliders[c].spec->geometry, room);
        const Placement<Dim>& on = s.colliders[c].spec->placement;
        const Vec<Dim> at = rotate(rotation, on.position - s.bodies.mass[i].centre);
        const auto there = shape::placed(convex, math::widened(at), math::turn_of(rotation * on.rotation));
        reach = std::max(reach, dot(there.support(way), way) + there.skin);
    }
    return static_cast<float>(reach);
}

// Whether a body that goes on at a velocity reaches as far along a direction all through the tick as the end
// of an arm from its centre does now: what rolls or slides does, while of what turns end over end that end
// goes off, or another comes round.
template<int Dim>
bool World<Dim>::State::Flight::keeps_near(const State& s, std::uint32_t i, const Vec<Dim>& v,
                                           const Vec<Dim>& arm, const Vec<Dim>& d) const {
    const float size = s.bodies.still[i].size, reach = dot(arm, d);
    const auto& spin = s.bodies.velocity[i].angular;
    for (int k = 1; k <= kLooks; k++) {
        const float t = static_cast<float>(s.spec.tick) * static_cast<float>(k) / kLooks;
        const Rotation<Dim> turned = math::turned_by(s.bodies.pose[i].rotation, spin * t);
        if (std::fabs(reach_along(s, i, turned, d) - reach + dot(v, d) * t) > kLeaning * size) return false;
    }
    return true;
}

// Whether something holds it: a contact that stays near all through the tick.
template<int Dim> bool World<Dim>::State::Flight::leans(const State& s, std::uint32_t i) const {
    const auto tick = static_cast<float>(s.spec.tick);
    for (const auto& m : s.manifolds) {
        if (m.body_a != i && m.body_b != i) continue;
        const float size = s.bodies.still[i].size;
        const auto &va = s.bodies.velocity[m.body_a], &vb = s.bodies.velocity[m.body_b];
        const bool both_free =
            s.bodies.motion[m.body_a] == Motion::Dynamic && s.bodies.motion[m.body_b] == Motion::Dynamic;
        for (int p = 0; p < m.count; p++) {
            const auto now = flow::evaluate(m, m.points[static_cast<std::size_t>(p)], s.bodies);
            const Vec<Dim> v =
                (vb.linear + cross(vb.angular, now.arm_b)) - (va.linear + cross(va.angular, now.arm_a));
            if (both_free && now.separation < -kTouches * size) return true; // the solver parts them
            if (now.separation > kTouches * size) continue;
            if (std::fabs(dot(v, now.normal)) * tick >= kLeaning * size) continue;
            const bool is_a = m.body_a == i;
            const Vec<Dim> passing = is_a ? va.linear - vb.linear - cross(vb.angular, now.arm_b)
                                          : vb.linear - va.linear - cross(va.angular, now.arm_a);
            if (keeps_near(s, i, passing, is_a ? now.arm_a : now.arm_b, now.normal * (is_a ? 1.0f : -1.0f)))
                return true;
        }
    }
    return false;
}

// Whether it comes straight at something so fast that it could come out behind it.
template<int Dim> bool World<Dim>::State::Flight::rams(const State& s, std::uint32_t i) const {
    const float size = s.bodies.still[i].size, tick = static_cast<float>(s.spec.tick);
    for (const auto& m : s.manifolds) {
        if (m.body_a != i && m.body_b != i) continue;
        const Vec<Dim> v = s.bodies.velocity[m.body_b].linear - s.bodies.velocity[m.body_a].linear;
        float nearest = m.points[0].separation;
        for (std::size_t p = 1; p < m.count; p++) nearest = std::min(nearest, m.points[p].separation);
        const float way = -dot(v, m.normal) * tick;
        if (nearest > kTouches * size && way > std::max(nearest + m.thickness, kFar * size)) return true;
    }
    return false;
}

template<int Dim>
bool World<Dim>::State::Flight::looks_at(const State& s, std::uint32_t i, std::uint32_t other) const {
    return s.rows[i].sweep == Sweep::Everything || s.bodies.motion[other] != Motion::Dynamic;
}

template<int Dim> void World<Dim>::State::Flight::start(State& s, std::uint32_t i) {
    if (count_ == flyers_.size()) flyers_.emplace_back();
    Flyer& f = flyers_[count_++];
    const auto& b = s.bodies;
    const FreeMotion<Dim>& free = b.free[i];
    f.place = i, f.time = f.since = 0, f.pose = f.from = b.pose[i];
    f.velocity = b.velocity[i].linear, f.spin = b.velocity[i].angular;
    const float speed = length(f.velocity), inverse_mass = b.mass[i].inverse_mass;
    f.acceleration = math::unlocked(s.spec.gravity * free.gravity_scale + b.push[i].force * inverse_mass -
                                        f.velocity * (free.linear_damping + free.drag * inverse_mass * speed),
                                    free.locks);
    f.pairs.clear(), f.count = f.clung = 0, f.flies = f.halted = f.handed_over = f.left = f.made_room = false;
    flyer_of_[i] = static_cast<std::uint32_t>(count_);
}

template<int Dim> void World<Dim>::State::Flight::find_flyers(State& s) {
    count_ = 0;
    bool any = false;
    for (std::uint32_t i = 0; i < s.bodies.moving; i++) {
        if (!goes_far(s, i, s.bodies.velocity[i])) continue;
        if (!any) flyer_of_.assign(s.bodies.size(), 0);
        any = true, flyer_of_[i] = kMay;
    }
    if (!any) return;
    for (const flow::Pair& pair : s.pairs)
        for (const flow::Pair& p : {pair, flow::Pair{pair.b, pair.a}}) {
            const std::uint32_t i = s.colliders[p.a].body;
            if (flyer_of_[i] == kMay && goes_far_past(s, p)) flyer_of_[i] = kMust;
        }
    for (std::uint32_t i = 0; i < s.bodies.moving; i++) {
        const bool must = flyer_of_[i] == kMust && (!leans(s, i) || rams(s, i));
        flyer_of_[i] = 0;
        if (must) start(s, i);
    }
    if (count_ == 0) return;
    for (const flow::Pair& pair : s.pairs)
        for (const flow::Pair& p : {pair, flow::Pair{pair.b, pair.a}})
            if (const auto k = flyer_of_[s.colliders[p.a].body]) flyers_[k - 1].pairs.push_back(p);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template bool World<Dim>::State::Flight::goes_far(const State&, std::uint32_t,                           \
                                                      const flow::Velocity<Dim>&) const;                     \
    template bool World<Dim>::State::Flight::looks_at(const State&, std::uint32_t, std::uint32_t) const;     \
    template void World<Dim>::State::Flight::start(State&, std::uint32_t);                                   \
    template void World<Dim>::State::Flight::find_flyers(State&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
