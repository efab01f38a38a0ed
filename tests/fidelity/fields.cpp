// FI: orbits and other motions in fields.
#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> BodyId point_mass(World<Dim>& world, Point<Dim> at, Vec<Dim> v) {
    const std::vector<ShapeSpec<Dim>> shapes{{.geometry = Ball<Dim>{0.1f}, .collides_with = 0}};
    return world.add({.pose = {at, {}}, .velocity = v, .shapes = shapes, .mass = mass_of(shapes, 1)});
}
template<int Dim> World<Dim> about_a_sun() {
    World<Dim> world = weightless<Dim>();
    world.add_field({.kind = Attraction<Dim>{.strength = 1000, .softening = 1e-4f}});
    return world;
}

// Times and places at which a body passes the positive x axis upwards, by a cubic between two ticks.
struct Passing {
    double time, x;
};
template<int Dim>
std::vector<Passing> passings(World<Dim>& world, BodyId body, double seconds, const auto& each_tick) {
    std::vector<Passing> out;
    Point<Dim> p = world.pose(body).position;
    Vec<Dim> v = world.velocity(body);
    const double h = world.settings().tick;
    while (world.time() < seconds) {
        world.step();
        const Point<Dim> q = world.pose(body).position;
        const Vec<Dim> w = world.velocity(body);
        if (p.y < 0 && q.y >= 0 && q.x > 0) {
            const auto hermite = [&](double s, double a, double da, double b, double db) {
                return ((2 * s - 3) * s * s + 1) * a + ((s - 2) * s + 1) * s * h * da +
                       (3 - 2 * s) * s * s * b + (s - 1) * s * s * h * db;
            };
            double low = 0, high = 1;
            for (int k = 0; k < 50; k++) {
                const double s = 0.5 * (low + high);
                (hermite(s, p.y, double{v.y}, q.y, double{w.y}) < 0 ? low : high) = s;
            }
            out.push_back({world.time() - h * (1 - low), hermite(low, p.x, double{v.x}, q.x, double{w.x})});
        }
        p = q, v = w;
        each_tick();
    }
    return out;
}

template<int Dim> double orbital_energy(const World<Dim>& world, BodyId body) {
    return world.energy(body).kinetic - 1000 / double{length(world.pose(body).position - Point<Dim>{})};
}

template<int Dim> void circular_orbit(Outcome& out) {
    World<Dim> world = about_a_sun<Dim>();
    const BodyId body = point_mass<Dim>(world, {10, 0}, {0, 10});
    double off = 0, change = 0;
    const auto at = passings(world, body, 629, [&] {
        off = std::max(off, std::fabs(double{length(world.pose(body).position - Point<Dim>{})} - 10));
        change = std::max(change, std::fabs(orbital_energy(world, body) + 50));
    });
    const double period = at.back().time / static_cast<double>(at.size());
    out.near_share("period", "s", period, 2 * kPi, 0.001, 1e-6);
    out.at_most("|r - 10|", "m", off, 0.02, 1e-4);
    out.at_most("phase error after 100 turns", "deg",
                std::fabs(at.back().time / (2 * kPi) - static_cast<double>(at.size())) * 360, 3, 0.01);
    out.at_most("change of energy", "", change / 50, 0.001, 1e-9);
    out.holds("100 turns", at.size() == 100);
}

template<int Dim> void elliptic_orbit(Outcome& out) {
    World<Dim> world = about_a_sun<Dim>();
    const BodyId body = point_mass<Dim>(world, {4, 0}, {0, 20});
    const double start = orbital_energy(world, body);
    double farthest = 0;
    std::vector<double> angles; // of the places farthest out, by a parabola
    std::array<Point<Dim>, 3> last{};
    const auto r = [](const Point<Dim>& p) { return std::hypot(p.x, p.y); };
    const auto at = passings(world, body, 629, [&] {
        last = {last[1], last[2], world.pose(body).position};
        const double a = r(last[0]), b = r(last[1]), c = r(last[2]);
        if (!(b > 15 && b > a && b >= c)) return;
        const double s = 0.5 * (a - c) / (a - 2 * b + c);
        farthest = std::max(farthest, b - 0.25 * (a - c) * s);
        const auto angle = [](const Point<Dim>& p) { return std::atan2(-p.y, -p.x); };
        angles.push_back(angle(last[1]) + 0.5 * s * (angle(last[2]) - angle(last[0])));
    });
    out.near("apocentre", "m", farthest, 16, 0.05, 0.001);
    out.near_share("period", "s", at.back().time / static_cast<double>(at.size()), 2 * kPi, 0.003, 1e-5);
    out.at_most("change of energy after 100 turns", "", std::fabs(orbital_energy(world, body) / start - 1),
                0.01, 1e-7);
    const double turned = (angles.back() - angles.front()) / static_cast<double>(angles.size() - 1);
    out.at_most("turn of the pericentre in an orbit", "deg", std::fabs(turned) * 180 / kPi, 0.2, 0.001);
}

template<int Dim> struct FigureEight {
    World<Dim> world = weightless<Dim>();
    std::array<BodyId, 3> bodies{};
    FigureEight() {
        const Point<Dim> at{0.97000436, -0.24308753}, other{-0.97000436, 0.24308753};
        const Vec<Dim> v{-0.93240737f, -0.86473146f};
        bodies = {point_mass<Dim>(world, at, v * -0.5f), point_mass<Dim>(world, other, v * -0.5f),
                  point_mass<Dim>(world, {}, v)};
        world.add_field({.kind = MutualAttraction<Dim>{.constant = 1, .softening = 1e-5f}});
    }
    std::array<Point<Dim>, 3> places() const {
        return {world.pose(bodies[0]).position, world.pose(bodies[1]).position,
                world.pose(bodies[2]).position};
    }
    // Where a body is at a time within the last tick, by a cubic.
    Point<Dim> place_at(std::size_t k, Point<Dim> p, Vec<Dim> v, double s) const {
        const Point<Dim> q = world.pose(bodies[k]).position;
        const Vec<Dim> w = world.velocity(bodies[k]);
        const double h = world.settings().tick;
        Point<Dim> out;
        for (int i = 0; i < Dim; i++)
            out[i] = ((2 * s - 3) * s * s + 1) * p[i] + ((s - 2) * s + 1) * s * h * double{v[i]} +
                     (3 - 2 * s) * s * s * q[i] + (s - 1) * s * s * h * double{w[i]};
        return out;
    }
};

template<int Dim> void figure_eight(Outcome& out) {
    constexpr double kPeriod = 6.32591398;
    FigureEight<Dim> eight;
    World<Dim>& world = eight.world;
    const auto start = eight.places();
    std::vector<Point<Dim>> curve;
    double return_error = -1;
    Point<Dim> twelfth{};
    int periods = 0;
    bool is_on = true;
    while (is_on && periods < 100) {
        const auto before = eight.places();
        std::array<Vec<Dim>, 3> v{world.velocity(eight.bodies[0]), world.velocity(eight.bodies[1]),
                                  world.velocity(eight.bodies[2])};
        const double t = world.time();
        world.step();
        const auto share = [&](double at) { return (at - t) * 60; };
        if (t < kPeriod / 12 && world.time() >= kPeriod / 12)
            twelfth = eight.place_at(2, before[2], v[2], share(kPeriod / 12));
        if (t < kPeriod && world.time() >= kPeriod)
            for (std::size_t k = 0; k < 3; k++)
                return_error =
                    std::max(return_error,
                             double{length(eight.place_at(k, before[k], v[k], share(kPeriod)) - start[k])});
        if (world.time() < kPeriod) {
            for (const auto& p : eight.places()) curve.push_back(p);
            continue;
        }
        for (const auto& p : eight.places()) {
            float nearest = 1;
            for (const auto& c : curve) nearest = std::min(nearest, length(p - c));
            is_on = is_on && nearest < 0.1f;
        }
        if (is_on) periods = static_cast<int>(world.time() / kPeriod);
    }
    out.at_most("return error after T", "m", return_error, 0.02, 1e-4);
    out.near_all("body 3 at T/12", "m", std::array{twelfth.x, twelfth.y},
                 std::array{-0.5405085407697588, -0.3452633149069386}, 0.002, 1e-5);
    out.at_least("periods on the figure", "", periods, 10, 100);
}

template<int Dim> void harmonic_ellipse(Outcome& out) {
    World<Dim> world = weightless<Dim>();
    world.add_field({.kind = OwnField<Dim>{[](const SeenBody<Dim>& b) {
                         return FieldForce<Dim>{(b.centre - Point<Dim>{}) * (-4 * b.mass), {}};
                     }}});
    const BodyId body = point_mass<Dim>(world, {3, 0}, {0, 2});
    double farthest = 0, angle = 0;
    std::array<Point<Dim>, 3> last{};
    const auto r = [](const Point<Dim>& p) { return std::hypot(p.x, p.y); };
    const auto at = passings(world, body, 314.3, [&] {
        last = {last[1], last[2], world.pose(body).position};
        const double a = r(last[0]), b = r(last[1]), c = r(last[2]);
        if (!(b > 2.5 && b > a && b >= c) || last[1].x < 0) return;
        const double s = 0.5 * (a - c) / (a - 2 * b + c);
        farthest = b - 0.25 * (a - c) * s;
        const auto of = [](const Point<Dim>& p) { return std::atan2(p.y, p.x); };
        angle = of(last[1]) + 0.5 * s * (of(last[2]) - of(last[0]));
    });
    out.near_share("period", "s", at.back().time / static_cast<double>(at.size()), kPi, 0.001, 1e-6);
    out.at_most("turn of the major axis in 100 turns", "deg", std::fabs(angle) * 180 / kPi, 3, 0.01);
    out.near("major semi-axis at the end", "m", farthest, 3, 0.03, 1e-5);
}

}

std::span<const Case> field_cases() {
    static constexpr std::array kCases{
        Case{"FI01", "Circular orbit, 100 turns", 2, false, circular_orbit<2>},
        Case{"FI01", "Circular orbit, 100 turns", 3, false, circular_orbit<3>},
        Case{"FI02", "Elliptic orbit, 100 turns", 2, false, elliptic_orbit<2>},
        Case{"FI02", "Elliptic orbit, 100 turns", 3, false, elliptic_orbit<3>},
        Case{"FI05", "Three bodies on a figure eight", 2, false, figure_eight<2>},
        Case{"FI05", "Three bodies on a figure eight", 3, false, figure_eight<3>},
        Case{"FI08", "Ellipse in a harmonic field", 2, false, harmonic_ellipse<2>},
        Case{"FI08", "Ellipse in a harmonic field", 3, false, harmonic_ellipse<3>},
    };
    return kCases;
}

}
