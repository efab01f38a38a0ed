// Prints the fingerprint of each scene named, at its start and after each tick: `scene tick fingerprint`.
//
// Of two builds it tells in which tick of which scene they part: scripts/same_ticks.sh.
#include "astasis/scene/timeline.h"

#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <exception>

namespace {

template<int Dim>
void print_ticks(const astasis::scene::Scene<Dim>& scene, const astasis::scene::Document& document,
                 const std::string& name, long ticks) {
    auto made = astasis::scene::make_world(scene, document);
    for (long k = 0; k <= ticks; k++) {
        if (k > 0) made.timeline->before_tick(made), made.world.step();
        std::printf("%s %ld %016" PRIx64 "\n", name.c_str(), k, made.world.fingerprint());
    }
}

}

int main(int argc, char** argv) {
    if (argc < 3) {
        std::fprintf(stderr, "usage: fingerprints TICKS SCENE...\n");
        return 2;
    }
    try {
        for (int i = 2; i < argc; i++) {
            const auto file = astasis::scene::read_scene(argv[i]);
            const std::string name = std::filesystem::path(argv[i]).stem().string();
            std::visit([&](const auto& s) { print_ticks(s, file.document, name, std::atol(argv[1])); },
                       file.scene);
        }
    } catch (const std::exception& e) {
        std::fprintf(stderr, "%s\n", e.what());
        return 1;
    }
}
