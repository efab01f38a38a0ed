// ST: what stands, and what its contacts carry.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

Material rough(double friction) { return {.friction = static_cast<float>(friction)}; }

double level(const Point<2>& a, const Point<2>& b) { return std::fabs(a.x - b.x); }
double level(const Point<3>& a, const Point<3>& b) { return std::hypot(a.x - b.x, a.z - b.z); }

struct Tower {
    double top, aside, speed;
};
template<int Dim> Tower tower(int count, double seconds) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rough(0.5));
    std::vector<BodyId> cubes;
    for (int i = 0; i < count; i++)
        cubes.push_back(add<Dim>(world, {0, 0.5 + i}, sized<Dim>(1, 1, 1), 1, rough(0.5)));
    Tower out{};
    while (world.time() < seconds) {
        world.step();
        for (const BodyId b : cubes) {
            out.aside = std::max(out.aside, level(world.pose(b).position, Point<Dim>{}));
            if (world.time() > seconds - 10)
                out.speed = std::max(out.speed, static_cast<double>(length(world.velocity(b))));
        }
    }
    out.top = world.pose(cubes.back()).position.y;
    return out;
}

template<int Dim> void tall_stack(Outcome& out) {
    const Tower t = tower<Dim>(20, 60);
    out.near("height of the top centre after 60 s", "m", t.top, 19.5, 0.05, 0.001);
    out.at_most("shift aside", "m", t.aside, 0.005, 1e-5);
    out.at_most("speed in the last 10 s", "m/s", t.speed, 0.001, 1e-8);
    const Tower tall = tower<Dim>(100, 60);
    out.holds_best("the same with 100 cubes",
                   std::fabs(tall.top - 99.5) < 0.001 && tall.aside < 1e-5 && tall.speed < 1e-8);
}

struct Heavy {
    double deep, speed, load;
};
template<int Dim> Heavy heavy_on_light(double mass) {
    World<Dim> world = falling<Dim>();
    const BodyId ground = add_ground(world, rough(0.5));
    const BodyId light = add<Dim>(world, {0, 0.25}, sized<Dim>(0.5, 0.5, 0.5), 1, rough(0.5));
    const BodyId heavy = add<Dim>(world, {0, 0.75}, sized<Dim>(0.5, 0.5, 0.5), mass, rough(0.5));
    Heavy out{};
    int ticks = 0;
    while (world.time() < 30) {
        world.step();
        if (world.time() < 20) continue;
        out.deep = std::max(out.deep, deepest(world));
        out.speed = std::max({out.speed, static_cast<double>(length(world.velocity(light))),
                              static_cast<double>(length(world.velocity(heavy)))});
        out.load += force_between(world, ground, light, up<Dim>());
        ticks++;
    }
    out.load /= ticks;
    return out;
}

template<int Dim> void heavy_cube(Outcome& out) {
    const Heavy hundred = heavy_on_light<Dim>(100), thousand = heavy_on_light<Dim>(1000);
    out.at_most("overlap, 1:100", "m", hundred.deep, 0.002, 1e-4);
    out.at_most("overlap, 1:1000", "m", thousand.deep, 0.005, 2e-4);
    out.near_share("load on the ground, 1:1000", "N", thousand.load, 9819.81, 0.01, 1e-5);
    out.at_most("speed", "m/s", std::max(hundred.speed, thousand.speed), 0.001, 1e-7);
    out.holds_best("1:10000 within 0.2 mm", heavy_on_light<Dim>(10000).deep < 2e-4);
}

// Planks over the edge of a table, each out by a share of what the harmonic stack allows: how far the tip
// comes down.
template<int Dim> double overhang(int count, double share) {
    World<Dim> world = falling<Dim>();
    add_fixed<Dim>(world, {-2, -0.5}, sized<Dim>(4, 1, 2), rough(0.6));
    BodyId top{};
    double edge = 0; // right edge of what lies below
    for (int k = count; k >= 1; k--) {
        edge += share / (2.0 * k);
        top = add<Dim>(world, {edge - 0.5, 0.05 + 0.1 * (count - k)}, sized<Dim>(1, 0.1, 0.5), 1, rough(0.6));
    }
    const auto tip = to_world(world.pose(top), Vec<Dim>{0.5f, 0});
    double moved = 0;
    while (world.time() < 20 && moved < 1) {
        world.step();
        moved =
            std::max(moved, static_cast<double>(length(to_world(world.pose(top), Vec<Dim>{0.5f, 0}) - tip)));
    }
    return moved;
}

template<int Dim> void harmonic_stack(Outcome& out) {
    for (const int n : {4, 10}) {
        out.holds(std::to_string(n) + " planks stand at 0.97", overhang<Dim>(n, 0.97) < 0.005);
        out.holds(std::to_string(n) + " planks fall at 1.03", overhang<Dim>(n, 1.03) > 0.05);
    }
    bool fine = true;
    for (const int n : {4, 10})
        fine = fine && overhang<Dim>(n, 0.99) < 0.005 && overhang<Dim>(n, 1.01) > 0.05;
    out.holds_best("0.99 stands, 1.01 falls", fine);
}

// How far the top of two leaning cards comes down.
double cards(double degrees, double seconds) {
    const double a = degrees * kPi / 180, r = 0.02;
    World<2> world = falling<2>();
    add_ground(world, rough(0.5));
    BodyId right{};
    for (const int side : {-1, 1}) {
        const std::vector<ShapeSpec<2>> shapes{{Capsule2{{-0.5f, 0}, {0.5f, 0}, 0.02f}, rough(0.5)}};
        right = world.add({.pose = {{side * (r + 0.5 * std::cos(a)), r + 0.5 * std::sin(a)},
                                    turned(astasis::degrees(side > 0 ? 180 - degrees : degrees))},
                           .shapes = shapes,
                           .mass = mass_of(shapes, 1)});
    }
    const double top = to_world(world.pose(right), Vec2{0.5f, 0}).y;
    run(world, seconds);
    return top - to_world(world.pose(right), Vec2{0.5f, 0}).y;
}

void two_cards(Outcome& out) {
    out.holds("holds at 45.69 deg", cards(45.690, 10) < 0.005);
    out.holds("collapses at 42.69 deg", cards(42.690, 3) > 0.1);
    out.holds_best("0.2 deg above holds, below collapses", cards(44.39, 10) < 0.005 && cards(43.99, 3) > 0.1);
}

Geometry<2> voussoir(const std::array<Vec2, 4>& corners, Vec2) {
    Polygon out;
    for (const Vec2 c : corners) out.corners.push_back(c);
    return out;
}
Geometry<3> voussoir(const std::array<Vec2, 4>& corners, Vec3) {
    std::vector<Vec3> points;
    for (const Vec2 c : corners)
        for (const float z : {-0.5f, 0.5f}) points.push_back({c.x, c.y, z});
    return Hull::around(points);
}

// How far the crown of an arch of 11 stones sinks.
template<int Dim> double arch(double thickness_share) {
    constexpr int kStones = 11;
    constexpr double kR = 5;
    const double inner = kR * (1 - thickness_share / 2), outer = kR * (1 + thickness_share / 2);
    World<Dim> world = falling<Dim>();
    add_ground(world, rough(0.8));
    BodyId crown{};
    for (int i = 0; i < kStones; i++) {
        const double a = kPi * i / kStones, b = kPi * (i + 1) / kStones, m = 0.5 * (a + b);
        const Vec2 middle{static_cast<float>(kR * std::cos(m)), static_cast<float>(kR * std::sin(m))};
        const auto corner = [&](double r, double at) {
            return Vec2{static_cast<float>(r * std::cos(at) - middle.x),
                        static_cast<float>(r * std::sin(at) - middle.y)};
        };
        const BodyId stone = world.add(
            {.pose = {{middle.x, middle.y}, {}},
             .shapes = {{voussoir({corner(inner, a), corner(outer, a), corner(outer, b), corner(inner, b)},
                                  Vec<Dim>{}),
                         rough(0.8)}}});
        if (i == kStones / 2) crown = stone;
    }
    const double start = world.pose(crown).position.y;
    while (world.time() < 20 && start - world.pose(crown).position.y < 1) world.step();
    return start - world.pose(crown).position.y;
}

template<int Dim> void masonry_arch(Outcome& out) {
    const double limit = 0.1045891448934745;
    out.holds("stands at 1.15 of the least thickness", arch<Dim>(1.15 * limit) < 0.025);
    out.holds("collapses at 0.85 of it", arch<Dim>(0.85 * limit) > 0.5);
    out.holds_best("1.04 stands, 0.96 falls",
                   arch<Dim>(1.04 * limit) < 0.025 && arch<Dim>(0.96 * limit) > 0.5);
}

}

void build_pyramid(World<2>& world, Order order) {
    std::vector<Point2> at;
    for (int row = 0; row < 10; row++)
        for (int i = 0; i < 10 - row; i++) at.push_back({1.05 * (i - 0.5 * (9 - row)), 0.5 + row});
    for (const std::size_t i : in_order(at.size(), order))
        add<2>(world, at[i], sized<2>(1, 1, 1), 1, rough(0.5));
}
void build_pyramid(World<3>& world, Order order) {
    std::vector<Point3> at;
    for (int layer = 0; layer < 6; layer++)
        for (int i = 0; i < 6 - layer; i++)
            for (int k = 0; k < 6 - layer; k++)
                at.push_back({1.05 * (i - 0.5 * (5 - layer)), 0.5 + layer, 1.05 * (k - 0.5 * (5 - layer))});
    for (const std::size_t i : in_order(at.size(), order))
        add<3>(world, at[i], sized<3>(1, 1, 1), 1, rough(0.5));
}

namespace {

template<int Dim> void pyramid(Outcome& out) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rough(0.5));
    build_pyramid(world);
    run(world, 1);
    const auto start = places(world);
    double moved = 0, deep = 0;
    while (world.time() < 60) {
        world.step();
        const auto now = places(world);
        for (std::size_t i = 0; i < now.size(); i++)
            moved = std::max(moved, static_cast<double>(length(now[i] - start[i])));
        deep = std::max(deep, deepest(world));
    }
    double energy = 0;
    for (const BodyId b : world.bodies()) energy = std::max(energy, world.energy(b).kinetic);
    out.at_most("moved from 1 s to 60 s", "m", moved, 0.005, 1e-5);
    out.at_most("overlap", "m", deep, 0.01, 5e-4);
    out.at_most("kinetic energy of a body at 60 s", "J", energy, 1e-6, 1e-14);
}

template<int Dim> void weights(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId ground = add_ground(world, rough(0.5));
    std::array<BodyId, 10> from_top;
    for (std::size_t k = 0; k < 10; k++)
        from_top[k] = add<Dim>(world, {0, 4.75 - 0.5 * static_cast<double>(k)}, sized<Dim>(0.5, 0.5, 0.5), 10,
                               rough(0.5));
    run(world, 5);
    std::array<double, 10> sum{}, squares{};
    for (int tick = 0; tick < 60; tick++) {
        world.step();
        for (std::size_t k = 0; k < 10; k++) {
            const double f = force_between(world, k == 9 ? ground : from_top[k + 1], from_top[k], up<Dim>());
            sum[k] += f / 60, squares[k] += f * f / 60;
        }
    }
    double worst = 0, scatter = 0;
    for (std::size_t k = 0; k < 10; k++) {
        worst = std::max(worst, std::fabs(sum[k] / (98.1 * static_cast<double>(k + 1)) - 1));
        scatter = std::max(scatter, std::sqrt(std::max(squares[k] - sum[k] * sum[k], 0.0)) / sum[k]);
    }
    out.near_share("load on the ground", "N", sum[9], 981, 0.01, 1e-6);
    out.at_most("a face's load, worst of ten, off by", "", worst, 0.02, 1e-5);
    out.at_most("scatter from tick to tick", "", scatter, 0.05, 1e-6);
}

template<int Dim> void beam(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const BodyId left = add_fixed<Dim>(world, {0, 0}, log_shape(0.1, Vec<Dim>{}), rough(0.5));
    const BodyId right = add_fixed<Dim>(world, {4, 0}, log_shape(0.1, Vec<Dim>{}), rough(0.5));
    const BodyId plank = add<Dim>(world, {2, 0.2}, sized<Dim>(4.2, 0.2, 0.4), 10, rough(0.5));
    add<Dim>(world, {1, 0.4}, sized<Dim>(0.2, 0.2, 0.2), 20, rough(0.5));
    run(world, 5);
    double on_left = 0, on_right = 0;
    for (int i = 0; i < 60; i++) {
        world.step();
        on_left += force_between(world, left, plank, up<Dim>()) / 60;
        on_right += force_between(world, right, plank, up<Dim>()) / 60;
    }
    out.near_share("left", "N", on_left, 196.2, 0.01, 1e-5);
    out.near_share("right", "N", on_right, 98.1, 0.01, 1e-5);
}

// How far three logs have moved after 10 s.
template<int Dim> double logs(double mu) {
    World<Dim> world = falling<Dim>();
    add_ground(world, rough(mu));
    add<Dim>(world, {-0.5, 0.5}, log_shape(0.5, Vec<Dim>{}), 1, rough(mu));
    add<Dim>(world, {0.5, 0.5}, log_shape(0.5, Vec<Dim>{}), 1, rough(mu));
    const BodyId top =
        add<Dim>(world, {0, 0.5 + std::sqrt(3.0) / 2}, log_shape(0.5, Vec<Dim>{}), 1, rough(mu));
    const double start = world.pose(top).position.y;
    run(world, 10);
    return start - world.pose(top).position.y;
}

template<int Dim> void three_logs(Outcome& out) {
    out.holds("0.30 holds", logs<Dim>(0.30) < 0.005);
    out.holds("0.24 collapses", logs<Dim>(0.24) > 0.3);
    out.holds_best("0.273 holds, 0.263 collapses", logs<Dim>(0.273) < 0.005 && logs<Dim>(0.263) > 0.3);
}

template<int Dim> void groove(Outcome& out) {
    World<Dim> world = falling<Dim>();
    const double a = kPi / 6, b = kPi / 3;
    // The left plane falls to the right by 30 degrees, the right one to the left by 60.
    const BodyId left = add_fixed<Dim>(world, {}, HalfSpace<Dim>{}, rough(0), tilted<Dim>(-a));
    const BodyId right = add_fixed<Dim>(world, {}, HalfSpace<Dim>{}, rough(0), tilted<Dim>(b));
    const double r = 0.2;
    // The centre is r from both planes, whose normals stand at right angles.
    const Point<Dim> at{r * (std::sin(a) - std::sin(b)), r * (std::cos(a) + std::cos(b))};
    const BodyId log = add<Dim>(world, at, log_shape(r, Vec<Dim>{}), 10, rough(0));
    run(world, 5);
    double on_left = 0, on_right = 0;
    for (int i = 0; i < 60; i++) {
        world.step();
        on_left += force_between(world, left, log, rotate(tilted<Dim>(-a), up<Dim>())) / 60;
        on_right += force_between(world, right, log, rotate(tilted<Dim>(b), up<Dim>())) / 60;
    }
    out.near_share("on the plane of 30 deg", "N", on_left, 84.95709211125343, 0.005, 1e-6);
    out.near_share("on the plane of 60 deg", "N", on_right, 49.05, 0.005, 1e-6);
}

}

std::span<const Case> stacking_cases() {
    static constexpr std::array kCases{
        Case{"ST01", "Stack of 20", 2, false, tall_stack<2>},
        Case{"ST01", "Stack of 20", 3, true, tall_stack<3>},
        Case{"ST02", "Heavy on light", 2, false, heavy_cube<2>},
        Case{"ST02", "Heavy on light", 3, false, heavy_cube<3>},
        Case{"ST03", "Harmonic overhang", 2, false, harmonic_stack<2>},
        Case{"ST03", "Harmonic overhang", 3, false, harmonic_stack<3>},
        Case{"ST04", "Two leaning cards", 2, false, two_cards},
        Case{"ST05", "Masonry arch", 2, false, masonry_arch<2>},
        Case{"ST05", "Masonry arch", 3, false, masonry_arch<3>},
        Case{"ST09", "Pyramid keeps still", 2, false, pyramid<2>},
        Case{"ST09", "Pyramid keeps still", 3, true, pyramid<3>},
        Case{"ST10", "Contacts carry the weight", 2, false, weights<2>},
        Case{"ST10", "Contacts carry the weight", 3, false, weights<3>},
        Case{"ST11", "Beam on two supports", 2, false, beam<2>},
        Case{"ST11", "Beam on two supports", 3, false, beam<3>},
        Case{"ST12", "Three logs", 2, false, three_logs<2>},
        Case{"ST12", "Three logs", 3, false, three_logs<3>},
        Case{"ST15", "Log in a groove", 2, false, groove<2>},
        Case{"ST15", "Log in a groove", 3, false, groove<3>},
    };
    return kCases;
}

}
