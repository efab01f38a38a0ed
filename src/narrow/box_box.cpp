// Two boxes in space: the axis of least overlap; then a face clipped to a face, or the nearest points of two
// edges.
//
// Separating axes over 3 + 3 faces and 9 pairs of edges (Gottschalk et al. 1996, OBBTree), then Sutherland
// and Hodgman's clipping; of more than four points those are kept that span the largest support. Oracle:
// tests/narrow/.
#include "narrow/convex_space.h"
#include "narrow/widest.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

constexpr float kFloatsServe = 100; // ratio of sizes up to which the quick way is exact enough

struct Block {
    Vec3 centre;
    std::array<Vec3, 3> axis;
    std::array<float, 3> half;
};

Block block(const Box<3>& box, const Frame<3>& at) {
    const Vec3 s = box.full_size() * 0.5f;
    return {at.position,
            {rotate(at.rotation, {1, 0, 0}), rotate(at.rotation, {0, 1, 0}), rotate(at.rotation, {0, 0, 1})},
            {s.x, s.y, s.z}};
}

struct Best {
    float separation = -1e30f;
    int i = -1, j = -1;
    Vec3 normal{}; // away from the first block
};

Vec3 facing(Vec3 n, Vec3 towards) { return dot(n, towards) < 0 ? -n : n; }

// How two blocks stand to each other: the cosines between their axes, and the way from the first centre to
// the second along the axes of each.
struct Between {
    float cosine[3][3]; // of axis i of the first, j of the second
    Vec3 way;
    std::array<float, 3> along_a, along_b;
};

Between between(const Block& a, const Block& b) {
    Between out;
    out.way = b.centre - a.centre;
    for (std::size_t i = 0; i < 3; i++) {
        for (std::size_t j = 0; j < 3; j++) out.cosine[i][j] = dot(a.axis[i], b.axis[j]);
        out.along_a[i] = dot(out.way, a.axis[i]), out.along_b[i] = dot(out.way, b.axis[i]);
    }
    return out;
}

// How far q lies beyond the face of p along its axis i. `cosine(i, j)` is between axes of p and q.
template<typename Cosine>
float beyond_face(const Block& p, const Block& q, float along, std::size_t i, const Cosine& cosine) {
    const float extent = (q.half[0] * std::fabs(cosine(i, 0)) + q.half[1] * std::fabs(cosine(i, 1))) +
                         q.half[2] * std::fabs(cosine(i, 2));
    return (std::fabs(along) - p.half[i]) - extent;
}

// The face of p beyond which q lies farthest; `along` is the way to q along the axes of p.
template<typename Cosine>
Best best_face(const Block& p, const Block& q, const std::array<float, 3>& along, const Cosine& cosine) {
    Best best;
    for (std::size_t i = 0; i < 3; i++)
        if (const float s = beyond_face(p, q, along[i], i, cosine); s > best.separation)
            best.separation = s, best.i = static_cast<int>(i);
    if (best.i < 0) return best; // of what is not a number
    const auto i = static_cast<std::size_t>(best.i);
    best.normal = along[i] < 0 ? -p.axis[i] : p.axis[i];
    return best;
}

// The face of p that looks along a way out taken before; none if no face does.
Best face_along(const Block& p, const Block& q, Vec3 before) {
    for (std::size_t i = 0; i < 3; i++) {
        const Vec3 n = facing(p.axis[i], before);
        if (!(dot(n, before) > kTurnedAway)) continue;
        const float extent =
            (q.half[0] * std::fabs(dot(q.axis[0], n)) + q.half[1] * std::fabs(dot(q.axis[1], n))) +
            q.half[2] * std::fabs(dot(q.axis[2], n));
        return {(dot(q.centre - p.centre, n) - p.half[i]) - extent, static_cast<int>(i), -1, n};
    }
    return {};
}

// The pair of edges along whose common normal they lie farthest apart, if farther than `than`: in the frame
// of the first, where the common normal of its axis i and another's has two components (Ericson 2004,
// Real-Time Collision Detection, sect. 4.4.1).
Best best_edges(const Block& a, const Block& b, const Between& at, float than) {
    Best best;
    best.separation = than;
    const auto& c = at.cosine;
    for (std::size_t i = 0; i < 3; i++)
        for (std::size_t j = 0; j < 3; j++) {
            const std::size_t i1 = (i + 1) % 3, i2 = (i + 2) % 3, j1 = (j + 1) % 3, j2 = (j + 2) % 3;
            const float square = c[i1][j] * c[i1][j] + c[i2][j] * c[i2][j];
            if (square < 1e-4f) continue; // parallel within 0.6 degrees: a face serves them
            const float far = std::fabs(at.along_a[i2] * c[i1][j] - at.along_a[i1] * c[i2][j]);
            const float extent_a = a.half[i1] * std::fabs(c[i2][j]) + a.half[i2] * std::fabs(c[i1][j]),
                        extent_b = b.half[j1] * std::fabs(c[i][j2]) + b.half[j2] * std::fabs(c[i][j1]);
            const float apart = (far - extent_a) - extent_b;
            if (apart <= 0 && apart <= best.separation) continue; // more so by what it is to be divided by
            const float s = apart / std::sqrt(square);
            if (s > best.separation) best = {s, static_cast<int>(i), static_cast<int>(j), {}};
        }
    if (best.i < 0) return {};
    const Vec3 crossed =
        cross(a.axis[static_cast<std::size_t>(best.i)], b.axis[static_cast<std::size_t>(best.j)]);
    best.normal = facing(direction(crossed, Vec3{}), at.way);
    return best;
}

// The middle of the edge along axis i that lies furthest along n.
Vec3 edge_middle(const Block& b, int i, Vec3 n) {
    Vec3 p = b.centre;
    for (int k = 0; k < 3; k++)
        if (k != i) p += b.axis[k] * (dot(b.axis[k], n) < 0 ? -b.half[k] : b.half[k]);
    return p;
}

std::uint32_t edge_code(const Block& b, int i, Vec3 n) {
    std::uint32_t code = static_cast<std::uint32_t>(i);
    for (int k = 0; k < 3; k++) code = code << 1 | (k != i && dot(b.axis[k], n) < 0 ? 1u : 0u);
    return code;
}

// A corner of the polygon that is clipped. Its edge leads to the next corner: 0 to 3 are the incident face's
// own edges, 4 to 7 those that clipping by a side made.
struct Corner {
    Vec3 at;
    int edge;
    std::uint32_t feature;
};

struct Polygon {
    std::array<Corner, 8> corner;
    int count = 0;
    void add(const Corner& c) { corner[static_cast<std::size_t>(count++)] = c; }
};

// Keeps what lies below `limit` along n, or all if nothing is beyond it by more than `slack`: then the
// corners of boxes of one size keep their names.
void clip(Polygon& polygon, Vec3 n, float limit, float slack, int side) {
    std::array<float, 8> beyond;
    float most = -1e30f;
    for (std::size_t i = 0; i < static_cast<std::size_t>(polygon.count); i++) {
        beyond[i] = dot(polygon.corner[i].at, n) - limit;
        most = std::max(most, beyond[i]);
    }
    if (!(most > slack)) return;
    const Polygon in = polygon;
    polygon.count = 0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(in.count); i++) {
        const std::size_t next = i + 1 == static_cast<std::size_t>(in.count) ? 0 : i + 1;
        const Corner &p = in.corner[i], &q = in.corner[next];
        const float dp = beyond[i], dq = beyond[next];
        if (dp <= 0) polygon.add(p);
        if ((dp <= 0) == (dq <= 0)) continue;
        const Vec3 at = p.at + (q.at - p.at) * (dp / (dp - dq));
        const auto feature = static_cast<std::uint32_t>(16 + p.edge * 8 + 4 + side);
        polygon.add({at, dp <= 0 ? 4 + side : p.edge, feature});
    }
}

Polygon face_polygon(const Block& b, int axis, Vec3 outward) {
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const bool negative = dot(b.axis[axis], outward) < 0;
    const Vec3 middle = b.centre + b.axis[axis] * (negative ? -b.half[axis] : b.half[axis]);
    const Vec3 du = b.axis[u] * b.half[u], dv = b.axis[v] * b.half[v];
    Polygon out;
    const Vec3 corners[4] = {(middle - du) - dv, (middle + du) - dv, (middle + du) + dv, (middle - du) + dv};
    for (int i = 0; i < 4; i++) out.add({corners[i], i, static_cast<std::uint32_t>(i)});
    return out;
}

using Points = std::array<TouchPoint<3>, 9>; // a clipped face has up to 8 corners, an edge adds one

int most_along(const Block& b, Vec3 n) {
    int best = 0;
    for (int k = 1; k < 3; k++)
        if (std::fabs(dot(b.axis[k], n)) > std::fabs(dot(b.axis[best], n))) best = k;
    return best;
}

// Where the face of q that looks against n lies over the face of p along its axis i, measured along n, which
// points away from p: the normal of that face, or of two edges. Nothing lies deeper than `deepest`: what
// seems to is beside the face along n. Returns the new count of points. `second` says that p is the pair's
// second shape.
int add_face_points(const Block& p, const Block& q, int i, Vec3 n, bool second, float deepest, float clearly,
                    Points& points, int count) {
    const Vec3 outward = facing(p.axis[i], n);
    const int incident = most_along(q, n);
    Polygon polygon = face_polygon(q, incident, -n);
    // The sides of the face, as planes that contain n: what lies between them falls on the face along n.
    // They are the face's own sides if n is its normal.
    const bool upright = n == outward;
    for (int side = 0; side < 4 && polygon.count > 0; side++) {
        const int k = (i + 1 + side / 2) % 3;
        const Vec3 towards = side % 2 ? -p.axis[k] : p.axis[k];
        Vec3 along = towards;
        if (!upright) {
            const Vec3 across = cross(p.axis[(k + 1) % 3 == i ? (k + 2) % 3 : (k + 1) % 3], n);
            along = direction(facing(across, towards), towards);
        }
        const Vec3 on_edge = (p.centre + outward * p.half[i]) + towards * p.half[k];
        clip(polygon, along, dot(on_edge, along), clearly, side);
    }
    const float plane = dot(p.centre, outward) + p.half[i], slant = 1.0f / dot(outward, n);
    const std::uint32_t code =
        static_cast<std::uint32_t>(second) << 16 | static_cast<std::uint32_t>(i) << 12 |
        static_cast<std::uint32_t>(dot(p.axis[i], n) < 0) << 14 | static_cast<std::uint32_t>(incident) << 8 |
        static_cast<std::uint32_t>(dot(q.axis[incident], n) < 0) << 10;
    for (int k = 0; k < polygon.count; k++) {
        const Corner& c = polygon.corner[k];
        const float separation = (dot(c.at, outward) - plane) * slant;
        if (separation < deepest - clearly) continue;
        const Vec3 on_face = c.at - n * separation;
        points[count++] = {second ? c.at : on_face, second ? on_face : c.at, separation, code | c.feature};
    }
    return count;
}

// What was found, and how near the nearest of all points was, kept or not.
struct Contact {
    Touch<3> touch;
    float nearest = 1e30f;
};

void keep(Points& points, int count, Vec3 normal, Contact& out) {
    for (int i = 0; i < count; i++) out.nearest = std::min(out.nearest, points[i].separation);
    keep_widest({points.data(), static_cast<std::size_t>(count)}, normal, out.touch);
}

Contact face_contact(const Block& p, const Block& q, const Best& face, bool second, float clearly) {
    Contact out;
    out.touch.normal = second ? -face.normal : face.normal;
    out.touch.guide = second ? flow::Guide::FaceOfB : flow::Guide::FaceOfA;
    Points points;
    const int count = add_face_points(p, q, face.i, face.normal, second, face.separation, clearly, points, 0);
    keep(points, count, face.normal, out);
    return out;
}

// The crossing of two edges, and the faces beside them: what turns about that point comes down on those
// within the tick.
Contact edge_contact(const Block& a, const Block& b, const Best& best, float clearly) {
    const Vec3 pa = edge_middle(a, best.i, best.normal), pb = edge_middle(b, best.j, -best.normal);
    const Vec3 da = a.axis[best.i], db = b.axis[best.j], r = pb - pa;
    // Nearest points of two lines whose unit directions have the cosine c.
    const float c = dot(da, db), along_a = dot(r, da), along_b = dot(r, db), k = 1.0f / (1.0f - c * c);
    const float s = (along_a - c * along_b) * k, t = (c * along_a - along_b) * k;
    // In overlap the edges do cross, up to rounding; apart it may be that a corner is nearest.
    const float beyond = best.separation > 0 ? 1.0f : 1.001f;
    if (std::fabs(s) > beyond * a.half[best.i] || std::fabs(t) > beyond * b.half[best.j]) return {};
    Points points;
    points[0] = {pa + da * s, pb + db * t, best.separation,
                 1u << 20 | edge_code(a, best.i, best.normal) << 8 | edge_code(b, best.j, -best.normal)};
    const int count = add_face_points(a, b, most_along(a, best.normal), best.normal, false, best.separation,
                                      clearly, points, 1);
    Contact out;
    out.touch.normal = best.normal;
    keep(points, count, best.normal, out);
    return out;
}

// By the axis along which they are least deep in one another, or farthest apart; in overlap the one taken
// before if it is about as short.
Contact touch_along(const Block& a, const Block& b, const Best& face_a, const Best& face_b, const Best& edges,
                    float clearly, const Vec3* before) {
    const float deepest = std::max({face_a.separation, face_b.separation, edges.separation});
    if (before != nullptr) {
        const Best kept_a = face_along(a, b, *before), kept_b = face_along(b, a, -*before);
        const bool second = kept_b.separation > kept_a.separation + clearly;
        const Best& kept = second ? kept_b : kept_a;
        const Vec3 chosen = edges.separation == deepest    ? edges.normal
                            : face_b.separation == deepest ? -face_b.normal
                                                           : face_a.normal;
        const float enough = deepest - kAboutAsShort * 1e4f * clearly;
        if (kept.i >= 0 && dot(*before, chosen) < kTurnedAway && kept.separation >= enough)
            return second ? face_contact(b, a, kept, true, clearly)
                          : face_contact(a, b, kept, false, clearly);
    }
    // Faces before edges and the first box before the second, unless worse: ties must not take turns.
    if (edges.separation > std::max(face_a.separation, face_b.separation) + clearly)
        return edge_contact(a, b, edges, clearly);
    if (face_b.separation > face_a.separation + clearly) return face_contact(b, a, face_b, true, clearly);
    return face_contact(a, b, face_a, false, clearly);
}

}

Touch<3> box_box(const Box<3>& box_a, const Frame<3>& at_a, const Box<3>& box_b, const Frame<3>& at_b,
                 float margin, const Vec3* before) {
    const Block a = block(box_a, at_a), b = block(box_b, at_b);
    const Between apart = between(a, b);
    const auto cosine = [&](std::size_t i, std::size_t j) { return apart.cosine[i][j]; };
    const auto turned_cosine = [&](std::size_t i, std::size_t j) { return apart.cosine[j][i]; };
    const Best face_a = best_face(a, b, apart.along_a, cosine);
    if (face_a.separation >= margin) return {};
    Best face_b = best_face(b, a, apart.along_b, turned_cosine);
    if (face_b.separation >= margin) return {};
    face_b.normal = -face_b.normal; // `along_b` leads to b
    const Best edges = best_edges(a, b, apart, std::max(face_a.separation, face_b.separation));
    if (edges.separation >= margin) return {};

    const float least = 2 * std::min({a.half[0], a.half[1], a.half[2], b.half[0], b.half[1], b.half[2]});
    const float deepest = std::max({face_a.separation, face_b.separation, edges.separation}),
                clearly = 1e-4f * least;
    const float most = std::max({a.half[0], a.half[1], a.half[2], b.half[0], b.half[1], b.half[2]});
    if (most < kFloatsServe * least) {
        const Contact found =
            touch_along(a, b, face_a, face_b, edges, clearly, deepest <= 0 ? before : nullptr);
        if (found.nearest <= deepest + clearly) return found.touch;
    }
    // Apart they may be nearest corner to corner or to an edge, which no axis shows; and of boxes of very
    // different sizes floats may have lost the deepest point.
    shape::ConvexRoom<3> room_a, room_b;
    const auto placed = [](const Box3& box, const Frame<3>& at, shape::ConvexRoom<3>& room) {
        return shape::placed(shape::convex_of(box, room), math::widened(at.position),
                             math::turn_of(at.rotation));
    };
    return convex_convex(placed(box_a, at_a, room_a), placed(box_b, at_b, room_b), margin, nullptr);
}

}
