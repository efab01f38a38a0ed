// Candidates for the solver on a few scenes of the plane; prints docs/decisions/solver.md's table.
#include "model.h"

#include <cstdio>
#include <cstdlib>

using namespace bakeoff;

namespace {

const Material kRough{.friction = 0.5f};

World<2> with_floor(double slope = 0, Material m = kRough) {
    World<2> w;
    w.add({.motion = Motion::Static, .pose = {{}, turned(radians(-slope))}, .shapes = {{HalfPlane{}, m}}});
    return w;
}
BodyId box(World<2>& w, Point2 at, float x, float y, float mass, Material m = kRough, double angle = 0) {
    const std::vector<ShapeSpec<2>> s{{Box2::sized(x, y), m}};
    return w.add({.pose = {at, turned(radians(angle))}, .shapes = s, .mass = mass_of(s, mass)});
}
double deepest(Sim& s) {
    double d = 0;
    for (const auto& m : WorldAccess::state(s.world()).manifolds)
        for (int i = 0; i < m.count; i++) d = std::max(d, -static_cast<double>(m.points[i].separation));
    return d;
}
void run(Sim& s, double seconds) {
    for (int i = 0; i < seconds * 60; i++) s.step();
}
struct Result {
    double value, us;
};
Result done(Sim& s, double value) { return {value, 1e6 * s.seconds_solving / s.ticks}; }

Result stack(Method& m, int effort) { // mm that a box of 20 has moved from 1 s to 10 s
    World<2> w = with_floor();
    std::vector<BodyId> ids;
    for (int i = 0; i < 20; i++) ids.push_back(box(w, {0, 0.5 + i}, 1, 1, 1));
    Sim s(std::move(w), m, effort);
    run(s, 1);
    std::vector<Point2> at;
    for (const BodyId b : ids) at.push_back(s.world().pose(b).position);
    run(s, 9);
    double moved = 0;
    for (std::size_t i = 0; i < ids.size(); i++) moved = std::max(moved, 1e3 * length(s.world().pose(ids[i]).position - at[i]));
    return done(s, moved);
}
Result stack_overlap(Method& m, int effort) { // mm at the end
    World<2> w = with_floor();
    for (int i = 0; i < 20; i++) box(w, {0, 0.5 + i}, 1, 1, 1);
    Sim s(std::move(w), m, effort);
    run(s, 5);
    return done(s, 1e3 * deepest(s));
}
template<int Ratio> Result heavy(Method& m, int effort) { // deepest overlap in mm over 10 s after the first second
    World<2> w = with_floor();
    box(w, {0, 0.25}, 0.5f, 0.5f, 1), box(w, {0, 0.75}, 0.5f, 0.5f, Ratio);
    Sim s(std::move(w), m, effort);
    run(s, 1);
    double d = 0;
    for (int i = 0; i < 600; i++) s.step(), d = std::max(d, 1e3 * deepest(s));
    return done(s, d);
}
Result pyramid(Method& m, int effort) { // mm moved from 1 s to 10 s
    World<2> w = with_floor();
    std::vector<BodyId> ids;
    for (int row = 0; row < 10; row++)
        for (int i = 0; i < 10 - row; i++) ids.push_back(box(w, {1.05 * (i - 0.5 * (9 - row)), 0.5 + row}, 1, 1, 1));
    Sim s(std::move(w), m, effort);
    run(s, 1);
    std::vector<Point2> at;
    for (const BodyId b : ids) at.push_back(s.world().pose(b).position);
    run(s, 9);
    double moved = 0;
    for (std::size_t i = 0; i < ids.size(); i++) moved = std::max(moved, 1e3 * length(s.world().pose(ids[i]).position - at[i]));
    return done(s, moved);
}
double slid(Method& m, int effort, double degrees, double seconds, double* us) {
    const double a = degrees * 3.14159265358979 / 180;
    World<2> w = with_floor(a);
    const Point2 at{0.1 * std::sin(a), 0.1 * std::cos(a)};
    const BodyId b = box(w, at, 1, 0.2f, 1, kRough, -a);
    Sim s(std::move(w), m, effort);
    run(s, seconds);
    *us = 1e6 * s.seconds_solving / s.ticks;
    const Vec2 d = s.world().pose(b).position - at;
    return 1e3 * (d.x * std::cos(a) - d.y * std::sin(a));
}
Result creep(Method& m, int effort) { // mm in 10 s just below the critical slope
    double us = 0;
    const double d = slid(m, effort, 26.0651, 10, &us);
    return {std::fabs(d), us};
}
Result slide(Method& m, int effort) { // mm off 191.48 in 2 s just above it
    double us = 0;
    const double d = slid(m, effort, 27.0652, 2, &us);
    return {std::fabs(d - 191.48), us};
}
Result chain(Method& m, int effort) { // stretch in percent at 5 s of 50 links with a load of 100 times a link
    World<2> w;
    const BodyId roof = w.add({.motion = Motion::Static});
    std::vector<BodyId> ids{roof};
    for (int i = 0; i < 50; i++) {
        const std::vector<ShapeSpec<2>> sp{{.geometry = Box2::sized(0.02f, 0.1f), .group = 1}};
        ids.push_back(w.add({.pose = {{0, -0.05 - 0.1 * i}, {}}, .shapes = sp, .mass = mass_of(sp, 1)}));
    }
    const std::vector<ShapeSpec<2>> sp{{.geometry = Circle{0.1f}, .group = 1}};
    const BodyId load = w.add({.pose = {{0, -5.1}, {}}, .shapes = sp, .mass = mass_of(sp, 100)});
    Sim s(std::move(w), m, effort);
    for (int i = 0; i < 50; i++) s.pin(ids[static_cast<std::size_t>(i)], ids[static_cast<std::size_t>(i + 1)], {0, i == 0 ? 0 : -0.05f}, {0, 0.05f});
    s.pin(ids.back(), load, {0, -0.05f}, {0, 0.1f});
    run(s, 5);
    return done(s, 100 * (-s.world().pose(load).position.y - 5.1) / 5);
}
Result bounce(Method& m, int effort) { // mm off the first apex of a ball with e = 0.8 from 1 m
    const Material bouncy{.friction = 0, .restitution = 0.8f};
    World<2> w = with_floor(0, bouncy);
    const std::vector<ShapeSpec<2>> sp{{Circle{0.1f}, bouncy}};
    const BodyId b = w.add({.pose = {{0, 1.1}, {}}, .shapes = sp, .mass = mass_of(sp, 1)});
    Sim s(std::move(w), m, effort);
    double apex = 0;
    for (int i = 0; i < 72; i++) {
        s.step();
        const double v = s.world().velocity(b).y;
        if (i > 32) apex = std::max(apex, s.world().pose(b).position.y - 0.1 + (v > 0 ? v * v / 19.62 : 0));
    }
    return done(s, std::fabs(1e3 * apex - 640));
}

}

int main() {
    const struct {
        const char* name;
        Result (*run)(Method&, int);
    } scenes[]{{"20 boxes: moved, mm", stack}, {"overlap, mm", stack_overlap}, {"1:100 overlap, mm", heavy<100>}, {"1:1000 overlap, mm", heavy<1000>},
               {"pyramid of 10: moved, mm", pyramid}, {"creep, mm", creep}, {"slide off by, mm", slide}, {"chain 1:100: stretch, %", chain}, {"bounce off by, mm", bounce}};
    std::printf("| method | effort |");
    for (const auto& s : scenes) std::printf(" %s |", s.name);
    std::printf("\n|---|---|");
    for (std::size_t i = 0; i < std::size(scenes); i++) std::printf("---|");
    std::printf("\n");
    for (Method* m : methods())
        for (const int effort : {2, 4, 8, 16, 32}) {
            std::printf("| %s | %d |", m->name(), effort);
            for (const auto& s : scenes) {
                try {
                    const Result r = s.run(*m, effort);
                    std::printf(" %.3g (%.0f us) |", r.value, r.us);
                } catch (const Error&) { // not finite any more
                    std::printf(" fails |");
                }
                std::fflush(stdout);
            }
            std::printf("\n");
        }
}
