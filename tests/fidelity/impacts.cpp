// IM: impacts of two bodies and of many at once.
#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

Material bouncing(double restitution, double friction = 0) {
    return {.friction = static_cast<float>(friction), .restitution = static_cast<float>(restitution)};
}

template<int Dim> void central_impacts(Outcome& out) {
    std::vector<double> measured, wanted;
    for (const double m : {0.01, 0.1, 1.0, 10.0, 1000.0})
        for (const double e : {0.0, 0.5, 0.9, 1.0}) {
            World<Dim> world = weightless<Dim>();
            const BodyId a = add<Dim>(world, {-3, 0}, Ball<Dim>{0.5f}, 1, bouncing(e));
            const BodyId b = add<Dim>(world, {0, 0}, Ball<Dim>{0.5f}, m, bouncing(e));
            world.set_velocity(a, {4, 0});
            run(world, 2);
            measured.insert(measured.end(), {world.velocity(a).x, world.velocity(b).x});
            wanted.insert(wanted.end(), {(1 - e * m) * 4 / (1 + m), (1 + e) * 4 / (1 + m)});
        }
    out.near_all("both speeds after, worst of 20 pairs", "m/s", measured, wanted, 0.02, 1e-6);
}

template<int Dim> struct Oblique { Vec<Dim> striker, target; };
// The striker begins a share of a tick's way later.
template<int Dim> Oblique<Dim> oblique(double e, double phase) {
    World<Dim> world = weightless<Dim>();
    const BodyId a = add<Dim>(world, {-3 - phase * 4 / 60, 0.5}, Ball<Dim>{0.5f}, 1, bouncing(e));
    const BodyId b = add<Dim>(world, {0, 0}, Ball<Dim>{0.5f}, 1, bouncing(e));
    world.set_velocity(a, {4, 0});
    run(world, 2);
    return {world.velocity(a), world.velocity(b)};
}

template<int Dim> void oblique_impact(Outcome& out) {
    constexpr int kPhases = 50;
    const std::array<double, 4> wanted{1.3, 1.5588457268119897, 2.7, -1.5588457268119897};
    std::vector<double> striker, target, striker_wanted, target_wanted, angles;
    for (int i = 0; i < kPhases; i++) {
        const auto v = oblique<Dim>(0.8, static_cast<double>(i) / kPhases);
        const auto w = oblique<Dim>(1, static_cast<double>(i) / kPhases);
        striker.insert(striker.end(), {v.striker.x, v.striker.y});
        target.insert(target.end(), {v.target.x, v.target.y});
        striker_wanted.insert(striker_wanted.end(), {wanted[0], wanted[1]});
        target_wanted.insert(target_wanted.end(), {wanted[2], wanted[3]});
        angles.push_back(std::acos(static_cast<double>(dot(w.striker, w.target)) /
                                   (static_cast<double>(length(w.striker)) * length(w.target))) *
                         180 / kPi);
    }
    out.near_all("striker, e = 0.8, worst of 50 starts", "m/s", striker, striker_wanted, 0.04, 1e-4);
    out.near_all("target, e = 0.8, worst of 50 starts", "m/s", target, target_wanted, 0.04, 1e-4);
    out.near_all("angle between them, e = 1, worst of 50 starts", "deg", angles,
                 std::vector<double>(kPhases, 90.0), 1, 0.01);
}

// A ball that is dropped on the ground: the heights of its apexes; when it touched, as its flight after that
// says.
struct Bounces {
    std::vector<double> apexes, touches;
    double rest = 0; // from when on it stays down
};
template<int Dim> Bounces bounces(double e, double seconds) {
    World<Dim> world = falling<Dim>();
    add_ground(world, bouncing(e));
    const BodyId ball = add<Dim>(world, {0, 1.1}, Ball<Dim>{0.1f}, 1, bouncing(e));
    Bounces out;
    double before = 0;
    bool touched = false;
    while (world.time() < seconds) {
        world.step();
        const double v = world.velocity(ball).y, h = world.pose(ball).position.y - 0.1;
        if (before < 0 && v > before + 0.5 * kG / 60 + 1e-3 && !world.contacts().empty()) {
            out.touches.push_back(world.time() - (std::sqrt(v * v + 2 * kG * h) - v) / kG);
            touched = true;
        }
        if (touched && before > 0 && v <= 0) out.apexes.push_back(h + v * v / (2 * kG));
        if (h >= 1e-5) out.rest = world.time();
        before = v;
    }
    return out;
}

template<int Dim> void dropped_ball(Outcome& out) {
    const Bounces b = bounces<Dim>(0.8, 6);
    out.near_all("apexes 1 to 6, worst", "m", b.apexes,
                 std::array{0.64, 0.4096, 0.262144, 0.1677722, 0.1073742, 0.06871948}, 0.02, 0.001);
    out.near_all("touches 1 to 5, worst", "s", b.touches,
                 std::array{0.4515236, 1.173961, 1.751912, 2.214272, 2.58416}, 0.017, 0.001);
    out.near_share("time to rest", "s", b.rest, 4.063712768871579, 0.03, 0.005);
}

template<int Dim> void perfect_bounces(Outcome& out) {
    const Bounces b = bounces<Dim>(1, 60);
    out.near_all("every apex, worst", "m", b.apexes, std::vector<double>(b.apexes.size(), 1.0), 0.02, 1e-4);
    out.near("touch number 60", "s", b.touches.size() < 60 ? std::nan("") : b.touches[59], 53.73131327730198,
             0.3, 0.002);
}

template<int Dim> void rod_off_centre(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    const BodyId rod = add<Dim>(world, {}, sized<Dim>(0.02, 1, 0.02), 1, bouncing(0.5));
    const double d = 0.166733333333333;
    const BodyId ball = add<Dim>(world, {-0.5, d}, Ball<Dim>{0.05f}, 0.2, bouncing(0.5));
    world.set_velocity(ball, {5, 0});
    run(world, 0.2);
    const double v = world.velocity(rod).x, w = turning(world.angular_velocity(rod));
    out.near("rod's speed", "m/s", v, 1.184185596092714, 0.02, 1e-4);
    out.near("rod's spin", "rad/s", w, -2.368371192185428, 0.1, 0.001);
    out.near("ball's speed", "m/s", world.velocity(ball).x, -0.9209279804635688, 0.05, 0.001);
    out.near("far end's speed", "m/s", v + 0.5 * w, 0, 0.03, 0.001);
}

template<int Dim> void grip_and_slip(Outcome& out) {
    const double k = Dim == 2 ? 0.5 : 0.4; // I / m r^2
    for (const double mu : {0.5, 0.05}) {
        World<Dim> world = weightless<Dim>();
        add_ground(world, bouncing(1, mu));
        const BodyId ball = add<Dim>(world, {0, 0.11}, Ball<Dim>{0.1f}, 1, bouncing(1, mu));
        world.set_velocity(ball, {0, -3});
        world.set_angular_velocity(ball, about_z<Dim>(20));
        run(world, 0.5);
        const double push = std::min(2 * k / (1 + k), mu * 2 * 3); // N s for 1 kg
        const std::string which = mu == 0.5 ? "grip: " : "slip: ";
        out.near(which + "speed along", "m/s", -world.velocity(ball).x, push, 0.03, 1e-4);
        out.near(which + "spin", "rad/s", turning(world.angular_velocity(ball)), 20 - push * 0.1 / (k * 0.01),
                 0.3, 0.001);
        out.near(which + "speed up", "m/s", world.velocity(ball).y, 3, 0.02, 1e-5);
    }
}

// `strikers` balls run into a row of five, which touch or stand a gap apart.
template<int Dim> void row(Outcome& out, int strikers, double gap) {
    World<Dim> world = weightless<Dim>();
    std::vector<BodyId> balls;
    for (int i = strikers; i-- > 0;) {
        balls.push_back(add<Dim>(world, {-0.5 - 0.2 * i, 0}, Ball<Dim>{0.1f}, 1, bouncing(1)));
        world.set_velocity(balls.back(), {1, 0});
    }
    for (int i = 0; i < 5; i++)
        balls.push_back(add<Dim>(world, {(0.2 + gap) * i, 0}, Ball<Dim>{0.1f}, 1, bouncing(1)));
    run(world, 2);
    std::vector<double> last;
    double others = 0;
    for (std::size_t i = 0; i < balls.size(); i++) {
        const auto v = world.velocity(balls[i]);
        if (i + static_cast<std::size_t>(strikers) >= balls.size()) last.push_back(v.x);
        else others = std::max(others, static_cast<double>(length(v)));
    }
    const std::string which = std::to_string(strikers) + (strikers == 1 ? " striker" : " strikers") +
                              (gap > 0 ? ", gaps of 0.1 mm: " : ": ");
    out.near_all(which + "last", "m/s", last, std::vector<double>(last.size(), 1.0), 0.05, 0.001);
    out.at_most(which + "any other", "m/s", others, 0.05, 0.001);
}

template<int Dim> void chain_of_balls(Outcome& out) {
    for (const double gap : {0.0, 1e-4})
        for (const int strikers : {1, 2}) row<Dim>(out, strikers, gap);
}

template<int Dim> void one_against_two(Outcome& out) {
    double apart = 0;
    for (const double e : {1.0, 0.0}) {
        World<Dim> world = weightless<Dim>();
        const BodyId up = add<Dim>(world, {0, 0.5}, Ball<Dim>{0.5f}, 1, bouncing(e));
        const BodyId down = add<Dim>(world, {0, -0.5}, Ball<Dim>{0.5f}, 1, bouncing(e));
        const BodyId striker = add<Dim>(world, {-3, 0}, Ball<Dim>{0.5f}, 1, bouncing(e));
        world.set_velocity(striker, {1, 0});
        run(world, 4);
        const double c = std::sqrt(3.0) / 2, wanted = (1 + e) * c / (1 + 2 * c * c);
        const std::string which = e == 1 ? "e = 1: " : "e = 0: ";
        out.near(which + "striker", "m/s", world.velocity(striker).x, 1 - 2 * c * wanted, 0.02, 1e-4);
        out.near_all(which + "targets", "m/s",
                     std::array<double, 2>{length(world.velocity(up)), length(world.velocity(down))},
                     std::array{wanted, wanted}, 0.02, 1e-4);
        apart =
            std::max(apart, std::fabs(static_cast<double>(world.velocity(up).y) + world.velocity(down).y));
    }
    out.at_most("targets' speeds across, summed", "m/s", apart, 0.001, 1e-9);
}

template<int Dim> void slanted_rod(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    add_ground(world, bouncing(0.5));
    const double a = kPi / 6, low = 0.5 * std::sin(a) + 0.01 * std::cos(a);
    const BodyId rod =
        add<Dim>(world, {0, low + 0.05}, sized<Dim>(1, 0.02, 0.2), 1, bouncing(0.5), tilted<Dim>(a));
    world.set_velocity(rod, {0, -4});
    run(world, 2.0 / 60);
    out.near("speed up", "m/s", world.velocity(rod).y, -2.123510238344947, 0.05, 0.001);
    out.near("spin", "rad/s", size_of<Dim>(world.angular_velocity(rod)), 9.634083801987996, 0.1, 0.002);
    out.near("speed along", "m/s", world.velocity(rod).x, 0, 0.01, 1e-6);
}

template<int Dim> void flat_box(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    add_ground(world, bouncing(0.5, 0.5));
    const BodyId box = add<Dim>(world, {0, 0.25}, sized<Dim>(1, 0.4, 1), 5, bouncing(0.5, 0.5));
    world.set_velocity(box, {0, -3});
    run(world, 0.2);
    out.near("speed up", "m/s", world.velocity(box).y, 1.5, 0.03, 1e-4);
    out.at_most("spin", "rad/s", size_of<Dim>(world.angular_velocity(box)), 0.01, 1e-8);
    out.at_most("speed along", "m/s", std::fabs(world.velocity(box).x), 0.001, 1e-9);
}

// A ball of hard rubber between a floor and a ceiling (Garwin 1969, Am. J. Phys. 37, 88).
void superball(Outcome& out) {
    World<3> world = weightless<3>();
    const Material rubber{.friction = 10, .restitution = 1, .tangential_restitution = 1};
    add_ground(world, rubber);
    add_fixed<3>(world, {0, 1.5, 0}, sized<3>(20, 1, 20), rubber);
    const BodyId ball = add<3>(world, {0, 0.5, 0}, Sphere{0.05f}, 1, rubber);
    world.set_velocity(ball, {3, -4, 0});
    run(world, 0.2);
    out.near("speed along after one bounce", "m/s", world.velocity(ball).x, 9.0 / 7, 0.02, 1e-4);
    out.near("spin after one bounce", "rad/s", length(world.angular_velocity(ball)), 30 / 0.35, 0.5, 0.01);
    run(world, 0.2);
    out.near("speed along after the ceiling", "m/s", world.velocity(ball).x, -93.0 / 49, 0.04, 1e-3);
}

template<int Dim> void piston(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    add_fixed<Dim>(world, {-0.5, 0}, sized<Dim>(1, 1, 1), bouncing(1));
    world.add({.motion = Motion::Kinematic,
               .pose = {{1.5, 0}, {}},
               .velocity = {-0.1f, 0},
               .shapes = {{sized<Dim>(1, 1, 1), bouncing(1)}}});
    const BodyId ball = add<Dim>(world, {0.5, 0}, Ball<Dim>{0.05f}, 1, bouncing(1));
    world.set_velocity(ball, {2, 0});
    run(world, 5);
    out.near("speed at 5 s", "m/s", length(world.velocity(ball)), 4.6, 0.21, 1e-6);
    out.near("place at 5 s", "m", world.pose(ball).position.x, 0.1, 1, 0.005);
    // The place has no tolerance that must hold: 13 bounces lie before it.
}

}

std::span<const Case> impact_cases() {
    static constexpr std::array kCases{
        Case{"IM01", "Central impacts", 2, false, central_impacts<2>},
        Case{"IM01", "Central impacts", 3, false, central_impacts<3>},
        Case{"IM02", "Oblique impact", 2, false, oblique_impact<2>},
        Case{"IM02", "Oblique impact", 3, false, oblique_impact<3>},
        Case{"IM03", "Dropped ball", 2, false, dropped_ball<2>},
        Case{"IM03", "Dropped ball", 3, false, dropped_ball<3>},
        Case{"IM04", "Perfect bounces for 60 s", 2, false, perfect_bounces<2>},
        Case{"IM04", "Perfect bounces for 60 s", 3, false, perfect_bounces<3>},
        Case{"IM05", "Free rod struck off its centre", 2, false, rod_off_centre<2>},
        Case{"IM05", "Free rod struck off its centre", 3, false, rod_off_centre<3>},
        Case{"IM07", "Spinning ball grips or slips", 2, false, grip_and_slip<2>},
        Case{"IM07", "Spinning ball grips or slips", 3, false, grip_and_slip<3>},
        Case{"IM08", "Ball of hard rubber under a ceiling", 3, false, superball},
        Case{"IM10", "Row of five equal balls", 2, false, chain_of_balls<2>},
        Case{"IM10", "Row of five equal balls", 3, false, chain_of_balls<3>},
        Case{"IM11", "One ball against two", 2, false, one_against_two<2>},
        Case{"IM11", "One ball against two", 3, false, one_against_two<3>},
        Case{"IM14", "Slanted rod on a slick floor", 2, false, slanted_rod<2>},
        Case{"IM14", "Slanted rod on a slick floor", 3, false, slanted_rod<3>},
        Case{"IM15", "Flat box", 2, false, flat_box<2>},
        Case{"IM15", "Flat box", 3, false, flat_box<3>},
        Case{"IM17", "Ball between a wall and a piston", 2, false, piston<2>},
        Case{"IM17", "Ball between a wall and a piston", 3, false, piston<3>},
    };
    return kCases;
}

}
