// Spheres and capsules, as rods, against boxes: a segment and a box in the box's frame.
//
// Apart, the squared distance along the segment is convex and piecewise quadratic: the crossings of the
// faces' planes narrow the stretch in which its derivative changes sign. Through one another, the axis of
// least overlap: three faces and the three crossings of the segment with the box's edges. A rod over a face
// has a point at both ends of the stretch over it. Oracle: tests/narrow/.
#include "narrow/crossing.h"
#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {

using flow::Guide;

namespace {

struct Segment {
    Vec3 from, along;
    Vec3 at(float t) const { return from + along * t; }
};

Vec3 into(Vec3 p, Vec3 half) {
    return {std::clamp(p.x, -half.x, half.x), std::clamp(p.y, -half.y, half.y),
            std::clamp(p.z, -half.z, half.z)};
}

// Half the derivative of the squared distance to the box along the segment.
float slope(const Segment& s, Vec3 half, float t) {
    const Vec3 p = s.at(t);
    return dot(p - into(p, half), s.along);
}

float nearest_parameter(const Segment& s, Vec3 half) {
    float low = 0, high = 1, slope_low = slope(s, half, 0), slope_high = slope(s, half, 1);
    if (slope_low >= 0) return 0;
    if (slope_high <= 0) return 1;
    // Each crossing of a face's plane narrows the interval in which the slope changes sign; between the last
    // two it is straight.
    for (int i = 0; i < 3; i++)
        for (const float side : {-half[i], half[i]}) {
            const float t = (side - s.from[i]) / s.along[i];
            if (!(t > low && t < high)) continue;
            const float here = slope(s, half, t);
            if (here < 0) low = t, slope_low = here;
            else high = t, slope_high = here;
        }
    return low + (high - low) * (slope_low / (slope_low - slope_high));
}

// A direction out of the box, in its frame, and how far the segment stands out along it.
struct Axis {
    float separation = -1e30f;
    Vec3 outward{};
    int index = 0;
};

Axis best_face(const Segment& s, Vec3 half) {
    Axis best;
    const Vec3 to = s.at(1);
    for (int i = 0; i < 3; i++)
        for (const float sign : {1.0f, -1.0f}) {
            const float separation = std::min(sign * s.from[i], sign * to[i]) - half[i];
            if (separation <= best.separation) continue;
            best = {separation, {}, i};
            best.outward[i] = sign;
        }
    return best;
}

Axis best_edge(const Segment& s, Vec3 half) {
    Axis best;
    const Vec3 along = direction(s.along, Vec3{});
    for (int i = 0; i < 3; i++) {
        Vec3 edge{};
        edge[i] = 1;
        const Vec3 crossed = cross(along, edge);
        if (length_squared(crossed) < 1e-4f) continue;
        Vec3 n = direction(crossed, Vec3{});
        if (dot(s.at(0.5f), n) < 0) n = -n;
        const float extent = (half.x * std::fabs(n.x) + half.y * std::fabs(n.y)) + half.z * std::fabs(n.z);
        const float separation = dot(s.from, n) - extent;
        if (separation > best.separation) best = {separation, n, i};
    }
    return best;
}

// The contact in the box's frame: points on the segment with those on the box.
struct Found {
    Vec3 outward{};
    Guide guide = Guide::FaceOfB;
    int count = 0;
    std::array<Vec3, 3> on_rod{}, on_box{};
    std::uint32_t feature = 0;
    // If the first point lies on an edge: the axis along which that runs, and where it is on the segment.
    int edge = -1;
    float parameter = 0;
};

// Both ends of the stretch of the segment that lies over the face; none if it does not.
Found over_face(const Segment& s, Vec3 half, const Axis& face, float slack) {
    float low = 0, high = 1;
    for (int k = 0; k < 3; k++) {
        if (k == face.index) continue;
        const float from = s.from[k], to = s.at(1)[k];
        for (const float sign : {1.0f, -1.0f}) {
            const float d0 = sign * from - half[k], d1 = sign * to - half[k];
            if (d0 > slack && d1 > slack) return {};
            if (d0 > slack) low = std::max(low, d0 / (d0 - d1));
            if (d1 > slack) high = std::min(high, d0 / (d0 - d1));
        }
    }
    Found out;
    if (low > high) return out;
    out.outward = face.outward;
    out.count = low < high && length_squared(s.along) > 0 ? 2 : 1;
    out.feature = 32u + 2 * static_cast<std::uint32_t>(face.index) + (face.outward[face.index] < 0 ? 1 : 0);
    for (int i = 0; i < out.count; i++) {
        const Vec3 p = s.at(i == 0 ? low : high);
        out.on_rod[i] = p;
        out.on_box[i] = p - face.outward * (dot(p, face.outward) - half[face.index]);
    }
    return out;
}

Found beside(const Segment& s, Vec3 half, float t) {
    Found out;
    const Vec3 p = s.at(t), q = into(p, half);
    int clamped = 0;
    for (int i = 0; i < 3; i++) {
        clamped += p[i] != q[i];
        out.feature = out.feature * 3 + (p[i] > half[i] ? 2 : p[i] < -half[i] ? 0 : 1);
    }
    out.outward = direction(p - q, Vec3{0, 1, 0});
    out.guide = clamped == 3 ? Guide::Centres : Guide::FaceOfB; // a corner is round about itself
    out.count = 1;
    out.on_rod[0] = p, out.on_box[0] = q;
    for (int i = 0; i < 3 && clamped == 2; i++)
        if (p[i] == q[i]) out.edge = i, out.parameter = t;
    return out;
}

// The segment passes through the box and leaves it soonest across an edge.
Found across_edge(const Segment& s, Vec3 half, const Axis& axis) {
    Vec3 edge{}, middle{};
    edge[axis.index] = 1;
    for (int k = 0; k < 3; k++)
        if (k != axis.index) middle[k] = axis.outward[k] < 0 ? -half[k] : half[k];
    const Vec3 along = direction(s.along, Vec3{}), r = middle - s.from;
    const float c = dot(along, edge), k = 1.0f / (1.0f - c * c);
    const float on_rod = (dot(r, along) - c * dot(r, edge)) * k,
                on_edge = (c * dot(r, along) - dot(r, edge)) * k;
    Found out;
    out.outward = axis.outward;
    out.count = 1;
    out.on_rod[0] = s.from + along * on_rod;
    out.on_box[0] = middle + edge * on_edge;
    out.feature = 48u + static_cast<std::uint32_t>(axis.index);
    return out;
}

float nearest_of(const Found& f) {
    float least = 1e30f;
    for (int i = 0; i < f.count; i++) least = std::min(least, dot(f.on_rod[i] - f.on_box[i], f.outward));
    return least;
}

// A rod that touches beside or across an edge, and the face that looks the same way: where the rod comes down
// on it when it turns about that point within the tick. Nothing lies nearer than the point itself: what seems
// to is beside the face.
Found with_face(Found found, const Segment& s, Vec3 half, float slack) {
    if (found.guide == Guide::Centres || length_squared(s.along) == 0) return found;
    Axis face;
    for (int i = 1; i < 3; i++)
        if (std::fabs(found.outward[i]) > std::fabs(found.outward[face.index])) face.index = i;
    face.outward[face.index] = found.outward[face.index] < 0 ? -1.0f : 1.0f;
    const Found over = over_face(s, half, face, slack);
    const float nearest = nearest_of(found);
    for (int i = 0; i < over.count; i++) {
        // Straight below the rod, on the face: where they meet, that is along any normal.
        const float apart = dot(over.on_rod[i] - over.on_box[i], found.outward);
        if (apart < nearest - slack || length(over.on_rod[i] - found.on_rod[0]) < 0.05f * length(s.along))
            continue;
        found.on_rod[found.count] = over.on_rod[i];
        found.on_box[found.count++] = over.on_box[i];
    }
    return found;
}

Found find(const Segment& s, Vec3 half, float size) {
    const float t = nearest_parameter(s, half), slack = 2e-5f * size;
    const Vec3 p = s.at(t);
    const float distance = length(p - into(p, half));
    const Axis face = best_face(s, half);
    if (distance > 1e-6f * size) {
        // Over a face, the nearest point of that stretch is as near as any.
        const Found over = over_face(s, half, face, slack);
        const bool nearest = over.count > 0 && nearest_of(over) <= distance + slack;
        return face.separation >= distance - slack && nearest ? over
                                                              : with_face(beside(s, half, t), s, half, slack);
    }
    const Axis edge = best_edge(s, half);
    if (edge.separation > face.separation + slack)
        return with_face(across_edge(s, half, edge), s, half, slack);
    const Found over = over_face(s, half, face, slack);
    return over.count > 0 ? over : with_face(beside(s, half, t), s, half, slack);
}

// A rod that nearly lies along the edge that it touches.
bool add_edge(const Rod& a, const Found& found, Vec3 half, const Frame<3>& at_b, Touch<3>& out) {
    if (a.from == a.to) return false;
    Vec3 from = found.on_box[0], to = from;
    from[found.edge] = -half[found.edge], to[found.edge] = half[found.edge];
    const auto placed = [&](Vec3 p) { return at_b.position + rotate(at_b.rotation, p); };
    const Crossing crossing(a, {placed(from), placed(to), 0});
    return add_stretch(crossing, found.parameter, length(found.on_rod[0] - found.on_box[0]), out);
}

}

Touch<3> rod_box(const Rod& a, const Box3& b, const Frame<3>& at_b, float margin) {
    const Vec3 half = b.full_size() * 0.5f;
    const Vec3 from = rotate_back(at_b.rotation, a.from - at_b.position);
    const Segment s{from, rotate_back(at_b.rotation, a.to - at_b.position) - from};
    const float size = std::min(length(half), length(s.along) + a.radius);
    const Found found = find(s, half, size);
    Touch<3> out;
    out.normal = -rotate(at_b.rotation, found.outward);
    out.guide = found.guide;
    out.skin_a = a.radius;
    const bool lies_along_edge = found.edge >= 0 && add_edge(a, found, half, at_b, out);
    for (int i = lies_along_edge ? 1 : 0; i < found.count; i++)
        out.points[out.count++] = {at_b.position + rotate(at_b.rotation, found.on_rod[i]),
                                   at_b.position + rotate(at_b.rotation, found.on_box[i]),
                                   dot(found.on_rod[i] - found.on_box[i], found.outward) - a.radius,
                                   found.feature * 4 + static_cast<std::uint32_t>(i)};
    float least = 1e30f;
    for (int i = 0; i < out.count; i++) least = std::min(least, out.points[i].separation);
    if (!(least < margin)) out.count = 0;
    return out;
}

}
