// The plane's bounded shapes as one kind: a convex core of corners and a skin of some radius around it.
//
// A circle is one corner, a capsule or a segment two, a box four, a polygon as many as it has; seen in the
// shape's own frame, in counter-clockwise order. With two corners the two sides are the same segment, looked
// at from either hand.
#pragma once

#include "astasis/shapes.h"

#include <array>
#include <span>
#include <string>

namespace astasis::shape {

struct Core {
    std::span<const Vec2> corners;
    float radius = 0;
};

// `room` holds the corners that are not in the geometry itself; it must live as long as the core is used.
// Empty for a half-plane and for surfaces.
using CoreRoom = std::array<Vec2, 4>;
Core core_of(const Geometry<2>& geometry, CoreRoom& room);

// Area, its centroid, and inertia about the centroid at density 1: exact, summed in double. The skin adds a
// strip a side and a sector a corner.
struct CoreMeasure {
    double area = 0, inertia = 0;
    double centre_x = 0, centre_y = 0;
};
CoreMeasure measure_of(const Core& core);

// The smallest width in any direction: between a side and the corner farthest from it.
float thickness_of(const Core& core);

// Throws Error if the polygon's outline is refused; returns it counter-clockwise, without needless corners.
Polygon checked_polygon(const Polygon& polygon, const std::string& field);

}
