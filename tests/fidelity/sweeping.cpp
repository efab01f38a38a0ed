// CC: fast bodies and thin walls.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> void thin_wall(Outcome& out) {
    int passed = 0;
    std::vector<double> returned, gaps, along, ones, kept;
    for (const double e : {0.0, 1.0})
        for (const double speed : {10.0, 30.0, 100.0, 300.0, 1000.0})
            for (const double angle : {0.0, 60.0})
                for (int k = 0; k < 10; k++) {
                    World<Dim> world = weightless<Dim>();
                    const Material m{.friction = 0, .restitution = static_cast<float>(e)};
                    add_fixed<Dim>(world, {0.0005, 0}, sized<Dim>(0.001, 1, 1), m);
                    const double a = angle * kPi / 180, way = 1 + 0.005 * k;
                    const BodyId ball =
                        add<Dim>(world, {-way, -way * std::tan(a)}, Ball<Dim>{0.005f}, 0.01, m);
                    const Vec<Dim> v{static_cast<float>(speed * std::cos(a)),
                                     static_cast<float>(speed * std::sin(a))};
                    world.set_velocity(ball, v);
                    // Until it has met the wall, and a little on.
                    const auto ticks = static_cast<int>(way / (v.x / 60)) + 2;
                    for (int i = 0; i < ticks; i++) {
                        world.step();
                        if (world.velocity(ball).x < 0.5f * v.x) break;
                    }
                    const double x = world.pose(ball).position.x;
                    passed += x > -0.005 + 1e-3;
                    if (e == 1) returned.push_back(-world.velocity(ball).x / v.x), ones.push_back(1);
                    else {
                        gaps.push_back(std::fabs(-x - 0.005));
                        if (angle > 0)
                            along.push_back(world.velocity(ball).y / speed), kept.push_back(0.8660254);
                    }
                }
    out.at_most("shots passed, of 200", "", passed, 0, 0);
    out.near_all("speed after over before, e = 1", "", returned, ones, 0.01, 1e-6);
    out.near_all("gap at the end, e = 0", "m", gaps, std::vector<double>(gaps.size()), 0.001, 1e-5);
    out.near_all("speed along, of the whole, e = 0", "", along, kept, 0.01, 1e-6);
}

template<int Dim> void time_of_two_balls(Outcome& out) {
    const Geometry<Dim> a = Ball<Dim>{Dim == 2 ? 0.5f : 0.4f}, b = Ball<Dim>{Dim == 2 ? 0.25f : 0.2f};
    Moving<Dim> first, second;
    if constexpr (Dim == 2) first.velocity = {10, 0}, second = {{{5, 0.3}, {}}, {-20, 2}};
    else first.velocity = {20, 0, 0}, second = {{{4, 1, -1}, {}}, {-20, -9, 11}};
    const auto met = time_of_impact(a, first, b, second, 1);
    const double wanted = Dim == 2 ? 0.15183079889215584 : 0.08615250742858853;
    out.near("time", "s", met ? met->time : -1, wanted, 1e-4, 1e-9);
    // What starts at the same places in a world meets there too: it flies on unchanged until that very time.
    World<Dim> world = weightless<Dim>();
    const BodyId striker = add<Dim>(world, first.from.position, a, 1, {.restitution = 1});
    const BodyId target = add<Dim>(world, second.from.position, b, 1, {.restitution = 1});
    world.set_velocity(striker, first.velocity), world.set_velocity(target, second.velocity);
    run(world, 0.2);
    const Vec<Dim> change = world.velocity(striker) - first.velocity;
    const double along = dot(change, first.velocity) / length(first.velocity);
    const double way = dot(world.pose(striker).position - first.from.position, first.velocity) /
                       static_cast<double>(length(first.velocity));
    const double speed = length(first.velocity);
    out.near("place of the first at impact, in a world", "m", speed * (0.2 - (way - speed * 0.2) / along),
             speed * wanted, 0.001, 1e-8);
}

template<int Dim> void time_used_up(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    add_fixed<Dim>(world, {5.37 + 0.5, 0}, sized<Dim>(1, 10, 10), {.restitution = 1});
    const BodyId ball = add<Dim>(world, {0, 0}, Ball<Dim>{0.1f}, 1, {.restitution = 1});
    world.set_velocity(ball, {100, 0});
    run(world, 0.1);
    out.near("distance from the wall", "m", 5.37 - world.pose(ball).position.x, 4.83, 0.05, 1e-4);
}

template<int Dim> void shots_in_a_box(Outcome& out) {
    const Material m{.friction = 0.3f, .restitution = 0.5f};
    Draws draws(7);
    int escaped = 0;
    double gained = 0;
    World<Dim> world = weightless<Dim>();
    for (const double x : {-1.005, 1.005}) {
        add_fixed<Dim>(world, {x, 0}, sized<Dim>(0.01, 2.02, 2.02), m);
        add_fixed<Dim>(world, {0, x}, sized<Dim>(2.02, 0.01, 2.02), m);
        if constexpr (Dim == 3) add_fixed<3>(world, {0, 0, x}, sized<3>(2.02, 2.02, 0.01), m);
    }
    for (int shot = 0; shot < 10000; shot++) {
        Point<Dim> at{};
        Vec<Dim> way{};
        for (int k = 0; k < Dim; k++)
            at[k] = draws.in(-0.5, 0.5), way[k] = static_cast<float>(draws.in(-1, 1));
        Geometry<Dim> shape = Ball<Dim>{0.02f};
        if (shot % 3 == 1) shape = sized<Dim>(0.05, 0.02, 0.03);
        if (shot % 3 == 2) shape = Capsule<Dim>{{-0.03f, 0}, {0.03f, 0}, 0.01f};
        const BodyId body = add<Dim>(world, at, shape, 1, m);
        const double speed = 10 * std::pow(100.0, draws.next());
        world.set_velocity(body, direction(way, Vec<Dim>{1, 0}) * static_cast<float>(speed));
        Axial<Dim> spin{};
        if constexpr (Dim == 2) spin = static_cast<float>(draws.in(-200, 200));
        else
            for (int k = 0; k < 3; k++) spin[k] = static_cast<float>(draws.in(-115, 115));
        world.set_angular_velocity(body, spin);
        const double before = world.energy(body).kinetic;
        run(world, 1);
        for (int k = 0; k < Dim; k++)
            if (!(std::fabs(world.pose(body).position[k]) < 1)) {
                escaped++;
                break;
            }
        gained = std::max(gained, world.energy(body).kinetic / before);
        world.remove(body);
    }
    out.at_most("escaped, of 10000", "", escaped, 0, 0);
    out.at_most("energy after over before, most", "", gained, 1.001, 1);
}

template<int Dim> void through_the_slot(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    for (const double y : {-1.105, 1.105}) {
        add_fixed<Dim>(world, {5, y}, sized<Dim>(1, 2, 2), {});
        if constexpr (Dim == 3) add_fixed<3>(world, {5, 0, y}, sized<3>(1, 0.21, 2), {});
    }
    const BodyId ball = add<Dim>(world, {0, 0}, Ball<Dim>{0.1f}, 1, {});
    world.set_velocity(ball, {100, 0});
    run(world, 0.2);
    out.at_most("change of velocity", "m/s", length(world.velocity(ball) - Vec<Dim>{100, 0}), 1e-6, 1e-12);
    out.holds("passes", world.pose(ball).position.x > 19);
}

template<int Dim> void over_seams(Outcome& out) {
    double lost = 0, lifted = 0, spun = 0;
    for (const double speed : {7.0, 30.0})
        for (const bool round : {false, true}) {
            World<Dim> world = falling<Dim>();
            const Material slick{.friction = 0};
            for (int i = 0; i < 100; i++)
                add_fixed<Dim>(world, {0.5 * i, -0.25}, sized<Dim>(0.5, 0.5, 2), slick);
            const BodyId body = round ? add<Dim>(world, {1, 0.2}, Ball<Dim>{0.2f}, 1, slick)
                                      : add<Dim>(world, {1, 0.2}, sized<Dim>(0.4, 0.4, 0.4), 1, slick);
            run(world, 0.25);
            const double height = world.pose(body).position.y;
            world.set_velocity(body, {static_cast<float>(speed), 0});
            const int ticks = speed > 10 ? 90 : 300;
            for (int i = 0; i < ticks; i++) {
                world.step();
                lifted = std::max(lifted, std::fabs(world.pose(body).position.y - height));
                spun = std::max(spun, size_of<Dim>(world.angular_velocity(body)));
            }
            lost = std::max(lost, std::fabs(speed - world.velocity(body).x));
        }
    out.at_most("loss of speed", "m/s", lost, 0.001, 1e-9);
    out.at_most("change of height", "m", lifted, 0.001, 1e-7);
    out.at_most("spin", "rad/s", spun, 0.01, 1e-9);
}

// A rod on a hinge that turns a radian a tick and more, and a pin in its way.
template<int Dim> void rod_and_pin(Outcome& out) {
    const auto pin_shape = [] {
        if constexpr (Dim == 2) return Circle{0.005f};
        else return Cylinder{{0, 0, -0.5f}, {0, 0, 0.5f}, 0.005f};
    };
    double contact = -1, rest = 0;
    bool passes = false;
    for (const double spin : {15.0, 30.0, 60.0, 120.0, 240.0}) {
        World<Dim> world = weightless<Dim>();
        const Material m{.friction = 0, .restitution = 0};
        const BodyId rod = add<Dim>(world, {}, Capsule<Dim>{{0, 0}, {1, 0}, 0.005f}, 1, m);
        add_fixed<Dim>(world, {0, 0.95}, pin_shape(), m);
        Hinge<Dim> hinge;
        hinge.joins = {.a = rod, .at = Point<Dim>{}};
        world.add_joint(hinge);
        world.set_angular_velocity(rod, about_z<Dim>(spin));
        world.set_velocity(rod, {0, static_cast<float>(0.5 * spin)});
        double angle = 0, last = 0, met = -1;
        while (world.time() < 1) {
            world.step();
            const Vec<Dim> x = rotate(world.pose(rod).rotation, Vec<Dim>{1, 0});
            angle += std::remainder(std::atan2(x.y, x.x) - last, 2 * kPi), last = std::atan2(x.y, x.x);
            passes = passes || angle > (89.39687539305633 + 0.2) * kPi / 180;
            for (const auto& c : world.contacts())
                if (met < 0 && length(c.impulse) > 0) met = world.time();
            if (spin == 60 && met > 0 && world.time() < met + 0.1) rest = angle * 180 / kPi;
        }
        if (spin == 60) contact = met;
    }
    out.near("contact time, to a tick", "s", contact, 0.026004496943398882, 0.017, 1e-5);
    out.near("angle 0.1 s after it", "deg", rest, 89.39687539305633, 0.3, 0.01);
    out.holds("never passes, at 15 to 240 rad/s", !passes);
}

}

std::span<const Case> sweeping_cases() {
    static constexpr std::array kCases{
        Case{"CC02", "Turning rod and pin", 2, false, rod_and_pin<2>},
        Case{"CC02", "Turning rod and pin", 3, false, rod_and_pin<3>},
        Case{"CC01", "Bullet against a wall of 1 mm", 2, false, thin_wall<2>},
        Case{"CC01", "Bullet against a wall of 1 mm", 3, false, thin_wall<3>},
        Case{"CC04", "Time of impact of two balls", 2, false, time_of_two_balls<2>},
        Case{"CC04", "Time of impact of two balls", 3, false, time_of_two_balls<3>},
        Case{"CC05", "The time after an impact is used", 2, false, time_used_up<2>},
        Case{"CC05", "The time after an impact is used", 3, false, time_used_up<3>},
        Case{"CC08", "10000 shots in a box", 2, true, shots_in_a_box<2>},
        Case{"CC08", "10000 shots in a box", 3, true, shots_in_a_box<3>},
        Case{"CC11", "Through the slot", 2, false, through_the_slot<2>},
        Case{"CC11", "Through the slot", 3, false, through_the_slot<3>},
        Case{"CC12", "Sliding over seams", 2, false, over_seams<2>},
        Case{"CC12", "Sliding over seams", 3, false, over_seams<3>},
    };
    return kCases;
}

}
