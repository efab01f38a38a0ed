// The gap between two shapes of any kinds, standing or moving: what the queries stand on.
//
// Everything is in double and relative to the first shape's place, so that it is exact wherever in the world
// that is.
#pragma once

#include "shape/nearest.h"
#include "shape/surface.h"

#include <optional>
#include <vector>

namespace astasis::shape {

// A shape taken apart into convex parts: itself, or the pieces of a surface; or a half-space.
template<int Dim> struct Parts {
    Parts(const Geometry<Dim>& geometry, const math::Wide<Dim>& position, const math::Turn<Dim>& turn);
    ~Parts();
    Parts(const Parts&) = delete;
    Parts& operator=(const Parts&) = delete;

    const Geometry<Dim>& geometry;
    math::Wide<Dim> position;
    math::Turn<Dim> turn;
    ConvexRoom<Dim> room{};
    Convex<Dim> convex{}; // if it is convex
    bool half_space = false, surface = false;
    math::Wide<Dim> outward{};      // of a half-space, in its own frame
    std::vector<Piece<Dim>> pieces; // of a surface: those looked at; lent by the thread, so that room is kept

    void take_pieces(const Window<Dim>& window) { pieces.clear(), pieces_in(geometry, window, pieces); }
};

// Two convex parts, or one and a half-space (null), with skins taken off.
template<int Dim> struct Gap {
    bool apart = true;     // the cores do not overlap
    double separation = 0; // in overlap less than 0, if asked for; else 0
    math::Wide<Dim> normal{}, on_a{}, on_b{};
    int corners_a = 1, corners_b = 1; // of the cores, that lie farthest towards each other
};
template<int Dim> Gap<Dim> gap_of(const Convex<Dim>& a, const Convex<Dim>& b, bool depth);
template<int Dim>
Gap<Dim> gap_to_plane(const Convex<Dim>& a, const math::Wide<Dim>& on_plane, const math::Wide<Dim>& outward);

// The window of a convex shape in a frame, wider by a margin.
template<int Dim>
Window<Dim> window_of(const Convex<Dim>& c, const math::Wide<Dim>& position, const math::Turn<Dim>& turn,
                      double margin) {
    Window<Dim> out;
    for (int k = 0; k < Dim; k++) {
        const math::Wide<Dim>& axis = turn.column[static_cast<std::size_t>(k)];
        const double at = dot(axis, position), wider = c.skin + margin;
        out.high[k] = static_cast<float>(dot(axis, c.support(axis)) - at + wider);
        out.low[k] = static_cast<float>(dot(axis, c.support(-axis)) - at - wider);
    }
    return out;
}

extern template struct Parts<2>;
extern template struct Parts<3>;

}
