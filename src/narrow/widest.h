// Choosing the points of a manifold among many.
#pragma once

#include "narrow/touch.h"

namespace astasis::narrow {

// Keeps the deepest point and those that span the widest support: in the plane the one farthest from it, in
// space also those that add the largest triangle on either side of that line. They keep their order.
void keep_widest(std::span<const TouchPoint<2>> points, Vec2 normal, Touch<2>& out);
void keep_widest(std::span<const TouchPoint<3>> points, Vec3 normal, Touch<3>& out);

}
