// GR: heaps of grains that flow.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <algorithm>
#include <array>
#include <map>

namespace astasis::fidelity {
namespace {

constexpr double kGrain = 0.1; // m; sizes are spread by a tenth of it to both sides

template<int Dim> World<Dim> granular_world() {
    World<Dim> world = falling<Dim>();
    world.set_sleeping(false);
    return world;
}

// The force on a body from all that touches it, along y, N.
template<int Dim> double load_on(const World<Dim>& world, BodyId body) {
    double sum = 0;
    for (const auto& c : world.contacts())
        if (c.body_a == body) sum += c.impulse.y;
        else if (c.body_b == body) sum -= c.impulse.y;
    return sum / world.settings().tick;
}

struct Filling {
    double height = 0, weight = 0, load = 0; // m, N; on the floor while it sinks, N
};

// A silo two metres wide whose floor can sink, and what has been poured in.
template<int Dim> struct Silo {
    static constexpr double kWidth = 2;
    static constexpr int kAcross = 12; // grains of a layer that is poured
    World<Dim> world = granular_world<Dim>();
    Material material{.friction = 0.5f, .restitution = 0.2f};
    BodyId floor;
    Draws draws{11};
    double weight = 0, level = 0;

    explicit Silo(double height) {
        for (const double side : {-1.0, 1.0}) {
            add_fixed<Dim>(world, {side * (kWidth / 2 + 0.5), height / 2}, sized<Dim>(1, height + 4, kWidth),
                           material);
            if constexpr (Dim == 3)
                add_fixed<3>(world, {0, height / 2, side * (kWidth / 2 + 0.5)},
                             sized<3>(kWidth + 2, height + 4, 1), material);
        }
        floor = world.add({.motion = Motion::Kinematic,
                           .pose = {{0, -0.5}, {}},
                           .shapes = {{.geometry = sized<Dim>(kWidth, 1, kWidth), .material = material}}});
    }
    // A loose layer that falls on what is there, in three ticks.
    void pour_layer() {
        constexpr double kSolid = Dim == 2 ? 0.82 : 0.60, kPitch = kWidth / kAcross;
        const auto spread = [&](int i) { return kPitch * (i + 0.5 + draws.in(-0.14, 0.14)) - kWidth / 2; };
        for (int i = 0; i < kAcross; i++)
            for (int k = 0; k < (Dim == 2 ? 1 : kAcross); k++) {
                Point<Dim> at{spread(i), level + 0.6};
                if constexpr (Dim == 3) at.z = spread(k);
                const double radius = kGrain / 2 * draws.in(0.9, 1.1);
                const double size = Dim == 2 ? kPi * radius * radius : 4.0 / 3 * kPi * std::pow(radius, 3);
                const BodyId grain =
                    add<Dim>(world, at, Ball<Dim>{static_cast<float>(radius)}, 1000 * size, material);
                world.set_velocity(grain, {0, -2.5f});
                weight += 1000 * size * kG;
                level += size / (kSolid * std::pow(kWidth, Dim - 1));
            }
        run(world, 0.05);
    }
    // What the floor bears when it sinks by 5 mm in a second.
    Filling sink() {
        run(world, 2);
        Filling out{0, weight, 0};
        for (const BodyId b : world.bodies())
            if (world.motion(b) == Motion::Dynamic)
                out.height = std::max(out.height, world.pose(b).position.y + kGrain / 2);
        world.set_velocity(floor, {0, -0.005f});
        for (int tick = 0; tick < 60; tick++) {
            world.step();
            if (tick >= 54) out.load += load_on(world, floor) / 6;
        }
        return out;
    }
};

// Of one silo, at four heights of its filling.
template<int Dim> std::vector<Filling> fill_silo() {
    std::vector<Filling> out;
    Silo<Dim> silo(12);
    for (const double height : {2.0, 4.0, 8.0, 12.0}) {
        while (silo.level < height) silo.pour_layer();
        const auto before = silo.world.save();
        out.push_back(silo.sink());
        silo.world.restore(before);
    }
    return out;
}

// The load on the floor over the weight is (l / H) (1 - exp(-H / l)) with l = width / (2 mu K), in a square
// tube width / (4 mu K): Janssen 1895.
template<int Dim> void silo(Outcome& out) {
    const std::vector<Filling> fillings = fill_silo<Dim>();
    double best = 0, least = 1e30;
    for (double length = 0.1; length < 40; length *= 1.01) {
        double sum = 0;
        for (const Filling& s : fillings) {
            const double off = length / s.height * (1 - std::exp(-s.height / length)) - s.load / s.weight;
            sum += off * off;
        }
        if (sum < least) least = sum, best = length;
    }
    out.within("K of the walls' law", "", 2 / ((Dim == 2 ? 2 : 4) * 0.5 * best), 0.25, 1.5, 0.4, 1.1);
    out.within("load at 12 m over load at 8 m", "", fillings[3].load / fillings[2].load, 0.95, 1.2, 0.97,
               1.1);
    out.at_most("load over weight at 8 m", "", fillings[2].load / fillings[2].weight, 0.55, 0.45);
}

// Tops of a heap's surface by the distance from the middle, in rings of some width (in the plane, both
// sides), each the mean of the highest grains of its sectors.
template<int Dim> std::vector<double> profile(const World<Dim>& world, double grain, double width) {
    constexpr int kSectors = Dim == 2 ? 2 : 12;
    std::map<int, std::array<double, kSectors>> rings;
    for (const BodyId b : world.bodies()) {
        if (world.motion(b) != Motion::Dynamic) continue;
        const auto p = world.pose(b).position;
        double away = std::fabs(p.x);
        int sector = p.x < 0;
        if constexpr (Dim == 3) {
            away = std::hypot(p.x, p.z);
            sector = static_cast<int>((std::atan2(p.z, p.x) / kPi + 1) / 2 * kSectors) % kSectors;
        }
        double& top = rings[static_cast<int>(away / width)][static_cast<std::size_t>(sector)];
        top = std::max(top, p.y + grain / 2);
    }
    std::vector<double> out;
    for (int ring = 0; rings.contains(ring); ring++) {
        double sum = 0;
        for (const double top : rings[ring]) sum += top / kSectors;
        out.push_back(sum);
    }
    return out;
}

// The slope of the middle half of the flank, from three quarters of the height down to a quarter, degrees.
double slope_of(const std::vector<double>& tops, double ring) {
    const double high = *std::max_element(tops.begin(), tops.end());
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (std::size_t i = 0; i < tops.size() && tops[i] > 0.25 * high; i++) {
        if (tops[i] > 0.75 * high) continue;
        const double x = ring * (static_cast<double>(i) + 0.5), y = tops[i];
        n++, sx += x, sy += y, sxx += x * x, sxy += x * y;
    }
    return std::atan2(-(n * sxy - sx * sy), n * sxx - sx * sx) * 180 / kPi;
}

template<int Dim> void add_rough_floor(World<Dim>& world, double reach, double grain, Material m) {
    add_ground<Dim>(world, m);
    std::vector<ShapeSpec<Dim>> grains;
    const auto side = static_cast<int>(reach / grain);
    for (int i = -side; i <= side; i++)
        for (int k = Dim == 2 ? 0 : -side; k <= (Dim == 2 ? 0 : side); k++) {
            if (i * i + k * k > side * side) continue;
            Vec<Dim> at{static_cast<float>(i * grain), 0};
            if constexpr (Dim == 3) at.z = static_cast<float>(k * grain);
            grains.push_back(
                {.geometry = Ball<Dim>{static_cast<float>(grain / 2)}, .material = m, .placement = {at, {}}});
        }
    world.add({.motion = Motion::Static, .shapes = grains});
}

// 1500 grains from a point half a metre above the heap, one in three ticks.
template<int Dim> double angle_of_repose(bool cubes, std::uint64_t seed) {
    const Material m{.friction = 0.5f, .restitution = 0.2f};
    World<Dim> world = granular_world<Dim>();
    const double grain = cubes ? 0.08 : kGrain;
    add_rough_floor<Dim>(world, Dim == 2 ? 12 : 3.5, grain, m);
    Draws draws(seed);
    std::vector<BodyId> grains;
    const auto top = [&] {
        double high = 0;
        for (const BodyId b : grains) {
            const auto p = world.pose(b).position;
            double away = std::fabs(p.x);
            if constexpr (Dim == 3) away = std::hypot(p.x, p.z);
            if (away < 2 * grain && length(world.velocity(b)) < 0.3f) high = std::max(high, p.y);
        }
        return high;
    };
    for (int n = 0; n < 1500; n++) {
        Point<Dim> at{draws.in(-0.01, 0.01), top() + 0.5};
        if constexpr (Dim == 3) at.z = draws.in(-0.01, 0.01);
        const double size = grain * draws.in(0.9, 1.1);
        if (cubes) {
            const auto turn = test::about_z(radians(draws.in(0, 2 * kPi)), Vec<Dim>{});
            grains.push_back(add<Dim>(world, at, sized<Dim>(size, size, size), 1, m, turn));
        } else {
            grains.push_back(add<Dim>(world, at, Ball<Dim>{static_cast<float>(size / 2)}, 1, m));
        }
        run(world, 0.05);
    }
    run(world, 3);
    const double ring = (Dim == 2 ? 4 : 2) * grain;
    return slope_of(profile(world, grain, ring), ring);
}

// Squares stand in sheaves that lean on each other: heaps of one kind differ by two degrees and more,
// whatever the tick, so that of those the mean is taken.
template<int Dim> void repose(Outcome& out) {
    constexpr int kHeaps = Dim == 2 ? 5 : 1;
    const double round = angle_of_repose<Dim>(false, 5);
    double edged = 0;
    for (int heap = 0; heap < kHeaps; heap++)
        edged += angle_of_repose<Dim>(true, 5 + static_cast<std::uint64_t>(heap)) / kHeaps;
    if constexpr (Dim == 2) out.within("discs", "deg", round, 10, 28, 13, 24);
    else out.within("spheres", "deg", round, 14, 32, 18, 28);
    out.within(Dim == 2 ? "squares, mean of five heaps" : "cubes", "deg", edged, 25, 50, 28, 45);
}

struct Deposit {
    double reach = 0, height = 0; // m
};

// A column of grains in a tube half a metre wide in radius that is taken away at once.
Deposit collapse(double aspect) {
    constexpr double kRadius = 0.5, kSmall = 0.05;
    const Material m{.friction = 0.5f, .restitution = 0.3f};
    World<3> world = granular_world<3>();
    add_rough_floor<3>(world, 2.6, kSmall, m);
    const double height = aspect * kRadius, base = kSmall / 2;
    std::vector<BodyId> tube;
    constexpr int kStaves = 48;
    for (int i = 0; i < kStaves; i++) {
        const double a = 2 * kPi * i / kStaves;
        tube.push_back(
            add_fixed<3>(world, {(kRadius + 0.05) * std::cos(a), height, (kRadius + 0.05) * std::sin(a)},
                         sized<3>(0.1, 2 * height + 1, 0.12), m, turned(radians(-a), Vec3{0, 1, 0})));
    }
    Draws draws(3);
    const double pitch = 1.12 * kSmall;
    const auto side = static_cast<int>(kRadius / pitch);
    const auto rows = static_cast<int>(1.25 * height / pitch) + 1;
    for (int row = 0; row < rows; row++)
        for (int i = -side; i <= side; i++)
            for (int k = -side; k <= side; k++) {
                if (std::hypot(i * pitch, k * pitch) > kRadius - 0.6 * kSmall) continue;
                const double radius = kSmall / 2 * draws.in(0.9, 1.1);
                const BodyId grain =
                    add<3>(world, {i * pitch, base + 0.03 + row * pitch, k * pitch},
                           Ball<3>{static_cast<float>(radius)}, std::pow(radius / kSmall * 2, 3), m);
                world.set_velocity(grain, {static_cast<float>(draws.in(-0.1, 0.1)), 0,
                                           static_cast<float>(draws.in(-0.1, 0.1))});
            }
    run(world, 1.2);
    for (const BodyId b : std::vector<BodyId>(world.bodies().begin(), world.bodies().end()))
        if (world.motion(b) == Motion::Dynamic && world.pose(b).position.y > base + height) world.remove(b);
    for (const BodyId b : tube) world.remove(b);
    run(world, 2.5);
    // The connected deposit: rings in which at least half the sectors hold grains.
    const std::vector<double> tops = profile(world, kSmall, kSmall);
    std::map<int, std::array<bool, 12>> sectors;
    Deposit out{0, *std::max_element(tops.begin(), tops.begin() + 3) - base};
    for (const BodyId b : world.bodies()) {
        if (world.motion(b) != Motion::Dynamic) continue;
        const auto p = world.pose(b).position;
        sectors[static_cast<int>(std::hypot(p.x, p.z) / kSmall)]
               [static_cast<std::size_t>(std::min(11.0, (std::atan2(p.z, p.x) + kPi) / (2 * kPi) * 12))] =
                   true;
    }
    for (int ring = 0;; ring++) {
        const auto& held = sectors[ring];
        if (std::count(held.begin(), held.end(), true) < 6) break;
        out.reach = (ring + 1) * kSmall;
    }
    return out;
}

void column_collapse(Outcome& out) {
    constexpr double kRadius = 0.5;
    const Deposit one = collapse(1), three = collapse(3);
    out.within("run-out of a column as high as its radius", "", (one.reach - kRadius) / kRadius, 0.6, 2.2,
               0.9, 1.7);
    out.within("run-out of one three times as high", "", (three.reach - kRadius) / kRadius, 1.6, 4.5, 2.1,
               3.5);
    out.within("its height over the radius", "", three.height / kRadius, 0.5, 1.3, 0.7, 1.1);
}

}

std::span<const Case> granular_cases() {
    static constexpr std::array kCases{
        Case{"GR01", "Load on the floor of a silo", 2, true, silo<2>},
        Case{"GR01", "Load on the floor of a silo", 3, true, silo<3>},
        Case{"GR02", "Angle of repose", 2, true, repose<2>},
        Case{"GR02", "Angle of repose", 3, true, repose<3>},
        Case{"GR04", "A column collapses", 3, true, column_collapse},
    };
    return kCases;
}

}
