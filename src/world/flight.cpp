#include "world/flight.h"

#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/ask.h"

#include <algorithm>

namespace astasis {
namespace {

// A way past another body, longer than this share of its own smallest width within a tick, may lead a body
// through it.
constexpr float kFar = 0.5f;
// What rests or slides on something within this share of its width, and comes no nearer than that within the
// tick, is held by the solver.
constexpr float kLeaning = 0.25f;
// And what is nearer than this share of it touches.
constexpr float kTouches = 0.02f;
// Impacts of one body within a tick; after the last it stays where it is for the rest of the tick.
constexpr int kMostImpacts = 32;
// A body that meets others and goes on with them time after time is in a crowd, where such meetings never end
// (inelastic collapse: McNamara and Young 1992, Phys. Fluids A 4, 496): the solver has it after so many.
constexpr int kMostClinging = 2;
// After an impact a body stands off by this share of its size, so that the same touch is not found again.
constexpr float kStandOff = 4e-5f;
// Of the search for an impact; then it is taken to be there, which moves a body that only comes close off a
// little.
constexpr int kMostSteps = 200;
// Contacts are looked for within this share of the flyer's size, and points that are farther apart than the
// nearest by no more than the second share meet at once with it.
constexpr float kNear = 1e-2f, kAtOnce = 2e-4f;

template<int Dim>
flow::CentrePose<Dim> gone(const flow::CentrePose<Dim>& from, const flow::Velocity<Dim>& v, double time) {
    flow::CentrePose<Dim> out = from;
    for (int k = 0; k < Dim; k++) out.centre[k] += static_cast<double>(v.linear[k]) * time;
    if (math::magnitude(v.angular) > 0)
        out.rotation = math::turned_by(from.rotation, v.angular * static_cast<float>(time));
    return out;
}

}

template<int Dim> bool World<Dim>::State::Flight::goes_far(const State& s, std::uint32_t i) const {
    if (s.bodies.motion[i] != Motion::Dynamic || s.rows[i].sweep == Sweep::None) return false;
    const auto& still = s.bodies.still[i];
    const auto& v = s.bodies.velocity[i];
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
            if (std::fabs(dot(v, now.normal)) * tick < kLeaning * size) return true;
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

// Whether a velocity brings a body well into something that it touches by the end of the tick.
template<int Dim>
bool World<Dim>::State::Flight::is_held(const State& s, std::uint32_t i, const flow::Velocity<Dim>& v,
                                        double now) const {
    if (s.bodies.motion[i] != Motion::Dynamic || flyer_of_[i] != 0) return false;
    const auto left = static_cast<float>(tick_ - now);
    for (const auto& m : s.manifolds) {
        if (m.body_a != i && m.body_b != i) continue;
        const bool is_a = m.body_a == i;
        const std::uint32_t other = is_a ? m.body_b : m.body_a;
        if (flyer_of_[other] != 0) continue;
        const flow::Velocity<Dim> w = way_of(s, other);
        for (int p = 0; p < m.count; p++) {
            const auto at = flow::evaluate(m, m.points[static_cast<std::size_t>(p)], s.bodies);
            if (at.separation > kTouches * s.bodies.still[i].size) continue;
            const Vec<Dim> mine = v.linear + cross(v.angular, is_a ? at.arm_a : at.arm_b),
                           its = w.linear + cross(w.angular, is_a ? at.arm_b : at.arm_a);
            const float closing = dot(is_a ? mine - its : its - mine, at.normal);
            if (closing * left > kTouches * s.bodies.still[i].size) return true;
        }
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
    f.place = i, f.time = 0, f.pose = b.pose[i];
    f.velocity = b.velocity[i].linear, f.spin = b.velocity[i].angular;
    const float speed = length(f.velocity), inverse_mass = b.mass[i].inverse_mass;
    f.acceleration = math::unlocked(s.spec.gravity * free.gravity_scale + b.push[i].force * inverse_mass -
                                        f.velocity * (free.linear_damping + free.drag * inverse_mass * speed),
                                    free.locks);
    f.pairs.clear(), f.count = f.clung = 0, f.turned = f.flies = f.halted = f.handed_over = false;
    flyer_of_[i] = static_cast<std::uint32_t>(count_);
}

template<int Dim> void World<Dim>::State::Flight::find_flyers(State& s) {
    count_ = 0;
    bool any = false;
    for (std::uint32_t i = 0; i < s.bodies.moving; i++) {
        if (!goes_far(s, i)) continue;
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

// The velocity with which a body goes on through the rest of the tick.
template<int Dim>
flow::Velocity<Dim> World<Dim>::State::Flight::way_of(const State& s, std::uint32_t body) const {
    if (const auto k = flyer_of_[body]) {
        const Flyer& f = flyers_[k - 1];
        return f.halted ? flow::Velocity<Dim>{} : flow::Velocity<Dim>{f.mean, f.spin};
    }
    return body < s.bodies.moving ? s.bodies.velocity[body] : flow::Velocity<Dim>{};
}
template<int Dim>
flow::CentrePose<Dim> World<Dim>::State::Flight::pose_at(const State& s, std::uint32_t body,
                                                         double time) const {
    if (const auto k = flyer_of_[body])
        return gone(flyers_[k - 1].pose, way_of(s, body), time - flyers_[k - 1].time);
    return gone(s.bodies.pose[body], way_of(s, body), time);
}
template<int Dim>
flow::Velocity<Dim> World<Dim>::State::Flight::velocity_of(const State& s, std::uint32_t body) const {
    if (const auto k = flyer_of_[body]) return {flyers_[k - 1].velocity, flyers_[k - 1].spin};
    return s.is_asleep(body) ? s.bodies.velocity[body] : way_of(s, body);
}

// Where a shape is when its body is there.
template<int Dim>
Pose<Dim> World<Dim>::State::Flight::placed(const State& s, std::uint32_t collider,
                                            const flow::CentrePose<Dim>& at) const {
    const auto& c = s.colliders[collider];
    const Placement<Dim>& on = c.spec->placement;
    return {at.centre + rotate(at.rotation, on.position - s.bodies.mass[c.body].centre),
            at.rotation * on.rotation};
}

template<int Dim>
Moving<Dim> World<Dim>::State::Flight::moving(const State& s, std::uint32_t collider, double time) const {
    const auto& c = s.colliders[collider];
    const flow::CentrePose<Dim> at = pose_at(s, c.body, time);
    const flow::Velocity<Dim> v = way_of(s, c.body);
    const Placement<Dim>& on = c.spec->placement;
    const Vec<Dim> arm = on.position - s.bodies.mass[c.body].centre;
    return {.from = placed(s, collider, at),
            .velocity = v.linear,
            .angular_velocity = v.angular,
            .centre = rotate_back(on.rotation, arm * -1.0f)};
}

template<int Dim> void World<Dim>::State::Flight::set_mean(Flyer& f) const {
    f.mean = f.velocity + f.acceleration * static_cast<float>(0.5 * (tick_ - f.time));
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

template<int Dim> void World<Dim>::State::Flight::advance(Flyer& f, double time) const {
    if (!f.halted) f.pose = gone<Dim>(f.pose, {f.mean, f.spin}, time - f.time);
    f.velocity += f.acceleration * static_cast<float>(time - f.time);
    f.time = time;
}

template<int Dim>
void World<Dim>::State::Flight::set_two(const State& s, std::uint32_t place,
                                        const flow::CentrePose<Dim>& pose, const flow::Velocity<Dim>& v,
                                        std::uint32_t collider, std::size_t k) {
    auto& b = two_.bodies;
    b.pose[k] = pose, b.velocity[k] = v;
    b.mass[k] = s.bodies.mass[place], b.free[k] = s.bodies.free[place], b.motion[k] = s.bodies.motion[place];
    two_.colliders[k] = s.colliders[collider];
    two_.colliders[k].body = static_cast<std::uint32_t>(k);
    two_.colliders[k].travel = 0, two_.colliders[k].drift = {}, two_.colliders[k].turn = {};
    two_.inverse_inertia[k] =
        math::inverse_where_free(math::turned_tensor(b.mass[k].inertia, pose.rotation), b.free[k].locks);
    if (b.mass[k].inverse_mass == 0) two_.inverse_inertia[k] = {};
}

// The points of both that meet now, as manifolds of two_.
template<int Dim> void World<Dim>::State::Flight::find_meeting(const State& s, const Flyer& f) {
    auto& t = two_;
    auto& b = t.bodies;
    const std::uint32_t other = s.colliders[f.met.b].body;
    b.pose.resize(2), b.velocity.resize(2), b.mass.resize(2), b.free.resize(2), b.motion.resize(2);
    t.colliders.resize(2), t.inverse_inertia.resize(2), t.gained.assign(2, {});
    b.moving = 2;
    set_two(s, f.place, f.pose, velocity_of(s, f.place), f.met.a, 0);
    set_two(s, other, pose_at(s, other, f.time), velocity_of(s, other), f.met.b, 1);
    const float size = s.bodies.still[f.place].size;
    t.colliders[0].travel = kNear * size;
    t.pair.assign(1, t.colliders[0].key < t.colliders[1].key ? flow::Pair{0, 1} : flow::Pair{1, 0});
    finder_.find(t.colliders, t.pair, b, s.materials, t.before, t.manifolds);
    t.suspects.clear();
    float nearest = kNear * size;
    for (const auto& m : t.manifolds)
        for (std::size_t p = 0; p < m.count; p++) nearest = std::min(nearest, m.points[p].separation);
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

// What a flyer may meet in the rest of the tick: after a blow it may come to where it was not on its way to.
template<int Dim> void World<Dim>::State::Flight::look_around(const State& s, Flyer& f) {
    const double left = tick_ - f.time;
    f.pairs.clear();
    const auto reach_of = [&](std::uint32_t c, const flow::CentrePose<Dim>& at,
                              const flow::Velocity<Dim>& v) {
        Bounds<Dim> out{at.centre, at.centre};
        for (int k = 0; k < Dim; k++) {
            const double way = static_cast<double>(v.linear[k]) * left;
            out.low[k] += std::min(way, 0.0) - s.colliders[c].reach;
            out.high[k] += std::max(way, 0.0) + s.colliders[c].reach;
        }
        return out;
    };
    for (const std::uint32_t c : s.rows[f.place].colliders) {
        const auto box = broad::box_around(reach_of(c, f.pose, way_of(s, f.place)));
        const auto add = [&](std::uint32_t d) {
            const std::uint32_t body = s.colliders[d].body;
            if (body != f.place && may_meet(*s.colliders[c].spec, *s.colliders[d].spec))
                f.pairs.push_back({c, d});
        };
        s.index.query(box, [&](std::uint32_t d) {
            // Fat boxes depend on a world's past: what is found by them alone does not count.
            if (flyer_of_[s.colliders[d].body] == 0 &&
                meet(box, broad::box_around(flow::reached(s.colliders[d]))))
                add(d);
        });
        for (std::size_t k = 0; k < count_; k++) // who may be far from where the tick found them
            for (const std::uint32_t d : s.rows[flyers_[k].place].colliders)
                if (meet(box, broad::box_around(reach_of(d, pose_at(s, flyers_[k].place, f.time),
                                                         way_of(s, flyers_[k].place)))))
                    add(d);
    }
    const auto key = [&](const flow::Pair& p) {
        return std::pair{s.colliders[p.a].key, s.colliders[p.b].key};
    };
    std::sort(f.pairs.begin(), f.pairs.end(),
              [&](const flow::Pair& p, const flow::Pair& q) { return key(p) < key(q); });
}

// Whether the solver has it meet something in this tick.
template<int Dim> bool World<Dim>::State::Flight::is_alone(const State& s, std::uint32_t i) const {
    return std::none_of(s.manifolds.begin(), s.manifolds.end(), [&](const flow::Manifold<Dim>& m) {
        return (m.body_a == i && flyer_of_[m.body_b] == 0) || (m.body_b == i && flyer_of_[m.body_a] == 0);
    });
}

// A body that was hit takes its share, and flies itself if that sends it far or nothing else is near it: the
// solver would have it go its new way from the start of the tick. What sleeps goes when it is awake.
template<int Dim>
void World<Dim>::State::Flight::send_on(State& s, std::uint32_t body, const flow::Velocity<Dim>& v,
                                        double now) {
    if (s.bodies.motion[body] != Motion::Dynamic) return;
    if (flyer_of_[body] == 0) {
        const flow::CentrePose<Dim> at = pose_at(s, body, now);
        s.bodies.velocity[body] = v;
        if (body >= s.bodies.moving) return struck_sleepers_.push_back(s.slots.ids()[body]);
        if (!goes_far(s, body) && !is_alone(s, body)) return; // the solver moves it
        start(s, body);
        flyers_[count_ - 1].pose = at, flyers_[count_ - 1].time = now;
    }
    Flyer& g = flyers_[flyer_of_[body] - 1];
    g.velocity = v.linear, g.spin = v.angular, g.flies = g.turned = true;
}

// The solver begins where the other was when the tick began: from there the flyer touches it as it does now.
// Another flyer that was turned on its way cannot begin there, and begins where it is.
template<int Dim> void World<Dim>::State::Flight::hand_over(const State& s, Flyer& f, std::uint32_t other) {
    const auto k = flyer_of_[other];
    const flow::CentrePose<Dim> now = pose_at(s, other, f.time);
    const flow::CentrePose<Dim> then = k && flyers_[k - 1].turned ? now : s.bodies.pose[other];
    const Vec<Dim> arm = rotate_back(now.rotation, f.impact.position - now.centre);
    f.pose.centre = f.pose.centre + ((then.centre + rotate(then.rotation, arm)) - f.impact.position);
    if (k) flyers_[k - 1].pose = then, leave_to_solver(flyers_[k - 1]);
    leave_to_solver(f);
}

template<int Dim>
void World<Dim>::State::Flight::set_velocity(State& s, std::uint32_t body, const flow::Velocity<Dim>& v) {
    if (const auto k = flyer_of_[body]) flyers_[k - 1].velocity = v.linear, flyers_[k - 1].spin = v.angular;
    else s.bodies.velocity[body] = v;
}

template<int Dim> void World<Dim>::State::Flight::leave_to_solver(Flyer& f) const {
    f.handed_over = f.halted = f.flies = true;
    f.next = 2 * tick_;
}

// Whether two that have just met, the flyer and what it met, now go on together.
template<int Dim>
bool World<Dim>::State::Flight::clings(const State& s, const Flyer& f, std::uint32_t other,
                                       const flow::Velocity<Dim>& mine,
                                       const flow::Velocity<Dim>& others) const {
    const auto at = [&](const flow::Velocity<Dim>& v, const flow::CentrePose<Dim>& pose) {
        return v.linear + cross(v.angular, f.impact.position - pose.centre);
    };
    const Vec<Dim> apart = at(others, pose_at(s, other, f.time)) - at(mine, f.pose);
    return dot(apart, f.impact.normal) * static_cast<float>(tick_) < kTouches * s.bodies.still[f.place].size;
}

template<int Dim> void World<Dim>::State::Flight::hit(State& s, std::size_t which) {
    const double now = flyers_[which].next;
    const std::uint32_t other = s.colliders[flyers_[which].met.b].body;
    advance(flyers_[which], now);
    if (const auto k = flyer_of_[other]) advance(flyers_[k - 1], now);
    flyers_[which].count++, flyers_[which].flies = true;

    find_meeting(s, flyers_[which]);
    auto& t = two_;
    const Vec<Dim> before = t.bodies.velocity[0].linear;
    const auto seconds = static_cast<float>(tick_ / s.spec.substeps);
    const bool turned =
        collider_.resolve(t.bodies, t.manifolds, t.gained, t.inverse_inertia, t.lists, seconds, t.suspects);
    const flow::Velocity<Dim> mine = t.bodies.velocity[0], others = t.bodies.velocity[1];
    if (turned && is_held(s, other, others, now)) {
        hand_over(s, flyers_[which], other);
        return foretell_others(s, which, other);
    }
    if (s.bodies.motion[other] == Motion::Dynamic && !s.is_asleep(other)) {
        Flyer& f = flyers_[which];
        const bool deep = !turned && t.nearest < -kTouches * s.bodies.still[f.place].size;
        f.clung += clings(s, f, other, mine, others);
        if (deep || f.clung >= kMostClinging) {
            hand_over(s, f, other); // from where they are on their old ways
            set_velocity(s, f.place, mine), set_velocity(s, other, others);
            return foretell_others(s, which, other);
        }
    }
    send_on(s, other, others, now); // may make room for flyers: references begin behind it
    Flyer& f = flyers_[which];
    const Vec<Dim> n = f.impact.normal; // from the flyer to the other
    f.velocity = mine.linear, f.spin = mine.angular, f.turned = true;
    // What began the tick in overlap stands off too, or it would be met there for ever.
    const float size = s.bodies.still[f.place].size, overlap = std::clamp(-t.nearest, 0.0f, kTouches * size);
    f.pose.centre = f.pose.centre + n * -(overlap + kStandOff * size);
    // What presses it on, but cannot bring it back within the tick, would only make it tremble there.
    const float pressing = dot(f.acceleration, n), leaving = -dot(f.velocity - others.linear, n);
    if (pressing > 0 && leaving < pressing * static_cast<float>(tick_ - f.time))
        f.acceleration = f.acceleration - n * pressing;
    if (turned)
        impacts_.push_back({s.slots.ids()[f.place], s.slots.ids()[other], s.colliders[f.met.a].shape,
                            s.colliders[f.met.b].shape, f.time, f.impact.position, f.pose.centre, n,
                            (f.velocity - before) * s.bodies.mass[f.place].mass});
    set_mean(f);
    if (const auto k = flyer_of_[other]) set_mean(flyers_[k - 1]);
    look_around(s, f);
    predict(s, f);
    foretell_others(s, which, other);
}

// After an impact its two bodies have new ways; those of all others stay as they were foreseen.
template<int Dim>
void World<Dim>::State::Flight::foretell_others(const State& s, std::size_t which, std::uint32_t other) {
    const double now = flyers_[which].time;
    const auto is_one = [&](std::uint32_t body) { return body == flyers_[which].place || body == other; };
    for (std::size_t k = 0; k < count_; k++) {
        Flyer& h = flyers_[k];
        if (k == which || h.halted) continue;
        if (h.place == other) {
            advance(h, now);
            look_around(s, h);
            predict(s, h);
        } else if (std::any_of(h.pairs.begin(), h.pairs.end(),
                               [&](const flow::Pair& p) { return is_one(s.colliders[p.b].body); })) {
            advance(h, now);
            if (h.next <= tick_ && is_one(s.colliders[h.met.b].body)) predict(s, h);
            else look_for(s, h, is_one);
        }
    }
}

template<int Dim> void World<Dim>::State::Flight::fly(State& s) {
    impacts_.clear(), struck_sleepers_.clear();
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
    for (std::size_t k = 0; k < count_; k++)
        if (flyers_[k].handed_over) put_back(s, flyers_[k]);
}

template<int Dim> void World<Dim>::State::Flight::put_back(State& s, const Flyer& f) const {
    s.bodies.pose[f.place] = f.pose;
    s.bodies.velocity[f.place] = {f.velocity, f.spin};
    s.bodies.remainder[f.place] = {};
}

template<int Dim> void World<Dim>::State::Flight::land(State& s) {
    for (std::size_t k = 0; k < count_; k++) {
        Flyer& f = flyers_[k];
        if (f.handed_over) continue;
        if (f.flies) advance(f, tick_);
        else f.pose = s.bodies.pose[f.place]; // met nothing: the solver moved it
        make_room(s, f);
        if (f.flies) put_back(s, f);
        else s.bodies.pose[f.place] = f.pose;
    }
    count_ = 0;
}

// What the solver moved may have been turned into the flyer's way since that was foreseen: it makes room
// then, by a part of its width at most.
template<int Dim> void World<Dim>::State::Flight::make_room(const State& s, Flyer& f) const {
    const float size = s.bodies.still[f.place].size;
    for (const flow::Pair& pair : f.pairs) {
        const std::uint32_t other = s.colliders[pair.b].body;
        if (other >= s.bodies.moving || s.bodies.motion[other] != Motion::Dynamic ||
            !passes(s, f.place, other) || passes(s, other, f.place)) // the solver's, or another flyer's
            continue;
        const auto gap = shape::nearest_points<Dim>(
            s.colliders[pair.a].spec->geometry, placed(s, pair.a, f.pose), s.colliders[pair.b].spec->geometry,
            placed(s, pair.b, s.bodies.pose[other]));
        const auto overlap = static_cast<float>(-gap.separation) - kStandOff * size;
        if (overlap > 0) f.pose.centre = f.pose.centre + gap.normal * -std::min(overlap, kFar * size);
    }
}

template class World<2>::State::Flight;
template class World<3>::State::Flight;

}
