// FR: friction, rolling, toppling.
#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

Material rubbing(double friction) { return {.friction = static_cast<float>(friction)}; }

// A body that lies on a slope falling to the right, its centre `height` above it.
template<int Dim> Point<Dim> above_slope(double slope, double height) {
    return {height * std::sin(slope), height * std::cos(slope)};
}
template<int Dim> double down_slope(const Point<Dim>& p, double slope) {
    return p.x * std::cos(slope) - p.y * std::sin(slope);
}

Rotation<2> yawed(double, Rotation<2> r) { return r; }
Rotation<3> yawed(double yaw, Rotation<3> r) { return r * turned(radians(yaw), {0, 1, 0}); }
double sideways(const Point<2>&) { return 0; }
double sideways(const Point<3>& p) { return std::fabs(p.z); }

template<int Dim> void critical_slope(Outcome& out) {
    double creep = 0, slid = 0, aside = 0, slid_off = 0;
    const std::vector<double> yaws = Dim == 2 ? std::vector<double>{0} : std::vector<double>{0, kPi / 6};
    for (const double yaw : yaws)
        for (const double degrees : {26.0651, 27.0652}) {
            const double slope = degrees * kPi / 180;
            World<Dim> world = falling<Dim>();
            add_ground(world, rubbing(0.5), -slope);
            const auto at = above_slope<Dim>(slope, 0.1);
            const BodyId box =
                add<Dim>(world, at, sized<Dim>(1, 0.2, 1), 1, rubbing(0.5), yawed(yaw, tilted<Dim>(-slope)));
            run(world, degrees < 26.5 ? 10 : 2);
            const auto now = world.pose(box).position;
            aside = std::max(aside, sideways(now));
            if (degrees < 26.5) creep = std::max(creep, static_cast<double>(length(now - at)));
            else if (slid = down_slope(now, slope) - down_slope(at, slope);
                     std::fabs(slid - 0.19148074681675542) >= std::fabs(slid_off - 0.19148074681675542) ||
                     slid_off == 0)
                slid_off = slid;
        }
    out.at_most("creep at 26.0651 deg in 10 s", "m", creep, 0.001, 1e-6);
    out.near("slide at 27.0652 deg in 2 s", "m", slid_off, 0.19148074681675542, 0.02, 0.001);
    if (Dim == 3) out.at_most("drift aside", "m", aside, 0.01, 1e-5);
}

// The time at which something that slows down by a constant rate comes to rest, within the tick: the last
// speed above `still` over the rate.
template<int Dim> double stopping_time(World<Dim>& world, BodyId body, double rate, double most) {
    double at = 0;
    while (world.time() < most) {
        world.step();
        const double v = length(world.velocity(body));
        if (v > 0.02) at = world.time() + v / rate;
    }
    return at;
}

void isotropy(Outcome& out) {
    const double distance = 1.529051987767584, time = 1.019367991845056;
    std::vector<double> distances, times;
    double astray = 0;
    for (const double yaw : {0.0, 20.0})
        for (int angle = 0; angle <= 90; angle += 15) {
            World<3> world = falling<3>();
            add_ground(world, rubbing(0.3));
            const BodyId cube = add<3>(world, {0, 0.25}, sized<3>(0.5, 0.5, 0.5), 2, rubbing(0.3),
                                       turned(degrees(yaw), {0, 1, 0}));
            const double a = angle * kPi / 180;
            world.set_velocity(cube,
                               {static_cast<float>(3 * std::cos(a)), 0, static_cast<float>(3 * std::sin(a))});
            times.push_back(stopping_time(world, cube, 0.3 * kG, 1.5));
            const Vec3 moved = world.pose(cube).position - Point3{0, 0.25, 0};
            distances.push_back(length(moved));
            astray = std::max(
                astray,
                std::fabs(std::atan2(static_cast<double>(moved.z), static_cast<double>(moved.x)) - a));
        }
    double worst_distance = distances[0], worst_time = times[0];
    for (std::size_t i = 0; i < times.size(); i++) {
        if (std::fabs(distances[i] - distance) > std::fabs(worst_distance - distance))
            worst_distance = distances[i];
        if (std::fabs(times[i] - time) > std::fabs(worst_time - time)) worst_time = times[i];
    }
    out.near_share("distance, worst of 14", "m", worst_distance, distance, 0.02, 0.001);
    out.near_share("time, worst of 14", "s", worst_time, time, 0.02, 0.002);
    out.at_most("deviation of the path", "deg", astray * 180 / kPi, 1, 0.01);
}

template<int Dim> void stopping_distance(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(0.4));
    const BodyId box = add<Dim>(world, {0, 0.25}, sized<Dim>(1, 0.5, 1), 3, rubbing(0.4));
    world.set_velocity(box, {5, 0});
    const double time = stopping_time(world, box, 0.4 * kG, 1.4);
    out.near("distance", "m", world.pose(box).position.x, 3.1855249745158, 0.03, 0.001);
    out.near("time", "s", time, 1.27420998980632, 0.02, 0.002);
    out.at_most("speed 0.1 s after", "m/s", length(world.velocity(box)), 0.001, 1e-9);
}

template<int Dim> void sliding_to_rolling(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(0.2));
    const BodyId ball = add<Dim>(world, {0, 0.1}, Ball<Dim>{0.1f}, 1, rubbing(0.2));
    world.set_velocity(ball, {7, 0});
    const double k = Dim == 2 ? 0.5 : 0.4, time = 7 * k / (1 + k) / (0.2 * kG), speed = 7 / (1 + k);
    // It slides at v + w r > 0 until that is gone; within the tick by its rate, mu g (1 + 1/k).
    double rolling = 0, x = 0;
    while (world.time() < 2) {
        world.step();
        const double slip = world.velocity(ball).x + 0.1 * turning(world.angular_velocity(ball));
        if (slip < 0.02) continue;
        const double left = slip / (0.2 * kG * (1 + 1 / k));
        rolling = world.time() + left;
        x = world.pose(ball).position.x + world.velocity(ball).x * left - 0.1 * kG * left * left;
    }
    const double v = world.velocity(ball).x;
    out.near("time until it rolls", "s", rolling, time, 0.02, 0.002);
    out.near("speed then", "m/s", v, speed, 0.02, 1e-4);
    if (Dim == 3) out.near("place then", "m", x, 6.116207951070336, 0.1, 0.005);
    run(world, 10);
    out.at_most("speed lost in the next 10 s", "m/s", std::fabs(v - world.velocity(ball).x), 0.02, 1e-6);
}

MassProperties<2> round_mass(double k, Vec2) { return {.mass = 1, .inertia = static_cast<float>(k * 0.04)}; }
MassProperties<3> round_mass(double k, Vec3) {
    const auto i = static_cast<float>(k * 0.04);
    return {.mass = 1, .moments = {i, i, i}};
}

template<int Dim> void rolls_down(Outcome& out, const char* name, Geometry<Dim> shape, double k) {
    const double slope = 20 * kPi / 180;
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(0.8), -slope);
    const auto at = above_slope<Dim>(slope, 0.2);
    const BodyId body = world.add(
        {.pose = {at, {}}, .shapes = {{std::move(shape), rubbing(0.8)}}, .mass = round_mass(k, Vec<Dim>{})});
    run(world, 2);
    out.near_share(name, "m", down_slope(world.pose(body).position, slope) - down_slope(at, slope),
                   kG * std::sin(slope) * 2 / (1 + k), 0.01, 1e-4);
}

void rolling_down_plane(Outcome& out) {
    rolls_down<2>(out, "disc", Circle{0.2f}, 0.5);
    rolls_down<2>(out, "hoop", Circle{0.2f}, 1);
}

void rolling_down_space(Outcome& out) {
    const Cylinder log{{0, 0, -0.2f}, {0, 0, 0.2f}, 0.2f};
    rolls_down<3>(out, "sphere", Sphere{0.2f}, 0.4);
    rolls_down<3>(out, "cylinder", log, 0.5);
    rolls_down<3>(out, "shell", Sphere{0.2f}, 2.0 / 3);
    rolls_down<3>(out, "hoop", log, 1);
}

template<int Dim> double pushed(double force, double seconds) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(0.5));
    const BodyId box = add<Dim>(world, {0, 0.25}, sized<Dim>(1, 0.5, 1), 10, rubbing(0.5));
    world.set_thrust(box, {.force = {static_cast<float>(force), 0}, .turns_with_body = false});
    run(world, seconds);
    return world.pose(box).position.x;
}

template<int Dim> void push_at_the_limit(Outcome& out) {
    out.at_most("48 N: moved in 10 s", "m", std::fabs(pushed<Dim>(48, 10)), 0.001, 1e-6);
    out.near("50 N: moved in 5 s", "m", pushed<Dim>(50, 5), 1.1875, 0.05, 0.002);
}

double tilt(Rotation<2> r) { return std::fabs(angle_of(r).in_degrees()); }
double tilt(Rotation<3> r) { return std::fabs(angle_of(r).in_degrees()); }

template<int Dim> struct OnSlope { double moved, tilted; };
template<int Dim> OnSlope<Dim> tall_box(double degrees, double mu, double seconds) {
    const double slope = degrees * kPi / 180;
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(mu), -slope);
    const auto at = above_slope<Dim>(slope, 0.25);
    const BodyId box = add<Dim>(world, at, sized<Dim>(0.2, 0.5, 0.5), 1, rubbing(mu), tilted<Dim>(-slope));
    run(world, seconds);
    const auto now = world.pose(box);
    return {down_slope(now.position, slope) - down_slope(at, slope), tilt(tilted<Dim>(slope) * now.rotation)};
}

template<int Dim> void topple_or_slide(Outcome& out) {
    out.holds("stands at 21.30 deg", tall_box<Dim>(21.30, 0.8, 10).tilted < 0.1);
    out.holds("topples at 22.30 deg", tall_box<Dim>(22.30, 0.8, 10).tilted > 45);
    const auto gentle = tall_box<Dim>(20, 0.3, 1), steep = tall_box<Dim>(25, 0.3, 1);
    out.near("slides in 1 s, 20 deg", "m", gentle.moved, 0.2948511115259409, 0.01, 0.0005);
    out.near("slides in 1 s, 25 deg", "m", steep.moved, 0.7393106652137006, 0.02, 0.001);
    out.at_most("tilt while it slides", "deg", std::max(gentle.tilted, steep.tilted), 1, 0.01);
}

// How far the foot of a ladder has gone, m.
double ladder(double degrees, double wall, double floor, double seconds) {
    const double a = degrees * kPi / 180, r = 0.02;
    World<2> world = falling<2>();
    add_ground(world, rubbing(floor));
    add_fixed<2>(world, {}, HalfPlane{{1, 0}}, rubbing(wall));
    const std::vector<ShapeSpec<2>> shapes{{Capsule2{{-2, 0}, {2, 0}, 0.02f}, rubbing(floor)}};
    const BodyId body = world.add(
        {.pose = {{r + 2 * std::cos(a), r + 2 * std::sin(a)}, turned(astasis::degrees(180 - degrees))},
         .shapes = shapes,
         .mass = mass_of(shapes, 10)});
    const Point2 foot = to_world(world.pose(body), Vec2{-2, 0});
    run(world, seconds);
    return length(to_world(world.pose(body), Vec2{-2, 0}) - foot);
}

void ladders(Outcome& out) {
    const double a = 51.161229506375626, b = 56.396507846804155;
    out.holds("smooth wall: holds at 1 deg above the critical angle", ladder(a + 1, 0, 0.4, 10) < 0.005);
    out.holds("smooth wall: slides at 1 deg below", ladder(a - 1, 0, 0.4, 5) > 0.1);
    out.holds("rough wall: holds at 1 deg above", ladder(b + 1, 0.3, 0.3, 10) < 0.005);
    out.holds("rough wall: slides at 1 deg below", ladder(b - 1, 0.3, 0.3, 5) > 0.1);
    out.holds_best("the same with 0.2 deg",
                   ladder(a + 0.2, 0, 0.4, 10) < 0.005 && ladder(a - 0.2, 0, 0.4, 5) > 0.1 &&
                       ladder(b + 0.2, 0.3, 0.3, 10) < 0.005 && ladder(b - 0.2, 0.3, 0.3, 5) > 0.1);
}

template<int Dim> void belt(Outcome& out) {
    World<Dim> world = falling<Dim>();
    world.add(
        {.motion = Motion::Static,
         .shapes = {{.geometry = HalfSpace<Dim>{}, .material = rubbing(0.4), .surface_velocity = {2, 0}}}});
    const BodyId box = add<Dim>(world, {0, 0.1}, sized<Dim>(0.3, 0.2, 0.3), 2, rubbing(0.4));
    double time = 0, x = 0;
    while (world.time() < 1.5) {
        world.step();
        const double slip = 2 - world.velocity(box).x;
        if (slip < 0.02) continue;
        const double left = slip / (0.4 * kG);
        time = world.time() + left;
        x = world.pose(box).position.x + 2 * left - 0.2 * kG * left * left;
    }
    out.near("time to the belt's speed", "s", time, 0.509683995922528, 0.02, 0.002);
    out.near("distance until then", "m", x, 0.509683995922528, 0.02, 0.001);
    out.at_most("slip afterwards", "m/s", std::fabs(2 - world.velocity(box).x), 0.001, 1e-7);
}

void turntable(Outcome& out) {
    World<3> world = falling<3>();
    world.add({.motion = Motion::Kinematic,
               .pose = {{0, -0.1}, {}},
               .angular_velocity = {0, 7, 0},
               .shapes = {{Cylinder{{0, -0.1f, 0}, {0, 0.1f, 0}, 2}, rubbing(1)}}});
    const BodyId ball = add<3>(world, {0.5, 0.1, 0}, Sphere{0.1f}, 1, rubbing(1));
    world.set_velocity(ball, {0, 0, -0.2f});
    world.set_angular_velocity(ball, {33, 0, 0});
    const Point3 centre{0.4, 0.1, 0};
    double phase = 0, before = 0, period = 0, low = 1, high = -1;
    Point3 last{}, at_period{};
    for (int i = 0; i < 200 && period == 0; i++) {
        last = world.pose(ball).position;
        world.step();
        const Point3 p = world.pose(ball).position;
        low = std::min(low, p.x), high = std::max(high, p.x);
        const double now = std::atan2(centre.z - p.z, p.x - centre.x);
        const double step = std::remainder(now - before, 2 * kPi);
        before = now, phase += step;
        if (phase < 2 * kPi) continue;
        const double share = 1 - (phase - 2 * kPi) / step; // of the tick
        period = world.time() - (1 - share) / 60;
        at_period = last + (p - last) * static_cast<float>(share);
    }
    out.near_share("period", "s", period, kPi, 0.01, 0.001);
    out.at_most("distance from the start after it", "m", length(at_period - Point3{0.5, 0.1, 0}), 0.01,
                0.0005);
    out.near("radius of the orbit", "m", 0.5 * (high - low), 0.1, 0.005, 0.0002);
}

void spinning_drum(Outcome& out) {
    World<3> world = falling<3>();
    add_ground(world, rubbing(0.3));
    const BodyId drum =
        add<3>(world, {0, 0.02}, Cylinder{{0, -0.02f, 0}, {0, 0.02f, 0}, 0.2f}, 2, rubbing(0.3));
    world.set_angular_velocity(drum, {0, 20, 0});
    double time = 0;
    while (world.time() < 3) {
        world.step();
        if (length(world.angular_velocity(drum)) > 0.05) time = world.time();
    }
    const auto at = world.pose(drum).position;
    out.near_share("time to stop", "s", time, 1.0193679918450562, 0.4, 0.05);
    out.at_most("drift of the centre", "m", std::hypot(at.x, at.z), 0.01, 1e-4);
}

template<int Dim> struct OnPlank { double block, plank, slip; };
template<int Dim> OnPlank<Dim> pulled_plank(double force, double seconds) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rubbing(0));
    const BodyId plank = add<Dim>(world, {0, 0.05}, sized<Dim>(3, 0.1, 0.5), 4, rubbing(0.3));
    const BodyId block = add<Dim>(world, {0, 0.2}, sized<Dim>(0.3, 0.2, 0.3), 1, rubbing(0.3));
    world.set_thrust(plank, {.force = {static_cast<float>(force), 0}, .turns_with_body = false});
    run(world, seconds);
    return {world.velocity(block).x / seconds, world.velocity(plank).x / seconds,
            std::fabs(world.pose(block).position.x - world.pose(plank).position.x)};
}

template<int Dim> void plank(Outcome& out) {
    const auto held = pulled_plank<Dim>(14, 2), slipping = pulled_plank<Dim>(20, 1);
    out.near("14 N: acceleration", "m/s2", held.plank, 2.8, 0.02, 0.001);
    out.at_most("14 N: slip in 2 s", "m", held.slip, 0.002, 1e-5);
    out.near("20 N: acceleration of the block", "m/s2", slipping.block, 2.943, 0.04, 0.002);
    out.near("20 N: acceleration of the plank", "m/s2", slipping.plank, 4.26425, 0.03, 0.002);
}

Locks<2> along_x(Vec2) { return {.y = true, .turn = true}; }
Locks<3> along_x(Vec3) { return {.y = true, .z = true, .turn_x = true, .turn_y = true, .turn_z = true}; }

// How far a cube between two plates that are pressed together has fallen, m.
template<int Dim> double squeezed(double force, double seconds) {
    World<Dim> world = falling<Dim>();
    const BodyId cube = add<Dim>(world, {0, 0}, sized<Dim>(0.2, 0.2, 0.2), 1, rubbing(0.4));
    for (const int side : {-1, 1}) {
        const std::vector<ShapeSpec<Dim>> shapes{{sized<Dim>(0.1, 4, 1), rubbing(0.4)}};
        const BodyId plate = world.add({.pose = {{side * 0.15, 0}, {}},
                                        .free = {.locks = along_x(Vec<Dim>{})},
                                        .shapes = shapes,
                                        .mass = mass_of(shapes, 0.5f)});
        world.set_thrust(plate, {.force = {static_cast<float>(-side * force), 0}, .turns_with_body = false});
    }
    run(world, seconds);
    return -world.pose(cube).position.y;
}

template<int Dim> void grasp(Outcome& out) {
    out.at_most("13 N: slip in 10 s", "m", std::fabs(squeezed<Dim>(13, 10)), 0.002, 1e-5);
    out.near("11.5 N: fall in 1 s", "m", squeezed<Dim>(11.5, 1), 0.305, 0.03, 0.002);
}

}

std::span<const Case> friction_cases() {
    static constexpr std::array kCases{
        Case{"FR01", "Block at the critical slope", 2, false, critical_slope<2>},
        Case{"FR01", "Block at the critical slope", 3, false, critical_slope<3>},
        Case{"FR02", "Friction is the same in all directions", 3, false, isotropy},
        Case{"FR03", "Stopping distance", 2, false, stopping_distance<2>},
        Case{"FR03", "Stopping distance", 3, false, stopping_distance<3>},
        Case{"FR04", "Sliding becomes rolling", 2, false, sliding_to_rolling<2>},
        Case{"FR04", "Sliding becomes rolling", 3, false, sliding_to_rolling<3>},
        Case{"FR06", "Rolling down a slope", 2, false, rolling_down_plane},
        Case{"FR06", "Rolling down a slope", 3, false, rolling_down_space},
        Case{"FR08", "Push below and above the limit", 2, false, push_at_the_limit<2>},
        Case{"FR08", "Push below and above the limit", 3, false, push_at_the_limit<3>},
        Case{"FR09", "Topple or slide", 2, false, topple_or_slide<2>},
        Case{"FR09", "Topple or slide", 3, false, topple_or_slide<3>},
        Case{"FR11", "Ladder against a wall", 2, false, ladders},
        Case{"FR13", "Belt", 2, false, belt<2>},
        Case{"FR13", "Belt", 3, false, belt<3>},
        Case{"FR15", "Ball on a turntable", 3, false, turntable},
        Case{"FR17", "Spinning drum comes to rest", 3, false, spinning_drum},
        Case{"FR20", "Block on a pulled plank", 2, false, plank<2>},
        Case{"FR20", "Block on a pulled plank", 3, false, plank<3>},
        Case{"FR21", "Block squeezed between plates", 2, false, grasp<2>},
        Case{"FR21", "Block squeezed between plates", 3, false, grasp<3>},
    };
    return kCases;
}

}
