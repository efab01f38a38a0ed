// What the candidates of the bake-off share: bodies, contacts and pins of the plane in double precision, taken
// from a world before its solving stage and put back after it.
#pragma once

#include "world/state.h"

#include "astasis/astasis.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace bakeoff {

using namespace astasis;

struct V {
    double x = 0, y = 0;
    friend V operator+(V a, V b) { return {a.x + b.x, a.y + b.y}; }
    friend V operator-(V a, V b) { return {a.x - b.x, a.y - b.y}; }
    friend V operator*(V a, double s) { return {a.x * s, a.y * s}; }
};
inline double dot(V a, V b) { return a.x * b.x + a.y * b.y; }
inline double cross(V a, V b) { return a.x * b.y - a.y * b.x; }
inline V turn(double a, V v) { return {std::cos(a) * v.x - std::sin(a) * v.y, std::sin(a) * v.x + std::cos(a) * v.y}; }

struct B {
    V p;
    double th = 0;
    V v;
    double w = 0, im = 0, ii = 0;
};

// One row of contact or pin: a point on each body, a direction, an impulse.
struct Point {
    V core_a, core_b;
    double skin = 0;
    V n;
    int guide = 0; // 0 face of a, 1 face of b, 2 centres, 3 fixed
    V local_n;
    double gap = 0;
    V ra, rb;
    double ln = 0, lt = 0; // impulses, N s
    double kn = 0, kt = 0, fn = 0, ft = 0; // of the penalty methods
    double approach = 0, gap0 = 0, slip0 = 0;
    V start_a, start_b;
};
struct Contact {
    int a = 0, b = 0, count = 0;
    double mu = 0, e = 0, thick = 1;
    flow::Manifold<2>* from = nullptr;
    std::array<Point, 2> point;
};
struct Pin {
    int a = 0, b = 0;
    V at_a, at_b;
    V impulse;
    V lambda, k;
    V gap0;
};
struct Model {
    std::vector<B> bodies;
    std::vector<Contact> contacts;
    std::vector<Pin>* pins = nullptr;
    V gravity;
    double h = 1.0 / 60;
};

inline V velocity_at(const B& b, V r) { return {b.v.x - b.w * r.y, b.v.y + b.w * r.x}; }
inline void push(B& b, V r, V j, double sign) {
    b.v = b.v + j * (sign * b.im);
    b.w += sign * b.ii * cross(r, j);
}
inline double mass_along(const B& a, const B& b, V ra, V rb, V n) {
    const double ca = cross(ra, n), cb = cross(rb, n);
    const double k = a.im + b.im + a.ii * ca * ca + b.ii * cb * cb;
    return k > 0 ? 1 / k : 0;
}
inline void refresh(const Model& m, const Contact& c, Point& p) {
    const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
    const V ca = turn(a.th, p.core_a), cb = turn(b.th, p.core_b);
    const V between = (b.p + cb) - (a.p + ca);
    if (p.guide == 0) p.n = turn(a.th, p.local_n);
    else if (p.guide == 1) p.n = turn(b.th, p.local_n);
    else if (p.guide == 2) {
        const double l = std::sqrt(dot(between, between));
        if (l > 1e-12) p.n = between * (1 / l);
    }
    p.gap = dot(between, p.n) - p.skin;
    p.ra = ca + p.n * (dot(between, p.n) * 0.5);
    p.rb = cb - p.n * (dot(between, p.n) * 0.5);
}

class Method {
public:
    virtual ~Method() = default;
    virtual const char* name() const = 0;
    virtual void tick(Model& m, int effort) = 0;
};

// A world whose solving is done by a method.
class Sim {
public:
    Sim(World<2> world, Method& method, int effort) : world_(std::move(world)), method_(method), effort_(effort) {}
    World<2>& world() { return world_; }
    void pin(BodyId a, BodyId b, Vec2 at_a, Vec2 at_b) { ids_.push_back({a, b, at_a, at_b}); }
    void step();
    double seconds_solving = 0;
    int ticks = 0;

private:
    struct Ids {
        BodyId a, b;
        Vec2 at_a, at_b;
    };
    World<2> world_;
    Method& method_;
    int effort_;
    std::vector<Ids> ids_;
    std::vector<Pin> pins_;
};

std::vector<Method*> methods();

}
