// Shapes as areas and lines, for drawing: round parts as straight pieces that keep within a distance of them.
#pragma once

#include "astasis/shapes.h"

#include <vector>

namespace astasis::shape {

// What of a shape is drawn, in its own frame; used again from shape to shape.
template<int Dim> struct Outline {
    struct Area {
        std::size_t begin, end; // in `corners`
        Vec<Dim> normal{};      // in space
        bool inside = false;    // Meaning::Inside
    };
    struct Line {
        Vec<Dim> from, to, out{};
        bool spoke = false;
    };
    std::vector<Vec<Dim>> corners;
    std::vector<Area> areas;
    std::vector<Line> lines;
};

// Overwrites `out`. Half-spaces are left out: they have no outline of their own.
void outline(const Geometry<2>& geometry, float fineness, Outline<2>& out);
void outline(const Geometry<3>& geometry, float fineness, Outline<3>& out);

// Pieces of a full turn, so that the middle of each stays within `fineness` of the circle.
int pieces_of_turn(float radius, float fineness);

}
