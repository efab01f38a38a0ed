// GS: many bodies that collide freely.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

constexpr double kSide = 6.472086;

// 400 discs with a speed of 1 m/s in random directions between four walls: the walls' ids come first.
std::vector<BodyId> fill_gas(World<2>& world) {
    const Material smooth{.friction = 0, .restitution = 1};
    const double half = kSide / 2;
    std::vector<BodyId> walls{add_fixed<2>(world, {kSide + 0.5, half}, sized<2>(1, kSide + 2, 1), smooth),
                              add_fixed<2>(world, {-0.5, half}, sized<2>(1, kSide + 2, 1), smooth),
                              add_fixed<2>(world, {half, kSide + 0.5}, sized<2>(kSide, 1, 1), smooth),
                              add_fixed<2>(world, {half, -0.5}, sized<2>(kSide, 1, 1), smooth)};
    Draws draws(1);
    for (int j = 0; j < 20; j++)
        for (int i = 0; i < 20; i++) {
            const BodyId disc = add<2>(world, {kSide / 40 + kSide / 20 * i, kSide / 40 + kSide / 20 * j},
                                       Circle{0.1f}, 1, smooth);
            const double a = 2 * kPi * draws.next();
            world.set_velocity(disc, {static_cast<float>(std::cos(a)), static_cast<float>(std::sin(a))});
        }
    return walls;
}

// The largest distance between the speeds' distribution and the law of 400 discs of a fixed total energy.
double distance_to_law(std::vector<double> speeds) {
    std::sort(speeds.begin(), speeds.end());
    const auto n = static_cast<double>(speeds.size());
    double worst = 0;
    for (std::size_t i = 0; i < speeds.size(); i++) {
        const double law = 1 - std::pow(std::max(1 - speeds[i] * speeds[i] / 400, 0.0), 399);
        worst = std::max({worst, std::fabs(law - static_cast<double>(i) / n),
                          std::fabs(law - static_cast<double>(i + 1) / n)});
    }
    return worst;
}

void maxwell(Outcome& out) {
    World<2> world = weightless<2>();
    fill_gas(world);
    const auto speeds = [&] {
        std::vector<double> v;
        for (const BodyId b : world.bodies())
            if (world.motion(b) == Motion::Dynamic) v.push_back(length(world.velocity(b)));
        return v;
    };
    std::vector<double> pooled;
    double snapshot = 0, drift = 0;
    for (int tick = 1; tick <= 6000; tick++) {
        world.step();
        drift = std::max(drift, std::fabs(world.energy().kinetic / 200 - 1));
        if (tick == 30 * 60) snapshot = distance_to_law(speeds());
        if (tick >= 40 * 60 && tick <= 97 * 60 && (tick - 40 * 60) % 180 == 0) {
            const auto now = speeds();
            pooled.insert(pooled.end(), now.begin(), now.end());
        }
    }
    double mean = 0, outside = 0;
    for (const double v : pooled) mean += v / static_cast<double>(pooled.size());
    for (const BodyId b : world.bodies()) {
        const auto p = world.pose(b).position;
        if (world.motion(b) == Motion::Dynamic && (p.x < 0 || p.y < 0 || p.x > kSide || p.y > kSide))
            outside++;
    }
    out.at_most("distance to the law at 30 s", "", snapshot, 0.0815, 0.068);
    out.at_most("pooled, 8000 speeds", "", distance_to_law(pooled), 0.03, 0.01822395);
    out.near("mean speed", "m/s", mean, std::sqrt(kPi) / 2, 0.03, 0.01);
    out.at_most("drift of energy in 100 s", "", drift, 0.02, 1e-6);
    out.at_most("discs outside", "", outside, 0, 0);
}

void pressure(Outcome& out) {
    World<2> world = weightless<2>();
    const auto walls = fill_gas(world);
    const auto is_wall = [&](BodyId b) { return std::find(walls.begin(), walls.end(), b) != walls.end(); };
    run(world, 10);
    double impulse = 0;
    for (int tick = 0; tick < 6000; tick++) {
        world.step();
        for (const auto& c : world.contacts())
            if (is_wall(c.body_a) || is_wall(c.body_b))
                impulse += std::fabs(static_cast<double>(dot(c.impulse, c.normal)));
    }
    out.near_share("force on the four walls", "N", impulse / 100, 265.7381711291132, 0.03, 0.006);
}

template<int Dim> void burst(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    fill_burst(world, Order::Forward);
    const auto start = world.momentum();
    double momentum = 0, angular = 0;
    for (const BodyId b : world.bodies()) momentum += length(world.velocity(b)); // each weighs 1 kg
    for (const BodyId b : world.bodies()) angular += angular_of(world, b);
    double dp = 0, dl = 0, energy = world.energy().kinetic;
    bool grew = false;
    for (int tick = 0; tick < 600; tick++) {
        world.step();
        const auto now = world.momentum();
        dp = std::max(dp, static_cast<double>(length(now.linear - start.linear)));
        dl = std::max(dl, static_cast<double>(length(now.angular - start.angular)));
        grew = grew || world.energy().kinetic > energy * (1 + 1e-6);
        energy = world.energy().kinetic;
    }
    out.at_most("change of momentum", "", dp / momentum, 1e-5, 1e-12);
    out.at_most("change of angular momentum", "", dl / angular, 0.001, 1e-6);
    out.holds("kinetic energy never grows", !grew);
}

}

std::span<const Case> gas_cases() {
    static constexpr std::array kCases{
        Case{"GS01", "Speeds of hard discs", 2, true, maxwell},
        Case{"GS02", "Pressure of hard discs", 2, true, pressure},
        Case{"GS06", "Free burst keeps its momenta", 2, false, burst<2>},
        Case{"GS06", "Free burst keeps its momenta", 3, false, burst<3>},
    };
    return kCases;
}

}
