// What sleepers cost: a hundred heaps of a hundred parcels, towers asleep and awake, many sleepers beside a
// few that fly, and sweeps where nothing is fast. Prints the figures of docs/performance.md, "Asleep and
// awake".
#include "world/state.h"

#include "astasis/astasis.h"

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <vector>

using namespace astasis;

namespace {

template<int Dim> double median_ms(World<Dim>& world, int ticks) {
    std::vector<double> times;
    for (int i = 0; i < ticks; i++) {
        const auto from = std::chrono::steady_clock::now();
        world.step();
        times.push_back(
            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count());
    }
    std::sort(times.begin(), times.end());
    return times[times.size() / 2];
}

BodyId parcel(World<3>& world, Point<3> at) {
    return world.add(
        {.pose = {at, {}}, .shapes = {{.geometry = Box3::sized(0.4f, 0.3f, 0.3f), .density = 140}}});
}

void hundred_heaps() {
    World<3> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}});
    std::vector<BodyId> first; // of each heap
    for (int heap = 0; heap < 100; heap++)
        for (int i = 0; i < 100; i++) {
            const Point<3> at{4.0 * (heap % 10) + 0.43 * (i % 5) + 0.01 * (i % 3), 0.25 + 0.36 * (i / 25),
                              4.0 * (heap / 10) + 0.34 * (i / 5 % 5) + 0.01 * (i % 7)};
            const BodyId id = parcel(world, at);
            if (i == 0) first.push_back(id);
        }
    std::vector<double> awake;
    int ticks = 0;
    while (world.sleepers().bodies < 10000 && ticks < 900) {
        const double ms = median_ms(world, 1);
        if (world.sleepers().bodies == 0 && ticks > 30) awake.push_back(ms);
        ticks++;
    }
    std::sort(awake.begin(), awake.end());
    const double of_awake = awake.empty() ? 0 : awake[awake.size() / 2], asleep = median_ms(world, 200);
    std::printf("hundred heaps: all asleep after %.1f s (%zu bodies); awake %.2f ms, asleep %.5f ms a tick: "
                "%.4f %%\n",
                ticks / 60.0, world.sleepers().bodies, of_awake, asleep, 100 * asleep / of_awake);
    // A ball on the first heap, against the same heap alone: the tick that wakes it and the one in which the
    // ball lands, each many times over.
    world.add({.pose = {{0.9, 2.2, 0.9}, {}}, .shapes = {{Sphere{0.2f}}}});
    double waking = 0, dearest = 0;
    bool slept = true;
    for (int i = 0; i < 60; i++) {
        const Snapshot<3> before = world.save();
        world.step();
        const bool wakes = slept && !world.is_asleep(first[0]);
        slept = world.is_asleep(first[0]);
        if (slept) continue;
        std::vector<double> times;
        for (int k = 0; k < 15; k++) {
            world.restore(before);
            times.push_back(median_ms(world, 1));
        }
        std::sort(times.begin(), times.end());
        dearest = std::max(dearest, times[7]);
        if (wakes) waking = times[7];
    }
    int woken = 0;
    for (const BodyId id : first) woken += !world.is_asleep(id);
    const double one = median_ms(world, 20);
    std::printf(
        "a ball on one heap: %d heaps awake, waking tick %.2f ms, the dearest after it %.2f ms, tick of "
        "the heap awake %.2f ms\n",
        woken, waking, dearest, one);
}

template<int Dim> void towers() {
    World<Dim> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<Dim>{}}}});
    for (int i = 0; i < 10000; i++) {
        Point<Dim> at{1.5 * (i / 10), 0.25 + 0.5 * (i % 10)};
        if constexpr (Dim == 3) at.x = 1.5 * (i / 10 % 32), at.z = 1.5 * (i / 320);
        if constexpr (Dim == 2) world.add({.pose = {at, {}}, .shapes = {{Box2::sized(0.5f, 0.5f)}}});
        else world.add({.pose = {at, {}}, .shapes = {{Box3::sized(0.5f, 0.5f, 0.5f)}}});
    }
    const double awake = median_ms(world, 20);
    for (int i = 0; i < 120; i++) world.step();
    const double asleep = median_ms(world, 200);
    std::printf(
        "1000 towers of 10 in %d dimensions: awake %.2f ms, asleep %.5f ms a tick (%zu asleep): %.4f %%\n",
        Dim, awake, asleep, world.sleepers().bodies, 100 * asleep / awake);
}

double flying(int sleepers) {
    World<3> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}});
    for (int i = 0; i < 1000; i++)
        parcel(world, {1.0 * (i % 10), 0.16 + 0.4 * (i / 100), -20 - 1.0 * (i / 10 % 10)});
    for (int i = 0; i < sleepers; i++)
        world.add({.pose = {{1.0 * (i % 250), 0.2, 1.0 * (i / 250)}, {}},
                   .shapes = {{Box3::sized(0.6f, 0.4f, 0.4f)}},
                   .asleep = true});
    for (const BodyId id : world.bodies())
        if (world.motion(id) == Motion::Dynamic && !world.is_asleep(id)) world.set_may_sleep(id, false);
    for (int i = 0; i < 60; i++) world.step();
    return median_ms(world, 60);
}

void sweeps() {
    const auto heap = [](Sweep sweep) {
        World<3> world;
        world.set_sleeping(false);
        world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}});
        for (int i = 0; i < 1000; i++)
            world.set_sweep(parcel(world, {0.43 * (i % 10), 0.2 + 0.32 * (i / 100), 0.34 * (i / 10 % 10)}),
                            sweep);
        for (int i = 0; i < 120; i++) world.step();
        return world;
    };
    World<3> with = heap(Sweep::Everything), without = heap(Sweep::None);
    double least_with = 1e9, least_without = 1e9;
    for (int i = 0; i < 7; i++) {
        least_with = std::min(least_with, median_ms(with, 30));
        least_without = std::min(least_without, median_ms(without, 30));
    }
    std::printf("sweeps in a heap of 1000 where nothing is fast: %.3f ms with, %.3f ms without, %+.2f %%\n",
                least_with, least_without, 100 * (least_with / least_without - 1));
}

}

int main() {
    hundred_heaps();
    towers<2>();
    towers<3>();
    double alone = 1e9, beside = 1e9;
    for (int i = 0; i < 3; i++) alone = std::min(alone, flying(0)), beside = std::min(beside, flying(100000));
    std::printf("1000 awake alone %.2f ms, beside 100000 asleep %.2f ms: %+.2f %%\n", alone, beside,
                100 * (beside / alone - 1));
    sweeps();
}
