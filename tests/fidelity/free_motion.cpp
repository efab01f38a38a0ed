// FM: free motion, damping, tops.
#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> BodyId throw_ball(World<Dim>& world, FreeMotion<Dim> free = {}) {
    const std::vector<ShapeSpec<Dim>> shapes{{Ball<Dim>{0.1f}}};
    return world.add({.velocity = {10, 10}, .free = free, .shapes = shapes, .mass = mass_of(shapes, 1)});
}

template<int Dim> void projectile(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId ball = throw_ball(world);
    run(world, 2);
    out.near("x(2)", "m", world.pose(ball).position.x, 20, 0.001, 1e-6);
    out.near("y(2)", "m", world.pose(ball).position.y, 20 - 0.5 * kG * 4, 0.02, 1e-6);
}

template<int Dim> void damped_projectile(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId ball = throw_ball<Dim>(world, {.linear_damping = 0.5f});
    run(world, 2);
    out.near("x(2)", "m", world.pose(ball).position.x, 12.642411176571153, 0.02, 1e-4);
    out.near("y(2)", "m", world.pose(ball).position.y, -1.793178094996243, 0.02, 1e-4);
}

template<int Dim> BodyId drop_ball(World<Dim>& world, FreeMotion<Dim> free) {
    const std::vector<ShapeSpec<Dim>> shapes{{Ball<Dim>{0.1f}}};
    return world.add({.free = free, .shapes = shapes, .mass = mass_of(shapes, 1)});
}

template<int Dim> void linear_drag(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId ball = drop_ball<Dim>(world, {.linear_damping = 2});
    run(world, 1);
    out.near_share("v(1)", "m/s", length(world.velocity(ball)), 4.241180435724415, 0.01, 1e-4);
    run(world, 9);
    out.near_share("v(10)", "m/s", length(world.velocity(ball)), 4.905, 0.005, 1e-6);
}

template<int Dim> void quadratic_drag(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId ball = drop_ball<Dim>(world, {.drag = 0.05f});
    run(world, 1);
    const double v1 = length(world.velocity(ball));
    run(world, 2);
    const double v3 = length(world.velocity(ball)), s3 = -world.pose(ball).position.y;
    run(world, 7);
    out.near_share("terminal speed, at 10 s", "m/s", length(world.velocity(ball)), 14.007141035914502, 0.005,
                   1e-5);
    out.near_share("v(1)", "m/s", v1, 8.468638513780325, 0.005, 1e-4);
    out.near_share("v(3)", "m/s", v3, 13.594129805511646, 0.005, 1e-4);
    out.near("fall in 3 s", "m", s3, 28.455532246210627, 0.1, 0.001);
}

BodyId tumbling_box(World<3>& world) {
    const std::vector<ShapeSpec<3>> shapes{{Box3::sized(0.1f, 0.2f, 0.3f)}};
    return world.add({.angular_velocity = {0.1f, 5, 0.1f}, .shapes = shapes, .mass = mass_of(shapes, 12)});
}

// The times at which the angular velocity about the middle axis changes sign, within a tick by a chord.
std::vector<double> flips(double tick, double seconds) {
    World<3> world({.gravity = {}, .tick = tick});
    const BodyId box = tumbling_box(world);
    const auto middle = [&] { return rotate_back(world.pose(box).rotation, world.angular_velocity(box)).y; };
    std::vector<double> out;
    double before = middle();
    while (world.time() < seconds) {
        world.step();
        const double now = middle();
        if ((now > 0) != (before > 0)) out.push_back(world.time() - tick * now / (now - before));
        before = now;
    }
    return out;
}

void intermediate_axis(Outcome& out) {
    const auto at = flips(1.0 / 60, 60);
    out.near("first flip", "s", at.empty() ? std::nan("") : at.front(), 1.808003, 0.05, 0.002);
    out.near_share("mean interval of flips in 60 s", "s",
                   (at.back() - at.front()) / static_cast<double>(at.size() - 1), 4.532094, 0.03, 0.001);
}

void tumbling_keeps(Outcome& out) {
    World<3> world = weightless<3>();
    const BodyId box = tumbling_box(world);
    const double energy = world.energy().kinetic;
    const Vec3 start = world.momentum().angular;
    double de = 0, dl = 0, turned = 0;
    for (int i = 0; i < 3600; i++) {
        world.step();
        const Vec3 now = world.momentum().angular;
        de = std::max(de, std::fabs(world.energy().kinetic / energy - 1));
        dl = std::max(dl, std::fabs(static_cast<double>(length(now)) / length(start) - 1));
        turned = std::max(turned, std::atan2(static_cast<double>(length(cross(start, now))),
                                             static_cast<double>(dot(start, now))));
    }
    static_cast<void>(box);
    out.at_most("drift of energy", "", de, 0.01, 1e-6);
    out.at_most("drift of angular momentum", "", dl, 0.001, 1e-9);
    out.at_most("its turn", "deg", turned * 180 / kPi, 0.5, 1e-4);
}

void wobbling_plate(Outcome& out) {
    World<3> world = weightless<3>();
    const std::vector<ShapeSpec<3>> shapes{{Cylinder{{0, 0, -0.01f}, {0, 0, 0.01f}, 0.2f}}};
    const BodyId plate =
        world.add({.angular_velocity = {1, 0, 10}, .shapes = shapes, .mass = mass_of(shapes, 1)});
    const Vec3 l = direction(world.momentum().angular, Vec3{});
    const Vec3 u = direction(cross(l, Vec3{0, 1, 0}), Vec3{}), v = cross(l, u);
    double phase = 0, before = 0, cone = 0;
    const int ticks = 600;
    for (int i = 0; i <= ticks; i++) {
        const Vec3 axis = rotate(world.pose(plate).rotation, Vec3{0, 0, 1});
        const double now = std::atan2(static_cast<double>(dot(axis, v)), static_cast<double>(dot(axis, u)));
        if (i > 0) phase += std::remainder(now - before, 2 * kPi);
        before = now;
        cone += std::acos(static_cast<double>(dot(axis, l))) / (ticks + 1);
        if (i < ticks) world.step();
    }
    out.near_share("period of the wobble", "s", 2 * kPi * ticks / 60 / std::fabs(phase), 0.3148106, 0.01,
                   1e-4);
    out.near("half angle of its cone", "deg", cone * 180 / kPi, 2.871931, 0.2, 0.005);
}

inline double angle_about(const World<2>& world, BodyId b) {
    return angle_of(world.pose(b).rotation).in_radians();
}
inline double angle_about(const World<3>& world, BodyId b) {
    const auto r = world.pose(b).rotation;
    return 2 * std::atan2((r.x + r.y + r.z) / std::sqrt(3.0), static_cast<double>(r.w));
}
inline float spin_of(double w, Vec2) { return static_cast<float>(w); }
inline Vec3 spin_of(double w, Vec3) {
    const auto each = static_cast<float>(w / std::sqrt(3.0));
    return {each, each, each};
}

template<int Dim> void spin(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    const std::vector<ShapeSpec<Dim>> shapes{{Ball<Dim>{0.1f}}};
    const auto add_spinning = [&](double w, FreeMotion<Dim> free, double x) {
        return world.add({.pose = {{x, 0}, {}},
                          .angular_velocity = spin_of(w, Vec<Dim>{}),
                          .free = free,
                          .shapes = shapes,
                          .mass = mass_of(shapes, 1)});
    };
    const BodyId lasting = add_spinning(50, {}, 0), damped = add_spinning(30, {.angular_damping = 0.4f}, 1);
    const double start = size_of<Dim>(world.angular_velocity(lasting));
    double turned = 0, before = 0;
    for (int i = 0; i < 300; i++) {
        world.step();
        turned += std::remainder(angle_about(world, damped) - before, 2 * kPi);
        before = angle_about(world, damped);
    }
    const double w5 = size_of<Dim>(world.angular_velocity(damped));
    run(world, 55);
    out.at_most("angle off after 60 s", "rad",
                std::fabs(std::remainder(angle_about(world, lasting) - start * 60, 2 * kPi)), 0.01, 1e-6);
    out.at_most("change of spin", "", std::fabs(size_of<Dim>(world.angular_velocity(lasting)) / start - 1),
                1e-6, 1e-12);
    out.near_share("damped: spin at 5 s", "rad/s", w5, 4.060058497098381, 0.01, 1e-6);
    out.near_share("damped: angle at 5 s", "rad", turned, 64.84985, 0.01, 1e-4);
}

}

std::span<const Case> free_motion_cases() {
    static constexpr std::array kCases{
        Case{"FM01", "Throw without air", 2, false, projectile<2>},
        Case{"FM01", "Throw without air", 3, false, projectile<3>},
        Case{"FM02", "Throw with linear damping", 2, false, damped_projectile<2>},
        Case{"FM02", "Throw with linear damping", 3, false, damped_projectile<3>},
        Case{"FM03", "Fastest fall, linear drag", 2, false, linear_drag<2>},
        Case{"FM03", "Fastest fall, linear drag", 3, false, linear_drag<3>},
        Case{"FM04", "Fastest fall, quadratic drag", 2, false, quadratic_drag<2>},
        Case{"FM04", "Fastest fall, quadratic drag", 3, false, quadratic_drag<3>},
        Case{"FM06", "Flips about the middle axis", 3, false, intermediate_axis},
        Case{"FM07", "Tumbling keeps energy and momentum", 3, false, tumbling_keeps},
        Case{"FM09", "Wobbling plate", 3, false, wobbling_plate},
        Case{"FM14", "Spin, lasting and damped", 2, false, spin<2>},
        Case{"FM14", "Spin, lasting and damped", 3, false, spin<3>},
    };
    return kCases;
}

}
