// This program times the worst tick of crowds: it verifies each scene first, then takes the least of three
// runs, and tells the worst tick as a multiple of the mean one of the same bodies at rest and kept awake.
// Part of a scene's name as an argument: that scene alone.
#include <astasis/astasis.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <functional>
#include <random>
#include <vector>

namespace {

using namespace astasis;
using Numbers = std::mt19937;

double from_0_to_1(Numbers& n) { return (n() >> 8) * (1.0 / 16777216); }

struct Scene {
    const char* name;
    int ticks;
    float thickness; // of what is thinnest
    std::function<void(World3&)> begin;
    std::function<void(World3&, int tick)> before_tick = [](World3&, int) {};
    bool rests_at_first = false; // else in the end
    double wall = 1e30;          // at that z, which none may pass
};

void add_floor(World3& world) { world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}}); }
void add_walls(World3& world, double width) {
    add_floor(world);
    for (const double s : {-1.0, 1.0}) {
        const double at = s * (width / 2 + 0.5);
        const auto wide = static_cast<float>(width) + 2;
        world.add({.motion = Motion::Static, .pose = {{at, 10, 0}}, .shapes = {{Box3::sized(1, 20, wide)}}});
        world.add({.motion = Motion::Static, .pose = {{0, 10, at}}, .shapes = {{Box3::sized(wide, 20, 1)}}});
    }
}
// A block of boxes, `across` times `across` wide and so many high.
void add_block(World3& world, int across, int high, double pitch, float side, Vec3 velocity, Point3 corner) {
    for (int j = 0; j < high; j++)
        for (int i = 0; i < across * across; i++)
            world.add({.pose = {corner + Vec3{static_cast<float>(pitch * (i % across)),
                                              static_cast<float>(pitch * j),
                                              static_cast<float>(pitch * (i / across))}},
                       .velocity = velocity,
                       .shapes = {{Box3::sized(side, side, side)}}});
}
// Twenty-five every eighth tick, which have left the place by then.
void pour(World3& world, int tick) {
    Numbers n(static_cast<unsigned>(tick));
    for (int i = 0; i < 25 && tick < 320 && tick % 8 == 0; i++)
        world.add({.pose = {{-1.3 + 0.6 * (i % 5) + 0.1 * from_0_to_1(n), 9,
                             -1.3 + 0.6 * (i / 5) + 0.1 * from_0_to_1(n)}},
                   .velocity = {0, -3, 0},
                   .shapes = {{Box3::sized(0.3f, 0.3f, 0.3f)}}});
}
void shoot(World3& world, int tick) {
    Numbers n(static_cast<unsigned>(tick));
    for (int i = 0; i < 10 && tick < 100; i++)
        world.add({.pose = {{-4.5 + i, 0.3 + 4 * from_0_to_1(n), -8}},
                   .velocity = {0, 0, 100},
                   .shapes = {{Sphere{0.05f}}}});
}

std::vector<Scene> scenes() {
    return {
        {"pour of 1000", 400, 0.3f, [](World3& w) { add_walls(w, 4); }, pour},
        {"block of 1000 dropped", 240, 0.35f,
         [](World3& w) {
             add_walls(w, 20), add_block(w, 10, 10, 0.5, 0.35f, {}, {-2.5, 1, -2.5});
         }},
        {"blast of 343", 120, 0.5f,
         [](World3& w) {
             add_floor(w), add_block(w, 7, 7, 0.5, 0.5f, {}, {-1.5, 0.25, -1.5});
         },
         [](World3& w, int tick) {
             if (tick == 30) blast(w, Blast<3>{{0.1, 0.1, 0.1}, 6, 500});
         },
         true},
        {"hundred heaps of 100", 120, 0.3f,
         [](World3& w) {
             add_floor(w);
             for (int i = 0; i < 100; i++)
                 add_block(w, 5, 4, 0.36, 0.3f, {}, {4.0 * (i % 10), 0.3, 4.0 * (i / 10)});
         }},
        {"1000 small at 20 m/s", 180, 0.02f,
         [](World3& w) {
             add_floor(w), add_block(w, 10, 10, 0.05, 0.02f, {0, -20, 0}, {0, 1, 0});
         }},
        {"1000 shots at a thin wall", 180, 0.1f,
         [](World3& w) {
             add_floor(w);
             w.add(
                 {.motion = Motion::Static, .pose = {{0, 40, 0}}, .shapes = {{Box3::sized(20, 80, 0.05f)}}});
         },
         shoot, false, 0.01},
    };
}

double ms_of_step(World3& world) {
    const auto from = std::chrono::steady_clock::now();
    world.step();
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count();
}

// Nothing through the floor or the wall, and nothing in one another in the end by more than a crowd may be in
// its worst moment. `world` is at rest and awake then.
bool verify(const Scene& scene, World3& world, float& deepest) {
    scene.begin(world);
    world.set_sleeping(false);
    bool good = true;
    for (int tick = 0; tick < scene.ticks; tick++) {
        scene.before_tick(world, tick);
        world.step();
        deepest = std::max(deepest, world.penetration().deepest / scene.thickness);
        for (const BodyId id : world.bodies())
            good = good && world.pose(id).position.y > -1e-3 && world.pose(id).position.z < scene.wall;
    }
    for (int tick = 0; tick < 300; tick++) world.step();
    return good && world.penetration().deepest < 0.1f * scene.thickness;
}

bool measure(const Scene& scene) {
    World3 at_rest;
    float deepest = 0;
    if (!verify(scene, at_rest, deepest)) {
        std::printf("%s: something went through the floor or the wall, or overlaps in the end\n", scene.name);
        return false;
    }
    double rest = 0, mean = 1e30, worst = 1e30;
    if (scene.rests_at_first) {
        at_rest = World3();
        scene.begin(at_rest);
        at_rest.set_sleeping(false);
        for (int tick = 0; tick < 60; tick++) at_rest.step();
    }
    for (int tick = 0; tick < 60; tick++) rest += ms_of_step(at_rest) / 60;
    for (int run = 0; run < 3; run++) {
        World3 world;
        scene.begin(world);
        double sum = 0, most = 0;
        for (int tick = 0; tick < scene.ticks; tick++) {
            scene.before_tick(world, tick);
            const double ms = ms_of_step(world);
            sum += ms, most = std::max(most, ms);
        }
        mean = std::min(mean, sum / scene.ticks), worst = std::min(worst, most);
    }
    const auto percent = [](float share) { return 100.0 * static_cast<double>(share); };
    std::printf("| %s | %zu | %.2f | %.2f | %.2f | %.1f | %.1f | %.2f |\n", scene.name,
                at_rest.bodies().size(), rest, mean, worst, worst / rest, percent(deepest),
                percent(at_rest.penetration().deepest / scene.thickness));
    std::fflush(stdout);
    return true;
}

}

int main(int argc, char** argv) {
    std::printf("| scene | bodies | at rest, ms | mean ms | worst ms | worst over rest | deepest, %% of the "
                "thickness | at rest |\n|---|---|---|---|---|---|---|---|\n");
    bool good = true;
    for (const Scene& scene : scenes())
        if (argc < 2 || std::strstr(scene.name, argv[1]) != nullptr) good = measure(scene) && good;
    return good ? 0 : 1;
}
