#include "astasis/scene/timeline.h"

#include "scene/limits.h"
#include "scene/read_bodies.h"

#include "astasis/world_queries.h"

#include <algorithm>

namespace astasis::scene {
namespace {

// A time is due at the tick that starts there; sums of rounded ticks may be this much early, in ticks.
constexpr double kEarly = 1e-6;

bool is_spent(const auto& action, std::uint64_t times) {
    if (action.count) return times >= *action.count;
    return action.when == std::decay_t<decltype(action)>::When::Time && !action.every && times > 0;
}

// Whether nothing that the bodies may touch is where they would be; the random numbers are not used up.
template<int Dim> bool is_free(const BodyEntry<Dim>& entry, Random random, const World<Dim>& world) {
    std::vector<Found<Dim>> found;
    for (const BodySpec<Dim>& spec : specs_of(entry, random))
        for (const ShapeSpec<Dim>& shape : spec.shapes) {
            const auto is_in_the_way = [&](BodyId body, std::uint32_t index) {
                return may_touch(shape, world.shapes(body)[index]);
            };
            const Pose<Dim> at{to_world(spec.pose, shape.placement.position),
                               spec.pose.rotation * shape.placement.rotation};
            overlapping(world, shape.geometry, at, found, {.accept = is_in_the_way});
            if (!found.empty()) return false;
        }
    return true;
}

}

template<int Dim> Timeline<Dim>::Timeline(const Scene<Dim>& scene, const Document& document) {
    Random seeds(scene.seed);
    for (const Action<Dim>& action : scene.timeline)
        running_.push_back({action, document.place(action.offset) + ": " + action.path, Random(seeds.bits()),
                            action.from, 0, 0});
}

template<int Dim> void Timeline<Dim>::before_tick(Made<Dim>& made) {
    deeds_.clear();
    // What is done may not change which crossings are answered.
    const Events<Dim> events = made.world.events();
    const std::vector<Crossing> entered(events.entered.begin(), events.entered.end());
    const std::vector<Crossing> left(events.left.begin(), events.left.end());
    for (Running& r : running_) try {
            if (r.action.when == Action<Dim>::When::Time) run(r, made);
            else answer(r, r.action.when == Action<Dim>::When::Entered ? entered : left, made);
        } catch (const Error& e) {
            throw FileError(r.place + ": " + e.what());
        }
}

template<int Dim> bool Timeline<Dim>::may_make(const std::string& name) const {
    return std::any_of(running_.begin(), running_.end(), [&](const Running& r) {
        const auto* spawn = std::get_if<Spawn<Dim>>(&r.action.kind);
        return spawn != nullptr && is_of(name, spawn->body.name);
    });
}

template<int Dim> void Timeline<Dim>::run(Running& r, Made<Dim>& made) {
    const double now = made.world.time() + kEarly * made.world.settings().tick;
    while (!is_spent(r.action, r.times) && r.next <= now) {
        if (r.action.until && r.next > *r.action.until) return;
        const bool done = act(r, made, {});
        if (done) r.times++;
        if (r.action.every) r.next += *r.action.every;
        else if (!done) return; // tried again in the next tick
    }
}

template<int Dim>
void Timeline<Dim>::answer(Running& r, const std::vector<Crossing>& crossings, Made<Dim>& made) {
    const double now = made.world.time();
    if (now < r.action.from || (r.action.until && now > *r.action.until)) return;
    for (const Crossing& c : crossings)
        if (!is_spent(r.action, r.times) && is_of(made.name_of(c.sensor_body), r.action.sensor) &&
            act(r, made, c.body))
            r.times++;
}

template<int Dim> bool Timeline<Dim>::act(Running& r, Made<Dim>& made, std::optional<BodyId> by) {
    return std::visit([&](const auto& kind) { return act(r, kind, made, by); }, r.action.kind);
}

// The bodies that are meant: those of a name, or the one that crossed. What is done may remove them.
template<int Dim>
std::vector<BodyId> Timeline<Dim>::meant(const Made<Dim>& made, const std::string& name,
                                         std::optional<BodyId> by) const {
    std::vector<BodyId> out;
    if (name.empty() && by && made.world.contains(*by)) out.push_back(*by);
    if (name.empty()) return out;
    for (std::size_t n = 0; n < made.names.size(); n++)
        if (is_of(made.names[n], name) && made.world.contains(made.ids[n])) out.push_back(made.ids[n]);
    return out;
}

template<int Dim>
bool Timeline<Dim>::act(Running& r, const Spawn<Dim>& spawn, Made<Dim>& made, std::optional<BodyId>) {
    if (spawn.where_free && !is_free(spawn.body, r.random, made.world)) return false;
    const std::size_t first = made.names.size();
    if (made.bytes + count_of(spawn.body) * bytes_of(spawn.body.spec.shapes) > kMostMemory)
        throw Error("memory",
                    "more than 1000 MB for " + std::to_string(made.world.bodies().size()) +
                        " bodies and those to come",
                    "a lower \"count\", a longer \"every\", or bodies that are removed again");
    add_entry(spawn.body, r.random, true, r.made, made);
    const std::span<const BodyId> fresh = std::span(made.ids).subspan(first);
    if (check_pairs(made.world, fresh, 0) > 0) check_pairs(made.world, fresh, made.world.tick_counts().pairs);
    for (std::size_t n = first; n < made.names.size(); n++) deeds_.push_back({"spawned", made.names[n]});
    return true;
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const Removal& removal, Made<Dim>& made, std::optional<BodyId> by) {
    const auto bodies = meant(made, removal.body, by);
    for (const BodyId id : bodies) {
        deeds_.push_back({"removed", made.name_of(id)});
        const auto shapes = made.world.shapes(id);
        made.bytes -= std::min(made.bytes, bytes_of<Dim>({shapes.begin(), shapes.end()}));
        made.world.remove(id);
    }
    return !bodies.empty();
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const Kick<Dim>& kick, Made<Dim>& made, std::optional<BodyId> by) {
    const auto bodies = meant(made, kick.body, by);
    for (const BodyId id : bodies) {
        if (kick.on) made.world.apply_impulse_at(id, kick.impulse, to_world(made.world.pose(id), *kick.on));
        else made.world.apply_impulse(id, kick.impulse);
        deeds_.push_back({"kicked", made.name_of(id)});
    }
    return !bodies.empty();
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const NewVelocity<Dim>& to, Made<Dim>& made, std::optional<BodyId> by) {
    const auto bodies = meant(made, to.body, by);
    for (const BodyId id : bodies) {
        if (to.velocity) made.world.set_velocity(id, *to.velocity);
        if (to.spin) made.world.set_angular_velocity(id, *to.spin);
        deeds_.push_back({"velocity set", made.name_of(id)});
    }
    return !bodies.empty();
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const NewMaterial& to, Made<Dim>& made, std::optional<BodyId>) {
    made.world.set_material(made.material_ids.at(to.material), to.value);
    deeds_.push_back({"material set", to.material});
    return true;
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const NewGravity<Dim>& to, Made<Dim>& made, std::optional<BodyId>) {
    made.world.set_gravity(to.gravity);
    deeds_.push_back({"gravity set", ""});
    return true;
}

template<int Dim>
bool Timeline<Dim>::act(Running&, const NewMotor& to, Made<Dim>& made, std::optional<BodyId>) {
    bool any = false;
    for (const JointId id : made.world.joints()) {
        const std::string& name = made.joint_names[std::visit(
            [](const auto& joint) { return joint.joins.user_data; }, made.world.joint(id))];
        if (!is_of(name, to.joint)) continue;
        made.world.set_motor(id, to.motor, to.axis);
        deeds_.push_back({"motor set", name});
        any = true;
    }
    return any;
}

template class Timeline<2>;
template class Timeline<3>;

}
