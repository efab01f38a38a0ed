// JT: pendulums; and tops on a joint (FM).
#include "fidelity/joined.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> double period(double degrees, std::size_t swings, const auto& make) {
    World<Dim> world = falling<Dim>();
    const BodyId body = make(world, degrees * kPi / 180);
    const auto at = falls(world, swings + 1, [&] { return swing(world, body); });
    return (at.back() - at.front()) / static_cast<double>(swings);
}

template<int Dim> BodyId simple(World<Dim>& world, double angle) {
    const BodyId body = bob<Dim>(world, {std::sin(angle), -std::cos(angle)});
    rod_to<Dim>(world, body, {});
    return body;
}
template<int Dim> BodyId compound(World<Dim>& world, double angle) {
    const BodyId body = add<Dim>(world, {0.5 * std::sin(angle), -0.5 * std::cos(angle)},
                                 sized<Dim>(0.05, 1, 0.05), 1, {}, tilted<Dim>(angle));
    world.add_joint(hinge<Dim>({.a = body, .at = Point<Dim>{}}));
    return body;
}

template<int Dim> void simple_pendulum(Outcome& out) {
    out.near_share("T(90)", "s", period<Dim>(90, 5, simple<Dim>), 2.3678419475762373, 0.005, 1e-4);
    out.near_share("T(170)", "s", period<Dim>(170, 5, simple<Dim>), 4.89352427410549, 0.02, 1e-3);
    World<Dim> world = falling<Dim>();
    const BodyId body = simple<Dim>(world, kPi / 2);
    double widest = 0, off = 0;
    while (world.time() < 60) {
        world.step();
        off = std::max(off, std::fabs(length(world.centre_of_mass(body) - Point<Dim>{}) - 1.0));
        if (world.time() > 57) widest = std::max(widest, std::fabs(swing(world, body)));
    }
    // The turning point lies between two ticks: its height is that of the energy.
    const double top = world.energy().total() / kG;
    out.at_most("amplitude loss in 60 s", "deg", std::fabs(90 - std::acos(-top) * 180 / kPi), 2, 0.01);
    out.at_most("length error", "m", off, 0.002, 1e-6);
    out.holds("swings as far at the end", widest > 0.97 * kPi / 2);
}

template<int Dim> void compound_pendulum(Outcome& out) {
    out.near_share("T(5)", "s", period<Dim>(5, 5, compound<Dim>), 1.639238553060996, 0.005, 1e-4);
    out.near_share("T(120)", "s", period<Dim>(120, 5, compound<Dim>), 2.249407539379257, 0.01, 3e-4);
    World<Dim> world = falling<Dim>();
    compound<Dim>(world, 2 * kPi / 3);
    const JointId joint = world.joints()[0];
    const double start = world.energy().total();
    double off = 0, gap = 0;
    while (world.time() < 60) {
        world.step();
        off = std::max(off, std::fabs(world.energy().total() - start));
        gap = std::max(gap, double{world.joint_state(joint).stretch});
    }
    out.at_most("change of energy in 60 s, of m g l", "", off / kG, 0.01, 1e-5);
    out.at_most("hinge gap", "m", gap, 0.001, 1e-6);
}

template<int Dim> void double_pendulum(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId a = bob<Dim>(world, {1, 0}), b = bob<Dim>(world, {2, 0});
    rod_to<Dim>(world, a, {});
    world.add_joint(Rod<Dim>{.joins = {.a = a, .b = b}});
    const double start = world.energy().total();
    const auto place = [&] {
        const Point<Dim> p = world.centre_of_mass(b);
        return std::array{p.x, p.y};
    };
    run(world, 1);
    out.near_all("B at 1 s", "m", place(), std::array{-1.4448188499435863, -1.3217944613813994}, 0.02, 5e-4);
    run(world, 1);
    out.near_all("B at 2 s", "m", place(), std::array{-1.4341248174645058, -1.1298701956470465}, 0.08, 3e-3);
    double off = 0;
    while (world.time() < 60) {
        world.step();
        off = std::max(off, std::fabs(world.energy().total() - start));
    }
    out.at_most("change of energy in 60 s, of 3 m g L", "", off / 29.43, 0.02, 1e-4);
}

void conical(Outcome& out) {
    World<3> world = falling<3>();
    const double a = kPi / 4, v = 2.633764895247871;
    const BodyId body = bob<3>(world, {std::sin(a), -std::cos(a), 0});
    world.set_velocity(body, {0, 0, static_cast<float>(v)});
    const JointId rod = rod_to<3>(world, body, {});
    double off = 0;
    const auto times = falls(world, 11, [&] {
        const Point3 p = world.centre_of_mass(body);
        off = std::max(off, std::fabs(std::acos(-p.y) - a));
        return -p.z;
    });
    while (world.time() < 20) {
        world.step();
        off = std::max(off, std::fabs(std::acos(-world.centre_of_mass(body).y) - a));
    }
    out.near_share("period", "s", (times[10] - times[0]) / 10, 1.6868942805695013, 0.005, 1e-4);
    out.at_most("angle change in 20 s", "deg", off * 180 / kPi, 0.5, 0.005);
    out.near_share("tension", "N", length(world.joint_state(rod).force), 13.873435046880061, 0.01, 1e-4);
}

// A cylinder on a ball joint below its centre, its axis tilted from the upward vertical; it precesses
// steadily.
BodyId top(World<3>& world, double tilt, double spin, double precession) {
    const Vec3 axis{static_cast<float>(std::sin(tilt)), static_cast<float>(std::cos(tilt)), 0};
    const BodyId body =
        add<3>(world, {0.1 * axis.x, 0.1 * axis.y, 0}, Cylinder{{0, -0.01f, 0}, {0, 0.01f, 0}, 0.1f}, 1, {},
               turned(radians(-tilt), {0, 0, 1}));
    world.add_joint(BallJoint{.joins = {.a = body, .at = Point3{}}, .axis = axis});
    const auto w = static_cast<float>(precession);
    world.set_angular_velocity(body, axis * static_cast<float>(spin) + Vec3{0, w, 0});
    world.set_velocity(body, cross(Vec3{0, w, 0}, axis * 0.1f));
    return body;
}
void horizontal_gyroscope(Outcome& out) {
    World<3> world = falling<3>();
    const BodyId body = top(world, kPi / 2, 100, 1.962);
    const auto angle = [&] {
        const Point3 p = world.centre_of_mass(body);
        return std::atan2(-p.z, p.x);
    };
    double off = 0, turned = 0, before = angle();
    while (turned < 6 * kPi && world.time() < 20) {
        world.step();
        const double now = angle();
        turned += std::remainder(now - before, 2 * kPi), before = now;
        off = std::max(off, std::fabs(height(world, body)));
    }
    const double rate = turned / world.time();
    out.near("Omega", "rad/s", rate, 1.9619999999999997, 0.02, 1e-4);
    out.near_share("period", "s", 2 * kPi / rate, 3.2024389944850085, 0.01, 1e-4);
    out.at_most("height change", "m", off, 0.003, 5e-5);
}
void tilted_gyroscope(Outcome& out) {
    World<3> world = falling<3>();
    const double tilt = kPi / 3;
    const BodyId body = top(world, tilt, 98.9936120618358, 2.0127758763283974);
    const auto angle = [&] {
        const Point3 p = world.centre_of_mass(body);
        return std::atan2(-p.z, p.x);
    };
    double off = 0, turned = 0, before = angle();
    while (world.time() < 5) {
        world.step();
        const double now = angle();
        turned += std::remainder(now - before, 2 * kPi), before = now;
        off = std::max(off, std::fabs(std::acos(std::clamp(height(world, body) / 0.1, -1.0, 1.0)) - tilt));
    }
    out.near_share("slow precession", "rad/s", turned / world.time(), 2.0127758763283974, 0.01, 1e-4);
    out.at_most("tilt change", "deg", off * 180 / kPi, 0.5, 0.01);
}

}

std::span<const Case> pendulum_cases() {
    static constexpr std::array kCases{
        Case{"FM10", "Gyroscope with a level axis", 3, false, horizontal_gyroscope},
        Case{"FM11", "Gyroscope at 60 degrees", 3, false, tilted_gyroscope},
        Case{"JT01", "Pendulum on a rod", 2, false, simple_pendulum<2>},
        Case{"JT01", "Pendulum on a rod", 3, false, simple_pendulum<3>},
        Case{"JT02", "Compound pendulum", 2, false, compound_pendulum<2>},
        Case{"JT02", "Compound pendulum", 3, false, compound_pendulum<3>},
        Case{"JT03", "Double pendulum", 2, false, double_pendulum<2>},
        Case{"JT03", "Double pendulum", 3, false, double_pendulum<3>},
        Case{"JT15", "Conical pendulum", 3, false, conical},
    };
    return kCases;
}

}
