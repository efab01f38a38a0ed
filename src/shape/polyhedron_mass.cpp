// Integrals of 1, x and x x^T over a polyhedron and a skin of radius r around it.
//
// The polyhedron: tetrahedra from the first corner. The skin falls into a prism on each face, a wedge along
// each edge and a sector at each corner (Steiner's formula, Schneider 2014, Convex Bodies, ch. 4). At a
// corner the directions fill a spherical polygon, whose arcs belong to its edges. Over such a polygon the
// integral of n comes from its arcs (Gauss), and that of n n^T - 1/3 too, since its entries are spherical
// harmonics of degree 2: Laplace's operator on the sphere only multiplies them by -6. Tested by
// tests/shape/measure_test.cpp.
#include "shape/polyhedron_mass.h"

#include "math/trig.h"

#include <cmath>

namespace astasis::shape {
namespace {

using math::Wide3;

constexpr double kPi = 3.14159265358979323846;

struct Sym { // xx, xy, xz, yy, yz, zz
    std::array<double, 6> c{};
    Sym& operator+=(const Sym& o) {
        for (std::size_t i = 0; i < 6; i++) c[i] += o.c[i];
        return *this;
    }
    friend Sym operator*(Sym s, double f) {
        for (double& x : s.c) x *= f;
        return s;
    }
};
Sym outer(const Wide3& u, const Wide3& v) { // (u v^T + v u^T)/2
    Sym out;
    std::size_t k = 0;
    for (int i = 0; i < 3; i++)
        for (int j = i; j < 3; j++) out.c[k++] = 0.5 * (u[i] * v[j] + u[j] * v[i]);
    return out;
}
Sym identity(double f) { return {{f, 0, 0, f, 0, f}}; }

struct Moments { // integrals of 1, x and x x^T
    double zeroth = 0;
    Wide3 first{};
    Sym second{};
    void operator+=(const Moments& m) {
        zeroth += m.zeroth;
        first = first + m.first;
        second += m.second;
    }
};

// Over all p + t u, for t from 0 to r with weight t^power: p from one set, u from another.
Moments swept(const Moments& p, const Moments& u, double r, int power) {
    double rise = 1;
    for (int i = 0; i <= power; i++) rise *= r;
    const double w0 = rise / (power + 1), w1 = rise * r / (power + 2), w2 = rise * r * r / (power + 3);
    Moments out;
    out.zeroth = p.zeroth * u.zeroth * w0;
    out.first = p.first * (u.zeroth * w0) + u.first * (p.zeroth * w1);
    out.second = p.second * (u.zeroth * w0);
    out.second += outer(p.first, u.first) * (2 * w1);
    out.second += u.second * (p.zeroth * w2);
    return out;
}

// The simplex of k + 1 corners with the given content: the integral of x x^T is content/((k+1)(k+2)) times
// (sum of c c^T + s s^T), with s the sum of the corners.
template<std::size_t N> Moments simplex(const std::array<Wide3, N>& c, double content) {
    Moments out;
    Wide3 sum{};
    Sym squares;
    for (const Wide3& p : c) sum = sum + p, squares += outer(p, p);
    out.zeroth = content;
    out.first = sum * (content / N);
    squares += outer(sum, sum);
    out.second = squares * (content / (N * (N + 1)));
    return out;
}

Moments direction_of(const Wide3& n) { return {1, n, outer(n, n)}; }

// All unit vectors on the arc from u to v, which has the angle `turn` and lies in the plane square to `pole`.
Moments arc(const Wide3& u, const Wide3& v, const Wide3& pole, double turn) {
    const Wide3 w = cross(pole, u), end = cross(pole, v); // u turned by 90 degrees; v likewise
    const double sin = dot(v, w), cos = dot(u, v);
    Moments out;
    out.zeroth = turn;
    out.first = w - end; // the integral of cos f u + sin f w is sin u + (1 - cos) w
    out.second = outer(u, u) * (0.5 * (turn + sin * cos));
    out.second += outer(w, w) * (0.5 * (turn - sin * cos));
    out.second += outer(u, w) * (sin * sin);
    return out;
}

double angle(const Wide3& u, const Wide3& v, const Wide3& pole) {
    return math::arc_tangent(dot(cross(u, v), pole), dot(u, v));
}

struct Solid {
    const Convex<3>& convex;

    Wide3 corner(std::size_t i) const { return math::widened(convex.corners[i]); }
    std::size_t faces() const { return convex.facets->normals.size(); }
    Wide3 normal(std::size_t f) const { return unit(math::widened(convex.facets->normals[f]), Wide3{}); }

    Moments face(std::size_t f) const {
        const auto loop = convex.facets->face(f);
        Moments out;
        for (std::size_t i = 1; i + 1 < loop.size(); i++) {
            const Wide3 a = corner(loop[0]), b = corner(loop[i]), c = corner(loop[i + 1]);
            out += simplex<3>({a, b, c}, 0.5 * dot(cross(b - a, c - a), normal(f)));
        }
        return out;
    }
    Moments inside() const {
        Moments out;
        const Wide3 o = corner(0);
        for (std::size_t f = 0; f < faces(); f++) {
            const auto loop = convex.facets->face(f);
            for (std::size_t i = 1; i + 1 < loop.size(); i++) {
                const Wide3 a = corner(loop[0]), b = corner(loop[i]), c = corner(loop[i + 1]);
                out += simplex<4>({o, a, b, c}, dot(cross(a - o, b - o), c - o) / 6);
            }
        }
        return out;
    }
    // The face beyond the edge from corner i to corner k of face f.
    std::size_t across(std::size_t f, std::size_t i, std::size_t k) const {
        for (const std::size_t g : convex.facets->faces_at(i)) {
            if (g == f) continue;
            for (const std::size_t h : convex.facets->faces_at(k))
                if (g == h) return g;
        }
        return f;
    }
};

// The normals at a corner fill a spherical polygon with the normals of its faces as corners: what its arcs
// contribute to the moments of directions, and its angles to its area.
struct Sector {
    Moments sum;
    double angles = 0; // of the faces at the corner
};

}

SolidMeasure polyhedron_measure(const Convex<3>& convex) {
    const Solid solid{convex};
    Moments all = solid.inside();
    const double r = convex.skin;
    if (r > 0) {
        std::vector<Sector> sectors(convex.corners.size());
        for (std::size_t f = 0; f < solid.faces(); f++) {
            const auto loop = convex.facets->face(f);
            const Wide3 n = solid.normal(f);
            all += swept(solid.face(f), direction_of(n), r, 0);
            for (std::size_t i = 0; i < loop.size(); i++) {
                const std::size_t from = loop[i], to = loop[(i + 1) % loop.size()];
                const Wide3 a = solid.corner(from), b = solid.corner(to), along = unit(b - a, Wide3{});
                const Wide3 back = unit(a - solid.corner(loop[(i + loop.size() - 1) % loop.size()]), Wide3{});
                // From the face on the right of the edge to this one, on its left: counter-clockwise about
                // the corner's polygon, which therefore lies towards -along.
                const Wide3 m = solid.normal(solid.across(f, from, to)), pole = -along;
                const Moments sweep = arc(m, n, pole, angle(m, n, pole));
                if (from < to) all += swept(simplex<2>({a, b}, norm(b - a)), sweep, r, 1); // each edge once
                Sector& s = sectors[from];
                s.angles += kPi - angle(back, along, n);
                s.sum.first = s.sum.first + pole * (0.5 * sweep.zeroth);
                // The derivative of n n^T across the arc, outwards: out n^T + n out^T; divided by -6.
                s.sum.second += outer(along, sweep.first) * (-2.0 / 6);
            }
        }
        for (std::size_t c = 0; c < convex.corners.size(); c++) {
            Moments u = sectors[c].sum;
            u.zeroth = 2 * kPi - sectors[c].angles; // Gauss and Bonnet
            u.second += identity(u.zeroth / 3);
            const Wide3 p = solid.corner(c);
            all += swept({1, p, outer(p, p)}, u, r, 2);
        }
    }
    SolidMeasure out;
    out.volume = all.zeroth;
    if (!(out.volume > 0)) return {};
    out.centre = all.first * (1 / out.volume);
    Sym about = all.second;
    about += outer(out.centre, out.centre) * -out.volume;
    out.second = about.c;
    return out;
}

}
