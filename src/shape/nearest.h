// The distance of two convex cores and their nearest points, in both dimensions; in overlap, in space, the
// least way out.
//
// Cores only: skins are the caller's to take off. In double throughout.
#pragma once

#include "shape/convex.h"

namespace astasis::shape {

// Up to Dim + 1 points of the Minkowski difference b - a, with the points that they come from.
template<int Dim> struct Simplex {
    struct Corner {
        math::Wide<Dim> at, on_a, on_b;
        double share = 0;
    };
    std::array<Corner, Dim + 1> corner{};
    int count = 0;
};

template<int Dim> struct Nearest {
    bool apart = false;       // false: the cores overlap or touch, and nothing but the simplex is set
    double distance = 0;      // of the cores
    math::Wide<Dim> normal{}; // unit, from a to b
    math::Wide<Dim> on_a{}, on_b{};
    Simplex<Dim> simplex{};
};

// Cores nearer than this count as touching: the way between the nearest points has no direction. Rounding
// (1e-16 of the larger size) over this distance, as an angle, must not swing the far end of the larger shape
// by more than 1e-4 of the smaller one.
double touching_distance(double size_a, double size_b);

// Gilbert, Johnson, Keerthi 1988, A fast procedure for computing the distance between complex objects; the
// nearest point of the simplex by trying all its faces that hold the newest corner. Exact for polytopes, to a
// millionth of a millionth for rims. Cores nearer than 1e-7 of the smaller size (more where the sizes differ
// much: 2e-5 at 1 to 1000) count as touching. O(corners) a round, mostly below ten rounds. Tested by
// tests/narrow/convex_pairs_test.cpp and tests/shape/queries_test.cpp.
template<int Dim> Nearest<Dim> nearest(const Convex<Dim>& a, const Convex<Dim>& b);
extern template Nearest<2> nearest(const Convex<2>&, const Convex<2>&);
extern template Nearest<3> nearest(const Convex<3>&, const Convex<3>&);

// The least translation that separates cores which touch or overlap.
template<int Dim> struct WayOut {
    double depth = 0;         // 0 or more: b moved by normal * depth is free of a
    math::Wide<Dim> normal{}; // unit, from a to b
    math::Wide<Dim> on_a{}, on_b{};
};

// The polytope inside the Minkowski difference grows where it is nearest to the origin (van den Bergen 2001,
// Proximity Queries and Penetration Depth Computation on 3D Game Objects). Exact for polytopes, and where the
// side of a cylinder overlaps a little; else to 1e-5 of the smaller size where there is a rim. `touching` is
// what nearest() returned.
WayOut<3> way_out(const Convex<3>& a, const Convex<3>& b, const Nearest<3>& touching);

// The overlap along a unit normal from a to b; negative if that separates them.
template<int Dim>
double overlap_along(const Convex<Dim>& a, const Convex<Dim>& b, const math::Wide<Dim>& normal) {
    return dot(normal, a.support(normal)) - dot(normal, b.support(-normal));
}

}
