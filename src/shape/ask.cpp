// Shapes taken apart, each part asked, the best part's answer in world terms.
#include "shape/ask.h"

#include "math/numbers.h"
#include "shape/impact.h"
#include "shape/measure.h"
#include "shape/usable.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace astasis::shape {
namespace {

using math::Wide;

template<int Dim> Wide<Dim> wide_between(const Point<Dim>& from, const Point<Dim>& to) {
    Wide<Dim> out;
    for (int k = 0; k < Dim; k++) out[k] = to[k] - from[k];
    return out;
}
template<int Dim> Point<Dim> moved(const Point<Dim>& p, const Wide<Dim>& by) {
    Point<Dim> out;
    for (int k = 0; k < Dim; k++) out[k] = p[k] + by[k];
    return out;
}

template<int Dim> Path<Dim> standing(const Wide<Dim>& at, const Rotation<Dim>& rotation) {
    Path<Dim> out;
    out.pivot = at, out.turn = math::turn_of(rotation);
    return out;
}
template<int Dim> Path<Dim> path_of(const Moving<Dim>& m, const Point<Dim>& origin) {
    Path<Dim> out;
    out.turn = math::turn_of(m.from.rotation);
    out.centre = math::widened(m.centre);
    out.pivot = wide_between(origin, m.from.position) + out.turn * out.centre;
    out.velocity = math::widened(m.velocity);
    out.spin = m.angular_velocity;
    return out;
}

// A piece as a convex part; its corners live in the piece.
template<int Dim> Convex<Dim> flat(const Piece<Dim>& p) {
    return {.corners = p.corner, .turn = math::turn_of(Rotation<Dim>{})};
}

template<int Dim> Feature feature_of(int corners, const Convex<Dim>& c) {
    if (c.rim > 0) return corners == 1 ? Feature::Edge : Feature::Face; // of a drum: its rim, its cap or side
    return corners == 1 ? Feature::Corner : corners == 2 ? Feature::Edge : Feature::Face;
}

template<int Dim> struct BestGap {
    Gap<Dim> gap;
    std::uint32_t piece = 0;
};

// The number of what was met at a place of a surface, in its frame: a tile grid's walls have many cells, so
// the one behind the place, along the way in.
std::uint32_t piece_met(const Geometry<2>& surface, const Wide<2>& place, const Wide<2>& inwards,
                        std::uint32_t piece) {
    const auto* grid = std::get_if<TileGrid>(&surface);
    if (grid == nullptr) return piece;
    constexpr double kIn = 1e-3; // of a cell
    const auto index = [&](int k, int count) {
        const double cell = std::floor(place[k] / grid->cell + kIn * inwards[k]);
        return static_cast<std::uint32_t>(std::clamp(cell, 0.0, count - 1.0));
    };
    return index(1, grid->rows) * static_cast<std::uint32_t>(grid->columns) + index(0, grid->columns);
}
std::uint32_t piece_met(const Geometry<3>&, const Wide<3>&, const Wide<3>&, std::uint32_t piece) {
    return piece;
}

// `a` is convex, `b` anything; both placed.
template<int Dim> BestGap<Dim> nearest_part(const Parts<Dim>& a, Parts<Dim>& b) {
    if (b.half_space) return {gap_to_plane(a.convex, b.position, b.turn * b.outward), 0};
    if (!b.surface) return {gap_of(a.convex, b.convex, true), 0};
    b.take_pieces(window_of(b.geometry));
    BestGap<Dim> best;
    best.gap.separation = std::numeric_limits<double>::infinity();
    for (const Piece<Dim>& p : b.pieces) {
        const Gap<Dim> g = gap_of(a.convex, placed(flat(p), b.position, b.turn), true);
        if (g.separation < best.gap.separation) best = {g, p.id};
    }
    best.piece = piece_met(b.geometry, turned_back(b.turn, best.gap.on_b - b.position),
                           turned_back(b.turn, best.gap.normal), best.piece);
    return best;
}

// The relative way of a convex shape in a surface's frame, as a window over a part of the time.
template<int Dim>
Window<Dim> swept_window(const MovingPart<Dim>& a, const Path<Dim>& b, double from, double to) {
    const Path<Dim>& pa = *a.path;
    const Convex<Dim> start = placed(*a.convex, pa.position(0), pa.turn_at(0));
    const double slack = 1e-6 * start.size();
    if (!pa.turns() && !b.turns()) {
        const Wide<Dim> velocity = pa.velocity - b.velocity;
        const auto at = [&](double t) {
            return window_of(placed(*a.convex, start.position + velocity * t, start.turn), b.position(0),
                             b.turn, slack);
        };
        Window<Dim> out = at(to);
        const Window<Dim> first = at(from);
        for (int k = 0; k < Dim; k++)
            out.low[k] = std::min(out.low[k], first.low[k]),
            out.high[k] = std::max(out.high[k], first.high[k]);
        return out;
    }
    const double turned =
        spin_rate(pa.spin) * a.reach + spin_rate(b.spin) * (norm(pa.pivot - b.pivot) + a.reach);
    const double way = (norm(pa.velocity - b.velocity) + turned) * to;
    return window_of(start, b.position(0), b.turn, way);
}

// Into how many slices a way is cut, each with a window of its own: across a wide surface the window of a
// slanting way would hold most of it.
template<int Dim> int slices_of(const MovingPart<Dim>& a, const Path<Dim>& b, double seconds) {
    constexpr int kSlices = 32;
    constexpr double kSlanting = 0.1;
    if (a.path->turns() || b.turns()) return 1;
    const Window<Dim> w = swept_window(a, b, 0, seconds);
    double most = 0, second = 0;
    for (int k = 0; k < Dim; k++) {
        const double side = static_cast<double>(w.high[k]) - w.low[k];
        second = std::max(second, std::min(side, most)), most = std::max(most, side);
    }
    return most > 10 * a.convex->size() && second > kSlanting * most ? kSlices : 1;
}

template<int Dim> struct Found {
    Met<Dim> met;
    std::uint32_t piece = 0;
};

// The first meeting of a convex part with anything.
template<int Dim>
std::optional<Found<Dim>> first_meeting(const MovingPart<Dim>& a, Parts<Dim>& b, const Path<Dim>& path_b,
                                        double seconds) {
    const auto plain = [](const std::optional<Met<Dim>>& met) {
        return met ? std::optional<Found<Dim>>{{*met, 0}} : std::nullopt;
    };
    if (b.half_space) return plain(meet(a, MovingPart<Dim>(path_b, b.outward), seconds));
    if (!b.surface) return plain(meet(a, MovingPart<Dim>(path_b, b.convex), seconds));
    const int slices = slices_of(a, path_b, seconds);
    std::optional<Found<Dim>> best;
    for (int slice = 0; slice < slices; slice++) {
        const double from = seconds * slice / slices;
        const double to = slice + 1 == slices ? seconds : seconds * (slice + 1) / slices;
        if (best && best->met.time < from) break;
        b.take_pieces(swept_window(a, path_b, from, to));
        for (const Piece<Dim>& p : b.pieces) {
            const Convex<Dim> part = flat(p);
            const auto met = meet(a, MovingPart<Dim>(path_b, part), best ? best->met.time : seconds);
            if (!met || (best && !(met->time < best->met.time))) continue;
            // From behind a one-sided piece there is no meeting: normals run from a to b.
            const Wide<Dim> out_of = path_b.turn_at(met->time) * math::widened(p.normal);
            if (!p.two_sided && dot(met->gap.normal, out_of) > 1e-9) continue;
            best = Found<Dim>{*met, p.id};
        }
    }
    if (best) {
        const Gap<Dim>& g = best->met.gap;
        const math::Turn<Dim> turn = path_b.turn_at(best->met.time);
        best->piece = piece_met(b.geometry, turned_back(turn, g.on_b - path_b.position(best->met.time)),
                                turned_back(turn, g.normal), best->piece);
    }
    return best;
}

template<int Dim> Impact<Dim> impact_of(const Found<Dim>& f, const Point<Dim>& origin, bool swapped) {
    const Gap<Dim>& g = f.met.gap;
    return {f.met.time, moved(origin, (g.on_a + g.on_b) * 0.5),
            math::narrowed(swapped ? -g.normal : g.normal), f.piece};
}

template<int Dim> bool is_convex(const Parts<Dim>& p) { return !p.half_space && !p.surface; }

template<int Dim>
std::optional<Impact<Dim>> impact_between(const Geometry<Dim>& a, const Path<Dim>& path_a,
                                          const Geometry<Dim>& b, const Path<Dim>& path_b, double seconds,
                                          const Point<Dim>& origin) {
    Parts<Dim> parts_a(a, path_a.position(0), path_a.turn), parts_b(b, path_b.position(0), path_b.turn);
    if (is_convex(parts_a)) {
        const auto f = first_meeting(MovingPart<Dim>(path_a, parts_a.convex), parts_b, path_b, seconds);
        return f ? std::optional(impact_of(*f, origin, false)) : std::nullopt;
    }
    const auto f = first_meeting(MovingPart<Dim>(path_b, parts_b.convex), parts_a, path_a, seconds);
    return f ? std::optional(impact_of(*f, origin, true)) : std::nullopt;
}

template<int Dim> Convex<Dim> point_like(const Vec<Dim>& nowhere) {
    return {.corners = {&nowhere, 1}, .turn = math::turn_of(Rotation<Dim>{})};
}

}

template<int Dim>
astasis::Nearest<Dim> nearest_points(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                                     const Pose<Dim>& at_b) {
    const Point<Dim> origin = at_a.position;
    Parts<Dim> parts_a(a, {}, math::turn_of(at_a.rotation));
    Parts<Dim> parts_b(b, wide_between(origin, at_b.position), math::turn_of(at_b.rotation));
    const bool swapped = !is_convex(parts_a);
    BestGap<Dim> best = swapped ? nearest_part(parts_b, parts_a) : nearest_part(parts_a, parts_b);
    Gap<Dim>& g = best.gap;
    if (swapped) std::swap(g.on_a, g.on_b), std::swap(g.corners_a, g.corners_b), g.normal = -g.normal;
    return {g.separation,
            math::narrowed(g.normal),
            moved(origin, g.on_a),
            moved(origin, g.on_b),
            feature_of(g.corners_a, parts_a.convex),
            feature_of(g.corners_b, parts_b.convex),
            best.piece};
}

template<int Dim>
std::optional<Impact<Dim>> first_touch(const Geometry<Dim>& a, const Moving<Dim>& motion_a,
                                       const Geometry<Dim>& b, const Moving<Dim>& motion_b, double seconds,
                                       int most_steps) {
    const Point<Dim> origin = motion_a.from.position;
    Path<Dim> path = path_of(motion_a, origin);
    path.most_steps = most_steps;
    return impact_between(a, path, b, path_of(motion_b, origin), seconds, origin);
}

template<int Dim>
std::optional<RayHit<Dim>> ray_into(const Geometry<Dim>& geometry, const Pose<Dim>& at,
                                    const Point<Dim>& from, const Vec<Dim>& way) {
    const Vec<Dim> nowhere{};
    const Convex<Dim> tip = point_like(nowhere);
    Path<Dim> ray = standing<Dim>({}, {});
    ray.velocity = math::widened(way);
    const Path<Dim> path = standing(wide_between(from, at.position), at.rotation);
    Parts<Dim> parts(geometry, path.pivot, path.turn);
    const auto f = first_meeting(MovingPart<Dim>(ray, tip), parts, path, 1);
    if (!f) return {};
    RayHit<Dim> hit{f->met.time, moved(from, ray.velocity * f->met.time), math::narrowed(-f->met.gap.normal),
                    f->piece};
    // On the surface or inside there is no way from the point to the shape to tell the normal.
    if (f->met.time == 0 && f->met.gap.separation <= 0) hit.normal = direction(-way, hit.normal);
    return hit;
}

template<int Dim>
bool holds_point(const Geometry<Dim>& geometry, const Pose<Dim>& at, const Point<Dim>& point) {
    const math::Turn<Dim> turn = math::turn_of(at.rotation);
    const Wide<Dim> local = turned_back(turn, wide_between(at.position, point));
    Parts<Dim> parts(geometry, {}, math::turn_of(Rotation<Dim>{}));
    if (parts.half_space) return dot(local, parts.outward) <= 0;
    if (parts.surface) return surface_holds(geometry, local);
    const Vec<Dim> nowhere{};
    Convex<Dim> tip = point_like(nowhere);
    tip.position = local;
    return gap_of(tip, parts.convex, false).separation <= 0;
}

template<int Dim>
astasis::Nearest<Dim> nearest_to(const Geometry<Dim>& geometry, const Pose<Dim>& at,
                                 const Point<Dim>& place) {
    const Geometry<Dim> tip = Ball<Dim>{};
    return nearest_points<Dim>(tip, {place, {}}, geometry, at);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template astasis::Nearest<Dim> nearest_points(const Geometry<Dim>&, const Pose<Dim>&,                    \
                                                  const Geometry<Dim>&, const Pose<Dim>&);                   \
    template std::optional<Impact<Dim>> first_touch(const Geometry<Dim>&, const Moving<Dim>&,                \
                                                    const Geometry<Dim>&, const Moving<Dim>&, double, int);  \
    template std::optional<RayHit<Dim>> ray_into(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&,  \
                                                 const Vec<Dim>&);                                           \
    template bool holds_point(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&);                    \
    template astasis::Nearest<Dim> nearest_to(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
