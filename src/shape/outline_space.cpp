#include "shape/outline.h"

#include "math/trig.h"
#include "shape/facets.h"
#include "shape/surface.h"

#include <algorithm>
#include <cmath>

namespace astasis::shape {
namespace {

constexpr double kPi = 3.141592653589793;

class Maker {
public:
    Maker(float fineness, Outline<3>& out) : fineness_(fineness), out_(out) {
        out.corners.clear(), out.areas.clear(), out.lines.clear();
    }

    void operator()(const Sphere& s) {
        ball_parts({}, {}, s.radius);
        out_.lines.push_back({{}, {s.radius, 0, 0}, {}, true});
    }
    void operator()(const Capsule3& c) { ball_parts(c.from, c.to, c.radius); }
    void operator()(const HalfSpace<3>&) {}

    void operator()(const Cylinder& c) {
        const Frame f = frame_along(c.to - c.from);
        const int n = pieces_of_turn(c.radius, fineness_);
        for (int i = 0; i < n; i++) {
            const Vec3 a = f.around(i, n) * c.radius, b = f.around(i + 1, n) * c.radius;
            facet({c.from + a, c.from + b, c.to + b, c.to + a});
        }
        for (const bool top : {false, true}) {
            begin(top ? f.axis : -f.axis);
            for (int i = 0; i < n; i++)
                out_.corners.push_back((top ? c.to : c.from) + f.around(top ? i : n - i, n) * c.radius);
            end();
        }
    }

    void operator()(const Box3& b) {
        const Vec3 half = b.full_size() * 0.5f - Vec3{b.rounding(), b.rounding(), b.rounding()};
        polyhedron(box_facets(), half, b.rounding());
    }
    void operator()(const Hull& h) { polyhedron(h.facets(), {1, 1, 1}, h.rounding()); }

    void operator()(const TriangleMesh& mesh) {
        for (const auto& p : mesh.surface().pieces) triangle(p.corner[0], p.corner[1], p.corner[2], p.normal);
    }
    void operator()(const HeightField& field) {
        pieces_.clear();
        const Geometry<3> geometry = field;
        pieces_in(geometry, window_of(geometry), pieces_);
        for (const auto& p : pieces_) triangle(p.corner[0], p.corner[1], p.corner[2], p.normal);
    }

private:
    struct Frame {
        Vec3 axis, side, other;
        Vec3 around(int i, int n) const {
            const math::SinCos r = math::sin_cos(2 * kPi * (i % n) / n);
            return side * static_cast<float>(r.cos) + other * static_cast<float>(r.sin);
        }
    };
    static Frame frame_along(Vec3 way) {
        Frame f;
        f.axis = direction(way, Vec3{0, 1, 0});
        const Vec3 across = std::fabs(f.axis.x) < 0.7f ? Vec3{1, 0, 0} : Vec3{0, 0, 1};
        f.other = direction(cross(f.axis, across), Vec3{0, 0, 1});
        f.side = cross(f.other, f.axis);
        return f;
    }

    void begin(Vec3 normal) { out_.areas.push_back({out_.corners.size(), 0, normal}); }
    void end() { out_.areas.back().end = out_.corners.size(); }
    void facet(std::initializer_list<Vec3> corners) {
        const Vec3* c = corners.begin();
        Vec3 normal = cross(c[1] - c[0], c[2] - c[0]);
        if (corners.size() > 3) normal += cross(c[2] - c[0], c[3] - c[0]); // of a triangle that was a quad
        begin(direction(normal, {0, 1, 0}));
        for (const Vec3 corner : corners) out_.corners.push_back(corner);
        end();
    }
    void triangle(Vec3 a, Vec3 b, Vec3 c, Vec3 normal) {
        begin(normal);
        for (const Vec3 corner : {a, b, c}) out_.corners.push_back(corner);
        end();
    }

    // A ball whose halves stand apart: a capsule.
    void ball_parts(Vec3 from, Vec3 to, float radius) {
        const Frame f = frame_along(to - from);
        const int n = pieces_of_turn(radius, fineness_), rings = n / 2;
        const auto at = [&](int ring, int i) {
            const math::SinCos r = math::sin_cos(kPi * ring / rings);
            return (f.around(i, n) * static_cast<float>(r.sin) - f.axis * static_cast<float>(r.cos)) * radius;
        };
        for (int ring = 0; ring < rings; ring++)
            for (int i = 0; i < n; i++) {
                const Vec3 middle = 2 * ring < rings ? from : to;
                facet({middle + at(ring, i + 1), middle + at(ring + 1, i + 1), middle + at(ring + 1, i),
                       middle + at(ring, i)});
            }
        if (from == to) return;
        for (int i = 0; i < n; i++) {
            const Vec3 a = f.around(i, n) * radius, b = f.around(i + 1, n) * radius;
            facet({from + a, from + b, to + b, to + a});
        }
    }

    // Faces moved out by the rounding, a strip along each edge, a fan at each corner.
    void polyhedron(const Facets& facets, Vec3 scale, float rounding) {
        const auto corner = [&](std::uint16_t i) {
            const Vec3 c = facets.corners[i];
            return Vec3{c.x * scale.x, c.y * scale.y, c.z * scale.z};
        };
        const int turn = rounding > 0 ? pieces_of_turn(rounding, fineness_) : 0;
        for (std::size_t k = 0; k < facets.normals.size(); k++) {
            const auto face = facets.face(k);
            const Vec3 n = facets.normals[k];
            begin(n);
            for (const std::uint16_t i : face) out_.corners.push_back(corner(i) + n * rounding);
            end();
            if (!(rounding > 0)) continue;
            for (std::size_t e = 0; e < face.size(); e++) {
                const std::uint16_t i = face[e], j = face[(e + 1) % face.size()];
                if (i < j) strip(corner(i), corner(j), n, beyond(facets, i, j, k), rounding, turn);
            }
        }
        if (!(rounding > 0)) return;
        for (std::size_t k = 0; k < facets.corners.size(); k++) {
            const auto i = static_cast<std::uint16_t>(k);
            fan(facets, i, corner(i), rounding, turn);
        }
    }
    static Vec3 beyond(const Facets& facets, std::uint16_t i, std::uint16_t j, std::size_t face) {
        for (const std::uint16_t f : facets.faces_at(i)) {
            const auto loop = facets.face(f);
            if (f != face && std::find(loop.begin(), loop.end(), j) != loop.end()) return facets.normals[f];
        }
        return facets.normals[face];
    }
    static Vec3 between(Vec3 a, Vec3 b, float share) { return direction(a * (1 - share) + b * share, a); }
    static int pieces_between(Vec3 a, Vec3 b, int turn) {
        const double angle = math::arc_tangent(length(cross(a, b)), dot(a, b));
        return std::max(1, static_cast<int>(std::ceil(angle / (2 * kPi) * turn)));
    }

    // The face with normal n lies on the left of the way from a to b.
    void strip(Vec3 a, Vec3 b, Vec3 n, Vec3 m, float radius, int turn) {
        const int pieces = pieces_between(n, m, turn);
        for (int k = 0; k < pieces; k++) {
            const Vec3 u = between(n, m, static_cast<float>(k) / static_cast<float>(pieces)) * radius;
            const Vec3 v = between(n, m, static_cast<float>(k + 1) / static_cast<float>(pieces)) * radius;
            facet({a + u, a + v, b + v, b + u});
        }
    }
    void fan(const Facets& facets, std::uint16_t i, Vec3 at, float radius, int turn) {
        Vec3 sum{};
        normals_.clear();
        for (const std::uint16_t f : facets.faces_at(i))
            normals_.push_back(facets.normals[f]), sum += normals_.back();
        const Vec3 middle = direction(sum, {0, 1, 0});
        const Frame f = frame_along(middle);
        std::sort(normals_.begin(), normals_.end(), [&](Vec3 a, Vec3 b) {
            return math::arc_tangent(dot(a, f.other), dot(a, f.side)) <
                   math::arc_tangent(dot(b, f.other), dot(b, f.side));
        });
        for (std::size_t k = 0; k < normals_.size(); k++) {
            const Vec3 n = normals_[k], m = normals_[(k + 1) % normals_.size()];
            const int pieces = pieces_between(n, m, turn);
            for (int p = 0; p < pieces; p++) {
                const Vec3 u = between(n, m, static_cast<float>(p) / static_cast<float>(pieces));
                const Vec3 v = between(n, m, static_cast<float>(p + 1) / static_cast<float>(pieces));
                facet({at + middle * radius, at + u * radius, at + v * radius});
            }
        }
    }

    float fineness_;
    Outline<3>& out_;
    std::vector<Piece<3>> pieces_;
    std::vector<Vec3> normals_;
};

}

void outline(const Geometry<3>& geometry, float fineness, Outline<3>& out) {
    std::visit(Maker(fineness, out), geometry);
}

}
