// The sweep behind the default numbers of contact solving: prints the tables of
// docs/decisions/contact-defaults.md. Each row changes one or two numbers of kTuning or the substeps, and
// measures stacks and a heap in space.
#include "world/state.h"

#include "astasis/astasis.h"

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <string_view>
#include <vector>

using namespace astasis;

namespace {

constexpr double kPi = 3.14159265358979323846;

struct Setting {
    solve::Tuning tuning = solve::kTuning;
    int substeps = WorldSpec<3>{}.substeps;
};

template<int Dim> Box<Dim> cube(float side);
template<> Box<2> cube<2>(float side) { return Box2::sized(side, side); }
template<> Box<3> cube<3>(float side) { return Box3::sized(side, side, side); }

Box<2> box_of(Vec2 size) { return Box2::sized(size.x, size.y); }
Box<3> box_of(Vec3 size) { return Box3::sized(size.x, size.y, size.z); }

template<int Dim> World<Dim> world_with_floor(const Setting& setting) {
    World<Dim> world({.substeps = setting.substeps, .sleeping = false});
    WorldAccess::state(world).tuning = setting.tuning;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<Dim>{}}}});
    return world;
}

template<int Dim> double deepest(const World<Dim>& world) {
    float least = 0;
    for (const auto& c : world.contacts()) least = std::min(least, c.separation);
    return -1e3 * least; // mm
}

struct Stack {
    double moved_mm = 0, overlap_mm = 0;
};

// A stack of half-metre boxes, the top one of another density, for 10 s; moved since the first second.
template<int Dim> Stack stack(const Setting& setting, int count, float top_density) {
    World<Dim> world = world_with_floor<Dim>(setting);
    std::vector<BodyId> boxes;
    for (int i = 0; i < count; i++)
        boxes.push_back(world.add(
            {.pose = {{0, 0.25 + 0.5 * i}, {}},
             .shapes = {{.geometry = cube<Dim>(0.5f), .density = i == count - 1 ? top_density : 1000}}}));
    std::vector<Point<Dim>> at;
    Stack out;
    for (int tick = 1; tick <= 600; tick++) {
        world.step();
        for (std::size_t k = 0; k < boxes.size(); k++) {
            const Point<Dim> now = world.pose(boxes[k]).position;
            if (tick == 60) at.push_back(now);
            if (tick > 60) out.moved_mm = std::max(out.moved_mm, 1e3 * length(now - at[k]));
        }
    }
    out.overlap_mm = deepest(world);
    return out;
}

// The fastest box of a tower of 25 in the tenth second, after they have dropped on each other from 15 cm.
double sway(const Setting& setting) {
    World<2> world = world_with_floor<2>(setting);
    for (int i = 0; i < 25; i++)
        world.add({.pose = {{1e-4 * (i % 3), 0.3 + 0.45 * i}, {}}, .shapes = {{cube<2>(0.3f)}}});
    double fastest = 0;
    for (int tick = 1; tick <= 600; tick++) {
        world.step();
        if (tick <= 540) continue;
        for (const BodyId id : world.bodies()) fastest = std::max(fastest, 1e3 * length(world.velocity(id)));
    }
    return fastest;
}

struct Heap {
    double fastest_mm_s = 0, overlap_most_mm = 0, overlap_mm = 0, ms = 0;
};

// 64 tilted boxes dropped into a walled bin; read after 8 s. The fastest is that of the last second.
Heap heap(const Setting& setting) {
    World<3> world = world_with_floor<3>(setting);
    world.add({.motion = Motion::Static,
               .shapes = {{.geometry = Box3::sized(0.2f, 2, 2), .placement = {{-1, 1, 0}, {}}},
                          {.geometry = Box3::sized(0.2f, 2, 2), .placement = {{1, 1, 0}, {}}},
                          {.geometry = Box3::sized(2, 2, 0.2f), .placement = {{0, 1, -1}, {}}},
                          {.geometry = Box3::sized(2, 2, 0.2f), .placement = {{0, 1, 1}, {}}}}});
    for (int i = 0; i < 64; i++) {
        const double x = -0.6 + 0.4 * (i % 4), z = -0.6 + 0.4 * (i / 4 % 4), y = 0.4 + 0.5 * (i / 16);
        const Vec3 axis{1, static_cast<float>(i % 5), static_cast<float>(i % 3)};
        world.add({.pose = {{x, y, z}, turned(radians(kPi / 7 * (i % 9)), axis)},
                   .shapes = {{Box3::sized(0.3f, 0.24f, 0.2f)}}});
    }
    Heap out;
    const auto from = std::chrono::steady_clock::now();
    for (int tick = 0; tick < 480; tick++) {
        world.step();
        out.overlap_most_mm = std::max(out.overlap_most_mm, deepest(world));
        if (tick >= 420)
            for (const BodyId id : world.bodies())
                out.fastest_mm_s = std::max(out.fastest_mm_s, 1e3 * length(world.velocity(id)));
    }
    out.ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count() / 480;
    out.overlap_mm = deepest(world);
    return out;
}

// Walls of 200 boxes of 0.3 m hit by a drum at 10 m/s: the deepest overlap later than 0.2 s after it has
// come, of all and of the second worst, and how long a tick took in the mean.
struct Walls {
    double deepest_mm = 0, second_mm = 0, ms = 0;
};
template<int Dim> Walls walls(const Setting& setting, int places) {
    std::vector<double> worst;
    const auto from = std::chrono::steady_clock::now();
    for (int place = 1; place <= places; place++) {
        World<Dim> world = world_with_floor<Dim>(setting);
        Vec<Dim> size{0.4f, 0.3f};
        BodySpec<Dim> drum{.pose = {{-2, 1.6 + 0.01 * place}, {}},
                           .velocity = {10, 0},
                           .shapes = {{.geometry = Ball<Dim>{0.4f}, .density = 600}}};
        if constexpr (Dim == 3) {
            size.z = 0.3f;
            drum.pose.position = {4 + 0.02 * place, 1.6, 2};
            drum.velocity = {0, 0, -10};
        }
        for (int at = 0; at < 10; at++)
            for (int i = 0; i < 20; i++)
                world.add({.pose = {{0.41 * (i + (at % 2) * 0.5), 0.15 + 0.3 * at}, {}},
                           .shapes = {{.geometry = box_of(size), .density = 140}}});
        const BodyId id = world.add(drum);
        world.apply_impulse_at(id, Vec<Dim>{Dim == 2 ? 20.0f : 10.0f, 0},
                               world.centre_of_mass(id) + Vec<Dim>{0, 0.3f});
        double deep = 0;
        for (int tick = 0; tick < 180; tick++) {
            world.step();
            if (world.time() > 0.4) deep = std::max(deep, deepest(world));
        }
        worst.push_back(deep);
    }
    std::sort(worst.begin(), worst.end());
    const double ms =
        std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count();
    return {worst.back(), worst[worst.size() - 2], ms / (180 * places)};
}

// Boxes of half a metre put into each other by half, and ten at all but one place: how long until none
// overlaps another by more than 1 mm, and the fastest on the way (they fall from no higher than they are).
struct Freed {
    double seconds = 0, fastest = 0;
};
template<int Dim> Freed freed(const Setting& setting, int count, double apart) {
    World<Dim> world = world_with_floor<Dim>(setting);
    for (int i = 0; i < count; i++)
        world.add({.pose = {{apart * i, 0.25}, {}}, .shapes = {{cube<Dim>(0.5f)}}});
    Freed out;
    for (int tick = 0; tick < 600; tick++) {
        world.step();
        for (const BodyId id : world.bodies())
            out.fastest = std::max<double>(out.fastest, length(world.velocity(id)));
        if (deepest(world) > 1) out.seconds = world.time();
    }
    return out;
}

void row(const Setting& s) {
    const Stack plane = stack<2>(s, 10, 1000), space = stack<3>(s, 10, 1000), tall = stack<3>(s, 20, 1000),
                heavy = stack<3>(s, 2, 100000);
    const Heap h = heap(s);
    std::printf(
        "| %.2f | %.2f | %.2f | %d | %.0e | %d | %.3g | %.3g | %.2f | %.3g | %.2f | %.3g | %.3g | %.1f | "
        "%.2f | %.2f "
        "|\n",
        static_cast<double>(s.tuning.correction), static_cast<double>(s.tuning.softness),
        static_cast<double>(s.tuning.known_share), s.tuning.iterations,
        static_cast<double>(s.tuning.converged), s.substeps, plane.moved_mm, space.moved_mm, space.overlap_mm,
        tall.moved_mm, heavy.overlap_mm, sway(s), h.fastest_mm_s, h.overlap_most_mm, h.overlap_mm, h.ms);
    std::fflush(stdout);
}

void head(const char* title) {
    std::printf(
        "\n## %s\n\n| correction | softness | known share | iterations | converged | substeps | 10 in the "
        "plane: moved mm | 10 "
        "in space: "
        "moved mm | "
        "overlap mm | 20 in space: moved mm | 1:100 overlap mm | tower of 25: sway mm/s | heap: fastest mm/s "
        "| overlap at most mm | "
        "at "
        "the end mm | ms a tick |\n|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|\n",
        title);
}

void sweep_contacts() {
    head("Correction and softness");
    for (const float correction : {0.05f, 0.1f, 0.15f, 0.2f, 0.3f, 0.5f})
        for (const float softness : {0.05f, 0.08f, 0.12f, 0.16f, 0.25f}) {
            Setting s;
            s.tuning.correction = correction, s.tuning.softness = softness;
            row(s);
        }
    head("Iterations");
    for (const int iterations : {1, 2, 4, 8, 16}) {
        Setting s;
        s.tuning.iterations = iterations;
        row(s);
    }
    head("Substeps");
    for (const int substeps : {2, 4, 8, 16, 32}) {
        Setting s;
        s.substeps = substeps;
        row(s);
    }
}

void sweep_known_share() {
    head("Known share");
    for (const float known : {0.0f, 0.5f, 0.8f, 0.9f, 0.95f, 0.98f, 1.0f}) {
        Setting s;
        s.tuning.known_share = known;
        row(s);
    }
}

void sweep_convergence() {
    head("When points have converged, from 1e-2 to 1e-5");
    for (const float converged : {1e-2f, 3e-3f, 1e-3f, 5e-4f, 2e-4f, 5e-5f, 1e-5f}) {
        Setting s;
        s.tuning.converged = converged;
        row(s);
    }
}

void walls_hit() {
    const Walls plane = walls<2>({}, 12), space = walls<3>({}, 24);
    std::printf(
        "\n## Walls hit by a drum\n\n| 12 walls in the plane: deepest mm | second mm | ms a tick | 24 walls "
        "in space: deepest mm | second mm | ms a tick |\n|---|---|---|---|---|---|\n"
        "| %.1f | %.1f | %.2f | %.1f | %.1f | %.2f |\n",
        plane.deepest_mm, plane.second_mm, plane.ms, space.deepest_mm, space.second_mm, space.ms);
}

void sweep_push() {
    std::printf(
        "\n## Fastest push\n\n| thicknesses a second | two in the plane: free after s | fastest m/s | two "
        "in space: free after s | fastest m/s | ten in the plane: free after s | fastest m/s | ten in "
        "space: free after s | fastest m/s |\n|---|---|---|---|---|---|---|---|---|\n");
    for (const float push : {0.5f, 1.0f, 2.0f, 4.0f, 8.0f, 16.0f, 64.0f}) {
        Setting s;
        s.tuning.most_thicknesses_a_second = push;
        const Freed a = freed<2>(s, 2, 0.25), b = freed<3>(s, 2, 0.25), c = freed<2>(s, 10, 1e-3),
                    d = freed<3>(s, 10, 1e-3);
        std::printf("| %.1f | %.2f | %.2f | %.2f | %.2f | %.2f | %.2f | %.2f | %.2f |\n",
                    static_cast<double>(push), a.seconds, a.fastest, b.seconds, b.fastest, c.seconds,
                    c.fastest, d.seconds, d.fastest);
        std::fflush(stdout);
    }
}

}

// Without an argument all sweeps; or the one that is named.
int main(int count, char** arguments) {
    const std::string_view only = count > 1 ? arguments[1] : "";
    if (only.empty() || only == "contacts") sweep_contacts();
    if (only.empty() || only == "known") sweep_known_share();
    if (only.empty() || only == "convergence") sweep_convergence();
    if (only.empty() || only == "walls") walls_hit();
    if (only.empty() || only == "push") sweep_push();
}
