// astasis draw SCENE: draws a scene as it is before the first tick.
#include "tool/command.h"
#include "tool/interrupts.h"
#include "tool/looks.h"
#include "tool/named_files.h"

#include <fmt/format.h>

#include <memory>

namespace astasis::tool {
namespace {

template<int Dim>
std::string draw_scene(const scene::Scene<Dim>& scene, const scene::Document& document, const Looks& looks) {
    const scene::Made<Dim> made = scene::make_world(scene, document);
    Drawing<Dim> drawing(looks);
    std::string out = drawing.draw(scene, made);
    std::size_t shapes = 0;
    for (const BodyId id : made.world.bodies()) shapes += made.world.shapes(id).size();
    const bool is_named = scene.title != std::filesystem::path(document.file).filename();
    out += fmt::format("{}\n  {:<17}{}, with {} {}\n",
                       is_named ? fmt::format("{}  ({})", scene.title, document.file) : document.file,
                       "bodies", made.world.bodies().size(), shapes, shapes == 1 ? "shape" : "shapes");
    return signal_seen() != 0 ? "" : out + drawing.finish();
}

}

void add_draw(Commands& commands) {
    auto looks = std::make_shared<Looks>();
    auto file = std::make_shared<std::string>();
    Options draw = commands.add("draw", "Draw a scene without stepping it");
    draw.footer(
        "Examples:\n"
        "  astasis draw scenes/tote_bin.json\n"
        "  astasis draw scenes/drum_floor.json --eye 6,3,6 --target 0,0.5,0 --show names\n"
        "  astasis draw scenes/tote_bin.json --rays scenes/tote_bin.rays.json --picture rays.png\n"
        "Without --picture the file is SCENE's name with .png, in this folder.\n"
        "Exit status: 0 done, 2 the call, the scene or an output is at fault (nothing is written then).");
    draw.scene(*file);
    add_looks(draw, *looks);
    draw.work([=] {
        if (looks->picture.empty()) looks->picture = std::filesystem::path(*file).stem().string() + ".png";
        const Interrupts interrupts;
        const scene::SceneFile scene = scene::read_scene(*file);
        std::vector<NamedFile> inputs{{"the scene", *file}, {"the file of --rays", looks->rays}};
        for (const auto& path : scene.document.others) inputs.push_back({"a mesh of the scene", path});
        keep_apart(inputs, {{"--picture", looks->picture}, {"--hits-csv", looks->hits_csv}});
        const std::string text =
            std::visit([&](const auto& s) { return draw_scene(s, scene.document, *looks); }, scene.scene);
        fmt::print("{}", text);
    });
}

}
