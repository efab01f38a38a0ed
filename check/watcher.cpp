#include "check/watcher.h"

#include "check/shape_kinds.h"

#include "astasis/world_queries.h"

#include <algorithm>
#include <cmath>

namespace astasis::checks {
namespace {

// A push that is next to nothing is not leaning on something, N s a tick of its weight.
constexpr float kLeans = 0.1f;
// Bodies on slopes are looked at after the first, paces are noted so long before the end as the second, s.
constexpr double kSlopeSeconds = 0.1, kPaceSeconds = 0.5;

template<int Dim> double length_of(const Vec<Dim>& v) { return double{length(v)}; }
double length_of(float spin) { return std::fabs(double{spin}); }

}

template<int Dim>
Watcher<Dim>::Watcher(const World<Dim>& world, Trial<Dim>& trial, std::uint64_t ticks)
    : world_(world), trial_(trial), ticks_(ticks) {
    const double tick = world.settings().tick;
    slope_tick_ = std::min(static_cast<std::uint64_t>(std::lround(kSlopeSeconds / tick)), ticks - 1);
    const auto before = static_cast<std::uint64_t>(std::lround(kPaceSeconds / tick));
    pace_tick_ = ticks > 2 * before ? ticks - 1 - before : ticks;
    trial_.energy_start = trial_.energy_most = world.energy().total();
    find_twins();
    for (const JointId id : world.joints()) note_joint(world.joint(id));
}

template<int Dim> void Watcher<Dim>::tick(std::uint64_t n) {
    const bool is_first = n == 0, is_last = n + 1 == ticks_;
    for (const Contact<Dim>& c : world_.contacts()) {
        if (is_first) note_overlap(c);
        if (is_last) note_sunk(c), note_restless(c);
        note_load(c);
    }
    const Work work = world_.work();
    const Energy energy = world_.energy();
    trial_.kinetic_most = std::max(trial_.kinetic_most, energy.kinetic);
    trial_.energy_most = std::max(trial_.energy_most, energy.total() - (work.surfaces + work.thrusts));
    for (const BodyId id : world_.bodies())
        trial_.moved = trial_.moved || !(world_.pose(id) == world_.previous_pose(id));
    if (n == slope_tick_) note_slopes();
    if (n == pace_tick_)
        for (const BodyId id : world_.bodies())
            paces_[id] = {length_of(world_.velocity(id)), length_of(world_.angular_velocity(id))};
    if (2 * n < ticks_) return;
    note_motors();
    const WorkOfTick done = world_.work_of_tick();
    trial_.work_plain += static_cast<double>(done.plain);
    trial_.work_refused += static_cast<double>(done.exactness.refused);
}

template<int Dim> void Watcher<Dim>::finish() {
    constexpr double kMostly = 0.9, kShort = 0.05, kArrived = 1e-3; // of a second's way; m or rad
    note_insomnia();
    for (const auto& [name, drive] : drives_) {
        if (static_cast<double>(drive.at_most) >= kMostly * static_cast<double>(drive.ticks) &&
            std::fabs(drive.asked) > kArrived * static_cast<double>(drive.ticks) &&
            drive.way / drive.asked < kShort)
            trial_.stalled.push_back(name);
    }
    for (auto& [pair, loaded] : loads_) trial_.loaded.push_back(loaded);
    std::stable_sort(trial_.loaded.begin(), trial_.loaded.end(),
                     [](const Loaded& p, const Loaded& q) { return p.ratio > q.ratio; });
    for (auto* list : {&trial_.overlaps, &trial_.sunk})
        std::stable_sort(list->begin(), list->end(),
                         [](const auto& p, const auto& q) { return p.share > q.share; });
}

template<int Dim> bool Watcher<Dim>::was_at_rest(BodyId id) const {
    constexpr double kAtRest = 1e-3; // m/s, rad/s
    const World<Dim>& start = trial_.start;
    return start.contains(id) && length_of(start.velocity(id)) < kAtRest &&
           length_of(start.angular_velocity(id)) < kAtRest;
}

template<int Dim> void Watcher<Dim>::find_twins() {
    std::map<std::pair<std::vector<double>, std::size_t>, std::string> seen;
    for (const BodyId id : world_.bodies()) {
        if (world_.motion(id) != Motion::Dynamic || world_.shapes(id).empty()) continue;
        std::vector<double> place;
        for (const auto& shape : world_.shapes(id)) {
            const Bounds<Dim> b = bounds_of(shape, world_.pose(id));
            for (int k = 0; k < Dim; k++) place.push_back(b.low[k]), place.push_back(b.high[k]);
        }
        const auto [at, fresh] =
            seen.try_emplace({place, world_.shapes(id)[0].geometry.index()}, trial_.name(id));
        if (!fresh) trial_.twins.emplace_back(at->second, trial_.name(id));
    }
}

// The depth is that of the start: the first tick has pushed them apart a little.
template<int Dim> void Watcher<Dim>::note_overlap(const Contact<Dim>& c) {
    const World<Dim>& start = trial_.start;
    if (!start.contains(c.body_a) || !start.contains(c.body_b)) return;
    const std::string first = trial_.name(c.body_a), second = trial_.name(c.body_b);
    const auto is_twins = [&](const auto& pair) {
        return pair == std::pair{first, second} || pair == std::pair{second, first};
    };
    if (std::any_of(trial_.twins.begin(), trial_.twins.end(), is_twins)) return;
    const auto& a = start.shape(c.body_a, c.shape_a);
    const auto& b = start.shape(c.body_b, c.shape_b);
    const auto at = [&](BodyId id, const ShapeSpec<Dim>& shape) {
        const Pose<Dim> pose = start.pose(id);
        return Pose<Dim>{to_world(pose, shape.placement.position), pose.rotation * shape.placement.rotation};
    };
    const double depth = -distance(a.geometry, at(c.body_a, a), b.geometry, at(c.body_b, b)).separation;
    if (!(depth > 0)) return;
    const float thin = std::min(thickness_of(a), thickness_of(b));
    trial_.overlaps.push_back({first, second, static_cast<float>(depth), static_cast<float>(depth) / thin});
}

template<int Dim> void Watcher<Dim>::note_sunk(const Contact<Dim>& c) {
    if (!(c.separation < 0)) return;
    const float thin = std::min(thickness_of(world_.shape(c.body_a, c.shape_a)),
                                thickness_of(world_.shape(c.body_b, c.shape_b)));
    trial_.sunk.push_back(
        {trial_.name(c.body_a), trial_.name(c.body_b), -c.separation, -c.separation / thin});
}

// A body that the world holds by a joint weighs on no other that is joined to it.
template<int Dim> bool Watcher<Dim>::is_held(BodyId id) const {
    const auto joints = world_.joints_of(id);
    return std::any_of(joints.begin(), joints.end(), [&](JointId joint) {
        const auto joins = std::visit([](const auto& kind) { return kind.joins; }, world_.joint(joint));
        return !joins.b || world_.motion(joins.a) != Motion::Dynamic ||
               world_.motion(*joins.b) != Motion::Dynamic;
    });
}

template<int Dim> void Watcher<Dim>::note_pair(BodyId a, BodyId b, bool joined) {
    if (world_.motion(a) != Motion::Dynamic || world_.motion(b) != Motion::Dynamic) return;
    double p = double{world_.mass(a).mass}, q = double{world_.mass(b).mass};
    if (p < q) std::swap(a, b), std::swap(p, q);
    if (joined && is_held(a)) return;
    Loaded& out = loads_[{trial_.name(a), trial_.name(b)}];
    out = {trial_.name(a), trial_.name(b), p / q, joined || out.joined};
}

// Notes the pair if the heavier is borne by the other.
template<int Dim> void Watcher<Dim>::note_load(const Contact<Dim>& c) {
    const float g = length(world_.settings().gravity) * static_cast<float>(world_.settings().tick);
    const bool a_is_heavy = world_.mass(c.body_a).mass > world_.mass(c.body_b).mass;
    const float heavy = world_.mass(a_is_heavy ? c.body_a : c.body_b).mass;
    if (length(c.impulse) > kLeans * heavy * g) note_pair(c.body_a, c.body_b, false);
}

template<int Dim> void Watcher<Dim>::note_joint(const Joint<Dim>& joint) {
    const Joined<Dim> joins = std::visit([](const auto& kind) { return kind.joins; }, joint);
    if (joins.b) note_pair(joins.a, *joins.b, true);
}

template<int Dim> void Watcher<Dim>::note_motors() {
    for (const JointId id : world_.joints()) {
        const auto note = [&](const Motor& motor, int axis) {
            if (!(motor.most > 0) || (motor.speed == 0 && !motor.target)) return;
            const JointAxisState state = world_.joint_state(id).axes[static_cast<std::size_t>(axis)];
            Drive& drive = drives_[trial_.joint_name(id)];
            // A motor at its stop may well push on.
            drive.ticks++, drive.at_most += std::fabs(state.motor) >= 0.999f * motor.most && state.stop == 0;
            // To a target it is to go within about a second.
            const float asked = motor.target ? *motor.target - state.position : motor.speed;
            drive.asked += double{asked}, drive.way += double{state.speed};
        };
        const auto& joint = world_.joint(id);
        if (const auto* hinge = std::get_if<Hinge<Dim>>(&joint); hinge) note(hinge->motor, 0);
        if (const auto* slider = std::get_if<Slider<Dim>>(&joint); slider) note(slider->motor, 0);
        if (const auto* wheel = std::get_if<Wheel<Dim>>(&joint); wheel) note(wheel->drive, 1);
    }
}

// Bodies that stood on a slope and slide down it. Friction is measured at the contacts, whatever materials
// meet.
template<int Dim> void Watcher<Dim>::note_slopes() {
    constexpr double kLeast = 0.035, kMost = 1.4; // rad: less is a floor, more is a wall
    constexpr double kSome = 0.01;                // no friction at all is meant to slide
    const Vec<Dim> gravity = world_.settings().gravity;
    const double g = length_of(gravity), seconds = world_.time();
    if (!(g > 0)) return;
    struct Push {
        Vec<Dim> all{}, normal{};
    };
    std::map<std::pair<std::string, std::string>, std::pair<BodyId, Push>> pushes;
    for (const Contact<Dim>& c : world_.contacts()) {
        const bool a_bears = world_.motion(c.body_a) != Motion::Dynamic;
        const BodyId who = a_bears ? c.body_b : c.body_a, on = a_bears ? c.body_a : c.body_b;
        const std::uint32_t shape = a_bears ? c.shape_b : c.shape_a;
        const auto& under = world_.shape(on, a_bears ? c.shape_a : c.shape_b);
        if (world_.motion(on) == Motion::Dynamic || length_of(under.surface_velocity) > 0 ||
            is_round<Dim>(world_.shape(who, shape).geometry) || !was_at_rest(who))
            continue;
        const Vec<Dim> impulse = a_bears ? c.impulse : -c.impulse, normal = a_bears ? c.normal : -c.normal;
        auto& [id, push] = pushes[{trial_.name(who), trial_.name(on)}];
        id = who, push.all = push.all + impulse, push.normal = normal;
    }
    for (const auto& [names, entry] : pushes) {
        const auto& [id, push] = entry;
        const double into = double{dot(push.all, push.normal)};
        const Vec<Dim> along = push.all - static_cast<float>(into) * push.normal;
        const double slope = std::acos(std::clamp(-double{dot(push.normal, gravity)} / g, -1.0, 1.0));
        const double friction = into > 0 ? length_of(along) / into : 0;
        const double gains = g * (std::sin(slope) - friction * std::cos(slope)); // m/s2
        const Vec<Dim> down = gravity - dot(push.normal, gravity) * push.normal;
        const double pace = double{dot(world_.velocity(id), down)} / std::max(length_of(down), 1e-9);
        if (slope > kLeast && slope < kMost && friction > kSome && friction < 0.98 * std::tan(slope) &&
            pace > 0.5 * gains * seconds)
            trial_.slipping.push_back({names.first, names.second, slope, friction});
    }
}

template<int Dim> void Watcher<Dim>::note_restless(const Contact<Dim>& c) {
    if (pace_tick_ == ticks_) return;
    for (const bool first : {true, false}) {
        const BodyId who = first ? c.body_a : c.body_b, on = first ? c.body_b : c.body_a;
        if (world_.motion(who) != Motion::Dynamic || world_.motion(on) != Motion::Static) continue;
        note_rolling(who, first ? c.shape_a : c.shape_b, on, first ? c.shape_b : c.shape_a,
                     first ? -c.normal : c.normal);
    }
}

// Finds out whether something stands in its way.
template<int Dim> bool Watcher<Dim>::will_stop(BodyId body) const {
    constexpr float kFar = 100; // m
    const Vec<Dim> velocity = world_.velocity(body);
    const float speed = length(velocity);
    return speed > 0 && any_hit(world_, Ray<Dim>{world_.centre_of_mass(body), (kFar / speed) * velocity},
                                {.except = body});
}

// A body that keeps its pace on level ground, with nothing that would end it.
template<int Dim>
void Watcher<Dim>::note_rolling(BodyId body, std::uint32_t shape, BodyId other, std::uint32_t other_shape,
                                Vec<Dim> up) {
    constexpr double kSlow = 0.05, kKept = 0.98, kLevel = 0.9994;
    const Vec<Dim> gravity = world_.settings().gravity;
    const FreeMotion<Dim> free = world_.free_motion(body);
    const bool damped = free.linear_damping > 0 || free.angular_damping > 0 || free.drag > 0;
    const double g = length_of(gravity);
    const auto was = paces_.find(body);
    if (world_.is_asleep(body) || damped || !(g > 0) || was == paces_.end() ||
        -double{dot(up, gravity)} < kLevel * g || !world_.joints_of(body).empty() ||
        length_of(world_.shape(other, other_shape).surface_velocity) > 0 || will_stop(body))
        return;
    const auto known = [&](const Restless& r) { return r.who == trial_.name(body); };
    if (std::any_of(trial_.restless.begin(), trial_.restless.end(), known)) return;
    const auto keeps = [&](double now, double before) {
        return now > kSlow && now > kKept * before && now < before / kKept;
    };
    const double speed = length_of(world_.velocity(body)), spin = length_of(world_.angular_velocity(body));
    const Material own = world_.material(body, shape), under = world_.material(other, other_shape);
    const bool round = is_round<Dim>(world_.shape(body, shape).geometry);
    if (round && keeps(speed, was->second.first) &&
        std::max(own.rolling_resistance, under.rolling_resistance) == 0)
        trial_.restless.push_back({trial_.name(body), Restless::Why::Rolls, speed});
    else if (!round && keeps(speed, was->second.first))
        trial_.restless.push_back({trial_.name(body), Restless::Why::Slides, speed});
    else if (Dim == 3 && round && speed < kSlow && keeps(spin, was->second.second) &&
             std::max(own.spinning_resistance, under.spinning_resistance) == 0)
        trial_.restless.push_back({trial_.name(body), Restless::Why::Spins, spin});
}

// Bodies that may not sleep, lie still, and hold others awake that would.
template<int Dim> void Watcher<Dim>::note_insomnia() {
    constexpr double kStill = 0.02; // m/s
    const auto lies = [&](BodyId id) {
        return world_.motion(id) == Motion::Dynamic && length_of(world_.velocity(id)) < kStill;
    };
    if (!world_.settings().sleeping) return;
    for (const BodyId id : world_.bodies()) {
        if (world_.may_sleep(id) || !lies(id)) continue;
        std::vector<BodyId> kept;
        for (const Contact<Dim>& c : world_.contacts_of(id)) {
            const BodyId other = c.body_a == id ? c.body_b : c.body_a;
            if (lies(other) && std::find(kept.begin(), kept.end(), other) == kept.end())
                kept.push_back(other);
        }
        if (!kept.empty())
            trial_.restless.push_back(
                {trial_.name(id), Restless::Why::MayNotSleep, static_cast<double>(kept.size())});
    }
}

template class Watcher<2>;
template class Watcher<3>;

}
