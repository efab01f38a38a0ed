// SL: what lies still sleeps, and wakes when it should.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <algorithm>
#include <array>
#include <chrono>

namespace astasis::fidelity {
namespace {

template<int Dim> bool all_asleep(const World<Dim>& world) {
    return std::all_of(world.bodies().begin(), world.bodies().end(),
                       [&](BodyId b) { return world.motion(b) != Motion::Dynamic || world.is_asleep(b); });
}

template<int Dim> void one_box(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground<Dim>(world, {.friction = 0.5f});
    const BodyId box = add<Dim>(world, {0, 1}, sized<Dim>(1, 1, 1), 1, {.friction = 0.5f});
    double asleep = 0;
    for (int tick = 1; tick <= 600 && asleep == 0; tick++) {
        world.step();
        if (world.is_asleep(box)) asleep = world.time();
    }
    out.within("asleep at", "s", asleep, 0.3192754, 2, 0.3192754, 1);
    const auto at = world.pose(box);
    run(world, 5);
    out.at_most("motion after", "m", length(world.pose(box).position - at.position), 0, 0);
    out.near("height of its centre", "m", at.position.y, 0.5, 0.005, 1e-4);
}

template<int Dim> void pile(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const Material m{.friction = 0.5f, .restitution = 0.1f};
    add_ground<Dim>(world, m);
    constexpr int kAcross = 6, kDeep = Dim == 2 ? 1 : 5;
    constexpr double kDepth = 2.5;
    for (const double x : {-1.55, 1.55}) add_fixed<Dim>(world, {x, 4}, sized<Dim>(0.1, 8, kDepth + 0.2), m);
    if constexpr (Dim == 3)
        for (const double z : {-1.3, 1.3}) add_fixed<3>(world, {0, 4, z}, sized<3>(3.2, 8, 0.1), m);
    for (int n = 0; n < 150; n++) {
        const int i = n % kAcross, k = n / kAcross % kDeep, row = n / (kAcross * kDeep);
        Point<Dim> at{0.45 * (i - 2.5), 0.3 + 0.45 * row};
        if constexpr (Dim == 3) at.z = 0.45 * (k - 2);
        if (n % 3 == 2) add<Dim>(world, at, Ball<Dim>{0.15f}, 1, m);
        else add<Dim>(world, at, sized<Dim>(0.3, 0.3, 0.3), 1, m);
    }
    double asleep = 30;
    for (int tick = 1; tick <= 1800; tick++) {
        world.step();
        if (asleep == 30 && all_asleep(world)) asleep = world.time();
    }
    out.at_most("all asleep at", "s", asleep, 12, 6);
    std::size_t awake = 0;
    for (const BodyId b : world.bodies()) awake += world.motion(b) == Motion::Dynamic && !world.is_asleep(b);
    out.at_most("awake at 30 s", "", static_cast<double>(awake), 0, 0);
}

template<int Dim> void support_removed(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground<Dim>(world, {});
    const BodyId platform = add_fixed<Dim>(world, {0, 2.9}, sized<Dim>(2, 0.2, 2), {});
    std::vector<BodyId> cubes;
    for (int i = 0; i < 5; i++)
        cubes.push_back(add<Dim>(world, {0, 3.25 + 0.5 * i}, sized<Dim>(0.5, 0.5, 0.5), 1, {}));
    run(world, 3);
    out.holds("asleep before", all_asleep(world));
    const double before = world.pose(cubes[0]).position.y;
    world.remove(platform);
    world.step();
    int steps = 1;
    for (const BodyId b : cubes) steps = std::max(steps, world.is_asleep(b) ? 2 : 1);
    out.at_most("steps until awake", "", steps, 1, 1);
    double gap = 0;
    for (int tick = 1; tick < 30; tick++) {
        world.step();
        for (int i = 0; i < 4; i++)
            gap = std::max(gap, std::fabs(world.pose(cubes[static_cast<std::size_t>(i) + 1]).position.y -
                                          world.pose(cubes[static_cast<std::size_t>(i)]).position.y - 0.5));
    }
    out.near("fall in 0.5 s", "m", before - world.pose(cubes[0]).position.y, 0.125 * kG, 0.05, 0.001);
    out.at_most("gaps", "m", gap, 0.002, 1e-6);
}

template<int Dim> void waking_by_touch(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const Material m{.friction = 0.3f};
    add_ground<Dim>(world, m);
    std::vector<BodyId> first, second;
    for (int i = 0; i < 10; i++) {
        first.push_back(add<Dim>(world, {0.5 * i, 0.25}, sized<Dim>(0.5, 0.5, 0.5), 1, m));
        second.push_back(add<Dim>(world, {0.5 * i + 6, 0.25}, sized<Dim>(0.5, 0.5, 0.5), 1, m));
    }
    run(world, 3);
    const auto asleep = [&](const std::vector<BodyId>& row) {
        return std::count_if(row.begin(), row.end(), [&](BodyId b) { return world.is_asleep(b); });
    };
    out.holds("both rows asleep before", asleep(first) == 10 && asleep(second) == 10);
    const BodyId striker = add<Dim>(world, {-0.501, 0.25}, sized<Dim>(0.5, 0.5, 0.5), 1, m);
    world.set_velocity(striker, {5, 0});
    run(world, 2.0 / 60);
    out.holds("all of the first awake within two steps", asleep(first) == 0);
    double speed = 0;
    for (const BodyId b : first) speed += world.velocity(b).x / 11;
    speed += world.velocity(striker).x / 11;
    out.near("common speed, back to the hit", "m/s", speed + 0.3 * kG * 2 / 60, 5.0 / 11, 0.08, 0.01);
    bool slept = true;
    for (int tick = 0; tick < 180; tick++) {
        world.step();
        slept = slept && asleep(second) == 10;
    }
    out.holds("the second row sleeps all the time", slept);
}

// A thousand stacks of ten, all asleep, against the same all awake.
template<int Dim> void cost_of_sleepers(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground<Dim>(world, {});
    for (int n = 0; n < 10000; n++) {
        Point<Dim> at{1.5 * (n / 10), 0.25 + 0.5 * (n % 10)};
        if constexpr (Dim == 3) at.x = 1.5 * (n / 10 % 32), at.z = 1.5 * (n / 320);
        add<Dim>(world, at, sized<Dim>(0.5, 0.5, 0.5), 1, {});
    }
    const auto seconds_a_tick = [&](int ticks) {
        std::vector<double> times;
        for (int i = 0; i < ticks; i++) {
            const auto from = std::chrono::steady_clock::now();
            world.step();
            times.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count());
        }
        std::sort(times.begin(), times.end());
        return times[times.size() / 2];
    };
    world.set_sleeping(false);
    const double awake = seconds_a_tick(30);
    world.set_sleeping(true);
    run(world, 3);
    out.holds("all asleep", all_asleep(world));
    const double asleep = seconds_a_tick(200);
    out.at_most("asleep over awake", "", asleep / awake, 0.05, 0.002);
    out.at_most("a tick asleep", "ms", 1e3 * asleep, 1, 0.05);
}

}

std::span<const Case> sleeping_cases() {
    static constexpr std::array kCases{
        Case{"SL01", "One box goes to sleep", 2, false, one_box<2>},
        Case{"SL01", "One box goes to sleep", 3, false, one_box<3>},
        Case{"SL02", "A pile goes to sleep", 2, false, pile<2>},
        Case{"SL02", "A pile goes to sleep", 3, true, pile<3>},
        Case{"SL03", "A support is taken away", 2, false, support_removed<2>},
        Case{"SL03", "A support is taken away", 3, false, support_removed<3>},
        Case{"SL04", "Waking by touch", 2, false, waking_by_touch<2>},
        Case{"SL04", "Waking by touch", 3, false, waking_by_touch<3>},
        Case{"SL05", "Cost of sleepers", 2, true, cost_of_sleepers<2>},
        Case{"SL05", "Cost of sleepers", 3, true, cost_of_sleepers<3>},
    };
    return kCases;
}

}
