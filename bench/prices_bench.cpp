// This program measures what the budget sells (src/islands/budget.h), in its unit: one manifold solved in one
// pass, with its share of a substep. Towers of crates at rest give the unit, from the time that further
// substeps take; contacts found anew and times of impact are those of crates at random that touch, or that
// meet on their ways.
#include "islands/budget.h"
#include "narrow/manifolds.h"
#include "sweep/sweep.h"

#include <astasis/astasis.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <random>

namespace {

using namespace astasis;

template<int D> Geometry<D> crate() {
    if constexpr (D == 2) return Box2::sized(0.5f, 0.5f);
    else return Box3::sized(0.5f, 0.5f, 0.5f);
}

// ns of one call, least of three.
template<typename Call> double ns_of(int count, const Call& call) {
    double least = 1e30;
    for (int run = 0; run < 3; run++) {
        const auto from = std::chrono::steady_clock::now();
        for (int i = 0; i < count; i++) call(i);
        const std::chrono::duration<double, std::nano> took = std::chrono::steady_clock::now() - from;
        least = std::min(least, took.count() / count);
    }
    return least;
}

template<int D> double ns_of_tick(int substeps, std::uint64_t& plain) {
    World<D> world({.substeps = substeps, .extra_work = 0, .sleeping = false});
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    for (int i = 0; i < 1000; i++)
        world.add({.pose = {{1.0 * (i / 10), 0.25 + 0.5 * (i % 10)}, {}}, .shapes = {{crate<D>()}}});
    for (int tick = 0; tick < 60; tick++) world.step();
    plain = world.work_of_tick().plain;
    return ns_of(60, [&](int) { world.step(); });
}

template<int D> double ns_of_unit() {
    std::uint64_t few = 0, many = 0;
    const double time = ns_of_tick<D>(8, few), longer = ns_of_tick<D>(24, many);
    return (longer - time) / static_cast<double>(many - few);
}

// Pairs of crates at random: the second about as far off as they touch.
template<int D> struct Pairs {
    ShapeSpec<D> shape{crate<D>()};
    flow::Bodies<D> bodies;
    std::vector<flow::Collider<D>> colliders{2};
    std::vector<flow::CentrePose<D>> second;
    narrow::ManifoldFinder<D> finder;
    std::vector<flow::Manifold<D>> found;
    std::mt19937 random{1};

    double in(double low, double high) { return low + (high - low) * (random() >> 8) * (1.0 / 16777216); }
    Pairs() {
        bodies.pose.resize(2), bodies.mass.resize(2);
        for (std::uint32_t i : {0u, 1u})
            colliders[i] = {.key = i, .body = i, .spec = &shape, .reach = 0.44f, .thickness = 0.5f};
        for (int i = 0; i < 1000; i++) {
            flow::CentrePose<D> at;
            at.centre = {in(-0.2, 0.2), 0.499 + in(0, 0.05)};
            if constexpr (D == 2) at.rotation = turned(radians(in(-0.1, 0.1)));
            else at.rotation = turned(radians(in(-0.1, 0.1)), {0.3f, 1, 0.2f});
            second.push_back(at);
        }
    }
    double ns_of_update() {
        return ns_of(20000, [&](int i) {
            found.clear();
            finder.find_pair(
                {colliders[0], colliders[1], {}, second[static_cast<std::size_t>(i % 1000)], 0.05f}, bodies,
                {}, {}, true, found);
        });
    }
    double ns_of_sweep() {
        return ns_of(20000, [&](int i) {
            flow::CentrePose<D> from = second[static_cast<std::size_t>(i % 1000)];
            from.centre.y += 1;
            flow::Velocity<D> v;
            v.linear.y = -1000;
            if constexpr (D == 2) v.angular = 20;
            else v.angular = {5, 20, 3};
            const auto time =
                sweep::time_of_impact<D>(colliders[0], {}, {}, colliders[1], {}, {from, v}, 1.0 / 480);
            if (!time) std::printf("no impact\n");
        });
    }
};

template<int D> void rows() {
    Pairs<D> pairs;
    const double unit = ns_of_unit<D>(), update = pairs.ns_of_update(), sweep = pairs.ns_of_sweep();
    const char* where = D == 2 ? "plane" : "space";
    const auto row = [&](const char* what, double ns, std::uint64_t price) {
        std::printf("| %s | %s | %.0f | %.0f | %llu |\n", where, what, ns, ns / unit,
                    static_cast<unsigned long long>(price));
    };
    row("a manifold in a pass", unit, 1);
    row("contact found anew, crates", update, islands::kContactUpdatePrice);
    row("time of impact, crates", sweep, islands::kSweepPrice);
}

}

int main() {
    std::printf("| | what | ns | units | price |\n|---|---|---|---|---|\n");
    rows<2>();
    rows<3>();
}
