// Measures of shapes: bounds and thickness.
#pragma once

#include "astasis/shapes.h"

namespace astasis {

// A box along the world's axes.
template<int Dim> struct Bounds { Point<Dim> low{}, high{}; };

// The bounds of a shape whose body stands at `body`, m; infinite for half-planes and half-spaces. O(corners).
template<int Dim> Bounds<Dim> bounds_of(const ShapeSpec<Dim>& shape, const Pose<Dim>& body);

// The smallest full width of a shape in any direction, m; infinite for half-planes and half-spaces.
// O(corners^2).
template<int Dim> float thickness_of(const ShapeSpec<Dim>& shape);

}
