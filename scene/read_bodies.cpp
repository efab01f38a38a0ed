// From a document to bodies: every key, its type and its range.
#include "scene/read_bodies.h"

#include "scene/keys.h"
#include "scene/read_geometry.h"

#include <algorithm>
#include <cmath>

namespace astasis::scene {

template<int Dim> Point<Dim> point(const Cursor& c) {
    const auto n = c.numbers<Dim>(kAnyNumber);
    Point<Dim> out{};
    for (int i = 0; i < Dim; i++) out[i] = n[static_cast<std::size_t>(i)];
    return out;
}

namespace {

// A turn or a spin: one angle in the plane, an angle about an axis in space. Both as axis times radians.
struct About {
    Vec3 axis;
    double radians;
};
About about(const Cursor& c, bool per_second) {
    c.only(per_second ? std::span<const char* const>(keys::kSpin)
                      : std::span<const char* const>(keys::kTurn));
    const Vec3 axis = vec<3>(c.at("axis"));
    if (!(length(axis) > 0)) c.at("axis").fail("a list of 3 numbers that are not all 0");
    return {axis * (1.0f / length(axis)), c.at(per_second ? "rate" : "angle").angle(per_second)};
}
void read_turn(const Cursor& c, float& out) { out = static_cast<float>(c.angle(false)); }
void read_turn(const Cursor& c, Vec3& out) {
    const About a = about(c, false);
    out = a.axis * static_cast<float>(a.radians);
}
Rotation<2> rotation_of(float turn) { return turned(radians(turn)); }
Rotation<3> rotation_of(Vec3 turn) {
    return length(turn) > 0 ? turned(radians(length(turn)), turn) : Rotation<3>{};
}
void read_mixing(const Cursor& c, const char* key, Mixing& out) {
    if (!c.has(key)) return;
    const std::string word = c.at(key).one_of(keys::kMixings);
    for (std::size_t i = 0; i < std::size(keys::kMixings); i++)
        if (word == keys::kMixings[i]) out = static_cast<Mixing>(i);
}

}

void read_spin(const Cursor& c, float& out) { out = static_cast<float>(c.angle(true)); }

void read_spin(const Cursor& c, Vec3& out) {
    const About a = about(c, true);
    out = a.axis * static_cast<float>(a.radians);
}

void read_coefficients(const Cursor& c, Material& out) {
    const auto read = [&](const char* key, float& value, const Range& range) {
        if (c.has(key)) value = number(c.at(key), range);
    };
    read("friction", out.friction, kNotNegative);
    read("restitution", out.restitution, kShare);
    read("tangential_restitution", out.tangential_restitution, kShare);
    read("rolling_resistance", out.rolling_resistance, kNotNegative);
    read("spinning_resistance", out.spinning_resistance, kNotNegative);
}

MaterialEntry read_material(const Cursor& c) {
    c.only(keys::kMaterial);
    MaterialEntry out;
    read_coefficients(c, out.material);
    read_mixing(c, "friction_mixing", out.material.friction_mixing);
    read_mixing(c, "restitution_mixing", out.material.restitution_mixing);
    if (c.has("density")) out.density = number(c.at("density"), kPositive);
    if (c.has("fill")) out.fill = c.at("fill").one_of(keys::kFills);
    return out;
}

template<int Dim> std::uint64_t read_layers(const Cursor& c, Scene<Dim>& scene) {
    std::uint64_t bits = 0;
    for (const Cursor& item : c.items("a list of names of layers")) {
        const std::string name = item.string("the name of a layer, as \"parcels\"");
        auto found = std::find(scene.layers.begin(), scene.layers.end(), name);
        if (found == scene.layers.end()) {
            if (scene.layers.size() == 64)
                item.fail("one of no more than 64 layers (\"common\" is the first)");
            found = scene.layers.insert(scene.layers.end(), name);
        }
        bits |= std::uint64_t{1} << (found - scene.layers.begin());
    }
    return bits;
}

template<int Dim> std::string read_material_name(const Cursor& c, const Scene<Dim>& scene) {
    std::string name = c.string("the name of a material of this file");
    if (scene.materials.contains(name)) return name;
    std::string known;
    for (const auto& [other, entry] : scene.materials) known += (known.empty() ? "" : ", ") + other;
    c.fail("the name of a material of this file: " + (known.empty() ? "it has none" : known));
}

namespace {

template<int Dim> void read_shape(const Cursor& c, Scene<Dim>& scene, BodyEntry<Dim>& body) {
    c.only(keys::kShape);
    ShapeSpec<Dim> shape;
    shape.geometry = read_geometry<Dim>(c);
    std::string material;
    if (c.has("material")) {
        material = read_material_name(c.at("material"), scene);
        shape.density = scene.materials.at(material).density;
    }
    if (c.has("at")) shape.placement.position = vec<Dim>(c.at("at"));
    if (c.has("turn")) {
        Axial<Dim> turn{};
        read_turn(c.at("turn"), turn);
        shape.placement.rotation = rotation_of(turn);
    }
    if (c.has("surface_velocity")) shape.surface_velocity = vec<Dim>(c.at("surface_velocity"));
    if (c.has("layers")) shape.layers = read_layers(c.at("layers"), scene);
    if (c.has("collides_with")) shape.collides_with = read_layers(c.at("collides_with"), scene);
    if (c.has("group")) shape.group = static_cast<std::uint32_t>(c.at("group").whole(1, 0xffffffffu));
    if (c.has("sensor")) shape.is_sensor = c.at("sensor").truth();
    if (c.has("tag")) shape.tag = static_cast<std::uint32_t>(c.at("tag").whole(0, 0xffffffffu));
    body.spec.shapes.push_back(shape);
    body.materials.push_back(material);
}

template<int Dim> void read_repeat(const Cursor& c, BodyEntry<Dim>& body) {
    c.only(keys::kRepeat);
    const auto counts = c.at("count").items("a list with a count for each axis");
    if (counts.size() != Dim) c.at("count").fail("a list of " + std::to_string(Dim) + " whole numbers");
    std::uint64_t all = 1;
    for (std::size_t i = 0; i < Dim; i++) {
        const std::uint64_t n = counts[i].whole(1, kMostBodies);
        body.count[i] = static_cast<int>(n);
        all *= n;
        if (all > kMostBodies) c.at("count").fail("counts that make no more than 1000000 bodies");
    }
    body.pitch = vec<Dim>(c.at("pitch"));
    body.repeated = true;
}

void read_locks(const Cursor& c, Locks<2>& out) {
    for (const Cursor& item : c.items("a list of axes")) {
        const std::string axis = item.one_of(keys::kPlaneAxes);
        (axis == "x" ? out.x : axis == "y" ? out.y : out.turn) = true;
    }
}
void read_locks(const Cursor& c, Locks<3>& out) {
    bool* const fields[] = {&out.x, &out.y, &out.z, &out.turn_x, &out.turn_y, &out.turn_z};
    for (const Cursor& item : c.items("a list of axes")) {
        const std::string axis = item.one_of(keys::kSpaceAxes);
        for (std::size_t k = 0; k < std::size(fields); k++)
            if (axis == keys::kSpaceAxes[k]) *fields[k] = true;
    }
}

template<int Dim> void read_motion_state(const Cursor& c, BodyEntry<Dim>& body) {
    if (c.has("motion")) {
        const std::string motion = c.at("motion").one_of(keys::kMotions);
        body.spec.motion = motion == "static"      ? Motion::Static
                           : motion == "kinematic" ? Motion::Kinematic
                                                   : Motion::Dynamic;
    }
    if (c.has("at")) body.spec.pose.position = point<Dim>(c.at("at"));
    if (c.has("turn")) read_turn(c.at("turn"), body.turn);
    body.spec.pose.rotation = rotation_of(body.turn);
    if (c.has("velocity")) body.spec.velocity = vec<Dim>(c.at("velocity"));
    if (c.has("spin")) read_spin(c.at("spin"), body.spec.angular_velocity);
    if (c.has("linear_damping")) body.spec.free.linear_damping = number(c.at("linear_damping"), kNotNegative);
    if (c.has("angular_damping"))
        body.spec.free.angular_damping = number(c.at("angular_damping"), kNotNegative);
    if (c.has("drag")) body.spec.free.drag = number(c.at("drag"), kNotNegative);
    if (c.has("gravity_scale")) body.spec.free.gravity_scale = number(c.at("gravity_scale"), kAnyNumber);
    if (c.has("may_sleep")) body.spec.may_sleep = c.at("may_sleep").truth();
    if (c.has("sweep")) {
        const std::string sweep = c.at("sweep").one_of(keys::kSweeps);
        body.spec.sweep = sweep == "none"          ? Sweep::None
                          : sweep == "static only" ? Sweep::StaticOnly
                                                   : Sweep::Everything;
    }
    if (c.has("asleep")) body.spec.asleep = c.at("asleep").truth();
    if (c.has("locked")) read_locks(c.at("locked"), body.spec.free.locks);
    if (c.has("mass")) body.mass = number(c.at("mass"), kPositive);
}

}

template<int Dim> BodyEntry<Dim> read_body(const Cursor& c, Scene<Dim>& scene) {
    c.only(keys::kBody);
    BodyEntry<Dim> body;
    body.offset = c.node().offset;
    body.path = c.path();
    body.name = c.at("name").string("a name, as \"parcel\"");
    read_motion_state(c, body);
    for (const Cursor& shape : c.at("shapes").items("a list of shapes")) read_shape(shape, scene, body);
    if (c.has("repeat")) read_repeat(c.at("repeat"), body);
    if (c.has("spread")) {
        const Cursor spread = c.at("spread");
        spread.only(keys::kSpread);
        if (spread.has("at")) body.spread_at = vec<Dim>(spread.at("at"), kNotNegative);
        if (spread.has("turn")) body.spread_turn = spread.at("turn").angle(false);
        if (spread.has("velocity")) body.spread_velocity = vec<Dim>(spread.at("velocity"), kNotNegative);
    }
    return body;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Point<Dim> point(const Cursor&);                                                                \
    template std::uint64_t read_layers(const Cursor&, Scene<Dim>&);                                          \
    template std::string read_material_name(const Cursor&, const Scene<Dim>&);                               \
    template BodyEntry<Dim> read_body(const Cursor&, Scene<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
