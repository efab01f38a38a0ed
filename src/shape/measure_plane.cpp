// The shapes of the plane by their cores: mass, bounds, sizes, checks.
#include "shape/measure.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "shape/core_plane.h"
#include "shape/surface.h"

#include <algorithm>
#include <limits>

namespace astasis::shape {
namespace {

constexpr float kInfinite = std::numeric_limits<float>::infinity();

}

Measure<2> measure(const Geometry<2>& geometry) {
    if (is_unbounded(geometry) || is_surface(geometry)) return {};
    CoreRoom room;
    const CoreMeasure m = measure_of(core_of(geometry, room));
    return {static_cast<float>(m.area),
            {static_cast<float>(m.centre_x), static_cast<float>(m.centre_y)},
            static_cast<float>(m.inertia)};
}

Bounds<2> bounds(const Geometry<2>& geometry, const Point<2>& at, Rotation<2> rotation) {
    if (is_unbounded(geometry)) return {at - Vec2{kInfinite, kInfinite}, at + Vec2{kInfinite, kInfinite}};
    CoreRoom room;
    Core core = core_of(geometry, room);
    if (is_surface(geometry)) {
        const Window<2> w = window_of(geometry);
        room = {w.low, Vec2{w.high.x, w.low.y}, w.high, Vec2{w.low.x, w.high.y}};
        core.corners = room;
    }
    Vec2 low{kInfinite, kInfinite}, high{-kInfinite, -kInfinite};
    for (const Vec2 c : core.corners) {
        const Vec2 p = rotate(rotation, c);
        low = {std::min(low.x, p.x), std::min(low.y, p.y)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    }
    const Vec2 skin{core.radius, core.radius};
    return {at + (low - skin), at + (high + skin)};
}

float thickness(const Geometry<2>& geometry) {
    if (is_unbounded(geometry) || is_surface(geometry) || std::holds_alternative<Segment>(geometry))
        return kInfinite;
    CoreRoom room;
    return thickness_of(core_of(geometry, room));
}

float reach(const Geometry<2>& geometry) {
    if (is_unbounded(geometry)) return kInfinite;
    if (is_surface(geometry)) {
        const Window<2> w = window_of(geometry);
        return length(Vec2{std::max(std::fabs(w.low.x), std::fabs(w.high.x)),
                           std::max(std::fabs(w.low.y), std::fabs(w.high.y))});
    }
    CoreRoom room;
    const Core core = core_of(geometry, room);
    float most = 0;
    for (const Vec2 c : core.corners) most = std::max(most, length(c));
    return most + core.radius;
}

Geometry<2> checked_geometry(const Geometry<2>& geometry, const std::string& field) {
    if (const auto* half = std::get_if<HalfPlane>(&geometry)) return checked_half_space(*half, field);
    if (const auto* polygon = std::get_if<Polygon>(&geometry)) return checked_polygon(*polygon, field);
    if (const auto* segment = std::get_if<Segment>(&geometry)) {
        check_point(segment->from, field + ".from");
        check_point(segment->to, field + ".to");
        if (!(length(segment->to - segment->from) > 0))
            throw Error(field + ".to", base::text_of(segment->to), "a point other than `from`");
    }
    if (const auto* grid = std::get_if<TileGrid>(&geometry)) check_size(*grid, field);
    if (const auto* circle = std::get_if<Circle>(&geometry))
        check_positive(circle->radius, field + ".radius", " (m)");
    if (const auto* capsule = std::get_if<Capsule2>(&geometry)) return checked_capsule(*capsule, field);
    if (const auto* box = std::get_if<Box2>(&geometry)) {
        const Vec2 s = box->full_size();
        check_positive(s.x, field + ".width", " (m)");
        check_positive(s.y, field + ".height", " (m)");
        if (!(box->rounding() >= 0) || !(box->rounding() < 0.5f * std::min(s.x, s.y)))
            throw Error(field + ".rounding", base::number(box->rounding()),
                        "0 to less than half the smaller side (m)");
    }
    return geometry;
}

}
