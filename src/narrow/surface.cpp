// A convex shape on a surface of pieces: each piece by itself, then only what is its own.
//
// A contact whose normal leans over a side of its piece towards where the neighbour lies belongs to the
// neighbour, which is nearer there: exact while the shapes are apart. In overlap, where the way out of one
// piece may lead sideways across the seam, the piece's own normal is taken instead. What remains with one
// normal is one manifold, as if the pieces were one face. So nothing catches at seams, and real edges keep
// their normals. At a valley the far side is met in time: see over_valley. Tested by
// tests/narrow/surface_test.cpp and tests/world/mechanics_test.cpp.
#include "math/numbers.h"
#include "narrow/convex_space.h"
#include "narrow/widest.h"
#include "shape/gap.h"

#include <cmath>

namespace astasis::narrow {
namespace {

using math::Wide;
using math::Wide3;
using shape::Piece;

constexpr float kLeans = 1e-5f;     // sine of an angle that counts as leaning
constexpr float kOneNormal = 5e-6f; // 1 - cosine below which normals are one: 0.2 degrees
constexpr float kFlat = 2e-6f;      // the same, of a normal that is the piece's own
// What stands on one side of a valley may have sunk in so far, as a share of its size, by what contacts give.
constexpr float kGiven = 1e-3f;

template<int Dim> float nearest_of(const Touch<Dim>& t) {
    float nearest = t.points[0].separation;
    for (int i = 1; i < t.count; i++)
        nearest = std::min(nearest, t.points[static_cast<std::size_t>(i)].separation);
    return nearest;
}

// Unit vectors in the piece's flat, out across side k and square to it.
Vec2 outwards(const Piece<2>& p, int k) {
    return direction(p.corner[static_cast<std::size_t>(k)] - p.corner[static_cast<std::size_t>(1 - k)],
                     Vec2{});
}
Vec3 outwards(const Piece<3>& p, int k) {
    const auto i = static_cast<std::size_t>(k);
    return direction(cross(p.corner[(i + 1) % 3] - p.corner[i], p.normal), Vec3{});
}

// How far a normal leans over side k: its part along the segment; of a triangle, its share along that edge's
// outward vector where the two edges at the corner farthest along it make up the whole.
float share_of_side(const Piece<2>& p, int k, Vec2 n) { return dot(n, outwards(p, k)); }
float share_of_side(const Piece<3>& p, int k, Vec3 n) {
    int tip = 0;
    for (int i = 1; i < 3; i++)
        if (dot(n, p.corner[static_cast<std::size_t>(i)]) > dot(n, p.corner[static_cast<std::size_t>(tip)]))
            tip = i;
    if (k == (tip + 1) % 3) return 0;
    const Vec3 u = outwards(p, k), v = outwards(p, k == tip ? (tip + 2) % 3 : tip);
    const float together = dot(u, v);
    return (dot(n, u) - together * dot(n, v)) / std::max(1 - together * together, 1e-6f);
}

// Whether a contact with the normal `n`, from the surface to the shape and in the surface's frame, is nearer
// to a neighbour.
template<int Dim> bool leans_over(const Piece<Dim>& p, int k, Vec<Dim> n) {
    const Vec<Dim> beyond = p.beyond[static_cast<std::size_t>(k)];
    return beyond != Vec<Dim>{} && share_of_side(p, k, n) > kLeans && dot(n, beyond) > kLeans;
}
template<int Dim> bool is_a_neighbours(const Piece<Dim>& p, Vec<Dim> n) {
    for (int k = 0; k < Dim; k++)
        if (leans_over(p, k, n)) return true;
    return false;
}

// Whether a point lies in what is solid behind a piece.
template<int Dim> bool is_inside(const Piece<Dim>& p, Vec<Dim> point) {
    const float height = dot(point - p.corner[0], p.normal);
    if (p.through == Vec<Dim>{} || !(height < 0)) return false;
    const float deep = height / dot(p.through, p.normal);
    const Vec<Dim> on = point - p.through * deep;
    if (deep > p.solid) return false;
    for (int k = 0; k < Dim; k++)
        if (dot(on - p.corner[static_cast<std::size_t>(k)], outwards(p, k)) > 0) return false;
    return true;
}

// The shape that lies on the surface, and a piece against it, in both dimensions.
template<int Dim> struct Mover;

template<> struct Mover<2> {
    shape::CoreRoom room;
    shape::Core core;
    Frame<2> at;
    shape::Convex<2> convex;
    const Frame<2>& of_surface;

    Mover(const Geometry<2>& g, const Frame<2>& f, const Frame<2>& surface)
        : core(shape::core_of(g, room)), at(f), convex{.corners = core.corners,
                                                       .skin = core.radius,
                                                       .position = math::widened(f.position),
                                                       .turn = math::turn_of(f.rotation)},
          of_surface(surface) {}

    Touch<2> touch(const Piece<2>& p, float margin, bool& overlap) const {
        const Touch<2> t = convex_convex({p.corner, 0}, of_surface, core, at, margin);
        overlap = false;
        for (int i = 0; i < t.count; i++) overlap = overlap || t.points[i].separation + t.skin_b <= 0;
        return t;
    }
    Touch<2> along_normal(const Piece<2>& p, Vec2 normal) const {
        // Side 0 of a segment looks to the right of its direction.
        const Vec2 along = p.corner[1] - p.corner[0];
        return side_and_convex({p.corner, 0}, of_surface, dot(Vec2{along.y, -along.x}, normal) > 0 ? 0 : 1,
                               core, at);
    }
    bool is_far(const Piece<2>&, Vec2, float) const { return false; } // its search is as quick
    Touch<2> out_of_plane(const Piece<2>&, Vec2) const { return {}; }
    Touch<2> over_side(const Piece<2>&, int) const { return {}; }
};

template<> struct Mover<3> {
    shape::ConvexRoom<3> room;
    shape::Convex<3> convex;
    math::Wide3 position;
    math::Turn<3> turn;

    Mover(const Geometry<3>& g, const Frame<3>& f, const Frame<3>& surface)
        : convex(
              shape::placed(shape::convex_of(g, room), math::widened(f.position), math::turn_of(f.rotation))),
          position(math::widened(surface.position)), turn(math::turn_of(surface.rotation)) {}

    shape::Convex<3> flat(const Piece<3>& p) const {
        return {.corners = p.corner, .position = position, .turn = turn};
    }
    Touch<3> touch(const Piece<3>& p, float margin, bool& overlap) const {
        const Contact3 c = contact_of(flat(p), convex, margin, nullptr);
        overlap = c.overlap;
        if (!c.touches) return {};
        return convex_along(flat(p), convex, c.normal, &c.on_a, &c.on_b);
    }
    Touch<3> along_normal(const Piece<3>& p, Vec3 normal) const {
        return convex_along(flat(p), convex, turn * math::widened(normal), nullptr, nullptr);
    }
    // Whether the planes of the piece and of its edges alone show that the shape is farther off than the
    // margin.
    bool is_far(const Piece<3>& p, Vec3 normal, float margin) const {
        const auto beyond = [&](Vec3 way, Vec3 from) {
            const Wide3 n = turn * math::widened(way), on = position + turn * math::widened(from);
            return dot(convex.support(-n) - on, n) - convex.skin > margin;
        };
        if (beyond(normal, p.corner[0])) return true;
        for (int k = 0; k < 3; k++)
            if (beyond(outwards(p, k), p.corner[static_cast<std::size_t>(k)])) return true;
        return false;
    }
    // Out along the piece's normal, wherever the shape is.
    Touch<3> out_of_plane(const Piece<3>& p, Vec3 normal) const {
        const Wide3 n = turn * math::widened(normal), on_b = convex.support(-n);
        const Wide3 on_a = on_b - n * dot(on_b - (position + turn * math::widened(p.corner[0])), n);
        return convex_along(flat(p), convex, n, &on_a, &on_b);
    }
    // Out over the edge k of two faces, by the shortest way between their normals.
    Touch<3> over_side(const Piece<3>& p, int k) const {
        const auto i = static_cast<std::size_t>(k);
        const Wide3 corner = position + turn * math::widened(p.corner[i]);
        const Wide3 edge = unit(position + turn * math::widened(p.corner[(i + 1) % 3]) - corner, Wide3{});
        const Wide3 from = turn * math::widened(p.normal),
                    across = cross(edge, turn * math::widened(p.beyond[i]));
        const Wide3 to = dot(across, turn * math::widened(outwards(p, k))) < 0 ? -across : across;
        const auto normal = [&](double share) { return unit(from * (1 - share) + to * share, from); };
        const auto overlap = [&](double share) {
            return shape::overlap_along(flat(p), convex, normal(share));
        };
        double low = 0, high = 1;
        for (int round = 0; round < 30; round++) {
            const double third = (high - low) / 3;
            if (overlap(low + third) < overlap(high - third)) high -= third;
            else low += third;
        }
        const Wide3 n = normal(0.5 * (low + high)), on_b = convex.support(-n);
        const Wide3 on_a = corner + edge * dot(on_b - corner, edge);
        return convex_along(flat(p), convex, n, &on_a, &on_b);
    }
};

// The shape against the plane of a piece that it does not stand over, if it is no farther off than `reach`
// and across a valley: there the plane runs on in what is solid behind the neighbour, so it can be met from
// the neighbour's side.
template<int Dim>
Touch<Dim> over_valley(const Mover<Dim>& mover, const Frame<Dim>& at, const Piece<Dim>& p, Vec<Dim> out_of,
                       float reach) {
    for (int k = 0; k < Dim; k++) {
        if (!(dot(p.beyond[static_cast<std::size_t>(k)], out_of) > kLeans)) continue;
        const Wide<Dim> lowest = mover.convex.support(math::widened(rotate(at.rotation, -out_of)));
        const Vec<Dim> out = outwards(p, k),
                       from = rotate_back(at.rotation, math::narrowed(lowest) - at.position) -
                              p.corner[static_cast<std::size_t>(k)];
        const float off = dot(from, out);
        if (!(off > 0) || off > reach) continue;
        Piece<Dim> moved = p;
        for (Vec<Dim>& corner : moved.corner) corner += out * (1.001f * off);
        const Touch<Dim> t = mover.along_normal(moved, out_of);
        if (t.count > 0) return t;
    }
    return {};
}

}

// Pieces come first in their touches, so that parallel faces are clipped to the piece and keep the names of
// the shape's corners.
template<int Dim>
void Toucher<Dim>::touch_surface(const Geometry<Dim>& surface, const Frame<Dim>& at,
                                 const Geometry<Dim>& convex, const Frame<Dim>& at_convex, float margin) {
    const Mover<Dim> mover(convex, at_convex, at);
    const Vec<Dim> middle = rotate_back(at.rotation, math::narrowed(mover.convex.middle()) - at.position);
    const auto size = static_cast<float>(mover.convex.size());
    pieces_.clear(), later_.clear();
    used_ = 0;
    shape::pieces_in(
        surface,
        shape::window_of(mover.convex, math::widened(at.position), math::turn_of(at.rotation), margin),
        pieces_);
    Touch<Dim> spare; // of overlaps that no piece has a feature under: the shallowest way out over an edge
    float spare_depth = -1e30f;
    for (const Piece<Dim>& p : pieces_) {
        const bool behind = dot(middle - p.corner[0], p.normal) < 0, inside = is_inside(p, middle);
        // With its middle behind a face but not in the solid there, it is over another face.
        if (behind && !p.two_sided && !inside) continue;
        const Vec<Dim> out_of = behind && p.two_sided ? -p.normal : p.normal;
        if (!inside && mover.is_far(p, out_of, margin)) continue;
        bool overlap = inside;
        Touch<Dim> t;
        if (!inside) t = mover.touch(p, margin, overlap);
        const bool faces_it = !behind || p.two_sided;
        if (t.count == 0 && faces_it) later_.push_back({&p, out_of});
        const Vec<Dim> n = rotate_back(at.rotation, t.normal);
        const bool level = t.count > 0 && dot(n, out_of) > 1 - kFlat;
        if (inside || (t.count > 0 && !level && (dot(n, out_of) < -kLeans || is_a_neighbours(p, n)))) {
            if (!overlap) {
                if (faces_it) later_.push_back({&p, out_of});
                continue;
            }
            const Touch<Dim> level_one = mover.along_normal(p, out_of);
            if (level_one.count == 0 && !inside) {
                // Ways out that would free the shape from the solid behind, not from this thin piece alone.
                Touch<Dim> over = mover.out_of_plane(p, out_of);
                for (int k = 0; k < Dim; k++)
                    if (leans_over(p, k, n) && dot(p.beyond[static_cast<std::size_t>(k)], out_of) < -kLeans)
                        over = mover.over_side(p, k);
                if (over.count == 0 || nearest_of(t) > -1e-4f * size) over = t; // they only just touch
                if (nearest_of(over) > spare_depth) spare = over, spare_depth = nearest_of(over);
            }
            t = level_one;
        }
        if (t.count == 0) continue;
        if (level || dot(rotate_back(at.rotation, t.normal), out_of) > 1 - kFlat) {
            t.normal = rotate(at.rotation, out_of);
            t.guide = flow::Guide::FaceOfA; // not the slider's own face, which may rock on the surface
        }
        add(t, 1e-5f * size);
    }
    if (used_ == 0 && spare.count > 0) add(spare, 1e-5f * size);
    // What lies over the other pieces comes down on them within the tick: the far end of a tube. So does what
    // rolls through a valley.
    for (const auto& [piece, out_of] : later_) {
        Touch<Dim> t = mover.along_normal(*piece, out_of);
        float least = 0;
        if (t.count == 0) t = over_valley(mover, at, *piece, out_of, margin), least = -kGiven * size;
        if (t.count == 0 || nearest_of(t) < least) continue; // behind the piece, which it does not touch
        t.normal = rotate(at.rotation, out_of), t.guide = flow::Guide::FaceOfA;
        add(t, 1e-5f * size);
    }
    touches_.clear();
    for (std::size_t i = 0; i < used_; i++) {
        Patch& patch = patches_[i];
        keep_widest(patch.points, patch.touch.normal, patch.touch);
        if (nearest_of(patch.touch) < margin) touches_.push_back(patch.touch);
    }
}

template<int Dim> void Toucher<Dim>::add(const Touch<Dim>& t, float same_place) {
    std::size_t k = 0;
    const auto one_with = [&](const Touch<Dim>& other) {
        return dot(t.normal, other.normal) > 1 - kOneNormal && t.guide == other.guide &&
               (t.rim_b.radius > 0) == (other.rim_b.radius > 0);
    };
    while (k < used_ && !one_with(patches_[k].touch)) k++;
    if (k == used_) {
        if (used_ == patches_.size()) { // room for more than ever before, at once
            patches_.resize(2 * used_ + 8);
            for (std::size_t i = used_; i < patches_.size(); i++) patches_[i].points.reserve(16);
            touches_.reserve(patches_.size());
        }
        patches_[used_].touch = t;
        patches_[used_++].points.clear();
    }
    auto& points = patches_[k].points;
    for (int i = 0; i < t.count; i++) {
        const auto& point = t.points[i];
        const auto known = std::find_if(points.begin(), points.end(), [&](const auto& p) {
            return length(p.core_b - point.core_b) < same_place;
        });
        if (known == points.end()) points.push_back(point);
        else if (point.separation < known->separation) *known = point;
    }
}

template<int Dim>
std::span<const Touch<Dim>> Toucher<Dim>::touch(const Geometry<Dim>& a, const Frame<Dim>& at_a,
                                                const Geometry<Dim>& b, const Frame<Dim>& at_b, float margin,
                                                const Vec<Dim>* before) {
    const bool of_a = shape::is_surface(a), of_b = shape::is_surface(b);
    touches_.clear();
    if (of_a || of_b) {
        if ((of_a ? of_b || shape::is_unbounded(b) : shape::is_unbounded(a))) return {};
        of_a ? touch_surface(a, at_a, b, at_b, margin) : touch_surface(b, at_b, a, at_a, margin);
        if (of_b)
            for (auto& t : touches_) t = turned_round(t);
    } else {
        const Touch<Dim> t = narrow::touch(a, at_a, b, at_b, margin, before);
        if (t.count > 0) touches_.push_back(t);
    }
    return touches_;
}

template class Toucher<2>;
template class Toucher<3>;

}
