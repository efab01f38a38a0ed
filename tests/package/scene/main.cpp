#include <astasis/check.h>
#include <astasis/scene/timeline.h>

// Reads a scene, steps it with its time line, and looks for mistakes in it and in the world that it became.
int main(int argc, char** argv) {
    if (argc != 2) return 2;
    const auto file = astasis::scene::read_scene(argv[1]);
    const auto& scene = std::get<astasis::scene::Scene<2>>(file.scene);
    auto made = astasis::scene::make_world(scene, file.document);
    for (int k = 0; k < 60; k++) made.timeline->before_tick(made), made.world.step();
    return astasis::checks::check_scene(scene, file.document).empty() && astasis::check(made.world).empty()
               ? 0
               : 1;
}
