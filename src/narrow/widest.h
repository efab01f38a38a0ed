// Choosing the points of a manifold among many.
#pragma once

#include "narrow/touch.h"

namespace astasis::narrow {

// Keeps those that span the widest support, in their order. In the plane the deepest and the one farthest
// from it. In space, of those that touch, the first along some direction and the one farthest from it; the
// one that makes the largest triangle with both, and the one that adds most to that; in place of the nearest
// of them the deepest. Points at the same place become one, in `points` too.
void keep_widest(std::span<const TouchPoint<2>> points, Vec2 normal, Touch<2>& out);
void keep_widest(std::span<TouchPoint<3>> points, Vec3 normal, Touch<3>& out);

}
