#include "check/trial.h"

#include "record/run.h"
#include "record/times.h"
#include "scene/timeline.h"

#include "astasis/queries.h"

#include <algorithm>
#include <cmath>

namespace astasis::check {
namespace {

constexpr double kSeconds = 2;
// A push that is next to nothing is not leaning on something, N s a tick of its weight.
constexpr float kLeans = 0.1f;

template<int Dim> class Watcher {
public:
    Watcher(const scene::Made<Dim>& made, Trial<Dim>& trial) : made_(made), trial_(trial) {
        trial_.energy_start = trial_.energy_most = made.world.energy().total();
        find_twins();
        for (const JointId id : made.world.joints()) note_joint(made.world.joint(id));
    }
    void tick(bool is_first, bool is_late) {
        const World<Dim>& world = made_.world;
        for (const Contact<Dim>& c : world.contacts()) {
            if (is_first) note_overlap(c);
            note_load(c);
        }
        const Work work = world.work();
        const Energy energy = world.energy();
        trial_.kinetic_most = std::max(trial_.kinetic_most, energy.kinetic);
        trial_.energy_most = std::max(trial_.energy_most, energy.total() - (work.surfaces + work.thrusts));
        for (const BodyId id : world.bodies())
            trial_.moved = trial_.moved || !(world.pose(id) == world.previous_pose(id));
        if (is_late) note_motors();
    }
    void finish() {
        constexpr double kMostly = 0.9, kShort = 0.05;
        for (const auto& [name, drive] : drives_)
            if (static_cast<double>(drive.at_most) >= kMostly * static_cast<double>(drive.ticks) &&
                drive.way / drive.asked < kShort)
                trial_.stalled.push_back(name);
        for (auto& [pair, loaded] : loads_) trial_.loaded.push_back(loaded);
        std::stable_sort(trial_.loaded.begin(), trial_.loaded.end(),
                         [](const Loaded& p, const Loaded& q) { return p.ratio > q.ratio; });
        std::stable_sort(trial_.overlaps.begin(), trial_.overlaps.end(),
                         [](const auto& p, const auto& q) { return p.share > q.share; });
    }

private:
    void find_twins() {
        const World<Dim>& world = made_.world;
        std::map<std::pair<std::vector<double>, std::size_t>, std::string> seen;
        for (const BodyId id : world.bodies()) {
            if (world.motion(id) != Motion::Dynamic || world.shapes(id).empty()) continue;
            std::vector<double> place;
            for (const auto& shape : world.shapes(id)) {
                const Bounds<Dim> b = bounds_of(shape, world.pose(id));
                for (int k = 0; k < Dim; k++) place.push_back(b.low[k]), place.push_back(b.high[k]);
            }
            const auto [at, fresh] =
                seen.try_emplace({place, world.shapes(id)[0].geometry.index()}, made_.name_of(id));
            if (!fresh) trial_.twins.emplace_back(at->second, made_.name_of(id));
        }
    }
    // As deep as the scene has it: the first tick has pushed them apart a little.
    void note_overlap(const Contact<Dim>& c) {
        const auto name = [&](BodyId id) { return made_.name_of(id); };
        const auto is_twins = [&](const auto& pair) {
            return pair == std::pair{name(c.body_a), name(c.body_b)} ||
                   pair == std::pair{name(c.body_b), name(c.body_a)};
        };
        if (std::any_of(trial_.twins.begin(), trial_.twins.end(), is_twins)) return;
        const World<Dim>& start = trial_.made.world;
        const auto& a = start.shape(*trial_.made.find(name(c.body_a)), c.shape_a);
        const auto& b = start.shape(*trial_.made.find(name(c.body_b)), c.shape_b);
        const auto at = [&](BodyId id, const ShapeSpec<Dim>& shape) {
            const Pose<Dim> pose = start.pose(*trial_.made.find(name(id)));
            return Pose<Dim>{to_world(pose, shape.placement.position),
                             pose.rotation * shape.placement.rotation};
        };
        const double depth = -distance(a.geometry, at(c.body_a, a), b.geometry, at(c.body_b, b)).separation;
        if (!(depth > 0)) return;
        const float thin = std::min(thickness_of(a), thickness_of(b));
        trial_.overlaps.push_back(
            {name(c.body_a), name(c.body_b), static_cast<float>(depth), static_cast<float>(depth) / thin});
    }
    void note_pair(BodyId a, BodyId b, bool joined) {
        const World<Dim>& world = made_.world;
        if (world.motion(a) != Motion::Dynamic || world.motion(b) != Motion::Dynamic) return;
        double p = double{world.mass(a).mass}, q = double{world.mass(b).mass};
        if (p < q) std::swap(a, b), std::swap(p, q);
        Loaded& out = loads_[{made_.name_of(a), made_.name_of(b)}];
        out = {made_.name_of(a), made_.name_of(b), p / q, joined || out.joined};
    }
    // The heavier above, as far as it is borne by the other.
    void note_load(const Contact<Dim>& c) {
        const World<Dim>& world = made_.world;
        const float g = length(world.settings().gravity) * static_cast<float>(world.settings().tick);
        const bool a_is_heavy = world.mass(c.body_a).mass > world.mass(c.body_b).mass;
        const float heavy = world.mass(a_is_heavy ? c.body_a : c.body_b).mass;
        if (length(c.impulse) > kLeans * heavy * g) note_pair(c.body_a, c.body_b, false);
    }
    void note_joint(const Joint<Dim>& joint) {
        const Joined<Dim> joins = std::visit([](const auto& kind) { return kind.joins; }, joint);
        if (joins.b) note_pair(joins.a, *joins.b, true);
    }
    struct Drive { // of a joint: in how many ticks it was at its most, and how far it got
        std::size_t ticks = 0, at_most = 0;
        double asked = 0, way = 0;
    };
    void note_motors() {
        const World<Dim>& world = made_.world;
        for (const JointId id : world.joints()) {
            const auto note = [&](const Motor& motor, int axis) {
                if (!(motor.most > 0) || motor.speed == 0 || motor.target) return;
                const JointAxisState state = world.joint_state(id).axes[static_cast<std::size_t>(axis)];
                Drive& drive = drives_[made_.joint_names[std::visit(
                    [](const auto& kind) { return kind.joins.user_data; }, world.joint(id))]];
                // A motor at its stop may well push on.
                drive.ticks++,
                    drive.at_most += std::fabs(state.motor) >= 0.999f * motor.most && state.stop == 0;
                drive.asked += double{motor.speed}, drive.way += double{state.speed};
            };
            const auto& joint = world.joint(id);
            if (const auto* hinge = std::get_if<Hinge<Dim>>(&joint); hinge) note(hinge->motor, 0);
            if (const auto* slider = std::get_if<Slider<Dim>>(&joint); slider) note(slider->motor, 0);
            if (const auto* wheel = std::get_if<Wheel<Dim>>(&joint); wheel) note(wheel->drive, 1);
        }
    }

    std::map<std::string, Drive> drives_; // in the second half of the trial
    const scene::Made<Dim>& made_;
    Trial<Dim>& trial_;
    std::map<std::pair<std::string, std::string>, Loaded> loads_;
};

}

template<int Dim>
Trial<Dim> try_out(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made, scene::Made<Dim>& copy) {
    Trial<Dim> out{scene, made};
    Watcher<Dim> watcher(copy, out);
    const std::uint64_t ticks = record::ticks_in(std::min(kSeconds, scene.duration), scene.world.tick);
    std::vector<double> times;
    for (std::uint64_t n = 0; n < ticks; n++) {
        copy.timeline->before_tick(copy);
        times.push_back(record::timed_step(copy.world).all);
        watcher.tick(n == 0, 2 * n >= ticks);
    }
    out.seconds = static_cast<double>(ticks) * scene.world.tick;
    out.median_tick = record::quantile(times, 0.5);
    watcher.finish();
    return out;
}

template Trial<2> try_out(const scene::Scene<2>&, const scene::Made<2>&, scene::Made<2>&);
template Trial<3> try_out(const scene::Scene<3>&, const scene::Made<3>&, scene::Made<3>&);

}
