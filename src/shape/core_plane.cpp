#include "shape/core_plane.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/trig.h"

#include <algorithm>
#include <cmath>

namespace astasis::shape {
namespace {

constexpr double kPi = 3.14159265358979323846;

struct Sums { // of area, first and second moments about the shape's origin
    double area = 0, x = 0, y = 0, second = 0;
};

// Triangle (0, a, b): Green's theorem.
void add_triangle(Sums& s, Vec2 a, Vec2 b) {
    const double ax = a.x, ay = a.y, bx = b.x, by = b.y, twice = ax * by - ay * bx;
    s.area += 0.5 * twice;
    s.x += twice * (ax + bx) / 6;
    s.y += twice * (ay + by) / 6;
    s.second += twice * (((ax * ax + ay * ay) + (ax * bx + ay * by)) + (bx * bx + by * by)) / 12;
}

// The strip of width r outside the side from a to b whose unit normal is (nx, ny).
void add_strip(Sums& s, Vec2 a, Vec2 b, double nx, double ny, double r) {
    const double dx = static_cast<double>(b.x) - a.x, dy = static_cast<double>(b.y) - a.y;
    const double length = std::sqrt(dx * dx + dy * dy), area = length * r;
    const double cx = 0.5 * (static_cast<double>(a.x) + b.x) + 0.5 * r * nx;
    const double cy = 0.5 * (static_cast<double>(a.y) + b.y) + 0.5 * r * ny;
    s.area += area;
    s.x += area * cx;
    s.y += area * cy;
    s.second += area * ((cx * cx + cy * cy) + (length * length + r * r) / 12);
}

// The sector of radius r and angle `turn` about a corner, from one unit normal to the next.
void add_sector(Sums& s, Vec2 c, double from_x, double from_y, double to_x, double to_y, double turn,
                double r) {
    const double area = 0.5 * r * r * turn, third = r * r * r / 3;
    // The integral of (cos, sin) from the one direction to the other is (sin, -cos) at the ends.
    const double ux = third * (to_y - from_y), uy = third * (from_x - to_x);
    s.area += area;
    s.x += area * c.x + ux;
    s.y += area * c.y + uy;
    s.second += (area * (static_cast<double>(c.x) * c.x + static_cast<double>(c.y) * c.y) +
                 2 * (c.x * ux + c.y * uy)) +
                0.25 * r * r * r * r * turn;
}

void unit_normal(Vec2 a, Vec2 b, double& x, double& y) {
    const double dx = static_cast<double>(b.x) - a.x, dy = static_cast<double>(b.y) - a.y;
    const double length = std::sqrt(dx * dx + dy * dy);
    x = dy / length;
    y = -dx / length;
}

double doubled_area(Vec2 a, Vec2 b, Vec2 c) {
    return (static_cast<double>(b.x) - a.x) * (static_cast<double>(c.y) - a.y) -
           (static_cast<double>(b.y) - a.y) * (static_cast<double>(c.x) - a.x);
}

// Drops corners that repeat the one before or lie on the line between their neighbours, as far as floats can
// tell.
std::vector<Vec2> without_needless(std::vector<Vec2> c) {
    for (bool dropped = true; dropped && c.size() > 2;) {
        dropped = false;
        for (std::size_t i = 0; i < c.size() && c.size() > 2; i++) {
            const Vec2 a = c[(i + c.size() - 1) % c.size()], b = c[i], d = c[(i + 1) % c.size()];
            const double longest = std::max({length(b - a), length(d - b), length(d - a)});
            const bool between = dot(b - a, d - b) >= 0;
            if (std::fabs(doubled_area(a, b, d)) > 1e-6 * longest * longest || !between) continue;
            c.erase(c.begin() + static_cast<std::ptrdiff_t>(i));
            dropped = true;
            i--;
        }
    }
    return c;
}

}

Core core_of(const Geometry<2>& geometry, CoreRoom& room) {
    if (const auto* circle = std::get_if<Circle>(&geometry)) {
        room[0] = {};
        return {{room.data(), 1}, circle->radius};
    }
    if (const auto* capsule = std::get_if<Capsule2>(&geometry)) {
        room[0] = capsule->from, room[1] = capsule->to;
        return {{room.data(), 2}, capsule->radius};
    }
    if (const auto* segment = std::get_if<Segment>(&geometry)) {
        room[0] = segment->from, room[1] = segment->to;
        return {{room.data(), 2}, 0};
    }
    if (const auto* box = std::get_if<Box2>(&geometry)) {
        const float x = 0.5f * box->full_size().x - box->rounding(),
                    y = 0.5f * box->full_size().y - box->rounding();
        room = {Vec2{x, -y}, Vec2{x, y}, Vec2{-x, y}, Vec2{-x, -y}};
        return {room, box->rounding()};
    }
    if (const auto* polygon = std::get_if<Polygon>(&geometry)) return {polygon->corners, polygon->rounding};
    return {};
}

CoreMeasure measure_of(const Core& core) {
    const std::size_t n = core.corners.size();
    const double r = core.radius;
    Sums s;
    if (n == 1) add_sector(s, core.corners[0], 1, 0, 1, 0, 2 * kPi, r);
    for (std::size_t i = 0; n > 1 && i < n; i++) {
        const Vec2 a = core.corners[i], b = core.corners[(i + 1) % n], c = core.corners[(i + 2) % n];
        double x = 0, y = 0, next_x = 0, next_y = 0;
        unit_normal(a, b, x, y);
        unit_normal(b, c, next_x, next_y);
        add_triangle(s, a, b);
        if (r == 0) continue;
        add_strip(s, a, b, x, y, r);
        const double turn =
            n == 2 ? kPi : math::arc_tangent(x * next_y - y * next_x, x * next_x + y * next_y);
        add_sector(s, b, x, y, next_x, next_y, turn, r);
    }
    if (!(s.area > 0)) return {};
    const double cx = s.x / s.area, cy = s.y / s.area;
    return {s.area, s.second - s.area * (cx * cx + cy * cy), cx, cy};
}

float thickness_of(const Core& core) {
    const std::size_t n = core.corners.size();
    double least = n > 2 ? 1e300 : 0;
    for (std::size_t i = 0; n > 2 && i < n; i++) {
        double x = 0, y = 0, most = 0;
        unit_normal(core.corners[i], core.corners[(i + 1) % n], x, y);
        for (const Vec2 c : core.corners)
            most = std::max(most, -((c - core.corners[i]).x * x + (c - core.corners[i]).y * y));
        least = std::min(least, most);
    }
    return static_cast<float>(least) + 2 * core.radius;
}

Polygon checked_polygon(const Polygon& polygon, const std::string& field) {
    const auto named = [&](std::size_t i) { return field + ".corners[" + std::to_string(i) + "]"; };
    double area = 0;
    for (std::size_t i = 0; i < polygon.corners.size(); i++) {
        if (!math::is_finite(polygon.corners[i]))
            throw Error(named(i), base::text_of(polygon.corners[i]), "finite numbers (m)");
        area += doubled_area({}, polygon.corners[i], polygon.corners[(i + 1) % polygon.corners.size()]);
    }
    if (!(polygon.rounding >= 0) || !math::is_finite(polygon.rounding))
        throw Error(field + ".rounding", base::number(polygon.rounding), "a finite number, 0 or more (m)");
    Polygon out{without_needless(polygon.corners), polygon.rounding};
    if (out.corners.size() < 3)
        throw Error(field + ".corners",
                    std::to_string(polygon.corners.size()) + " corners, of which " +
                        std::to_string(out.corners.size()) + " remain without repeated and straight ones",
                    "at least 3 corners that do not lie on one line");
    if (area < 0) std::reverse(out.corners.begin(), out.corners.end());
    // Convex and gone round once: every turn is to the left, and together they make one full turn.
    const std::size_t n = out.corners.size();
    double turned = 0;
    for (std::size_t i = 0; i < n; i++) {
        const Vec2 a = out.corners[i], b = out.corners[(i + 1) % n], c = out.corners[(i + 2) % n];
        if (!(doubled_area(a, b, c) > 0))
            throw Error(field + ".corners", "an outline that turns inwards at " + base::text_of(b),
                        "a convex outline; a concave one is cut by cut_into_convex");
        turned += math::arc_tangent(cross(b - a, c - b), dot(b - a, c - b));
    }
    if (turned > 3 * kPi)
        throw Error(field + ".corners", "an outline that crosses itself",
                    "a convex outline that goes round once");
    return out;
}

}
