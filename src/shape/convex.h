// Every bounded convex shape as one kind, in double: corners of a core, a rim, a skin, placed in a common
// frame.
//
// A ball is one corner, a capsule two, with a skin; a polygon, box or hull its corners, perhaps with a skin;
// a cylinder the middles of its caps with a rim, a disc across the line between them. All distances, casts
// and times of impact stand on `support` alone.
#pragma once

#include "astasis/shapes.h"
#include "math/wide.h"
#include "shape/facets.h"

#include <array>
#include <span>

namespace astasis::shape {

template<int Dim> struct Convex {
    std::span<const Vec<Dim>> corners; // in the shape's own frame
    double skin = 0, rim = 0;
    const Facets* facets = nullptr; // of polyhedra in space
    math::Wide<Dim> position{};
    math::Turn<Dim> turn{};

    math::Wide<Dim> corner(std::size_t i) const { return position + turn * math::widened(corners[i]); }
    // The point of the core (with its rim) that lies farthest along d, which need not have length 1.
    math::Wide<Dim> support(const math::Wide<Dim>& d) const { return support(d, farthest(d)); }
    std::size_t farthest(const math::Wide<Dim>& d) const; // the corner of the core
    math::Wide<Dim> support(const math::Wide<Dim>& d, std::size_t corner) const;
    // Where the rim reaches farthest along d from its middle; zero without a rim or for a d along the axis.
    math::Wide<Dim> rim_towards(const math::Wide<Dim>& d) const;
    math::Wide<Dim> axis() const;   // unit, from the first corner to the second, of a core that has a rim
    math::Wide<Dim> middle() const; // the mean of the corners
    double size() const; // about how large it is: the way across from the first corner, with rim and skin
};

// Corners that are not in the geometry itself; must live as long as the Convex is used.
template<int Dim> using ConvexRoom = std::array<Vec<Dim>, Dim == 2 ? 4 : 8>;

// The convex shape of a geometry, at the origin; no corners if the geometry is not convex and bounded.
Convex<2> convex_of(const Geometry<2>& geometry, ConvexRoom<2>& room);
Convex<3> convex_of(const Geometry<3>& geometry, ConvexRoom<3>& room);

template<int Dim>
Convex<Dim> placed(Convex<Dim> convex, const math::Wide<Dim>& position, const math::Turn<Dim>& turn) {
    convex.position = position, convex.turn = turn;
    return convex;
}

extern template struct Convex<2>;
extern template struct Convex<3>;

}
