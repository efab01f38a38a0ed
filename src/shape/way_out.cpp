#include "shape/nearest.h"

#include <algorithm>

namespace astasis::shape {
namespace {

using math::Wide3;

constexpr int kMostCorners = 320, kMostFaces = 2 * kMostCorners;
using Corner = Simplex<3>::Corner;

Corner difference(const Convex<3>& a, const Convex<3>& b, const Wide3& d) {
    const Wide3 on_b = b.support(d), on_a = a.support(-d);
    return {on_b - on_a, on_a, on_b, 0};
}

// The polytope: its corners are points of b - a, its faces look outwards.
class Polytope {
public:
    struct Face {
        std::array<int, 3> corner;
        Wide3 normal;
        double offset; // of its plane from the origin; infinite for a face without area
    };

    const Corner& corner(int i) const { return corners_[static_cast<std::size_t>(i)]; }
    bool is_full() const { return corners_used_ == kMostCorners || faces_used_ + 64 > kMostFaces; }
    int add(const Corner& c) {
        corners_[static_cast<std::size_t>(corners_used_)] = c;
        return corners_used_++;
    }

    // A tetrahedron, whichever way round its corners come.
    void begin(double volume) {
        const auto face = [&](int i, int k, int l) { volume > 0 ? add_face(i, l, k) : add_face(i, k, l); };
        face(0, 1, 2), face(0, 2, 3), face(2, 1, 3), face(1, 0, 3);
    }

    const Face& nearest_face() const {
        int best = 0;
        for (int i = 1; i < faces_used_; i++)
            if (faces_[static_cast<std::size_t>(i)].offset < faces_[static_cast<std::size_t>(best)].offset)
                best = i;
        return faces_[static_cast<std::size_t>(best)];
    }

    // Replaces the faces that see a new corner by a fan from their outline. False if none does or the outline
    // is broken.
    bool grow(const Corner& c, double slack) {
        std::array<std::array<int, 2>, 192> edges;
        int edge_count = 0, kept = 0;
        for (int i = 0; i < faces_used_; i++) {
            const Face& f = faces_[static_cast<std::size_t>(i)];
            if (!(dot(f.normal, c.at - corner(f.corner[0]).at) > slack)) {
                faces_[static_cast<std::size_t>(kept++)] = f;
                continue;
            }
            for (std::size_t k = 0; k < 3; k++) {
                const int from = f.corner[k], to = f.corner[(k + 1) % 3];
                const auto end = edges.begin() + edge_count;
                const auto twin = std::find(edges.begin(), end, std::array<int, 2>{to, from});
                if (twin != end) *twin = edges[static_cast<std::size_t>(--edge_count)];
                else if (edge_count < 190) edges[static_cast<std::size_t>(edge_count++)] = {from, to};
                else return false;
            }
        }
        if (edge_count < 3 || kept + edge_count > kMostFaces) return false;
        faces_used_ = kept;
        const int p = add(c);
        for (int i = 0; i < edge_count; i++)
            add_face(edges[static_cast<std::size_t>(i)][0], edges[static_cast<std::size_t>(i)][1], p);
        return true;
    }

private:
    void add_face(int i, int k, int l) {
        const Wide3 crossed = cross(corner(k).at - corner(i).at, corner(l).at - corner(i).at);
        const double n = norm(crossed);
        const double longest =
            std::max(squared(corner(k).at - corner(i).at), squared(corner(l).at - corner(i).at));
        Face f{{i, k, l}, {}, 1e300};
        if (n > 1e-13 * longest && n > 0) {
            f.normal = crossed * (1 / n);
            f.offset =
                (dot(f.normal, corner(i).at) + dot(f.normal, corner(k).at) + dot(f.normal, corner(l).at)) / 3;
        }
        faces_[static_cast<std::size_t>(faces_used_++)] = f;
    }

    std::array<Corner, kMostCorners> corners_;
    std::array<Face, kMostFaces> faces_;
    int corners_used_ = 0, faces_used_ = 0;
};

double volume_of(const Simplex<3>& s) {
    const Wide3 o = s.corner[0].at;
    return dot(cross(s.corner[1].at - o, s.corner[2].at - o), s.corner[3].at - o);
}

// Any direction square to n, and the one square to both.
std::array<Wide3, 2> square_to(const Wide3& n) {
    const Wide3 other = std::fabs(n[0]) < 0.6 ? Wide3{{1, 0, 0}} : Wide3{{0, 1, 0}};
    const Wide3 u = unit(cross(n, other), Wide3{{0, 0, 1}});
    return {u, cross(n, u)};
}

// Leaves out the corner with the least share in the point nearest to the origin.
void drop_needless(Simplex<3>& s) {
    const auto end = s.corner.begin() + s.count;
    const auto least = std::min_element(s.corner.begin(), end,
                                        [](const Corner& c, const Corner& d) { return c.share < d.share; });
    std::move(least + 1, end, least);
    s.count--;
}

// Adds points of b - a until the simplex spans a volume; false if b - a is flat, and then `normal` is its
// normal.
bool complete(const Convex<3>& a, const Convex<3>& b, Simplex<3>& s, double least, Wide3& normal) {
    const auto at = [&](int i) -> const Wide3& { return s.corner[static_cast<std::size_t>(i)].at; };
    const auto grow_by = [&](const auto& directions, const auto& gain) {
        double most = least;
        Corner best{};
        for (const Wide3& d : directions) {
            const Corner c = difference(a, b, d);
            if (const double g = gain(c.at); g > most) most = g, best = c;
        }
        if (most > least) s.corner[static_cast<std::size_t>(s.count++)] = best;
        return most > least;
    };
    if (s.count == 4) {
        // A tetrahedron that the origin lies in, but without height, is a triangle with a needless corner.
        const Wide3 n = cross(at(1) - at(0), at(2) - at(0));
        if (std::fabs(volume_of(s)) > least * norm(n) && norm(n) > least * least) return true;
        drop_needless(s);
    }
    if (s.count == 3 && !(norm(cross(at(1) - at(0), at(2) - at(0))) >
                          least * std::max(norm(at(1) - at(0)), norm(at(2) - at(0)))))
        drop_needless(s);
    if (s.count == 2 && !(norm(at(1) - at(0)) > least)) drop_needless(s);
    if (s.count == 1) {
        const std::array<Wide3, 6> all{
            {{{1, 0, 0}}, {{-1, 0, 0}}, {{0, 1, 0}}, {{0, -1, 0}}, {{0, 0, 1}}, {{0, 0, -1}}}};
        if (!grow_by(all, [&](const Wide3& p) { return norm(p - at(0)); })) return false;
    }
    if (s.count == 2) {
        const Wide3 along = unit(at(1) - at(0), Wide3{{1, 0, 0}});
        const auto [u, v] = square_to(along);
        normal = u;
        const std::array<Wide3, 8> around{u, v, -u, -v, u + v, v - u, -u - v, u - v};
        if (!grow_by(around, [&](const Wide3& p) { return norm(cross(along, p - at(0))); })) return false;
    }
    normal = unit(cross(at(1) - at(0), at(2) - at(0)), normal);
    const std::array<Wide3, 2> both{normal, -normal};
    return grow_by(both, [&](const Wide3& p) { return std::fabs(dot(normal, p - at(0))); });
}

// The point of a face nearest to the origin, as shares of its corners.
void set_points(const Polytope& p, const Polytope::Face& f, WayOut<3>& out) {
    const Wide3 o = f.normal * f.offset;
    const auto at = [&](std::size_t k) { return p.corner(f.corner[k]).at; };
    std::array<double, 3> share{};
    double sum = 0;
    for (std::size_t k = 0; k < 3; k++) {
        share[k] = std::max(dot(f.normal, cross(at((k + 1) % 3) - o, at((k + 2) % 3) - o)), 0.0);
        sum += share[k];
    }
    for (std::size_t k = 0; k < 3; k++) {
        const double s = sum > 0 ? share[k] / sum : k == 0 ? 1.0 : 0.0;
        out.on_a = out.on_a + p.corner(f.corner[k]).on_a * s,
        out.on_b = out.on_b + p.corner(f.corner[k]).on_b * s;
    }
}

// Where a rim takes part the polytope's normal is off by the root of its tolerance, a quarter of a degree,
// and by another quarter in the next tick. What only just overlaps is apart with thinner rims, and the side
// of a cylinder is nearest along the same normal however thin it is: that one, if it is no longer a way out.
void straighten(const Convex<3>& a, const Convex<3>& b, WayOut<3>& out) {
    Convex<3> thin_a = a, thin_b = b;
    for (Convex<3>* c : {&thin_a, &thin_b}) {
        const double less = out.depth + 1e-3 * c->rim;
        if (less < 0.2 * c->rim) c->rim -= less;
    }
    if (thin_a.rim == a.rim && thin_b.rim == b.rim) return;
    const Nearest<3> near = nearest(thin_a, thin_b);
    if (!near.apart) return;
    const double depth = overlap_along(a, b, near.normal);
    if (depth > out.depth) return;
    out.normal = near.normal, out.depth = std::max(depth, 0.0);
    out.on_a = near.on_a + (a.rim_towards(near.normal) - thin_a.rim_towards(near.normal));
    out.on_b = near.on_b + (b.rim_towards(-near.normal) - thin_b.rim_towards(-near.normal));
}

}

WayOut<3> way_out(const Convex<3>& a, const Convex<3>& b, const Nearest<3>& touching) {
    const double size = std::min(a.size(), b.size());
    const double whole = std::max(a.size(), b.size()), slack = 1e-13 * whole;
    const double tolerance = std::max(a.rim > 0 || b.rim > 0 ? 1e-5 * size : 1e-9 * size, 1e-12 * whole);
    Simplex<3> s = touching.simplex;
    WayOut<3> out;
    Wide3 flat{{0, 1, 0}};
    if (!complete(a, b, s, 1e-7 * size, flat)) {
        // Flat against flat in one plane, or points: out across the plane, the way to b's middle.
        out.normal = dot(flat, b.middle() - a.middle()) < 0 ? -flat : flat;
        out.on_a = s.corner[0].on_a, out.on_b = s.corner[0].on_b;
        return out;
    }
    Polytope p;
    for (const Corner& c : s.corner) p.add(c);
    p.begin(volume_of(s));
    // Along a face's normal the way out is as long as b - a reaches there. A corner that lies in a face's
    // plane but for rounding can turn a face inside out, and the polytope is none from then on: the least way
    // seen.
    Polytope::Face face = p.nearest_face(), best = face;
    double least = 1e300;
    while (!p.is_full()) {
        const Corner c = difference(a, b, face.normal);
        const double reach = dot(face.normal, c.at);
        const bool found = reach - face.offset <= tolerance;
        if (found || reach < least) least = reach, best = face;
        if (found || !p.grow(c, slack)) break;
        face = p.nearest_face();
    }
    const bool is_broken = least - best.offset > tolerance;
    out.normal = -best.normal;
    out.depth = std::max(overlap_along(a, b, out.normal), 0.0);
    set_points(p, best, out);
    if (is_broken) { // the face does not reach the surfaces
        const Wide3 more = best.normal * (0.5 * (out.depth - best.offset));
        out.on_a = out.on_a - more, out.on_b = out.on_b + more;
    }
    straighten(a, b, out);
    return out;
}

}
