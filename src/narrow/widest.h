// Choosing the points of a manifold among many.
#pragma once

#include "narrow/touch.h"

namespace astasis::narrow {

// Keeps those that span the widest support, in their order: in the plane the deepest and the one farthest
// from it; in space one that is about as deep as the deepest, the one farthest from it, and those that add
// the largest triangle on either side of that line, where what is apart from the deepest counts for less. In
// space points at the same place become one, in `points` too.
void keep_widest(std::span<const TouchPoint<2>> points, Vec2 normal, Touch<2>& out);
void keep_widest(std::span<TouchPoint<3>> points, Vec3 normal, Touch<3>& out);

}
