// Surfaces of many pieces: polylines and tile grids in the plane, meshes and height fields in space.
//
// A piece is a segment or a triangle that knows what lies beyond each of its sides, so that a contact which
// belongs to a neighbour, or to the smooth passage into it, can be told from one with a real edge. (1) Pieces
// are in the shape's own frame. (2) Side k of a segment is its corner k; of a triangle, the edge from corner
// k to the next.
#pragma once

#include "astasis/shapes.h"
#include "shape/piece_tree.h"

namespace astasis::shape {

template<int Dim> struct Piece {
    std::array<Vec<Dim>, Dim> corner{};
    Vec<Dim> normal{}; // unit, out of the solid
    std::array<Vec<Dim>, Dim>
        beyond{};         // unit, from side k into the neighbour and square to the side; zero if none
    std::uint32_t id = 0; // the segment, triangle or half cell; of a tile grid, of no meaning
    Vec<Dim> through{};   // unit, the way on which all is solid behind it; zero for a mere surface
    float solid = 0;      // how far: a shape with its middle in there is pushed out, m
    bool two_sided = false;
};

template<int Dim> struct Surface {
    std::vector<Piece<Dim>> pieces;
    PieceTree<Dim> tree;
};

// Checked and built; throw Error as Polyline and TriangleMesh say.
Surface<2> surface_of(std::span<const Vec2> corners, bool closed);
Surface<3> surface_of(std::span<const Vec3> corners, std::span<const TriangleMesh::Triangle> triangles);

// A box in the shape's frame.
template<int Dim> struct Window { Vec<Dim> low, high; };

// Appends the pieces of a surface that may meet a window. Straight walls of a tile grid come as one piece,
// cut off beyond the window. O(log pieces + pieces found), of grids O(cells in the window).
bool is_surface(const Geometry<2>& geometry);
bool is_surface(const Geometry<3>& geometry);
void pieces_in(const Geometry<2>& geometry, const Window<2>& window, std::vector<Piece<2>>& out);
void pieces_in(const Geometry<3>& geometry, const Window<3>& window, std::vector<Piece<3>>& out);

// The window of the whole surface.
Window<2> window_of(const Geometry<2>& surface);
Window<3> window_of(const Geometry<3>& surface);

}
