// From a document to a scene: every key, its type and its range.
#include "astasis/scene/scene.h"
#include "scene/cursor.h"
#include "scene/keys.h"
#include "scene/limits.h"
#include "scene/read_bodies.h"
#include "scene/read_geometry.h"
#include "scene/read_joints.h"
#include "scene/read_text.h"
#include "scene/read_timeline.h"

#include <algorithm>
#include <cmath>

namespace astasis::scene {
namespace {

template<int Dim> void read_between(const Cursor& c, Scene<Dim>& scene) {
    for (const Cursor& item : c.items("a list of pairs of materials")) {
        item.only(keys::kBetween);
        const auto names = item.at("materials").items("the names of two materials");
        if (names.size() != 2) item.at("materials").fail("the names of two materials");
        BetweenEntry entry{read_material_name(names[0], scene), read_material_name(names[1], scene), {}};
        read_coefficients(item, entry.material);
        scene.between.push_back(entry);
    }
}

template<int Dim> void read_settings(const Cursor& c, Scene<Dim>& scene) {
    if (c.has("title")) scene.title = c.at("title").string("a title");
    if (c.has("gravity")) scene.world.gravity = vec<Dim>(c.at("gravity"));
    if (c.has("ticks_per_second"))
        scene.world.tick =
            1.0 / c.at("ticks_per_second").number({1, 1e5, true, true, "a number from 1 to 100000"});
    if (c.has("substeps")) scene.world.substeps = static_cast<int>(c.at("substeps").whole(1, 64));
    if (c.has("extra_work"))
        scene.world.extra_work = number(c.at("extra_work"), {0, 1000, true, true, "a number from 0 to 1000"});
    if (c.has("sleeping")) scene.world.sleeping = c.at("sleeping").truth();
    if (c.has("seed")) scene.seed = c.at("seed").whole(0, std::numeric_limits<std::uint64_t>::max());
    if (c.has("duration"))
        scene.duration = c.at("duration").number({0, 1e6, true, true, "seconds, from 0 to 1000000"});
    if (c.has("bounds")) {
        const Cursor bounds = c.at("bounds");
        bounds.only(keys::kBounds);
        scene.bounds = Bounds<Dim>{point<Dim>(bounds.at("from")), point<Dim>(bounds.at("to"))};
        for (int i = 0; i < Dim; i++)
            if (!(scene.bounds->low[i] < scene.bounds->high[i]))
                bounds.at("to").fail("numbers that are all above those of \"from\"");
    }
}

template<int Dim> Scene<Dim> read(const Cursor& c) {
    Scene<Dim> scene;
    read_settings(c, scene);
    if (c.has("materials"))
        for (const auto& [name, material] : c.at("materials").members())
            scene.materials.emplace(name, read_material(material));
    if (c.has("between")) read_between(c.at("between"), scene);
    Names names;
    Asked<Dim> asked;
    const auto ask = [](const Cursor& at, const auto& adding) {
        try {
            adding();
        } catch (const Error& e) {
            at.fail_because(e.what());
        }
    };
    for (const Cursor& body : c.at("bodies").items("a list of bodies")) {
        scene.bodies.push_back(read_body(body, scene));
        const BodyEntry<Dim>& entry = scene.bodies.back();
        const auto [there, fresh] = names.bodies.emplace(entry.name, scene.bodies.size() - 1);
        if (!fresh)
            body.at("name").fail("a name that no other body has; " + scene.bodies[there->second].path +
                                 " has it");
        ask(body, [&] { asked.add_bodies(count_of(entry), entry.spec.shapes); });
    }
    if (c.has("joints"))
        for (const Cursor& joint : c.at("joints").items("a list of joints")) {
            scene.joints.push_back(read_joint<Dim>(joint));
            const JointEntry<Dim>& entry = scene.joints.back();
            names.joints.emplace(entry.name, scene.joints.size() - 1);
            const auto of = names.bodies.find(entry.body);
            const bool is_row = entry.row && of != names.bodies.end();
            ask(joint, [&] { asked.add_joints(is_row ? count_of(scene.bodies[of->second]) : 1); });
        }
    if (c.has("fields"))
        for (const Cursor& field : c.at("fields").items("a list of fields")) {
            scene.fields.push_back(read_field<Dim>(field));
            if (field.has("acts_on"))
                scene.fields.back().spec.acts_on = read_layers(field.at("acts_on"), scene);
        }
    if (c.has("timeline")) read_timeline(c.at("timeline"), scene, names);
    return scene;
}

}

SceneFile read_scene_text(std::string file, std::string text) {
    SceneFile out{parse(std::move(file), std::move(text)), Scene<2>{}};
    const Cursor top(out.document);
    top.only(keys::kScene);
    const std::uint64_t version = top.at("astasis_scene").whole(1, 1000);
    if (version != kVersion)
        top.at("astasis_scene").fail("1, the version of the format that this program reads");
    if (top.at("dimension").whole(2, 3) == 2) out.scene = read<2>(top);
    else out.scene = read<3>(top);
    std::visit(
        [&](auto& scene) {
            if (scene.title.empty())
                scene.title = std::filesystem::path(out.document.file).filename().string();
        },
        out.scene);
    return out;
}

SceneFile read_scene(const std::filesystem::path& path) {
    return read_scene_text(path.string(), read_text(path));
}

}
