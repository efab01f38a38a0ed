// This program measures the extra work of a tick, for the tables of docs/decisions/budget.md. Crates are
// dropped in loose columns into a bin; towers bear a load of a hundred times their own crates' mass.
#include <astasis/astasis.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>

namespace {

using namespace astasis;

template<int D> Geometry<D> crate(float side) {
    if constexpr (D == 2) return Box2::sized(side, side);
    else return Box3::sized(side, side, side);
}

template<int D> void add_floor(World<D>& world) {
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
}

// `count` crates in columns that fall on one another, each a little aside of the one below.
template<int D> void drop(World<D>& world, int count) {
    const int wide = std::max(2, static_cast<int>(std::sqrt(count) / 2));
    for (int i = 0; i < count; i++) {
        Point<D> at{};
        const int layer = i / wide;
        at.x = 0.55 * (i % wide) + 0.12 * (layer % 3);
        at.y = 0.6 + 0.6 * layer;
        world.add({.pose = {at, {}}, .shapes = {{crate<D>(0.5f)}}});
    }
}

// Towers of ten crates with a heavy one on top.
template<int D> void stand(World<D>& world, int towers) {
    for (int t = 0; t < towers; t++)
        for (int i = 0; i < 10; i++) {
            Point<D> at{};
            at.x = 2.0 * t, at.y = 0.25 + 0.5 * i;
            ShapeSpec<D> shape{crate<D>(0.5f)};
            shape.density = i == 9 ? 1e5f : 1e3f;
            world.add({.pose = {at, {}}, .shapes = {shape}});
        }
}

template<int D, typename Build> void row(const char* name, float share, int count, const Build& build) {
    World<D> world({.extra_work = share, .sleeping = false});
    add_floor<D>(world);
    build(world, count);
    double mean = 0, worst = 0, spent = 0, refused = 0;
    float deepest = 0;
    constexpr int kTicks = 300;
    for (int tick = 0; tick < kTicks; tick++) {
        const auto begin = std::chrono::steady_clock::now();
        world.step();
        const std::chrono::duration<double, std::milli> ms = std::chrono::steady_clock::now() - begin;
        mean += ms.count() / kTicks, worst = std::max(worst, ms.count());
        deepest = std::max(deepest, world.penetration().deepest);
        const WorkOfTick work = world.work_of_tick();
        spent = std::max(spent, static_cast<double>(work.exactness.spent + work.updates.spent));
        refused = std::max(refused, static_cast<double>(work.exactness.refused + work.updates.refused));
    }
    std::printf("| %s | %d | %d | %g | %.2f | %.2f | %.0f | %.0f | %.1f |\n", name, D, count,
                static_cast<double>(share), mean, worst, spent, refused, static_cast<double>(deepest) * 200);
}

}

int main() {
    std::printf(
        "| scene | dimensions | crates or towers | extra work | mean ms | worst ms | most units spent | "
        "most refused | deepest %% |\n|---|---|---|---|---|---|---|---|---|\n");
    for (const float share : {0.0f, 0.25f, 0.5f, 1.0f, 2.0f, 4.0f}) {
        for (const int count : {20, 100, 400}) {
            row<2>("dropped", share, count, [](auto& world, int n) { drop<2>(world, n); });
            row<3>("dropped", share, count, [](auto& world, int n) { drop<3>(world, n); });
        }
        for (const int count : {1, 8, 40}) {
            row<2>("loaded towers", share, count, [](auto& world, int n) { stand<2>(world, n); });
            row<3>("loaded towers", share, count, [](auto& world, int n) { stand<3>(world, n); });
        }
    }
}
