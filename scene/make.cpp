// From a scene to a world: grids, spread, names.
#include "astasis/scene/scene.h"

#include "astasis/scene/random.h"
#include "astasis/scene/timeline.h"
#include "scene/limits.h"

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

// The feet of a box's corners on a half-space.
template<int Dim>
void take_grounds(const Bounds<Dim>& box, const HalfSpace<Dim>& ground, const Pose<Dim>& pose,
                  const Placement<Dim>& placement, Bounds<Dim>& out) {
    const Vec<Dim> normal =
        direction(rotate(pose.rotation, rotate(placement.rotation, ground.outward)), Vec<Dim>{0, 1});
    const Point<Dim> on = to_world(pose, placement.position);
    for (int corner = 0; corner < 1 << Dim; corner++) {
        Point<Dim> at{};
        for (int k = 0; k < Dim; k++) at[k] = (corner >> k & 1) != 0 ? box.high[k] : box.low[k];
        const Point<Dim> foot = at + normal * -dot(normal, at - on);
        for (int k = 0; k < Dim; k++)
            out.low[k] = std::min(out.low[k], foot[k]), out.high[k] = std::max(out.high[k], foot[k]);
    }
}

// Around all bounded shapes, three times as large as needed: what leaves it has fallen out of the scene.
template<int Dim> Bounds<Dim> default_bounds(const Scene<Dim>& scene, const World<Dim>& world) {
    Bounds<Dim> out;
    bool any = false;
    const auto take = [&](const ShapeSpec<Dim>& shape, const Pose<Dim>& pose) {
        const Bounds<Dim> b = bounds_of(shape, pose);
        if (std::isinf(b.low[0])) return;
        for (int i = 0; i < Dim; i++) {
            out.low[i] = any ? std::min(out.low[i], b.low[i]) : b.low[i];
            out.high[i] = any ? std::max(out.high[i], b.high[i]) : b.high[i];
        }
        any = true;
    };
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id)) take(shape, world.pose(id));
    Random random(scene.seed);
    for (const Action<Dim>& action : scene.timeline)
        if (const auto* spawn = std::get_if<Spawn<Dim>>(&action.kind); spawn)
            for (const BodySpec<Dim>& spec : specs_of(spawn->body, random))
                for (const auto& shape : spec.shapes) take(shape, spec.pose);
    // Bodies come to rest on the grounds below, beside or above.
    const Bounds<Dim> bounded = out;
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id))
            if (const auto* ground = std::get_if<HalfSpace<Dim>>(&shape.geometry); ground && any)
                take_grounds(bounded, *ground, world.pose(id), shape.placement, out);
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
    if (!entry.row) return add(entry.body, entry.to, entry.name);
    const auto numbered = [](const std::string& of, int k) { return of + "." + std::to_string(k); };
    for (int k = 2; made.find(numbered(entry.body, k)); k++)
        add(numbered(entry.body, k), numbered(entry.body, k - 1), numbered(entry.name, k - 1));
}

template<int Dim> void add_field(const FieldEntry<Dim>& entry, Made<Dim>& made) {
    Field<Dim> field = entry.spec;
    if (!entry.body.empty())
        std::get<Attraction<Dim>>(field.kind).body = body_named(made, entry.body, "body");
    made.world.add_field(field);
}

}

template<int Dim> std::vector<BodySpec<Dim>> specs_of(const BodyEntry<Dim>& entry, Random& random) {
    std::array<int, Dim> count = entry.count, cell{};
    if (!entry.repeated) count.fill(1);
    std::vector<BodySpec<Dim>> out;
    for (;;) {
        out.push_back(placed<Dim>(entry, cell, random));
        std::size_t axis = 0;
        while (axis < Dim && ++cell[axis] == count[axis]) cell[axis++] = 0;
        if (axis == Dim) return out;
    }
}

template<int Dim>
void add_entry(const BodyEntry<Dim>& entry, Random& random, bool numbered, int& made_before,
               Made<Dim>& made) {
    for (BodySpec<Dim>& spec : specs_of(entry, random)) {
        spec.user_data = made.names.size();
        for (std::size_t k = 0; k < spec.shapes.size(); k++)
            if (!entry.materials[k].empty()) spec.shapes[k].shared = made.material_ids.at(entry.materials[k]);
        if (entry.mass && spec.motion == Motion::Dynamic) spec.mass = mass_of(spec.shapes, *entry.mass);
        made.ids.push_back(made.world.add(spec));
        made.bytes += bytes_of(spec.shapes);
        made_before++;
        made.names.push_back(numbered ? entry.name + "." + std::to_string(made_before) : entry.name);
        made.places.emplace(made.names.back(), made.names.size() - 1);
        made.materials.push_back(entry.materials);
    }
}

bool is_of(const std::string& name, const std::string& asked) {
    if (!name.starts_with(asked)) return false;
    if (name.size() == asked.size()) return true;
    return name[asked.size()] == '.' && name.size() > asked.size() + 1 &&
           name.find_first_not_of("0123456789", asked.size() + 1) == std::string::npos;
}

template<int Dim> std::optional<BodyId> Made<Dim>::find(const std::string& name) const {
    const auto at = places.find(name);
    if (at == places.end()) return {};
    for (std::size_t i = at->second; i < names.size(); i++) // another one, if the first is gone
        if (names[i] == name && world.contains(ids[i])) return ids[i];
    return {};
}

std::uint64_t ticks_in(double seconds, double tick) {
    return static_cast<std::uint64_t>(std::llround(seconds / tick));
}

template<int Dim> const std::string& Made<Dim>::name_of(BodyId id) const {
    if (world.contains(id)) return names[world.user_data(id)];
    return names[static_cast<std::size_t>(std::find(ids.begin(), ids.end(), id) - ids.begin())];
}

template<int Dim> Made<Dim> make_world(const Scene<Dim>& scene, const Document& document) {
    Made<Dim> made{World<Dim>(scene.world), {}, {}, {}, 0, {}, {}, {}, {}, {}};
    made.material_ids = add_materials(scene, made.world);
    Random random(scene.seed);
    const auto add = [&](const auto& entry, const auto& adding) {
        try {
            adding();
        } catch (const Error& e) {
            throw FileError(document.place(entry.offset) + ": " + entry.path + ": " + e.what());
        }
    };
    for (const auto& entry : scene.bodies) {
        int before = 0;
        add(entry, [&] { add_entry(entry, random, entry.repeated, before, made); });
    }
    if (!scene.bodies.empty())
        add(scene.bodies.back(), [&] { check_pairs<Dim>(made.world, made.world.bodies(), 0); });
    for (const auto& entry : scene.joints) add(entry, [&] { add_joint(entry, made); });
    for (const auto& entry : scene.fields) add(entry, [&] { add_field(entry, made); });
    made.bounds = scene.bounds ? *scene.bounds : default_bounds(scene, made.world);
    made.timeline = std::make_shared<Timeline<Dim>>(scene, document);
    return made;
}

template std::optional<BodyId> Made<2>::find(const std::string&) const;
template std::optional<BodyId> Made<3>::find(const std::string&) const;
template const std::string& Made<2>::name_of(BodyId) const;
template const std::string& Made<3>::name_of(BodyId) const;
template void add_entry(const BodyEntry<2>&, Random&, bool, int&, Made<2>&);
template void add_entry(const BodyEntry<3>&, Random&, bool, int&, Made<3>&);
template std::vector<BodySpec<2>> specs_of(const BodyEntry<2>&, Random&);
template std::vector<BodySpec<3>> specs_of(const BodyEntry<3>&, Random&);
template Made<2> make_world(const Scene<2>&, const Document&);
template Made<3> make_world(const Scene<3>&, const Document&);

}
