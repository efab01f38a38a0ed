// Time a tick, split by stage: a pyramid of 90 rows in the plane, heaps of 1000 and 8000 boxes in space.
// Also what save() takes. Prints the manifolds and substeps too, for the limit program to be run on the same
// numbers (docs/performance.md).
#include "astasis/astasis.h"
#include "world/state.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <vector>

using namespace astasis;

namespace {

World<2> pyramid(int rows) {
    World<2> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    for (int row = 0; row < rows; row++)
        for (int i = 0; i < rows - row; i++)
            world.add({.pose = {{0.525 * (i - 0.5 * (rows - row)), 0.25 + 0.5 * row}, {}},
                       .shapes = {{Box2::sized(0.5f, 0.5f)}}});
    return world;
}

World<3> heap(int count) {
    World<3> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}});
    const int side = std::max(3, static_cast<int>(std::cbrt(count)));
    for (int i = 0; i < count; i++) {
        const int layer = i / (side * side), row = i / side % side;
        world.add(
            {.pose = {{0.55 * (i % side) + 0.03 * (row % 3), 0.3 + 0.55 * layer, 0.55 * row + 0.02 * (i % 5)},
                      {}},
             .shapes = {{Box3::sized(0.5f, 0.5f, 0.5f)}}});
    }
    return world;
}

template<int Dim> void measure(const char* name, World<Dim> world, simd::InstructionSet set, int ticks) {
    WorldAccess::state(world).advance = Advance<Dim>(set);
    world.set_sleeping(false);
    for (int i = 0; i < 180; i++) world.step();
    world.set_timing(true);
    std::vector<StageTimes> times;
    for (int i = 0; i < ticks; i++) {
        world.step();
        times.push_back(world.stage_times());
    }
    std::sort(times.begin(), times.end(), [](const auto& a, const auto& b) { return a.total() < b.total(); });
    const StageTimes t = times[times.size() / 2];
    const auto& state = WorldAccess::state(world);
    int at_level[islands::kMostLevel + 1]{};
    for (std::uint32_t i = 0; i < state.bodies.moving; i++) at_level[state.advance.treatment_of(i).level]++;
    std::size_t points = 0;
    for (const auto& m : state.manifolds) points += m.count;
    std::printf("%s: %zu bodies, %zu manifolds, %zu points; substeps", name, state.bodies.moving,
                state.manifolds.size(), points);
    for (int d = 0; d <= islands::kMostLevel; d++)
        if (at_level[d] > 0) std::printf(" %d (%d bodies)", world.settings().substeps << d, at_level[d]);
    std::vector<double> saves;
    for (int i = 0; i < ticks; i++) {
        const auto from = std::chrono::steady_clock::now();
        const Snapshot<Dim> saved = world.save();
        saves.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count());
    }
    std::sort(saves.begin(), saves.end());
    const double save = saves[saves.size() / 2];
    std::printf("\n  ms a tick: pairs %.3f, manifolds %.3f, solving %.3f, rest %.3f, all %.3f; saving %.3f, "
                "%.1f %%\n",
                1e3 * t.pairs, 1e3 * t.manifolds, 1e3 * t.solving, 1e3 * t.rest, 1e3 * t.total(), 1e3 * save,
                100 * save / t.total());
}

}

// Arguments: scalar, four, avx2, avx512 to force a set, the best by default; then pyramid, heap or large
// alone.
int main(int argc, char** argv) {
    auto set = simd::best();
    const char* names[]{"scalar", "four", "avx2", "avx512"};
    for (int i = 0; i < 4; i++)
        if (argc > 1 && !std::strcmp(argv[1], names[i])) set = static_cast<simd::InstructionSet>(i);
    if (!simd::is_available(set)) return std::puts("this processor has no such instructions"), 1;
    std::printf("instruction set %s\n", names[static_cast<int>(set)]);
    const auto asked = [&](const char* name) { return argc < 3 || !std::strcmp(argv[2], name); };
    if (asked("pyramid")) measure("pyramid of 90 rows", pyramid(90), set, 40);
    if (asked("heap")) measure("heap of 1000", heap(1000), set, 60);
    if (asked("large")) measure("heap of 8000", heap(8000), set, 12);
}
