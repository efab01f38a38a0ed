// The sweep behind the thresholds of sleeping (src/sleep/rest.h): how far bodies come in half a second, as a
// share of their smallest width, in scenes that ought to sleep and in scenes that ought not. Prints the table
// of docs/decisions/sleep-defaults.md.
#include "world/state.h"

#include "astasis/astasis.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <random>
#include <vector>

using namespace astasis;

namespace {

constexpr double kDegree = 3.14159265358979323846 / 180;

// Steps for some seconds, then through windows of half a second; returns the way of the body that came
// farthest in each window, over its width: the largest and the median of the windows.
template<int Dim> void row(const char* what, World<Dim> world, double before, int windows) {
    world.set_sleeping(false);
    for (int i = 0; i < static_cast<int>(before * 60); i++) world.step();
    std::vector<double> ways;
    for (int w = 0; w < windows; w++) {
        std::vector<Pose<Dim>> from;
        for (const BodyId id : world.bodies()) from.push_back(world.pose(id));
        double most = 0;
        for (int i = 0; i < 30; i++) {
            world.step();
            for (std::size_t k = 0; k < from.size(); k++) {
                const BodyId id = world.bodies()[k];
                if (world.motion(id) != Motion::Dynamic) continue;
                const float width = thickness_of(world.shapes(id)[0]);
                const Pose<Dim> now = world.pose(id);
                // Of a point at the rim of its half width: what turns counts too.
                const Vec<Dim> rim{0.5f * width, 0};
                const double way = std::max(length(now.position - from[k].position),
                                            length(to_world(now, rim) - to_world(from[k], rim)));
                most = std::max(most, way / width);
            }
        }
        ways.push_back(most);
    }
    std::sort(ways.begin(), ways.end());
    std::printf("| %s | %.2g | %.2g | %.2g |\n", what, ways.front(), ways[ways.size() / 2], ways.back());
    std::fflush(stdout);
}

template<int Dim> Box<Dim> cube(float side) {
    if constexpr (Dim == 2) return Box2::sized(side, side);
    else return Box3::sized(side, side, side);
}

template<int Dim> World<Dim> pile(float shift) {
    World<Dim> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<Dim>{}}}});
    for (const double x : {-1.55, 1.55}) {
        Vec<Dim> size{0.1f, 8};
        if constexpr (Dim == 3) size.z = 4;
        const auto wall = [&] {
            if constexpr (Dim == 2) return Box2::sized(size.x, size.y);
            else return Box3::sized(size.x, size.y, size.z);
        }();
        world.add({.motion = Motion::Static, .pose = {{x, 4}, {}}, .shapes = {{wall}}});
    }
    for (int n = 0; n < 120; n++) {
        Point<Dim> at{0.45 * (n % 6 - 2.5) + static_cast<double>(shift) * (n % 7), 0.3 + 0.45 * (n / 6)};
        if constexpr (Dim == 3) at = {0.45 * (n % 6 - 2.5), 0.3 + 0.45 * (n / 30), 0.45 * (n / 6 % 5 - 2)};
        world.add({.pose = {at, {}}, .shapes = {{cube<Dim>(0.3f)}}});
    }
    return world;
}

// A pile of boxes and discs in a bin, set up a little otherwise each time: seconds until all sleep, 60 if not
// by then.
double asleep_at(std::uint32_t seed) {
    World<2> world;
    const Material m{.friction = 0.5f, .restitution = 0.1f};
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}, m}}});
    for (const double x : {-1.55, 1.55})
        world.add({.motion = Motion::Static, .pose = {{x, 4}, {}}, .shapes = {{Box2::sized(0.1f, 8), m}}});
    std::mt19937 draws(seed);
    for (int n = 0; n < 150; n++) {
        const double shift = 0.02 * (static_cast<double>(draws()) / 4294967296.0 - 0.5);
        const Point2 at{0.45 * (n % 6 - 2.5) + shift, 0.3 + 0.45 * (n / 6)};
        const Geometry<2> shape = n % 3 == 2 ? Geometry<2>(Circle{0.15f}) : Geometry<2>(cube<2>(0.3f));
        world.add({.pose = {at, {}}, .shapes = {{shape, m}}});
    }
    const auto sleeps = [&](BodyId id) { return world.motion(id) != Motion::Dynamic || world.is_asleep(id); };
    while (world.time() < 60) {
        world.step();
        if (std::all_of(world.bodies().begin(), world.bodies().end(), sleeps)) break;
    }
    return world.time();
}

// A box of a metre on a slope beside its critical angle.
World<2> slope(double degrees_above) {
    const float friction = 0.5f;
    World<2> world;
    const double angle = std::atan(0.5) + degrees_above * kDegree;
    const Rotation<2> tilt = turned(radians(angle));
    world.add({.motion = Motion::Static,
               .pose = {{0, 0}, tilt},
               .shapes = {{HalfPlane{}, {.friction = friction}}}});
    world.add({.pose = {{-0.5 * std::sin(angle), 0.5 * std::cos(angle)}, tilt},
               .shapes = {{cube<2>(1), {.friction = friction}}}});
    return world;
}

World<2> thrown(float gravity) { // at the highest point of a throw after a second
    World<2> world({.gravity = {0, -gravity}});
    world.add({.velocity = {0, gravity}, .shapes = {{Circle{0.5f}}}});
    return world;
}

}

int main() {
    std::printf("| scene | least | median | most |\n|---|---|---|---|\n");
    row("box at rest, plane", slope(-5), 1, 10);
    row("box half a degree below the critical slope", slope(-0.5), 1, 10);
    for (const float shift : {0.0f, 0.001f, 0.002f, 0.003f})
        row("pile of 120 boxes, plane, from 6 s on", pile<2>(shift), 6, 20);
    row("pile of 120 boxes, space, from 4 s on", pile<3>(0), 4, 12);
    row("box a tenth of a degree above the critical slope, from rest", slope(0.1), 0, 1);
    row("box half a degree above, from rest", slope(0.5), 0, 1);
    row("ball at the top of a throw, 0.01 m/s2", thrown(0.01f), 0.75, 1);
    row("ball at the top of a throw, 9.81 m/s2", thrown(9.81f), 0.75, 1);
    std::vector<double> times;
    for (std::uint32_t seed = 1; seed <= 60; seed++) times.push_back(asleep_at(seed));
    std::sort(times.begin(), times.end());
    const auto late = std::count_if(times.begin(), times.end(), [](double t) { return t > 12; });
    std::printf("\n60 bins of 100 boxes and 50 discs: asleep after %.1f s (median), %.1f s (the last); %d "
                "later than 12 s\n",
                times[30], times.back(), static_cast<int>(late));
}
