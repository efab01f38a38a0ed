#include "fuzz/targets.h"

#include "astasis/scene/timeline.h"
#include "scene/obj.h"
#include "scene/rays.h"

#include <stdexcept>
#include <string>

namespace astasis::fuzz {
namespace {

// Larger worlds take longer than they tell.
constexpr std::size_t kMostBodies = 40;
constexpr int kTicks = 2;

template<int Dim> void play(const scene::Scene<Dim>& scene, const scene::Document& document) {
    for (const auto& entry : scene.bodies)
        if (entry.repeated) return;
    for (const auto& action : scene.timeline)
        if (action.every) return;
    if (scene.bodies.size() > kMostBodies) return;
    auto made = scene::make_world(scene, document);
    for (int k = 0; k < kTicks; k++) made.timeline->before_tick(made), made.world.step();
    static_cast<void>(made.world.contacts()), static_cast<void>(made.world.energy());
}

}

void scene(Input input) {
    try {
        const auto file =
            scene::read_scene_text("fuzz.json", {reinterpret_cast<const char*>(input.data()), input.size()});
        std::visit([&](const auto& s) { play(s, file.document); }, file.scene);
    } catch (const scene::FileError&) {}
}

void mesh(Input input) {
    if (input.empty()) return;
    const std::string text{reinterpret_cast<const char*>(input.data()) + 1, input.size() - 1};
    try {
        if (input[0] % 3 == 0) static_cast<void>(scene::read_obj_text(text));
        else if (input[0] % 3 == 1) static_cast<void>(scene::read_rays_text<2>("fuzz.json", text));
        else static_cast<void>(scene::read_rays_text<3>("fuzz.json", text));
    } catch (const std::runtime_error&) { // FileError too
    } catch (const Error&) {}
}

}
