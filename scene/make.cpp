// From a scene to a world: grids, spread, names.
#include "scene/scene.h"

#include "scene/random.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>

namespace astasis::scene {
namespace {

// In space the spread turns about an axis of any direction: by rejection from a cube.
Vec3 random_axis(Random& random) {
    for (;;) {
        Vec3 v{};
        for (int i = 0; i < 3; i++) v[i] = static_cast<float>(random.either_way());
        const float n = length(v);
        if (n > 0.1f && n <= 1.0f) return v * (1.0f / n);
    }
}

Rotation<2> spread_rotation(Rotation<2> r, double radians, Random& random) {
    if (radians == 0) return r;
    return turned(astasis::radians(radians * random.either_way())) * r;
}
Rotation<3> spread_rotation(Rotation<3> r, double radians, Random& random) {
    if (radians == 0) return r;
    const Vec3 axis = random_axis(random);
    return turned(astasis::radians(radians * random.either_way()), axis) * r;
}

template<int Dim>
BodySpec<Dim> placed(const BodyEntry<Dim>& entry, const std::array<int, Dim>& cell, Random& random) {
    BodySpec<Dim> spec = entry.spec;
    for (int i = 0; i < Dim; i++) {
        const auto k = static_cast<std::size_t>(i);
        spec.pose.position[i] += static_cast<double>(entry.pitch[i]) * cell[k];
        if (entry.spread_at[i] > 0) spec.pose.position[i] += entry.spread_at[i] * random.either_way();
    }
    spec.pose.rotation = spread_rotation(spec.pose.rotation, entry.spread_turn, random);
    for (int i = 0; i < Dim; i++)
        if (entry.spread_velocity[i] > 0)
            spec.velocity[i] += entry.spread_velocity[i] * static_cast<float>(random.either_way());
    return spec;
}

// Around all bounded shapes, three times as large as needed: what leaves it has fallen out of the scene.
template<int Dim> Bounds<Dim> default_bounds(const World<Dim>& world) {
    Bounds<Dim> out;
    bool any = false;
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id)) {
            const Bounds<Dim> b = bounds_of(shape, world.pose(id));
            if (std::isinf(b.low[0])) continue;
            for (int i = 0; i < Dim; i++) {
                out.low[i] = any ? std::min(out.low[i], b.low[i]) : b.low[i];
                out.high[i] = any ? std::max(out.high[i], b.high[i]) : b.high[i];
            }
            any = true;
        }
    double widest = 1;
    for (int i = 0; i < Dim; i++) widest = std::max(widest, out.high[i] - out.low[i]);
    for (int i = 0; i < Dim; i++) out.low[i] -= widest, out.high[i] += widest;
    return out;
}

// The materials of a file are shared by all shapes that name them.
template<int Dim>
std::map<std::string, MaterialId> add_materials(const Scene<Dim>& scene, World<Dim>& world) {
    std::map<std::string, MaterialId> out;
    for (const auto& [name, entry] : scene.materials) out[name] = world.add_material(entry.material);
    for (const auto& pair : scene.between) world.set_between(out.at(pair.a), out.at(pair.b), pair.material);
    return out;
}

template<int Dim> void add_entry(const BodyEntry<Dim>& entry, Random& random, Made<Dim>& made) {
    std::array<int, Dim> count = entry.count, cell{};
    if (!entry.repeated) count.fill(1);
    int number = 0;
    for (;;) {
        BodySpec<Dim> spec = placed<Dim>(entry, cell, random);
        spec.user_data = made.names.size();
        for (std::size_t k = 0; k < spec.shapes.size(); k++)
            if (!entry.materials[k].empty()) spec.shapes[k].shared = made.material_ids.at(entry.materials[k]);
        if (entry.mass && spec.motion == Motion::Dynamic) spec.mass = mass_of(spec.shapes, *entry.mass);
        made.world.add(spec);
        number++;
        made.names.push_back(entry.repeated ? entry.name + "." + std::to_string(number) : entry.name);
        made.materials.push_back(entry.materials);
        std::size_t axis = 0;
        while (axis < Dim && ++cell[axis] == count[axis]) cell[axis++] = 0;
        if (axis == Dim) break;
    }
}

template<int Dim> BodyId body_named(const Made<Dim>& made, const std::string& name, const char* field) {
    if (const auto id = made.find(name)) return *id;
    throw Error(field, "\"" + name + "\"",
                "the name of a body of this file; those of a grid are \"" + name + ".1\" and on");
}

// The library's name of a joint's part as a key of the file.
std::string key_of(const std::string& field) {
    static constexpr std::array<std::array<std::string_view, 2>, 10> kKeys{{{"on_a", "at_body"},
                                                                            {"on_b", "at_to"},
                                                                            {"axis_a", "axis"},
                                                                            {"axis_b", "axis_to"},
                                                                            {"over_a", "over"},
                                                                            {"over_b", "over_to"},
                                                                            {"limits_a", "limits"},
                                                                            {"limits_b", "limits_to"},
                                                                            {"motor_a", "motor"},
                                                                            {"motor_b", "motor_to"}}};
    for (const auto& [name, key] : kKeys)
        if (field.starts_with(name) && (field.size() == name.size() || field[name.size()] == '.'))
            return std::string(key) + field.substr(name.size());
    return field;
}

template<int Dim> void add_joint(const JointEntry<Dim>& entry, Made<Dim>& made) {
    const auto add = [&](const std::string& body, const std::string& to, const std::string& name) {
        Joint<Dim> spec = entry.spec;
        std::visit(
            [&](auto& joint) {
                joint.joins.a = body_named(made, body, "body");
                if (!to.empty()) joint.joins.b = body_named(made, to, "to");
                joint.joins.user_data = made.joint_names.size();
            },
            spec);
        try {
            made.world.add_joint(spec);
        } catch (const Error& e) {
            throw Error(key_of(e.field()), e.given(), e.accepted());
        }
        made.joint_names.push_back(name);
    };
    const std::string name = !entry.name.empty() ? entry.name
                             : entry.to.empty()  ? entry.kind + " of " + entry.body
                                                 : entry.kind + " of " + entry.body + " to " + entry.to;
    if (!entry.row) return add(entry.body, entry.to, name);
    const auto numbered = [](const std::string& of, int k) { return of + "." + std::to_string(k); };
    for (int k = 2; made.find(numbered(entry.body, k)); k++)
        add(numbered(entry.body, k), numbered(entry.body, k - 1), numbered(name, k - 1));
}

template<int Dim> void add_field(const FieldEntry<Dim>& entry, Made<Dim>& made) {
    Field<Dim> field = entry.spec;
    if (!entry.body.empty())
        std::get<Attraction<Dim>>(field.kind).body = body_named(made, entry.body, "body");
    made.world.add_field(field);
}

}

template<int Dim> std::optional<BodyId> Made<Dim>::find(const std::string& name) const {
    for (std::size_t i = 0; i < names.size(); i++)
        if (names[i] == name) return world.bodies()[i];
    return {};
}

template<int Dim> Made<Dim> make_world(const Scene<Dim>& scene, const Document& document) {
    Made<Dim> made{World<Dim>(scene.world), {}, {}, {}, {}, {}};
    made.material_ids = add_materials(scene, made.world);
    Random random(scene.seed);
    const auto add = [&](const auto& entry, const auto& adding) {
        try {
            adding();
        } catch (const Error& e) {
            throw FileError(document.place(entry.offset) + ": " + entry.path + ": " + e.what());
        }
    };
    for (const auto& entry : scene.bodies) add(entry, [&] { add_entry(entry, random, made); });
    for (const auto& entry : scene.joints) add(entry, [&] { add_joint(entry, made); });
    for (const auto& entry : scene.fields) add(entry, [&] { add_field(entry, made); });
    made.bounds = scene.bounds ? *scene.bounds : default_bounds(made.world);
    return made;
}

template std::optional<BodyId> Made<2>::find(const std::string&) const;
template std::optional<BodyId> Made<3>::find(const std::string&) const;
template Made<2> make_world(const Scene<2>&, const Document&);
template Made<3> make_world(const Scene<3>&, const Document&);

}
