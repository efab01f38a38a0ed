// Concave outlines in the plane.
#pragma once

#include "astasis/shapes.h"

#include <span>
#include <vector>

namespace astasis {

// Cuts an outline (m, either way round) into convex polygons that together cover it and overlap nowhere: the
// shapes of one body. Throws Error if a coordinate is not finite, if fewer than 3 corners remain without
// repeated and straight ones, or if the outline crosses or touches itself. O(n^3) in the worst case; a convex
// outline comes back as one polygon.
std::vector<Polygon> cut_into_convex(std::span<const Vec2> outline);

}
