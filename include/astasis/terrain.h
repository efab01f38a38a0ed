// What a level is made of: surfaces of many pieces that know their neighbours, so that a body slides over
// their seams as over one face. They have no mass and stand on static and kinematic bodies only.
#pragma once

#include "astasis/vec.h"

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace astasis {

namespace shape {
template<int Dim> struct Surface;
}

// A chain of segments in the plane. One-sided: solid on the left hand of who walks from corner to corner, so
// that a closed one is a solid in counter-clockwise order and a floor runs from right to left. What has its
// middle on the solid side is not touched. Immutable; copies share their corners.
class Polyline {
public:
    // Throw Error for a coordinate that is not finite, neighbours at one place, less than 2 corners (3
    // closed), or a corner at which the line turns back on itself.
    static Polyline open(std::span<const Vec2> corners);
    static Polyline closed(std::span<const Vec2> corners); // the last corner is joined to the first

    // The same line, met from both of its sides.
    Polyline two_sided() const;

    std::vector<Vec2> corners() const;
    bool is_closed() const { return closed_; }
    bool is_two_sided() const { return two_sided_; }
    const shape::Surface<2>& surface() const { return *surface_; }

private:
    Polyline(std::shared_ptr<const shape::Surface<2>> surface, bool closed)
        : surface_(std::move(surface)), closed_(closed) {}
    std::shared_ptr<const shape::Surface<2>> surface_;
    bool closed_ = false, two_sided_ = false;
};

// Solid and empty cells of one size in the plane, row by row from the bottom, each row from the left; the
// grid's lower left corner is the shape's origin. Walls of cells side by side are one smooth face.
// World::set_cell changes cells live.
struct TileGrid {
    int columns = 0, rows = 0;         // each 1 or more
    float cell = 0;                    // side of a cell, m, > 0
    std::vector<std::uint8_t> solid{}; // columns * rows entries, 0 is empty

    bool is_solid(int column, int row) const { // false outside of the grid
        return column >= 0 && column < columns && row >= 0 && row < rows &&
               solid[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                     static_cast<std::size_t>(column)] != 0;
    }
};

// Ground whose height (along the shape's y) is given at the nodes of a grid over x and z, solid below, each
// cell cut into two triangles. The first node is at x = z = 0; nodes follow along x, then row by row along z.
// World::set_height changes heights live.
struct HeightField {
    int columns = 0, rows = 0;    // nodes along x and along z, each 2 or more
    float pitch = 0;              // distance of neighbouring nodes, m, > 0
    std::vector<float> heights{}; // columns * rows entries, m

    float height(int column, int row) const {
        return heights[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                       static_cast<std::size_t>(column)];
    }
};

// A surface of triangles in space, each counter-clockwise as seen from outside. One-sided: what has its
// middle behind a triangle is not touched by it. Triangles that share two corners are neighbours. Immutable;
// copies share their data.
class TriangleMesh {
public:
    using Triangle = std::array<std::uint32_t, 3>;

    // Corners at the same place are joined; triangles without area are left out. Throws Error for a
    // coordinate that is not finite, an index beyond the corners, or if no triangle remains. O(n log n).
    static TriangleMesh of(std::span<const Vec3> corners, std::span<const Triangle> triangles);

    // The same mesh, met from both of its sides.
    TriangleMesh two_sided() const;

    bool is_two_sided() const { return two_sided_; }
    int triangle_count() const;
    std::array<Vec3, 3> triangle(int i) const; // numbered as they were given, without those left out
    const shape::Surface<3>& surface() const { return *surface_; }

private:
    explicit TriangleMesh(std::shared_ptr<const shape::Surface<3>> surface) : surface_(std::move(surface)) {}
    std::shared_ptr<const shape::Surface<3>> surface_;
    bool two_sided_ = false;
};

}
