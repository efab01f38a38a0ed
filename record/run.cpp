#include "record/run.h"

#include "astasis/scene/timeline.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace astasis::record {
namespace {

// Overlap above this share of the thinner shape at the end, and energy above this share of the largest
// kinetic energy, are worth a word.
constexpr double kDeepShare = 0.1;
constexpr double kEnergyShare = 0.01;

template<int Dim> class Watcher {
public:
    Watcher(const scene::Made<Dim>& made, Summary& summary) : made_(made), out_(summary) {
        out_.start = made.world.energy();
        out_.energy_most = out_.start.total();
        for (const BodyId id : made.world.bodies())
            for (const std::uint32_t shape : made.world.shape_numbers(id))
                if (made.world.shape(id, shape).is_sensor) sensor_of_run(id, shape);
        out_.joints.count = made.world.joints().size(), out_.fields = made.world.fields().size();
    }

    void tick() {
        const World<Dim>& world = made_.world;
        const auto contacts = world.contacts();
        out_.contacts_end = contacts.size();
        out_.contacts_most = std::max(out_.contacts_most, contacts.size());
        out_.deepest_end = {};
        for (const auto& c : contacts) watch(c);
        if (out_.deepest_end.metres > out_.deepest.metres) out_.deepest = out_.deepest_end;

        const Energy energy = world.energy();
        kinetic_most_ = std::max(kinetic_most_, energy.kinetic);
        // Without what belts and thrusts have given.
        const Work work = world.work();
        const double own = energy.total() - (work.surfaces + work.thrusts);
        if (own > out_.energy_most) out_.energy_most = own, out_.energy_most_time = world.time();
        out_.end = energy;
        watch_joints();
        watch_sensors();
        watch_deeds();
        std::size_t awake = 0;
        for (const BodyId id : world.bodies()) {
            watch_bounds(id);
            awake += world.motion(id) == Motion::Dynamic && !world.is_asleep(id);
        }
        if (awake == 0 && awake_ != 0) all_asleep_time_ = world.time();
        awake_ = awake;
    }

    void finish() {
        const World<Dim>& world = made_.world;
        out_.end = world.energy();
        out_.work = world.work();
        out_.asleep = world.sleepers();
        out_.awake = awake_;
        out_.all_asleep_time = all_asleep_time_;
        out_.penetration_end = world.penetration();
        for (const BodyId id : world.bodies()) {
            const double v = length(world.velocity(id));
            if (v > out_.fastest_end) out_.fastest_end = v, out_.fastest_who = name(id);
        }
        warn();
    }

private:
    const std::string& name(BodyId id) const { return made_.name_of(id); }

    void watch(const Contact<Dim>& c) {
        const double depth = -static_cast<double>(c.separation);
        if (!(depth > out_.deepest_end.metres)) return;
        const double thinner = std::min(thickness_of(made_.world.shape(c.body_a, c.shape_a)),
                                        thickness_of(made_.world.shape(c.body_b, c.shape_b)));
        out_.deepest_end = {depth, depth / thinner, made_.world.time(),
                            name(c.body_b) + " on " + name(c.body_a)};
    }

    std::string sensor_name(BodyId id, std::uint32_t shape) const {
        return made_.world.contains(id) && made_.world.shapes(id).size() > 1
                   ? fmt::format("{} [{}]", name(id), shape)
                   : name(id);
    }
    // A sensor that is spawned comes in when it is first crossed.
    SensorOfRun& sensor_of_run(BodyId id, std::uint32_t shape) {
        const auto is_it = [&](const SensorShape& s) { return s.body == id && s.shape == shape; };
        const auto at = std::find_if(sensors_.begin(), sensors_.end(), is_it) - sensors_.begin();
        if (at == std::ssize(sensors_))
            sensors_.push_back({id, shape}), out_.sensors.push_back({sensor_name(id, shape)});
        return out_.sensors[static_cast<std::size_t>(at)];
    }
    void watch_sensors() {
        const Events<Dim> events = made_.world.events();
        for (const Crossing& c : events.entered) sensor_of_run(c.sensor_body, c.sensor).entered++;
        for (const Crossing& c : events.left) sensor_of_run(c.sensor_body, c.sensor).left++;
        for (SensorOfRun& sensor : out_.sensors) sensor.in_it = sensor.entered - sensor.left;
    }
    void watch_deeds() {
        for (const scene::Deed& deed : made_.timeline->deeds()) {
            const auto of_kind = [&](const auto& d) { return d.first == deed.what; };
            const auto found = std::find_if(out_.deeds.begin(), out_.deeds.end(), of_kind);
            if (found != out_.deeds.end()) found->second++;
            else out_.deeds.emplace_back(deed.what, 1);
        }
    }

    void watch_joints() {
        const World<Dim>& world = made_.world;
        JointsOfRun& j = out_.joints;
        const auto joint_name = [&](JointId id) {
            return made_.joint_names[std::visit([](const auto& kind) { return kind.joins.user_data; },
                                                world.joint(id))];
        };
        for (const JointId id : world.broken_joints()) j.broken.emplace_back(joint_name(id), world.time());
        for (const JointId id : world.joints()) {
            const JointState<Dim> state = world.joint_state(id);
            if (state.broken) continue;
            const double stretch = double{state.stretch}, force = double{length(state.force)},
                         torque = double{length(state.torque)};
            if (stretch > j.stretch) j.stretch = stretch, j.stretched = joint_name(id);
            j.turned = std::max(j.turned, double{state.turned});
            if (force > j.force)
                j.force = force, j.strongest = joint_name(id), j.strongest_time = world.time();
            if (torque > j.torque) j.torque = torque, j.most_twisted = joint_name(id);
        }
    }

    void watch_bounds(BodyId id) {
        const World<Dim>& world = made_.world;
        if (world.motion(id) == Motion::Static) return;
        const Point<Dim> at = world.centre_of_mass(id);
        bool out = false;
        for (int k = 0; k < Dim; k++)
            out = out || at[k] < made_.bounds.low[k] || at[k] > made_.bounds.high[k];
        const std::uint64_t body = world.user_data(id);
        if (left_.size() < made_.names.size()) left_.resize(made_.names.size());
        if (!out || left_[body]) return;
        left_[body] = true;
        if (left_count_++ == 0) first_left_ = fmt::format("{} at {:.2f} s", name(id), world.time());
    }

    void warn() {
        auto& w = out_.warnings;
        if (out_.ticks_wanted == 0)
            w.push_back("nothing was stepped: the duration is shorter than half a tick");
        if (made_.names.empty() && made_.timeline->empty()) w.push_back("the scene has no bodies");
        else if (out_.dynamic + out_.kinematic == 0 && made_.timeline->empty())
            w.push_back("nothing can move: all bodies are static");
        if (left_count_ > 0)
            w.push_back(fmt::format("{} {} left the scene's bounds, first {}", left_count_,
                                    left_count_ == 1 ? "body" : "bodies", first_left_));
        const double gained = out_.energy_most - out_.start.total();
        // Springs, motors and fields hold energy that is not among the bodies', and a time line gives some.
        const bool is_closed =
            out_.kinematic == 0 && out_.joints.count == 0 && out_.fields == 0 && made_.timeline->empty();
        if (is_closed && gained > kEnergyShare * kinetic_most_ && gained > 1e-9)
            w.push_back(fmt::format("energy appeared: {:.4g} J more than at the start, at {:.2f} s", gained,
                                    out_.energy_most_time));
        if (out_.deepest_end.share > kDeepShare)
            w.push_back(fmt::format("{} overlap by {:.0f} % of the thinner one at the end",
                                    out_.deepest_end.who, 100 * out_.deepest_end.share));
        const auto nonfinite = made_.world.nonfinite();
        if (!nonfinite.empty())
            w.push_back(
                nonfinite.size() == 1
                    ? fmt::format("{} was held because its state was not finite", name(nonfinite.front()))
                    : fmt::format("{} bodies were held because their state was not finite, first {}",
                                  nonfinite.size(), name(nonfinite.front())));
    }

    const scene::Made<Dim>& made_;
    struct SensorShape {
        BodyId body;
        std::uint32_t shape;
    };
    std::vector<SensorShape> sensors_; // as in the summary
    Summary& out_;
    double kinetic_most_ = 0, all_asleep_time_ = 0;
    std::size_t awake_ = 1;
    std::vector<bool> left_;
    std::size_t left_count_ = 0;
    std::string first_left_;
};

double at_share(std::vector<double>& times, double share) {
    if (times.empty()) return 0;
    const auto k = static_cast<std::size_t>(std::llround(share * static_cast<double>(times.size() - 1)));
    std::nth_element(times.begin(), times.begin() + static_cast<std::ptrdiff_t>(k), times.end());
    return times[k];
}

}

template<int Dim>
Summary run(const scene::Scene<Dim>& scene, scene::Made<Dim>& made, const EachTick<Dim>& each,
            const std::function<bool()>& stops) {
    using Clock = std::chrono::steady_clock;
    Summary out;
    out.dimension = Dim;
    out.seed = scene.seed;
    out.tick = scene.world.tick;
    out.substeps = scene.world.substeps;
    for (const BodyId id : made.world.bodies()) {
        const Motion m = made.world.motion(id);
        (m == Motion::Static ? out.still : m == Motion::Kinematic ? out.kinematic : out.dynamic)++;
    }
    Watcher<Dim> watcher(made, out);
    std::vector<double> times;
    out.ticks_wanted = scene::ticks_in(scene.duration, scene.world.tick);
    if (each) each(made, 0, 0);
    for (; out.ticks < out.ticks_wanted && !(stops && stops()); out.ticks++) {
        made.timeline->before_tick(made);
        const auto from = Clock::now();
        made.world.step();
        times.push_back(std::chrono::duration<double, std::milli>(Clock::now() - from).count());
        watcher.tick();
        if (each) each(made, out.ticks + 1, 1e-3 * times.back());
    }
    out.fingerprint = made.world.fingerprint();
    out.time = made.world.time();
    out.median_ms = at_share(times, 0.5);
    out.slowest_ms = at_share(times, 0.99);
    watcher.finish();
    return out;
}

template Summary run(const scene::Scene<2>&, scene::Made<2>&, const EachTick<2>&,
                     const std::function<bool()>&);
template Summary run(const scene::Scene<3>&, scene::Made<3>&, const EachTick<3>&,
                     const std::function<bool()>&);

}
