// The faces of a convex polyhedron, and the building of a hull.
//
// (1) Every face is a convex loop of 3 or more corners, counter-clockwise from outside, plane to 2e-6 of the
// whole. (2) Every corner is in 3 or more faces. (3) Every edge is shared by two faces, in opposite
// directions.
#pragma once

#include "astasis/hull.h"

#include <span>
#include <vector>

namespace astasis::shape {

struct Facets {
    std::vector<Vec3> corners;
    std::vector<Vec3> normals; // of each face
    std::vector<std::uint16_t> loops,
        loop_begin; // corners of the faces, and where each face begins; one more
    std::vector<std::uint16_t> around, around_begin; // faces at each corner

    std::span<const std::uint16_t> face(std::size_t i) const {
        return std::span(loops).subspan(loop_begin[i], std::size_t{loop_begin[i + 1]} - loop_begin[i]);
    }
    std::span<const std::uint16_t> faces_at(std::size_t corner) const {
        return std::span(around).subspan(around_begin[corner],
                                         std::size_t{around_begin[corner + 1]} - around_begin[corner]);
    }
};

// A hull of facets that were built here before, in another run perhaps.
struct HullOf {
    static Hull facets(Facets facets, float rounding) {
        Hull out(std::make_shared<const Facets>(std::move(facets)));
        out.rounding_ = rounding;
        return out;
    }
};

// Throws Error as Hull::around. Tested by tests/shape/hull_test.cpp.
Facets facets_around(std::span<const Vec3> points);

// Throws Error unless (1) to (3) hold, the solid is convex and the faces around each corner are those: for
// facets that come from elsewhere. O(faces * corners).
void check_facets(const Facets& facets);

// The faces of any box; its corners are those of the box with half sides 1. Corner k has side i negative if
// bit i of k is set.
const Facets& box_facets();

}
