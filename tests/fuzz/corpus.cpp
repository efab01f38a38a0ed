// Writes the inputs that fuzzers begin with: fuzz_corpus FOLDER SCENE... makes FOLDER/scene, mesh, bytes,
// calls.
#include "astasis/scene/timeline.h"
#include "scene/read_text.h"

#include <cstdio>
#include <exception>
#include <fstream>

namespace {

namespace fs = std::filesystem;
using astasis::scene::Scene;

void write(const fs::path& path, const void* data, std::size_t size) {
    fs::create_directories(path.parent_path());
    std::ofstream(path, std::ios::binary)
        .write(static_cast<const char*>(data), static_cast<std::streamsize>(size));
}
void write(const fs::path& path, const std::string& text) { write(path, text.data(), text.size()); }

// Snapshots of a scene of which each entry makes one body: small ones are mutated more often.
template<int Dim>
void write_snapshots(Scene<Dim> scene, const astasis::scene::Document& document, const fs::path& path) {
    for (auto& entry : scene.bodies) entry.count.fill(1);
    scene.joints.resize(std::min<std::size_t>(scene.joints.size(), 4));
    try {
        auto made = astasis::scene::make_world(scene, document);
        made.world.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
        for (int tick = 0; tick <= 90; tick++) {
            if (tick > 0) made.world.step();
            const auto bytes = made.world.save_bytes();
            if (tick % 45 == 0 && bytes.size() < 40000)
                write(path.string() + "." + std::to_string(tick), bytes.data(), bytes.size());
        }
    } catch (const astasis::scene::FileError&) { // a joint between bodies of a grid
    }
}

}

int main(int argc, char** argv) {
    try {
        const fs::path folder = argv[1];
        for (int i = 2; i < argc; i++) {
            const fs::path path = argv[i];
            const std::string name = path.stem().string(), text = astasis::scene::read_text(path);
            if (path.extension() == ".obj") {
                write(folder / "mesh" / name, "\x03" + text.substr(0, 1000));
            } else if (name.ends_with(".rays")) {
                write(folder / "mesh" / (name + ".2"), "\x01" + text);
                write(folder / "mesh" / (name + ".3"), "\x02" + text);
            } else {
                write(folder / "scene" / name, text);
                const auto file = astasis::scene::read_scene(path);
                std::visit([&](const auto& s) { write_snapshots(s, file.document, folder / "bytes" / name); },
                           file.scene);
            }
        }
        for (unsigned k = 0; k < 64; k++) { // any bytes are calls
            std::string text;
            for (unsigned n = 0, x = k * 2654435761u + 1; n < 200; n++, x = x * 1664525u + 1013904223u)
                text += static_cast<char>(x >> 24);
            write(folder / "calls" / std::to_string(k), text);
        }
    } catch (const std::exception& e) {
        std::fprintf(stderr, "%s\n", e.what());
        return 1;
    }
}
