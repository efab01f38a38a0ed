// The plane's bounded shapes against one another and against half-planes: cores of corners, with skins.
//
// The side of least overlap, or of the largest gap, is the reference: separating axes over the sides of both,
// which in overlap of convex outlines is exact (the sides of their Minkowski difference). The other core's
// facing side is clipped to it (Sutherland and Hodgman). Cores that are apart may be nearest corner to
// corner: then no clipped point is as near as the gap, and the nearest points of all sides decide. Normals
// come from sides, so that they hold while shapes slide; near ties go to the first shape, and in overlap to
// the way out that was taken before. O(corners of a times corners of b). Oracle: tests/narrow/.
#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

constexpr float kParallel = 1 - 5e-7f; // cosine of a thousandth of a radian

using flow::Guide;
using shape::Core;

// A core in its frame. Side i runs from corner i to the next and looks outwards to its right. Those of the
// first few are kept.
class Outline {
public:
    Outline(const Core& core, const Frame<2>& at) : core_(&core), at_(&at) {
        for (std::size_t i = 0; i < std::min(kKept, core.corners.size()); i++) {
            corners_[i] = placed_corner(i);
            if (core.corners.size() > 1) normals_[i] = placed_normal(i);
        }
    }
    int count() const { return static_cast<int>(core_->corners.size()); }
    float radius() const { return core_->radius; }
    int next(int i) const { return i + 1 == count() ? 0 : i + 1; }
    Vec2 corner(int i) const {
        const auto k = static_cast<std::size_t>(i);
        return k < kKept ? corners_[k] : placed_corner(k);
    }
    Vec2 normal(int i) const {
        const auto k = static_cast<std::size_t>(i);
        return k < kKept ? normals_[k] : placed_normal(k);
    }
    // About how large it is: twice the skin and the way to the farthest corner from the first.
    float size() const {
        float most = 0;
        for (const Vec2 c : core_->corners) most = std::max(most, length_squared(c - core_->corners[0]));
        return std::sqrt(most) + 2 * core_->radius;
    }

private:
    static constexpr std::size_t kKept = 8;

    Vec2 placed_corner(std::size_t i) const {
        return at_->position + rotate(at_->rotation, core_->corners[i]);
    }
    Vec2 placed_normal(std::size_t i) const {
        const std::size_t after = i + 1 == core_->corners.size() ? 0 : i + 1;
        const Vec2 along = core_->corners[after] - core_->corners[i];
        return rotate(at_->rotation, direction(Vec2{along.y, -along.x}, Vec2{0, 1}));
    }

    const Core* core_;
    const Frame<2>* at_;
    std::array<Vec2, kKept> corners_, normals_;
};

struct Side {
    int index = -1;
    float separation = -1e30f; // of the other core's nearest corner
    Vec2 normal{};
};

Side best_side(const Outline& p, const Outline& q) {
    Side best;
    const int corners = q.count();
    for (int i = 0; p.count() > 1 && i < p.count(); i++) {
        const Vec2 n = p.normal(i), from = p.corner(i);
        float nearest = dot(q.corner(0) - from, n);
        for (int k = 1; k < corners && nearest > best.separation; k++)
            nearest = std::min(nearest, dot(q.corner(k) - from, n));
        if (nearest > best.separation) best = {i, nearest, n};
    }
    return best;
}

// The side of p that looks along a way out taken before, if it is still about as short as the shortest.
Side side_along(const Outline& p, const Outline& q, Vec2 before, float enough) {
    Side best;
    float most = kTurnedAway;
    for (int i = 0; p.count() > 1 && i < p.count(); i++) {
        const Vec2 n = p.normal(i), from = p.corner(i);
        if (!(dot(n, before) > most)) continue;
        float nearest = dot(q.corner(0) - from, n);
        for (int k = 1; k < q.count(); k++) nearest = std::min(nearest, dot(q.corner(k) - from, n));
        if (nearest >= enough) best = {i, nearest, n}, most = dot(n, before);
    }
    return best;
}

struct End {
    Vec2 at;
    std::uint32_t feature;
};

// The side of q that looks most against n; both ends alike for a single corner.
struct Facing {
    std::array<End, 2> ends;
    int count;
};
Facing facing_side(const Outline& q, Vec2 n) {
    if (q.count() == 1) return {{End{q.corner(0), 0}, End{q.corner(0), 0}}, 1};
    int facing = 0;
    float most = dot(q.normal(0), n);
    for (int k = 1; k < q.count(); k++) {
        const float d = dot(q.normal(k), n);
        if (d < most) facing = k, most = d;
    }
    const int next = q.next(facing);
    return {{End{q.corner(facing), static_cast<std::uint32_t>(facing)},
             End{q.corner(next), static_cast<std::uint32_t>(next)}},
            2};
}

// Cuts what lies beyond `limit` along `along`; false if nothing is left. What is beyond by no more than
// `slack` stays, so that the corners of boxes of one width keep their names.
bool cut(Facing& f, Vec2 along, float limit, float slack, std::uint32_t feature) {
    auto& [e0, e1] = f.ends;
    const float d0 = dot(e0.at, along) - limit, d1 = dot(e1.at, along) - limit;
    if (d0 > slack && d1 > slack) return false;
    if (d0 > slack || d1 > slack) {
        // One that is beyond within the slack is not to be passed over.
        const Vec2 at = e0.at + (e1.at - e0.at) * std::clamp(d0 / (d0 - d1), 0.0f, 1.0f);
        (d0 > slack ? e0 : e1) = {at, feature};
    }
    return true;
}

struct Nearest {
    float squared = 1e38f;
    Vec2 of_a{}, of_b{};
    std::uint32_t feature = 0;
};

// Each corner of q against each side of p (or its one corner).
void corners_to_sides(const Outline& p, const Outline& q, bool swapped, Nearest& best) {
    for (int i = 0; i < (p.count() > 2 ? p.count() : 1); i++) {
        const Vec2 from = p.corner(i), along = p.count() > 1 ? p.corner(p.next(i)) - from : Vec2{};
        const float squared = dot(along, along);
        for (int k = 0; k < q.count(); k++) {
            const Vec2 c = q.corner(k);
            const float t = squared > 0 ? std::clamp(dot(c - from, along) / squared, 0.0f, 1.0f) : 0.0f;
            const Vec2 on = from + along * t;
            const float d = length_squared(c - on);
            if (!(d < best.squared)) continue;
            const int corner = t > 0.5f ? p.next(i) : i;
            const auto of_p = static_cast<std::uint32_t>(corner), of_q = static_cast<std::uint32_t>(k);
            best = swapped ? Nearest{d, c, on, of_q << 10 | of_p} : Nearest{d, on, c, of_p << 10 | of_q};
        }
    }
}

// One point between the nearest points of both cores, guided by the line between them.
Touch<2> corner_touch(const Outline& a, const Outline& b, float margin) {
    Nearest nearest;
    corners_to_sides(a, b, false, nearest);
    corners_to_sides(b, a, true, nearest);
    Touch<2> out;
    const float separation = std::sqrt(nearest.squared) - (a.radius() + b.radius());
    if (!(separation < margin)) return out;
    out.guide = Guide::Centres;
    // Where cores coincide there is no direction: up, which is defined and lets gravity break the tie.
    out.normal = direction(nearest.of_b - nearest.of_a, Vec2{0, 1});
    out.skin_a = a.radius(), out.skin_b = b.radius();
    out.count = 1;
    out.points[0] = {nearest.of_a, nearest.of_b, separation, 1u << 30 | nearest.feature};
    return out;
}

// The other core's facing side over the reference side; no points if it is not over it.
Touch<2> side_touch(const Outline& a, const Outline& b, const Side& side, bool second, float slack) {
    const Outline &p = second ? b : a, &q = second ? a : b;
    const Vec2 n = side.normal, from = p.corner(side.index), to = p.corner(p.next(side.index));
    Facing facing = facing_side(q, n);
    const Vec2 along{-n.y, n.x}; // counter-clockwise: from the side's first corner to its second
    Touch<2> out;
    if (!cut(facing, along, dot(to, along), slack, 1023) ||
        !cut(facing, -along, dot(from, -along), slack, 1022))
        return out;
    out.normal = second ? -n : n;
    out.guide = second ? Guide::FaceOfB : Guide::FaceOfA;
    out.skin_a = a.radius(), out.skin_b = b.radius();
    for (int i = 0; i < facing.count; i++) {
        const End& end = facing.ends[static_cast<std::size_t>(i)];
        const float apart = dot(end.at - from, n);
        const Vec2 on_side = end.at - n * apart;
        const std::uint32_t feature = end.feature | static_cast<std::uint32_t>(side.index) << 10 |
                                      static_cast<std::uint32_t>(second) << 29;
        out.points[out.count++] = {second ? end.at : on_side, second ? on_side : end.at,
                                   apart - (a.radius() + b.radius()), feature};
    }
    return out;
}

float nearest_of(const Touch<2>& t) {
    return t.count == 2 ? std::min(t.points[0].separation, t.points[1].separation) : t.points[0].separation;
}

}

Touch<2> convex_convex(const Core& core_a, const Frame<2>& at_a, const Core& core_b, const Frame<2>& at_b,
                       float margin, const Vec2* before) {
    const Outline a(core_a, at_a), b(core_b, at_b);
    const float skins = a.radius() + b.radius();
    Side side_a = best_side(a, b);
    if (side_a.separation - skins >= margin) return {};
    Side side_b = best_side(b, a);
    if (side_b.separation - skins >= margin) return {};
    const float gap = std::max(side_a.separation, side_b.separation);
    const float size = std::min(a.size(), b.size());
    if (before != nullptr && gap <= 0 && gap > -1e30f) {
        const Vec2 chosen = side_b.separation > side_a.separation ? -side_b.normal : side_a.normal;
        const float enough = gap - kAboutAsShort * size;
        if (dot(*before, chosen) < kTurnedAway) {
            const Side kept_a = side_along(a, b, *before, enough),
                       kept_b = side_along(b, a, -*before, enough);
            if (kept_a.index >= 0 || kept_b.index >= 0) side_a = kept_a, side_b = kept_b;
        }
    }
    if (gap > -1e30f) {
        // Parallel sides must not take turns at being the reference, nor those of a box that rocks a little
        // as it slides from one to the next: its own side would hold it back.
        const bool parallel = dot(side_a.normal, side_b.normal) < -kParallel;
        const bool second = side_b.separation > side_a.separation + (parallel ? 1e-4f : 2e-5f) * size;
        const Side& side = second ? side_b : side_a;
        const Touch<2> t = side_touch(a, b, side, second, 2e-5f * size);
        if (t.count > 0 && (side.separation <= 0 || nearest_of(t) <= gap - skins + 2e-5f * size)) return t;
    }
    return corner_touch(a, b, margin);
}

Touch<2> side_and_convex(const Core& core_a, const Frame<2>& at_a, int side, const Core& core_b,
                         const Frame<2>& at_b) {
    const Outline a(core_a, at_a), b(core_b, at_b);
    return side_touch(a, b, {side, 0, a.normal(side)}, false, 2e-5f * std::min(a.size(), b.size()));
}

// The lowest corner and the lower of its neighbours.
Touch<2> convex_half_plane(const Core& core, const Frame<2>& at_a, const HalfPlane& b, const Frame<2>& at_b,
                           float margin) {
    const Outline a(core, at_a);
    const Vec2 outward = rotate(at_b.rotation, b.outward);
    const auto height = [&](int i) { return dot(a.corner(i) - at_b.position, outward); };
    int lowest = 0;
    for (int i = 1; i < a.count(); i++)
        if (height(i) < height(lowest)) lowest = i;
    Touch<2> out;
    if (!(height(lowest) - a.radius() < margin)) return out;
    out.normal = -outward;
    out.guide = Guide::FaceOfB;
    out.skin_a = a.radius();
    const auto add = [&](int i) {
        const Vec2 corner = a.corner(i);
        out.points[out.count++] = {corner, corner - outward * height(i), height(i) - a.radius(),
                                   static_cast<std::uint32_t>(i)};
    };
    add(lowest);
    if (a.count() == 1) return out;
    const int after = a.next(lowest), before = lowest == 0 ? a.count() - 1 : lowest - 1;
    add(height(before) < height(after) ? before : after);
    return out;
}

}
