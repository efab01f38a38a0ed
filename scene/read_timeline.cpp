#include "scene/read_timeline.h"

#include "astasis/scene/timeline.h"
#include "scene/keys.h"
#include "scene/read_bodies.h"
#include "scene/read_geometry.h"
#include "scene/read_joints.h"

#include <algorithm>

namespace astasis::scene {
namespace {

constexpr Range kSeconds{0, 1e6, true, true, "seconds, from 0 to 1000000"};
constexpr Range kPeriod{1e-4, 1e6, true, true, "seconds, from 0.0001 to 1000000"};

// The keys that a kind of action has beside those of every action.
struct KindOfAction {
    const char* name;
    std::vector<std::string> keys;
};
const std::vector<KindOfAction>& kinds() {
    static const std::vector<KindOfAction> all{
        {"spawn", {"body", "where_free"}},
        {"remove", {"body"}},
        {"kick", {"body", "impulse", "on"}},
        {"set velocity", {"body", "velocity", "spin"}},
        {"set material",
         {"material", "friction", "restitution", "tangential_restitution", "rolling_resistance",
          "spinning_resistance"}},
        {"set gravity", {"gravity"}},
        {"set motor", {"joint", "axis", "motor"}}};
    return all;
}

// The place of a name, or of the grid that "parcel.3" is of; none if there is neither.
std::optional<std::size_t> place_of(const std::unordered_map<std::string, std::size_t>& places,
                                    const std::string& name) {
    if (const auto at = places.find(name); at != places.end()) return at->second;
    const std::string grid = name.substr(0, name.rfind('.'));
    const auto at = is_of(name, grid) ? places.find(grid) : places.end();
    return at == places.end() ? std::nullopt : std::optional(at->second);
}

// A body that is there at the start or may be spawned before: by its name, or of a grid by that of all.
template<int Dim> std::string read_body_name(const Cursor& c, const Scene<Dim>& scene, const Names& names) {
    std::string name = c.string("the name of a body of this file");
    const auto at = place_of(names.bodies, name);
    if (at && (scene.bodies[*at].name == name || scene.bodies[*at].repeated)) return name;
    if (place_of(names.spawned, name)) return name;
    c.fail("the name of a body of this file, or of one that is spawned farther up");
}

template<int Dim>
void read_when(const Cursor& c, const Scene<Dim>& scene, const Names& names, Action<Dim>& action) {
    const bool once = c.has("time"), often = c.has("every"), entered = c.has("entered"), left = c.has("left");
    if (once + often + entered + left != 1)
        c.fail_because("one of \"time\", \"every\", \"entered\" and \"left\" says when it happens");
    if (once) action.from = c.at("time").number(kSeconds);
    for (const char* key : {"from", "until", "count"})
        if (once && c.has(key)) c.at(key).fail_because("what happens at a time happens once");
    if (often) action.every = c.at("every").number(kPeriod);
    if (entered || left) {
        const Cursor sensor = c.at(entered ? "entered" : "left");
        action.when = entered ? Action<Dim>::When::Entered : Action<Dim>::When::Left;
        action.sensor = read_body_name(sensor, scene, names);
        const auto is_sensor = [](const auto& shape) { return shape.is_sensor; };
        const auto at = place_of(names.bodies, action.sensor);
        if (!at || std::none_of(scene.bodies[*at].spec.shapes.begin(), scene.bodies[*at].spec.shapes.end(),
                                is_sensor))
            sensor.fail("the name of a body of this file that has a sensor");
    }
    if (c.has("from")) action.from = c.at("from").number(kSeconds);
    if (c.has("until")) action.until = c.at("until").number(kSeconds);
    if (action.until && *action.until < action.from) c.at("until").fail("a time that is not before \"from\"");
    if (c.has("count")) action.count = c.at("count").whole(1, kMostBodies);
}

// Whom an action is done to: without a name what entered or left.
template<int Dim>
std::string read_whom(const Cursor& c, const Scene<Dim>& scene, const Names& names,
                      const Action<Dim>& action) {
    if (c.has("body") || action.when == Action<Dim>::When::Time)
        return read_body_name(c.at("body"), scene, names);
    return {};
}

template<int Dim> Spawn<Dim> read_spawn(const Cursor& c, Scene<Dim>& scene, const Names& names) {
    Spawn<Dim> out;
    out.body = read_body(c.at("body"), scene);
    const Cursor name = c.at("body").at("name");
    if (const auto at = names.bodies.find(out.body.name); at != names.bodies.end())
        name.fail("a name that no other body has; " + scene.bodies[at->second].path + " has it");
    if (names.spawned.contains(out.body.name))
        name.fail("a name that no other body has; one is spawned farther up");
    if (c.has("where_free")) out.where_free = c.at("where_free").truth();
    return out;
}

template<int Dim> NewMotor read_new_motor(const Cursor& c, const Scene<Dim>& scene, const Names& names) {
    NewMotor out;
    out.joint = c.at("joint").string("the name of a joint of this file");
    const auto at = place_of(names.joints, out.joint);
    if (!at || (scene.joints[*at].name != out.joint && !scene.joints[*at].row))
        c.at("joint").fail("the name of a joint of this file");
    if (c.has("axis")) out.axis = static_cast<int>(c.at("axis").whole(0, 2));
    out.motor = read_motor(c.at("motor"), scene.joints[*at].kind);
    return out;
}

template<int Dim>
typename Action<Dim>::Kind read_kind(const Cursor& c, const std::string& name, Scene<Dim>& scene,
                                     const Names& names, const Action<Dim>& action) {
    if (name == "spawn") return read_spawn(c, scene, names);
    if (name == "remove") return Removal{read_whom(c, scene, names, action)};
    if (name == "kick") {
        Kick<Dim> out{read_whom(c, scene, names, action), vec<Dim>(c.at("impulse")), {}};
        if (c.has("on")) out.on = vec<Dim>(c.at("on"));
        return out;
    }
    if (name == "set velocity") {
        NewVelocity<Dim> out{read_whom(c, scene, names, action), {}, {}};
        if (!c.has("velocity") && !c.has("spin"))
            c.fail_because("one of \"velocity\" and \"spin\" says what is set");
        if (c.has("velocity")) out.velocity = vec<Dim>(c.at("velocity"));
        if (c.has("spin")) read_spin(c.at("spin"), out.spin.emplace());
        return out;
    }
    if (name == "set material") {
        NewMaterial out{read_material_name(c.at("material"), scene), {}};
        out.value = scene.materials.at(out.material).material;
        read_coefficients(c, out.value);
        return out;
    }
    if (name == "set gravity") return NewGravity<Dim>{vec<Dim>(c.at("gravity"))};
    return read_new_motor(c, scene, names);
}

template<int Dim> Action<Dim> read_action(const Cursor& c, Scene<Dim>& scene, const Names& names) {
    c.only(keys::kAction);
    const auto& all = kinds();
    std::vector<const char*> known(all.size());
    std::transform(all.begin(), all.end(), known.begin(), [](const auto& kind) { return kind.name; });
    const std::string name = c.at("action").one_of(known);
    const auto kind = std::find_if(all.begin(), all.end(), [&](const auto& k) { return k.name == name; });
    for (const auto& [key, value] : c.members())
        if (std::find(std::begin(keys::kEveryAction), std::end(keys::kEveryAction), key) ==
                std::end(keys::kEveryAction) &&
            std::find(kind->keys.begin(), kind->keys.end(), key) == kind->keys.end())
            value.fail_because(std::string("\"").append(name).append("\" has no ").append(key));
    Action<Dim> out;
    out.offset = c.node().offset, out.path = c.path();
    read_when(c, scene, names, out);
    out.kind = read_kind(c, name, scene, names, out);
    return out;
}

}

template<int Dim> void read_timeline(const Cursor& timeline, Scene<Dim>& scene, Names& names) {
    for (const Cursor& action : timeline.items("a list of actions")) {
        scene.timeline.push_back(read_action(action, scene, names));
        if (const auto* spawn = std::get_if<Spawn<Dim>>(&scene.timeline.back().kind))
            names.spawned.emplace(spawn->body.name, scene.timeline.size() - 1);
    }
}

template void read_timeline(const Cursor&, Scene<2>&, Names&);
template void read_timeline(const Cursor&, Scene<3>&, Names&);

}
