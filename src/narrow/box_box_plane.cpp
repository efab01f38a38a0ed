// Two boxes in the plane: the face of least overlap, and the other box's facing side clipped to it.
//
// Separating axes over the faces of both (Gottschalk et al. 1996, OBBTree), then Sutherland and Hodgman's
// clipping. The points lie on the other box, their cores of the reference box on its face. Oracle:
// tests/narrow/touch_test.cpp.
#include "narrow/touch.h"

#include <algorithm>

namespace astasis::narrow {
namespace {

// Corners counter-clockwise; side i runs from corner i to corner i + 1 and has the outward normal i.
struct Outline {
    std::array<Vec2, 4> corner, normal;
};

Outline outline(const Box<2>& box, const Frame<2>& at) {
    const Vec2 x = rotate(at.rotation, {1, 0}), y = rotate(at.rotation, {0, 1});
    const Vec2 right = x * (0.5f * box.full_size().x), up = y * (0.5f * box.full_size().y);
    const Vec2 c = at.position;
    return {{(c + right) - up, (c + right) + up, (c - right) + up, (c - right) - up}, {x, y, -x, -y}};
}

struct Side {
    int index;
    float separation;
};

Side best_side(const Outline& p, const Outline& q) {
    Side best{0, 0};
    for (int i = 0; i < 4; i++) {
        float nearest = dot(q.corner[0] - p.corner[i], p.normal[i]);
        for (int k = 1; k < 4; k++) nearest = std::min(nearest, dot(q.corner[k] - p.corner[i], p.normal[i]));
        if (i == 0 || nearest > best.separation) best = {i, nearest};
    }
    return best;
}

struct End {
    Vec2 at;
    std::uint32_t feature; // a corner of the other box, or 4 + the end of the reference side that cut it
};

// Cuts what lies beyond `limit` along `along` off the segment; false if nothing is left. What is beyond by no
// more than `slack` stays, so that the corners of boxes of one width keep their names.
bool cut(std::array<End, 2>& segment, Vec2 along, float limit, float slack, std::uint32_t feature) {
    const float d0 = dot(segment[0].at, along) - limit, d1 = dot(segment[1].at, along) - limit;
    if (d0 > 0 && d1 > 0) return false;
    if (d0 > slack || d1 > slack) {
        End& beyond = segment[d0 > 0 ? 0 : 1];
        beyond = {segment[0].at + (segment[1].at - segment[0].at) * (d0 / (d0 - d1)), feature};
    }
    return true;
}

}

Touch<2> box_box(const Box<2>& a, const Frame<2>& at_a, const Box<2>& b, const Frame<2>& at_b, float margin) {
    const Outline pa = outline(a, at_a), pb = outline(b, at_b);
    const Side side_a = best_side(pa, pb), side_b = best_side(pb, pa);
    Touch<2> out;
    if (std::max(side_a.separation, side_b.separation) >= margin) return out;

    // The first box is the reference unless the second is clearly better: parallel faces must not take turns.
    const float clearly = 1e-3f * std::min(std::min(a.full_size().x, a.full_size().y),
                                           std::min(b.full_size().x, b.full_size().y));
    const bool second = side_b.separation > side_a.separation + clearly;
    const Outline& p = second ? pb : pa;
    const Outline& q = second ? pa : pb;
    const int face = second ? side_b.index : side_a.index;
    const Vec2 normal = p.normal[face], from = p.corner[face], to = p.corner[(face + 1) % 4];

    int facing = 0;
    for (int k = 1; k < 4; k++)
        if (dot(q.normal[k], normal) < dot(q.normal[facing], normal)) facing = k;
    const int next = (facing + 1) % 4;
    std::array<End, 2> segment{End{q.corner[facing], static_cast<std::uint32_t>(facing)},
                               End{q.corner[next], static_cast<std::uint32_t>(next)}};
    const Vec2 along = direction(to - from, Vec2{1, 0});
    if (!cut(segment, along, dot(to, along), clearly, 5) ||
        !cut(segment, -along, dot(from, -along), clearly, 4))
        return out;

    out.normal = second ? -normal : normal;
    out.guide = second ? flow::Guide::FaceOfB : flow::Guide::FaceOfA;
    for (const End& end : segment) {
        const float separation = dot(end.at - from, normal);
        const Vec2 on_face = end.at - normal * separation;
        const std::uint32_t feature = end.feature | static_cast<std::uint32_t>(facing) << 4 |
                                      static_cast<std::uint32_t>(face) << 8 | second << 12;
        out.points[out.count++] = {second ? end.at : on_face, second ? on_face : end.at, separation, feature};
    }
    return out;
}

}
