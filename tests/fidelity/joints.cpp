// JT: chains, springs, motors, limits and loads of joints.
#include "fidelity/joined.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> void spring_and_damper(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    const BodyId body = bob<Dim>(world, {1.1, 0});
    world.add_joint(Spring<Dim>{.joins = {.a = body, .at = Point<Dim>{}},
                                .length = 1.0f,
                                .spring = {.stiffness = 100, .damping = 2}});
    const auto x = [&] { return world.centre_of_mass(body).x - 1; };
    std::vector<double> measured;
    for (const double more : {0.5, 0.5, 1.0}) run(world, more), measured.push_back(x());
    out.near_all("x at 0.5, 1, 2 s", "m", measured,
                 std::array{0.009855066761858594, -0.033685168059041336, 0.007911602361896251}, 0.005, 5e-5);
    World<Dim> second = weightless<Dim>();
    const BodyId other = bob<Dim>(second, {1.1, 0});
    second.add_joint(Spring<Dim>{.joins = {.a = other, .at = Point<Dim>{}},
                                 .length = 1.0f,
                                 .spring = {.frequency = 1.5915494f, .damping_ratio = 0.1f}});
    const auto at = [&] { return second.centre_of_mass(other).x - 1; };
    const auto times = falls(second, 4, at);
    out.near_share("period", "s", (times[3] - times[0]) / 3, 0.6314838833996552, 0.01, 1e-4);
    // Maxima by parabolas through the three highest ticks.
    World<Dim> third = weightless<Dim>();
    const BodyId last = bob<Dim>(third, {1.1, 0});
    third.add_joint(second.joint(second.joints()[0]));
    std::vector<double> values{0.1}, maxima;
    while (third.time() < 2) third.step(), values.push_back(third.centre_of_mass(last).x - 1);
    for (std::size_t i = 1; i + 1 < values.size(); i++) {
        const double p = values[i - 1], q = values[i], r = values[i + 1];
        if (q > p && q >= r && q > 0) maxima.push_back(q - (r - p) * (r - p) / (8 * (p - 2 * q + r)));
    }
    out.near_share("ratio of maxima", "", maxima.size() > 1 ? maxima[1] / maxima[0] : 0, 0.5318020829442597,
                   0.05, 1e-3);
}

template<int Dim> void hanging_chain(Outcome& out) {
    World<Dim> world = falling<Dim>();
    constexpr int kLinks = 20;
    std::vector<BodyId> links;
    // It sets out along two straight lines between its ends.
    const double slope = std::acos(0.6), c = 0.6, s = std::sin(slope);
    const auto corner = [&](int i) {
        return Point<Dim>{-0.6 + 0.1 * c * i, -0.1 * s * std::min(i, kLinks - i)};
    };
    for (int i = 0; i < kLinks; i++) {
        const Point<Dim> p = corner(i), q = corner(i + 1);
        links.push_back(add<Dim>(world, p + (q - p) * 0.5f, sized<Dim>(0.08, 0.02, 0.02), 0.1, {},
                                 tilted<Dim>(std::atan2(q.y - p.y, q.x - p.x))));
        world.set_free_motion(links.back(), {.linear_damping = 2, .angular_damping = 2});
    }
    std::vector<JointId> pins{pin<Dim>(world, {.a = links[0], .at = corner(0)})};
    for (int i = 1; i < kLinks; i++)
        pins.push_back(pin<Dim>(world, {.a = links[static_cast<std::size_t>(i - 1)],
                                        .b = links[static_cast<std::size_t>(i)],
                                        .at = corner(i)}));
    pins.push_back(pin<Dim>(world, {.a = links.back(), .at = corner(kLinks)}));
    run(world, 20);
    for (const BodyId link : links) world.set_free_motion(link, {});
    run(world, 5);
    double gap = 0;
    for (const JointId p : pins) gap = std::max(gap, double{world.joint_state(p).stretch});
    out.near("sag", "m", -world.joint_state(pins[kLinks / 2]).anchor_a.y, 0.7269052321308981, 0.005, 2e-4);
    out.near_share("horizontal pull", "N", std::fabs(double{world.joint_state(pins[0]).force.x}),
                   3.200073026055591, 0.02, 1e-3);
    out.at_most("largest joint gap", "m", gap, 0.001, 1e-6);
}

template<int Dim> struct SliderCrank {
    World<Dim> world = weightless<Dim>();
    BodyId crank, rod, piston;
    JointId drive, slide, end;

    explicit SliderCrank(double speed) {
        crank = add<Dim>(world, {0.05, 0}, sized<Dim>(0.1, 0.02, 0.02), 0.5, {});
        rod = add<Dim>(world, {0.25, 0}, sized<Dim>(0.3, 0.02, 0.02), 0.3, {});
        piston = add<Dim>(world, {0.4, 0}, sized<Dim>(0.08, 0.06, 0.06), 1, {});
        drive = world.add_joint(hinge<Dim>({.a = crank, .at = Point<Dim>{}}, {},
                                           {.most = 1e6f, .speed = static_cast<float>(speed)}));
        world.add_joint(hinge<Dim>({.a = crank, .b = rod, .at = Point<Dim>{0.1, 0}}));
        end = world.add_joint(hinge<Dim>({.a = rod, .b = piston, .at = Point<Dim>{0.4, 0}}));
        slide = world.add_joint(Slider<Dim>{.joins = {.a = piston}});
        const auto w = static_cast<float>(speed);
        world.set_velocity(crank, {0, 0.05f * w}), world.set_angular_velocity(crank, about_z<Dim>(speed));
        world.set_velocity(rod, {0, 0.05f * w}), world.set_angular_velocity(rod, about_z<Dim>(-speed / 3));
    }
    double angle() const {
        const auto r = world.pose(crank).rotation;
        const Vec<Dim> x = rotate(r, Vec<Dim>{1, 0});
        return std::atan2(x.y, x.x);
    }
    double wanted() const {
        const double a = angle(), s = 0.1 * std::sin(a);
        return 0.1 * std::cos(a) + std::sqrt(0.09 - s * s);
    }
    double off() const { return std::fabs(world.joint_state(end).anchor_b.x - wanted()); }
};

template<int Dim> void slider_crank(Outcome& out) {
    SliderCrank<Dim> slow(2 * kPi), fast(20 * kPi);
    double off = 0, fastest = 0;
    std::vector<double> v{slow.world.velocity(slow.piston).x};
    std::vector<double> at;
    while (slow.world.time() < 10) {
        slow.world.step();
        off = std::max(off, slow.off());
        v.push_back(slow.world.velocity(slow.piston).x);
    }
    while (fast.world.time() < 1) fast.world.step(), fastest = std::max(fastest, fast.off());
    out.at_most("error over 10 turns, 60 rpm", "m", off, 0.0005, 1e-6);
    out.at_most("error over 10 turns, 600 rpm", "m", fastest, 0.005, 1e-4);
    // About the end of the second turn: velocities of the ticks before and after.
    out.near_share("piston acceleration at 0 deg, 60 rpm", "m/s2", (v[121] - v[119]) * 30, -5.263789013914325,
                   0.05, 0.002);
    out.holds("ten turns", std::fabs(slow.angle()) < 0.02 && std::fabs(fast.angle()) < 0.3);
}

template<int Dim> void motor(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    // A disc of 1 kg m2 about its axis; its mass is of no meaning.
    MassProperties<Dim> mass = mass_of<Dim>({{Ball<Dim>{0.5f}}}, 4);
    if constexpr (Dim == 2) mass.inertia = 0.5f;
    else mass.moments = {0.5f, 0.5f, 0.5f};
    const BodyId wheel = world.add({.shapes = {{Ball<Dim>{0.5f}}}, .mass = mass});
    world.add_joint(hinge<Dim>({.a = wheel, .at = Point<Dim>{}}, {}, {.most = 2, .speed = 10}));
    const auto speed = [&] { return turning(world.angular_velocity(wheel)); };
    run(world, 2);
    const double rate = speed() / 2, reached = 10 / rate;
    run(world, 3);
    out.near("time to 10 rad/s", "s", reached, 2.5, 0.02, 1e-4);
    out.near("speed at 5 s", "rad/s", speed(), 10, 0.01, 1e-6);

    World<Dim> heavy = falling<Dim>();
    const BodyId rod = add<Dim>(heavy, {0, -0.5}, sized<Dim>(0.02, 1, 0.02), 1, {});
    const JointId joint =
        heavy.add_joint(hinge<Dim>({.a = rod, .at = Point<Dim>{}}, {}, {.most = 4.8f, .speed = 0.05f}));
    double sum = 0, highest = 0;
    int ticks = 0;
    while (heavy.time() < 60) {
        heavy.step();
        const double angle = swing(heavy, rod) * 180 / kPi;
        highest = std::max(highest, angle);
        if (heavy.time() > 40) sum += angle, ticks++;
    }
    out.near("angle where it stalls", "deg", sum / ticks, 78.12344271640693, 3, 0.5);
    out.holds("never over the top", highest < 90);
    out.near("torque that it tells", "N m", std::fabs(double{heavy.joint_state(joint).axes[0].motor}), 4.8,
             1e-3, 1e-5);
}

template<int Dim> void limit(Outcome& out) {
    for (const float e : {0.0f, 0.5f}) {
        World<Dim> world = falling<Dim>();
        const BodyId rod = add<Dim>(world, {0.5, 0}, sized<Dim>(1, 0.02, 0.02), 1, {});
        const auto down = static_cast<float>(kPi / 2);
        world.add_joint(hinge<Dim>({.a = rod, .at = Point<Dim>{}}, {.lower = -down, .restitution = e}));
        double fastest = 0, lowest = 10, rebound = -10;
        bool has_hit = false;
        while (world.time() < 5) {
            world.step();
            const double w = turning(world.angular_velocity(rod)), angle = swing(world, rod);
            fastest = std::max(fastest, std::fabs(w)), lowest = std::min(lowest, angle);
            has_hit = has_hit || w > -1e-3;
            if (has_hit && world.time() < 1.1) rebound = std::max(rebound, angle);
        }
        const double rest = swing(world, rod) * 180 / kPi;
        if (e == 0) {
            out.at_most("overshoot, e = 0", "deg", std::max(0.0, -lowest * 180 / kPi), 0.5, 0.01);
            out.near("rest angle, e = 0", "deg", rest, 0, 0.5, 0.01);
        } else {
            out.near("rebound, e = 0.5", "deg", rebound * 180 / kPi, 41.40962210927086, 1, 0.05);
        }
    }
    // Just before it hits, from the energy that it has after the last free tick.
    World<Dim> world = falling<Dim>();
    const BodyId rod = add<Dim>(world, {0.5, 0}, sized<Dim>(1, 0.02, 0.02), 1, {});
    world.add_joint(hinge<Dim>({.a = rod, .at = Point<Dim>{}}, {.lower = -static_cast<float>(kPi / 2)}));
    double w = 0, energy = 0;
    while (swing(world, rod) > 0.12) world.step();
    energy = world.energy(rod).kinetic + kG * (height(world, rod) + 0.5);
    w = std::sqrt(2 * energy / ((1 + 0.0004) / 12 + 0.25));
    out.near_share("speed before it hits", "rad/s", w, 5.424671169229576, 0.01, 0.001);
}

template<int Dim> void breaking(Outcome& out) {
    const auto hung = [](double mass) {
        World<Dim> world = falling<Dim>();
        const BodyId body = bob<Dim>(world, {0, -1}, mass);
        const JointId rod =
            world.add_joint(Rod<Dim>{.joins = {.a = body, .at = Point<Dim>{}, .breaking_force = 100}});
        double broke = -1;
        while (world.time() < 60 && broke < 0) {
            world.step();
            if (world.joint_state(rod).broken) broke = world.time();
        }
        return broke;
    };
    const auto held_out = [](double arm) {
        World<Dim> world = falling<Dim>();
        const BodyId body = add<Dim>(world, {arm, 0}, sized<Dim>(0.1, 0.1, 0.1), 1, {});
        const JointId weld =
            world.add_joint(Weld<Dim>{.joins = {.a = body, .at = Point<Dim>{}, .breaking_torque = 10}});
        double broke = -1;
        while (world.time() < 60 && broke < 0) {
            world.step();
            if (world.joint_state(weld).broken) broke = world.time();
        }
        return broke;
    };
    const auto breaks = [](double at) { return at >= 0 && at <= 0.1; };
    out.holds("10.1 kg holds, 10.3 kg breaks", hung(10.1) < 0 && breaks(hung(10.3)));
    out.holds("9.81 N m holds, 10.20 N m breaks", held_out(1) < 0 && breaks(held_out(1.04)));
}

template<int Dim> void cantilever(Outcome& out) {
    World<Dim> world = falling<Dim>();
    std::vector<BodyId> cubes;
    std::vector<JointId> welds;
    for (int i = 0; i < 10; i++) {
        const Point<Dim> face{0.1 * i, 0};
        cubes.push_back(add<Dim>(world, face + Vec<Dim>{0.05f, 0}, sized<Dim>(0.1, 0.1, 0.1), 0.1, {}));
        Joined<Dim> joins{.a = cubes.back(), .at = face};
        if (i > 0) joins.b = cubes[cubes.size() - 2];
        welds.push_back(world.add_joint(Weld<Dim>{.joins = joins}));
    }
    run(world, 10);
    const auto at_wall = world.joint_state(welds[0]);
    out.at_most("droop", "m", std::fabs(height(world, cubes.back())), 0.005, 1e-5);
    out.near_share("wall force", "N", std::fabs(double{at_wall.force.y}), 9.81, 0.02, 1e-5);
    out.near_share("wall torque", "N m", std::fabs(double{turning(at_wall.torque)}), 4.905, 0.03, 1e-4);
}

}

std::span<const Case> joint_cases() {
    static constexpr std::array kCases{
        Case{"JT04", "Spring and damper", 2, false, spring_and_damper<2>},
        Case{"JT04", "Spring and damper", 3, false, spring_and_damper<3>},
        Case{"JT06", "Hanging chain", 2, false, hanging_chain<2>},
        Case{"JT06", "Hanging chain", 3, false, hanging_chain<3>},
        Case{"JT07", "Slider and crank", 2, false, slider_crank<2>},
        Case{"JT07", "Slider and crank", 3, false, slider_crank<3>},
        Case{"JT09", "Motor: torque limit and stall", 2, false, motor<2>},
        Case{"JT09", "Motor: torque limit and stall", 3, false, motor<3>},
        Case{"JT10", "Hinge limit", 2, false, limit<2>},
        Case{"JT10", "Hinge limit", 3, false, limit<3>},
        Case{"JT11", "Breaking load", 2, false, breaking<2>},
        Case{"JT11", "Breaking load", 3, false, breaking<3>},
        Case{"JT19", "Welded cantilever", 2, false, cantilever<2>},
        Case{"JT19", "Welded cantilever", 3, false, cantilever<3>},
    };
    return kCases;
}

}
