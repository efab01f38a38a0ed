// From a scene to a world: grids, spread, names.
#include "scene/scene.h"

#include "scene/random.h"

#include <algorithm>
#include <cmath>

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

}

template<int Dim> std::optional<BodyId> Made<Dim>::find(const std::string& name) const {
    for (std::size_t i = 0; i < names.size(); i++)
        if (names[i] == name) return world.bodies()[i];
    return {};
}

template<int Dim> Made<Dim> make_world(const Scene<Dim>& scene, const Document& document) {
    Made<Dim> made{World<Dim>(scene.world), {}, {}, {}, {}};
    made.material_ids = add_materials(scene, made.world);
    Random random(scene.seed);
    for (const auto& entry : scene.bodies) {
        try {
            add_entry(entry, random, made);
        } catch (const Error& e) {
            throw FileError(document.place(entry.offset) + ": " + entry.path + ": " + e.what());
        }
    }
    made.bounds = scene.bounds ? *scene.bounds : default_bounds(made.world);
    return made;
}

template std::optional<BodyId> Made<2>::find(const std::string&) const;
template std::optional<BodyId> Made<3>::find(const std::string&) const;
template Made<2> make_world(const Scene<2>&, const Document&);
template Made<3> make_world(const Scene<3>&, const Document&);

}
