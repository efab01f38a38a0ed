// The slow oracle of the plane's convex shapes: corners and skins in double, all sides against all corners.
#pragma once

#include "narrow/touch_support.h"

#include "shape/core_plane.h"
#include "shape/measure.h"

namespace astasis::test {

using Corners = std::vector<VecD<2>>;

struct PlaneShape {
    Geometry<2> geometry;
    Frame<2> at;
    Corners core; // in the world, in double
    double radius = 0, size = 0;
};

inline PlaneShape placed(Geometry<2> geometry, const Frame<2>& at) {
    PlaneShape out{std::move(geometry), at, {}, 0, 0};
    shape::CoreRoom room;
    const shape::Core core = shape::core_of(out.geometry, room);
    out.radius = core.radius;
    for (const Vec2 c : core.corners) {
        out.core.push_back(to_eigen(at.position) + to_eigen(rotate(at.rotation, c)));
        out.size = std::max(out.size, (out.core.back() - out.core[0]).norm());
    }
    out.size += 2 * out.radius;
    return out;
}

inline constexpr int kPlaneKinds = 5; // circle, capsule, box, polygon, segment

inline Geometry<2> any_plane_shape(Numbers& n, int kind, double scale) {
    const auto f = [&](double low, double high) { return static_cast<float>(scale * n.in(low, high)); };
    if (kind == 0) return Circle{f(0.1, 1)};
    if (kind == 1) return Capsule2{{f(-1, 0), f(-1, 1)}, {f(0.1, 1), f(-1, 1)}, f(0.02, 0.5)};
    if (kind == 2) return Box2::sized(f(0.5, 2), f(0.5, 2)).rounded(n.in(0, 1) < 0.5 ? 0 : f(0.01, 0.24));
    if (kind == 4) return Segment{{f(-1, 0), f(-1, 1)}, {f(0.1, 1), f(-1, 1)}};
    Polygon polygon;
    polygon.rounding = n.in(0, 1) < 0.5 ? 0 : f(0.01, 0.3);
    const int count = static_cast<int>(n.in(3, 11));
    for (int i = 0; i < count; i++) {
        const double angle = (i + n.in(0, 0.8)) * 2 * M_PI / count;
        polygon.corners.push_back(
            {static_cast<float>(scale * std::cos(angle)), static_cast<float>(0.6 * scale * std::sin(angle))});
    }
    return shape::checked_polygon(polygon, "polygon");
}

inline double segment_distance(const VecD<2>& p, const VecD<2>& a, const VecD<2>& b) {
    const VecD<2> d = b - a;
    const double t = d.squaredNorm() > 0 ? std::clamp((p - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
    return (p - a - t * d).norm();
}
inline double corners_to_outline(const Corners& a, const Corners& b) {
    double least = 1e300;
    for (const auto& p : a)
        for (std::size_t i = 0; i < b.size(); i++)
            least = std::min(least, segment_distance(p, b[i], b[(i + 1) % b.size()]));
    return least;
}

// Signed distance of two shapes: the overlap of the cores by their Minkowski difference, else their distance.
inline double plane_separation(const Corners& a, double ra, const Corners& b, double rb) {
    std::vector<VecD<2>> normals;
    for (const Corners* c : {&a, &b})
        for (std::size_t i = 0; c->size() > 1 && i < c->size(); i++) {
            const VecD<2> d = (*c)[(i + 1) % c->size()] - (*c)[i];
            normals.push_back(VecD<2>(d.y(), -d.x()).normalized());
        }
    const double overlap = normals.empty() ? 1 : separation<2>(a, b, normals);
    const double cores = overlap < 0 ? overlap : std::min(corners_to_outline(a, b), corners_to_outline(b, a));
    return cores - ra - rb;
}

}
