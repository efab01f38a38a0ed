// Any two convex shapes in space, and a convex shape on a half-space: the normal of the nearest points or of
// the least way out, then the features that face each other along it, clipped to one another.
//
// Features: the face of a polyhedron, the cap of a cylinder as a polygon, the line of a capsule's or a
// cylinder's side, a point. Sutherland and Hodgman's clipping by planes that contain the normal, so that a
// point over a face lies on it when it is moved along the normal. All in double, rounded at the end. Oracle:
// tests/narrow/.
#include "narrow/convex_space.h"

#include "narrow/widest.h"

#include <algorithm>

namespace astasis::narrow {
namespace {

using flow::Guide;
using math::Wide3;
using shape::Convex;

// Cosine of 1 degree: beyond it a cylinder stands on its cap. What is tilted more touches by its rim, which
// is followed as it rolls: corners that stay where they were when the tick began would fall behind the lowest
// place of a drum that totters round, and be pushed up again in every tick, which feeds it.
constexpr double kCap = 0.99985;
constexpr double kBeside = 0.17; // sine of 10 degrees: lines closer to parallel lie side by side
constexpr double kLeastFacing =
    0.3;                       // cosine between a face and the normal at which the face still takes part
constexpr double kSame = 1e-5; // of the size: points and depths nearer than this are one
constexpr std::size_t kCapCorners = 16, kMostCorners = 48;

// Its edge leads to the next corner: below 64 the feature's own, from there on those that clipping by a side
// made.
struct Corner {
    Wide3 at;
    std::uint32_t id; // of the feature: a corner, or where two edges cross
    std::uint32_t edge;
};

// What of a shape looks along a direction.
struct Feature {
    std::array<Corner, kMostCorners> corner;
    std::size_t count = 0;
    bool area = false;      // a polygon, counter-clockwise about `normal`
    Wide3 normal{};         // of an area
    Wide3 offset{};         // from the core to the rim, already in the corners
    std::uint32_t name = 0; // of the face

    void keep(const Corner& c) {
        if (count < kMostCorners) corner[count++] = c;
    }
    void add(const Wide3& at, std::uint32_t id) {
        if (count < kMostCorners) corner[count] = {at, id, static_cast<std::uint32_t>(count)}, count++;
    }
};

void add_face(const Convex<3>& c, const Wide3& d, Feature& out) {
    const std::size_t tip = c.farthest(d);
    std::size_t best = 0;
    double most = -2;
    for (const std::size_t f : c.facets->faces_at(tip))
        if (const double s = dot(c.turn * math::widened(c.facets->normals[f]), d); s > most)
            most = s, best = f;
    const auto loop = c.facets->face(best);
    // Of a face with very many corners every few are taken; the deepest point is there in any case.
    const std::size_t stride = (loop.size() + kMostCorners / 2 - 1) / (kMostCorners / 2);
    for (std::size_t i = 0; i < loop.size(); i += stride) out.add(c.corner(loop[i]), loop[i]);
    out.area = true;
    out.normal = c.turn * math::widened(c.facets->normals[best]);
    out.name = static_cast<std::uint32_t>(best);
}

// The middle of the cap first along d, and its corners at fixed places of the body; but the one nearest to
// the lowest point of the rim is that point, unless the cap lies so flat that it would wander.
void add_cap(const Convex<3>& c, const Wide3& d, Feature& out) {
    const Wide3 axis = c.axis();
    const bool second = dot(axis, d) > 0;
    const Wide3 middle = c.corner(second ? 1 : 0), local = turned_back(c.turn, axis);
    const Wide3 other = std::fabs(local[0]) < 0.6 ? Wide3{{1, 0, 0}} : Wide3{{0, 1, 0}};
    const Wide3 u = unit(c.turn * cross(local, other), Wide3{}), v = cross(axis, u);
    static const auto circle = [] {
        std::array<math::SinCos, kCapCorners> all;
        for (std::size_t i = 0; i < kCapCorners; i++)
            all[i] = math::sin_cos(6.283185307179586 / kCapCorners * static_cast<double>(i));
        return all;
    }();
    const Wide3 lowest = c.rim_towards(d);
    const bool tilted = norm(cross(axis, d)) > 1e-3;
    std::size_t nearest = 0;
    for (std::size_t i = 0; i < kCapCorners; i++) {
        const std::size_t k = second ? i : kCapCorners - 1 - i; // counter-clockwise from outside
        const Wide3 arm = (u * circle[k].cos + v * circle[k].sin) * c.rim;
        out.add(middle + arm, static_cast<std::uint32_t>(k));
        if (dot(out.corner[i].at - middle, lowest) > dot(out.corner[nearest].at - middle, lowest))
            nearest = i;
    }
    if (tilted) out.corner[nearest].at = middle + lowest;
    out.area = true;
    out.normal = second ? axis : -axis;
    out.name = second;
}

Feature feature_of(const Convex<3>& c, const Wide3& d) {
    Feature out;
    if (c.facets != nullptr) {
        add_face(c, d, out);
    } else if (c.rim > 0 && std::fabs(dot(c.axis(), d)) > kCap) {
        add_cap(c, d, out);
    } else if (c.corners.size() == 3) {
        out.normal = unit(cross(c.corner(1) - c.corner(0), c.corner(2) - c.corner(0)), d);
        const bool turned = dot(out.normal, d) < 0;
        if (turned) out.normal = -out.normal;
        out.area = true;
        for (const std::uint32_t i : {0u, turned ? 2u : 1u, turned ? 1u : 2u}) out.add(c.corner(i), i);
    } else {
        out.offset = c.rim_towards(d);
        for (std::size_t i = 0; i < c.corners.size(); i++)
            out.add(c.corner(i) + out.offset, static_cast<std::uint32_t>(i));
    }
    return out;
}

// Keeps what lies on the near side of a plane. A polygon stays closed, a line stays a line; if nothing is
// beyond by more than `slack` all keeps its name.
void clip(Feature& f, const Wide3& outward, double limit, double slack, std::uint32_t side) {
    const auto beyond = [&](const Corner& c) { return dot(c.at, outward) - limit; };
    const auto end = f.corner.begin() + static_cast<std::ptrdiff_t>(f.count);
    if (std::none_of(f.corner.begin(), end, [&](const Corner& c) { return beyond(c) > slack; })) return;
    const Feature in = f;
    f.count = 0;
    const bool closed = in.count > 2;
    for (std::size_t i = 0; i < in.count; i++) {
        const Corner& p = in.corner[i];
        if (beyond(p) <= 0) f.keep(p);
        if (!closed && i + 1 == in.count) break;
        const Corner& q = in.corner[(i + 1) % in.count];
        const double dp = beyond(p), dq = beyond(q);
        if ((dp <= 0) == (dq <= 0)) continue;
        const std::uint32_t id = 1u << 20 | p.edge << 6 | side;
        f.keep({p.at + (q.at - p.at) * (dp / (dp - dq)), id, dp <= 0 ? 64 + side : p.edge});
    }
}

// Collects the points of a manifold, in double.
class Points {
public:
    // No two points of the cores are less than `least` apart along the normal: so faces that are not quite
    // plane, as those of large hulls, must not say.
    Points(const Convex<3>& a, const Convex<3>& b, const Wide3& normal, const Wide3& offset_a,
           const Wide3& offset_b, double least = -1e300)
        : skins_(a.skin + b.skin), least_(least), normal_(normal), offset_a_(offset_a), offset_b_(offset_b) {}

    // Points on the cores (with their rims).
    void add(const Wide3& on_a, const Wide3& on_b, std::uint32_t feature) {
        if (count_ == all_.size()) return;
        const double found = dot(on_b - on_a, normal_), apart = std::max(found, least_);
        nearest_ = std::min(nearest_, apart);
        all_[count_++] = {math::narrowed(on_a - offset_a_),
                          math::narrowed(on_b + normal_ * (apart - found) - offset_b_),
                          static_cast<float>(apart - skins_), feature};
    }
    double nearest() const { return nearest_; } // of the cores
    std::span<TouchPoint<3>> all() { return {all_.data(), count_}; }

private:
    double skins_, least_;
    Wide3 normal_, offset_a_, offset_b_;
    std::array<TouchPoint<3>, kMostCorners + 1> all_;
    std::size_t count_ = 0;
    double nearest_ = 1e300;
};

// The other feature over the reference face.
void add_over_face(const Feature& face, Feature other, const Wide3& n, bool second, double slack,
                   Points& points) {
    for (std::size_t i = 0; i < face.count && other.count > 0; i++) {
        const Wide3 from = face.corner[i].at, along = face.corner[(i + 1) % face.count].at - from;
        const Wide3 outward = unit(cross(along, n), Wide3{});
        clip(other, outward, dot(outward, from), slack, static_cast<std::uint32_t>(i));
    }
    const double slant = 1 / dot(face.normal, n), plane = dot(face.normal, face.corner[0].at);
    const std::uint32_t name = (face.name & 0xffu) << 21 | static_cast<std::uint32_t>(second) << 29;
    for (std::size_t i = 0; i < other.count; i++) {
        const Wide3 at = other.corner[i].at, on = at - n * ((dot(face.normal, at) - plane) * slant);
        second ? points.add(at, on, name | other.corner[i].id)
               : points.add(on, at, name | other.corner[i].id);
    }
}

// Two lines side by side: where the ends of one lie beside the other.
void add_beside(const Feature& a, const Feature& b, const Wide3& n, Points& points) {
    const Wide3 pa = a.corner[0].at, pb = b.corner[0].at, da = a.corner[1].at - pa, db = b.corner[1].at - pb;
    const Wide3 ua = unit(da, Wide3{}), ub = unit(db, Wide3{});
    if (norm(cross(ua, ub)) > kBeside || std::fabs(dot(ua, n)) > kBeside || std::fabs(dot(ub, n)) > kBeside)
        return;
    for (std::uint32_t i = 0; i < 2; i++) {
        const double on_b = dot(a.corner[i].at - pb, ub), on_a = dot(b.corner[i].at - pa, ua);
        if (on_b >= 0 && on_b <= norm(db)) points.add(a.corner[i].at, pb + ub * on_b, 1u << 30 | i);
        if (on_a >= 0 && on_a <= norm(da)) points.add(pa + ua * on_a, b.corner[i].at, 1u << 30 | 2u | i);
    }
}

// What is round where it touches: a skin, and the rim of a cylinder. On its side the rim is a skin about its
// axis, as a capsule's.
void set_round(const Convex<3>& c, const Wide3& d, const Feature& f, float& skin, flow::Rim<3>& rim) {
    skin = static_cast<float>(c.skin);
    if (f.area || !(c.rim > 0)) return;
    if (std::fabs(dot(c.axis(), d)) < 1e-6) skin += static_cast<float>(c.rim);
    else rim = {static_cast<float>(c.rim), math::narrowed(c.axis())};
}

}

Touch<3> convex_along(const Convex<3>& a, const Convex<3>& b, const Wide3& n, const Wide3* on_a,
                      const Wide3* on_b) {
    const double size = std::min(a.size(), b.size());
    const Feature fa = feature_of(a, n), fb = feature_of(b, -n);
    const double facing_a = fa.area ? dot(fa.normal, n) : 0, facing_b = fb.area ? -dot(fb.normal, n) : 0;
    // Parallel faces must not take turns at being the reference.
    const bool second = facing_b > facing_a + 1e-4;
    const double least = on_a != nullptr ? dot(*on_b - *on_a, n) : -1e300;
    Points points(a, b, n, fa.offset, fb.offset, least);
    if (std::max(facing_a, facing_b) > kLeastFacing)
        second ? add_over_face(fb, fa, -n, true, kSame * size, points)
               : add_over_face(fa, fb, n, false, kSame * size, points);
    else if (fa.count == 2 && fb.count == 2) add_beside(fa, fb, n, points);
    if (on_a != nullptr && !(points.nearest() <= least + kSame * size)) points.add(*on_a, *on_b, 1u << 31);

    Touch<3> out;
    if (points.all().empty()) return out;
    out.normal = math::narrowed(n);
    set_round(a, n, fa, out.skin_a, out.rim_a);
    set_round(b, -n, fb, out.skin_b, out.rim_b);
    keep_widest(points.all(), out.normal, out);
    out.on_cap = (fa.area && a.rim > 0) || (fb.area && b.rim > 0);
    const bool rims = out.rim_a.radius > 0 || out.rim_b.radius > 0;
    const float skins = out.skin_a + out.skin_b;
    out.guide = Guide::World;
    if (std::max(facing_a, facing_b) > 1 - 1e-6) out.guide = second ? Guide::FaceOfB : Guide::FaceOfA;
    else if (out.count == 1 && !rims && skins > 0 && out.points[0].separation > -0.9f * skins)
        out.guide = Guide::Centres;
    return out;
}

Contact3 contact_of(const Convex<3>& a, const Convex<3>& b, double margin, const Wide3* before) {
    Contact3 out;
    const shape::Nearest<3> near = shape::nearest(a, b);
    out.overlap = !near.apart;
    if (near.apart) {
        out.separation = near.distance - (a.skin + b.skin);
        out.normal = near.normal, out.on_a = near.on_a, out.on_b = near.on_b;
        out.touches = out.separation < margin;
        return out;
    }
    const shape::WayOut<3> way = shape::way_out(a, b, near);
    out.touches = true;
    out.separation = -way.depth - (a.skin + b.skin);
    out.normal = way.normal, out.on_a = way.on_a, out.on_b = way.on_b;
    // Deep in one another several ways out are about as short: the one taken before is kept, or the shapes
    // would be thrown to and fro.
    if (before != nullptr && dot(*before, way.normal) < kTurnedAway) {
        const double depth = shape::overlap_along(a, b, *before);
        if (depth <= way.depth + kAboutAsShort * std::min(a.size(), b.size())) {
            out.normal = *before, out.separation = -depth - (a.skin + b.skin);
            out.on_a = a.support(*before), out.on_b = b.support(-*before);
        }
    }
    return out;
}

Touch<3> convex_convex(const Convex<3>& a, const Convex<3>& b, double margin, const Wide3* before) {
    const Contact3 c = contact_of(a, b, margin, before);
    if (!c.touches) return {};
    return convex_along(a, b, c.normal, &c.on_a, &c.on_b);
}

Touch<3> convex_half_space(const Convex<3>& a, const HalfSpace<3>& b, const Frame<3>& at_b, double margin) {
    const Wide3 outward = unit(math::turn_of(at_b.rotation) * math::widened(b.outward), Wide3{{0, 1, 0}});
    const Wide3 origin = math::widened(at_b.position), lowest = a.support(-outward);
    Touch<3> out;
    if (!(dot(lowest - origin, outward) - a.skin < margin)) return out;
    const Feature f = feature_of(a, -outward);
    Points points(a, Convex<3>{}, -outward, f.offset, {});
    const auto add = [&](const Wide3& p, std::uint32_t id) {
        points.add(p, p - outward * dot(p - origin, outward), id);
    };
    for (std::size_t i = 0; i < f.count; i++) add(f.corner[i].at, (f.name & 0xffu) << 21 | f.corner[i].id);
    if (points.nearest() > dot(lowest - origin, outward) + kSame * a.size()) add(lowest, 1u << 31);
    out.normal = math::narrowed(-outward);
    out.guide = Guide::FaceOfB;
    set_round(a, -outward, f, out.skin_a, out.rim_a);
    keep_widest(points.all(), out.normal, out);
    out.on_cap = f.area && a.rim > 0;
    return out;
}

}
