// Sensors: which shapes are in them, and when shapes came and went within the tick.
//
// Each sensor asks the index for what is about it after the tick, and of what came far also what passed. A
// pair of which neither has moved stays as it is. Where one has moved, the way of both in the tick is taken
// apart into legs of constant velocity: at the impacts of what was swept; into eighths where it flew freely,
// which bends. On a leg of two convex shapes that hardly turn the time in the sensor is one interval, whose
// ends are two times of impact: forwards, and backwards from the end of the leg.
// O(sensors (log shapes + shapes about it + bodies that came far)) a tick; nothing without sensors.
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/ask.h"
#include "shape/surface.h"
#include "sweep/sweep.h"
#include "world/state.h"

#include <algorithm>
#include <cmath>

namespace astasis {
namespace {

// Ways beyond this share of a sensor's smallest width are looked for one by one.
constexpr float kFar = 0.25f;
// Legs of a body that flies freely: the chord of an eighth of a tick under gravity is off by 5 um.
constexpr int kFreeLegs = 8;
// The way of what flies freely is that of its mean velocity, up to this share of what the change would make.
constexpr double kFreely = 0.05;

template<int Dim>
Pose<Dim> pose_of(const flow::Collider<Dim>& c, const flow::CentrePose<Dim>& body, const Vec<Dim>& centre) {
    const Placement<Dim>& on = c.spec->placement;
    return {body.centre + rotate(body.rotation, on.position - centre), body.rotation * on.rotation};
}

}

template<int Dim> void World<Dim>::State::find_sensors() {
    if (sensing.known) return;
    sensing.known = true;
    sensing.sensors.clear();
    for (std::uint32_t c = 0; c < colliders.size(); c++)
        if (colliders[c].spec != nullptr && colliders[c].spec->is_sensor) sensing.sensors.push_back(c);
    std::sort(sensing.sensors.begin(), sensing.sensors.end(),
              [&](std::uint32_t p, std::uint32_t q) { return colliders[p].key < colliders[q].key; });
}

template<int Dim> bool World<Dim>::State::has_moved(std::uint32_t i) const {
    return i < bodies.moving && !(pose(i) == rows[i].previous);
}

// After the tick, before bodies change places.
template<int Dim> void World<Dim>::State::sense() {
    find_sensors();
    if (sensing.sensors.empty() && sensed.empty()) return;
    sensing.now.clear(), sensing.entered.clear(), sensing.left.clear(), sensing.far.clear();
    float least = kUnlimited;
    for (const std::uint32_t c : sensing.sensors) least = std::min(least, colliders[c].thickness);
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        for (const std::uint32_t c : rows[i].colliders)
            if (farthest(colliders[c]) > kFar * least) sensing.far.push_back(c);
    auto old = sensed.begin();
    const auto end_before = [&](std::uint64_t key) { // the sensors that are no more
        for (; old != sensed.end() && old->sensor_key < key; ++old)
            sensing.left.push_back(*old), sensing.left.back().crossing.time = 0;
    };
    for (const std::uint32_t c : sensing.sensors) {
        end_before(colliders[c].key);
        const auto first = old;
        while (old != sensed.end() && old->sensor_key == colliders[c].key) ++old;
        sense_with(c, {first, old});
    }
    end_before(~std::uint64_t{0});
    sensed.swap(sensing.now);
    tell_crossings();
}

template<int Dim> void World<Dim>::State::find_seen(std::uint32_t sensor, std::span<const Sensed> before) {
    const flow::Collider<Dim>& s = colliders[sensor];
    auto& seen = sensing.seen;
    seen.clear();
    for (const Sensed& p : before) seen.push_back(p.collider);
    // The box that the sensor and what is slow about it have been in.
    Bounds<Dim> about = s.bounds;
    const Vec<Dim> own =
        bodies.pose[s.body].centre - to_world(rows[s.body].previous, bodies.mass[s.body].centre);
    const float near = kFar * s.thickness + (has_moved(s.body) ? length(own) + 2 * s.reach : 0.0f);
    for (int k = 0; k < Dim; k++) about.low[k] -= near, about.high[k] += near;
    index.query(broad::box_around(about), [&](std::uint32_t c) { seen.push_back(c); });
    for (const std::uint32_t c : sensing.far) {
        const flow::Collider<Dim>& o = colliders[c];
        const Point<Dim> now = bodies.pose[o.body].centre,
                         then = to_world(rows[o.body].previous, bodies.mass[o.body].centre);
        const auto passes = [&](const Point<Dim>& from, const Point<Dim>& to) {
            for (int k = 0; k < Dim; k++)
                if (std::max(from[k], to[k]) + o.reach < about.low[k] ||
                    std::min(from[k], to[k]) - o.reach > about.high[k])
                    return false;
            return true;
        };
        Point<Dim> last = then;
        bool any = false;
        for (const SweptMeeting<Dim>& m : advance.swept_meetings()) {
            if (m.body_a != o.body && m.body_b != o.body) continue;
            const Point<Dim> next = m.body_a == o.body ? m.centre_a : m.centre_b;
            any = any || passes(last, next), last = next;
        }
        if (any || passes(last, now)) seen.push_back(c);
    }
    std::erase_if(seen, [&](std::uint32_t c) { return colliders[c].spec == nullptr; });
    std::sort(seen.begin(), seen.end(),
              [&](std::uint32_t p, std::uint32_t q) { return colliders[p].key < colliders[q].key; });
    seen.erase(std::unique(seen.begin(), seen.end()), seen.end());
}

template<int Dim> void World<Dim>::State::sense_with(std::uint32_t sensor, std::span<const Sensed> before) {
    const flow::Collider<Dim>& s = colliders[sensor];
    find_seen(sensor, before);
    const bool sensor_moved = has_moved(s.body);
    auto old = before.begin();
    const auto ended = [&](const Sensed& p) {
        sensing.left.push_back(p), sensing.left.back().crossing.time = 0;
    };
    for (const std::uint32_t k : sensing.seen) {
        const flow::Collider<Dim>& o = colliders[k];
        for (; old != before.end() && old->key < o.key; ++old) ended(*old); // it is no more
        const bool was_in = old != before.end() && old->key == o.key;
        Sensed pair{s.key,
                    o.key,
                    k,
                    {slots.ids()[s.body], slots.ids()[o.body], rows[s.body].numbers[s.shape],
                     rows[o.body].numbers[o.shape]}};
        if (was_in) pair = *old++;
        if (o.body == s.body || o.spec->is_sensor || !may_meet(*s.spec, *o.spec)) {
            if (was_in) ended(pair);
            continue;
        }
        const bool stays = !sensor_moved && !has_moved(o.body) && !edited;
        if (stays ? was_in : pass_through(s, o, was_in, pair)) {
            const auto entry =
                std::find_if(sensing.entered.rbegin(), sensing.entered.rend(), [&](const Sensed& p) {
                    return p.sensor_key == pair.sensor_key && p.key == pair.key;
                });
            sensing.now.push_back(entry != sensing.entered.rend() ? *entry : pair);
        }
    }
    for (; old != before.end(); ++old) ended(*old);
}

// Below 0 the shape is in the sensor; of a surface that holds the sensor, by how far its pieces are away.
template<int Dim>
double World<Dim>::State::separation_of(const flow::Collider<Dim>& sensor,
                                        const flow::CentrePose<Dim>& at_sensor,
                                        const flow::Collider<Dim>& other,
                                        const flow::CentrePose<Dim>& at_other) const {
    const Pose<Dim> a = pose_of(sensor, at_sensor, bodies.mass[sensor.body].centre),
                    b = pose_of(other, at_other, bodies.mass[other.body].centre);
    const auto near = shape::nearest_points(sensor.spec->geometry, a, other.spec->geometry, b);
    if (near.separation <= 0 || !shape::is_surface(other.spec->geometry)) return near.separation;
    for (int k = 0; k < Dim; k++)
        if (near.on_a[k] < other.bounds.low[k] || near.on_a[k] > other.bounds.high[k]) return near.separation;
    return shape::holds_point(other.spec->geometry, b, near.on_a) ? -near.separation : near.separation;
}

// How far the surface of a shape has come in the tick, at most, if nothing turned it back within.
template<int Dim> float World<Dim>::State::farthest(const flow::Collider<Dim>& c) const {
    const std::uint32_t i = c.body;
    if (!has_moved(i)) return 0;
    const auto tick = static_cast<float>(spec.tick);
    const Vec<Dim> way = bodies.pose[i].centre - to_world(rows[i].previous, bodies.mass[i].centre);
    const float bend = 0.25f * length(bodies.velocity[i].linear - rows[i].velocity_then) * tick;
    const float turn =
        std::max(math::magnitude(math::turn_between(rows[i].previous.rotation, bodies.pose[i].rotation)),
                 math::magnitude(bodies.velocity[i].angular) * tick);
    return length(way) + bend + std::min(turn, 2.0f) * c.reach;
}

// Whether a body's way is that of a constant acceleration.
template<int Dim> bool World<Dim>::State::flies_freely(std::uint32_t i) const {
    const Vec<Dim>&v = bodies.velocity[i].linear, &u = rows[i].velocity_then;
    const auto tick = static_cast<float>(spec.tick);
    const Vec<Dim> way = bodies.pose[i].centre - to_world(rows[i].previous, bodies.mass[i].centre);
    const float change = 0.5f * length(v - u) * tick;
    return change > 0 && length(way - (u + v) * (0.5f * tick)) <= static_cast<float>(kFreely) * change;
}

template<int Dim> flow::CentrePose<Dim> World<Dim>::State::place_at(std::uint32_t i, double time) const {
    if (!has_moved(i) || time >= spec.tick) return bodies.pose[i];
    const Point<Dim> then = to_world(rows[i].previous, bodies.mass[i].centre), &now = bodies.pose[i].centre;
    const double share = time / spec.tick;
    flow::CentrePose<Dim> out{
        then, math::blended(rows[i].previous.rotation, bodies.pose[i].rotation, static_cast<float>(share))};
    if (flies_freely(i)) {
        // By both velocities, and what is left evenly.
        const Vec<Dim>&v = bodies.velocity[i].linear, &u = rows[i].velocity_then;
        for (int k = 0; k < Dim; k++) {
            const double a = (double{v[k]} - double{u[k]}) * 0.5 * spec.tick;
            out.centre[k] = then[k] + (now[k] - then[k]) * share + a * (share - 1) * share;
        }
        return out;
    }
    Point<Dim> last = then, next = now;
    double begins = 0, ends = spec.tick;
    for (const SweptMeeting<Dim>& m : advance.swept_meetings()) {
        const bool a = m.body_a == i && m.a_swept, b = m.body_b == i && m.b_swept;
        if (!a && !b) continue;
        const Point<Dim>& at = a ? m.centre_a : m.centre_b;
        if (m.time <= time) begins = m.time, last = at;
        else if (m.time < ends) ends = m.time, next = at;
    }
    const double part = ends > begins ? (time - begins) / (ends - begins) : 0;
    for (int k = 0; k < Dim; k++) out.centre[k] = last[k] + (next[k] - last[k]) * part;
    return out;
}

template<int Dim> void World<Dim>::State::list_legs(std::uint32_t i) {
    if (!has_moved(i)) return;
    if (flies_freely(i)) {
        for (int k = 1; k < kFreeLegs; k++) sensing.times.push_back(spec.tick * k / kFreeLegs);
        return;
    }
    for (const SweptMeeting<Dim>& m : advance.swept_meetings())
        if ((m.body_a == i && m.a_swept) || (m.body_b == i && m.b_swept)) sensing.times.push_back(m.time);
}

// Tells how a shape came and went on its way, and whether it is in the sensor after the tick.
template<int Dim>
bool World<Dim>::State::pass_through(const flow::Collider<Dim>& s, const flow::Collider<Dim>& o, bool was_in,
                                     const Sensed& pair) {
    // Most shapes about a sensor are too far in it, or out of it, to have crossed its surface.
    const double now = separation_of(s, bodies.pose[s.body], o, bodies.pose[o.body]);
    const auto was_turned_back = [&](std::uint32_t i) {
        return std::any_of(advance.swept_meetings().begin(), advance.swept_meetings().end(),
                           [i](const auto& m) { return m.body_a == i || m.body_b == i; });
    };
    if (was_in == (now <= 0) && std::fabs(now) > double{farthest(s) + farthest(o)} &&
        !was_turned_back(s.body) && !was_turned_back(o.body))
        return was_in;
    auto& starts = sensing.times;
    starts.assign(1, 0.0);
    list_legs(s.body), list_legs(o.body);
    starts.push_back(spec.tick);
    std::sort(starts.begin(), starts.end());
    const auto tell = [&](std::vector<Sensed>& list, double time) {
        list.push_back(pair);
        list.back().crossing.time = std::clamp(time, 0.0, spec.tick);
    };
    const bool moved = has_moved(s.body) || has_moved(o.body);
    const Vec<Dim>&centre_s = bodies.mass[s.body].centre, &centre_o = bodies.mass[o.body].centre;
    bool in = was_in;
    for (std::size_t n = 0; n + 1 < starts.size(); n++) {
        const double from = starts[n], seconds = starts[n + 1] - from;
        if (!(seconds > 0)) continue;
        const flow::CentrePose<Dim> s0 = place_at(s.body, from), s1 = place_at(s.body, starts[n + 1]),
                                    o0 = place_at(o.body, from), o1 = place_at(o.body, starts[n + 1]);
        const auto leg = [&](const flow::CentrePose<Dim>& a, const flow::CentrePose<Dim>& b) {
            const auto rate = static_cast<float>(1 / seconds);
            return sweep::Leg<Dim>{
                a, {(b.centre - a.centre) * rate, math::turn_between(a.rotation, b.rotation) * rate}};
        };
        const auto met = [&](const sweep::Leg<Dim>& ls, const sweep::Leg<Dim>& lo) {
            return sweep::time_of_impact(s, centre_s, ls, o, centre_o, lo, seconds);
        };
        const bool ends_in = separation_of(s, s1, o, o1) <= 0;
        if (in && ends_in) continue;
        if (!in && ends_in) {
            const auto time = met(leg(s0, s1), leg(o0, o1));
            tell(sensing.entered, from + (moved && time ? *time : 0));
            in = true;
            continue;
        }
        const auto back = moved ? met(leg(s1, s0), leg(o1, o0)) : std::optional<double>{};
        const double leaves = back ? seconds - *back : 0;
        if (in) {
            tell(sensing.left, from + leaves);
            in = false;
            continue;
        }
        if (!back) continue; // it met nothing on the way
        const auto time = met(leg(s0, s1), leg(o0, o1));
        if (!time || !(leaves > *time)) continue; // it grazed
        const double middle = from + 0.5 * (*time + leaves);
        if (separation_of(s, place_at(s.body, middle), o, place_at(o.body, middle)) > 0) continue;
        tell(sensing.entered, from + *time), tell(sensing.left, from + leaves);
    }
    return in;
}

template<int Dim> void World<Dim>::State::tell_crossings() {
    const auto tell = [](std::vector<Sensed>& from, std::vector<Crossing>& to) {
        std::sort(from.begin(), from.end(), [](const Sensed& p, const Sensed& q) {
            if (p.crossing.time != q.crossing.time) return p.crossing.time < q.crossing.time;
            return p.sensor_key != q.sensor_key ? p.sensor_key < q.sensor_key : p.key < q.key;
        });
        for (const Sensed& p : from) to.push_back(p.crossing);
    };
    tell(sensing.entered, told.entered), tell(sensing.left, told.left);
}

template<int Dim> std::vector<Crossing> World<Dim>::shapes_in(BodyId id, std::uint32_t sensor) const {
    const State& s = *state_;
    const std::uint32_t i = s.place(id), shape = s.index_of_shape(i, sensor);
    if (!s.rows[i].shapes[shape].is_sensor)
        throw Error("sensor", "a shape that is none", "a shape that was added with is_sensor");
    const std::uint64_t key = s.colliders[s.rows[i].colliders[shape]].key;
    std::vector<Crossing> out;
    for (const typename State::Sensed& p : s.sensed)
        if (p.sensor_key == key) out.push_back(p.crossing);
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::find_sensors();                                                         \
    template bool World<Dim>::State::has_moved(std::uint32_t) const;                                         \
    template void World<Dim>::State::sense();                                                                \
    template void World<Dim>::State::find_seen(std::uint32_t, std::span<const Sensed>);                      \
    template void World<Dim>::State::sense_with(std::uint32_t, std::span<const Sensed>);                     \
    template double World<Dim>::State::separation_of(                                                        \
        const flow::Collider<Dim>&, const flow::CentrePose<Dim>&, const flow::Collider<Dim>&,                \
        const flow::CentrePose<Dim>&) const;                                                                 \
    template float World<Dim>::State::farthest(const flow::Collider<Dim>&) const;                            \
    template bool World<Dim>::State::flies_freely(std::uint32_t) const;                                      \
    template flow::CentrePose<Dim> World<Dim>::State::place_at(std::uint32_t, double) const;                 \
    template void World<Dim>::State::list_legs(std::uint32_t);                                               \
    template bool World<Dim>::State::pass_through(const flow::Collider<Dim>&, const flow::Collider<Dim>&,    \
                                                  bool, const Sensed&);                                      \
    template void World<Dim>::State::tell_crossings();                                                       \
    template std::vector<Crossing> World<Dim>::shapes_in(BodyId, std::uint32_t) const;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
