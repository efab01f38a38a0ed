// astasis demo: runs the depot's scenes and leaves a folder with all that came of them.
#include "tool/command.h"
#include "tool/demo_scenes.h"
#include "tool/interrupts.h"
#include "tool/session.h"

#include "record/file_out.h"
#include "scene/read_text.h"

#include <fmt/core.h>

#include <filesystem>
#include <memory>

namespace astasis::tool {
namespace {

namespace fs = std::filesystem;

void copy_scene(const fs::path& path, const char* text) {
    record::FileOut out(path);
    out.write(text);
    out.finish();
}

// A scene that someone has tried things on is theirs.
void refuse_edited(const fs::path& path, const char* text) {
    std::error_code error;
    if (!fs::exists(path, error)) return;
    if (fs::is_regular_file(path, error) && scene::read_text(path) == text) return;
    throw UsageError(
        fmt::format("--out: {} is no longer as the demo wrote it, and would be overwritten; give another "
                    "folder, or move the file",
                    path.string()));
}

void demo(const fs::path& folder) {
    std::error_code error;
    if (fs::exists(folder, error) && !fs::is_directory(folder, error))
        throw UsageError(fmt::format("--out {}: is a file; give a folder", folder.string()));
    fs::create_directories(folder, error);
    if (error)
        throw UsageError(
            fmt::format("--out {}: the folder cannot be made: {}", folder.string(), error.message()));
    for (const DemoScene& scene : kDemoScenes) {
        refuse_edited(folder / (std::string(scene.name) + ".json"), scene.text);
        if (scene.mesh != nullptr) refuse_edited(folder / scene.mesh, scene.mesh_text);
    }
    for (const DemoScene& scene : kDemoScenes) {
        if (signal_seen() != 0) return;
        const fs::path base = folder / scene.name;
        const auto beside = [&](const char* ending) { return base.string() + ending; };
        copy_scene(beside(".json"), scene.text);
        if (scene.mesh != nullptr) copy_scene(folder / scene.mesh, scene.mesh_text);
        Wishes wishes;
        wishes.summary = beside("_summary.txt");
        wishes.csv = beside(".csv");
        wishes.impacts_csv = beside("_impacts.csv");
        wishes.looks.picture = beside(".png");
        fmt::print("{}\n", carry_out(scene::read_scene(beside(".json")), wishes));
    }
    fmt::print("All of it is in {}\n", fs::absolute(folder).lexically_normal().string());
}

}

void add_demo(Commands& commands) {
    auto folder = std::make_shared<std::string>("astasis-demo");
    Options demos =
        commands.add("demo", "Run the depot's scenes and write summaries, CSV files and a picture");
    demos.footer(
        "Writes for each scene: NAME.json (the scene, to try things on), NAME_summary.txt, NAME.csv, "
        "NAME_impacts.csv\n"
        "and NAME.png.");
    demos.text("--out", *folder, {"FOLDER", "Folder to write to; it is made if need be"});
    demos.work([=] { demo(*folder); });
}

}
