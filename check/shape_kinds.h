// Kinds of shapes that rules tell apart.
#pragma once

#include "astasis/shapes.h"

namespace astasis::checks {

// Shapes that roll.
template<int Dim> bool is_round(const Geometry<Dim>& geometry) {
    if constexpr (Dim == 3)
        if (std::holds_alternative<Cylinder>(geometry)) return true;
    return std::holds_alternative<Ball<Dim>>(geometry) || std::holds_alternative<Capsule<Dim>>(geometry);
}

// Shapes without thickness.
template<int Dim> bool is_skin(const Geometry<Dim>& geometry) {
    if constexpr (Dim == 2)
        return std::holds_alternative<Segment>(geometry) || std::holds_alternative<Polyline>(geometry);
    else
        return std::holds_alternative<HeightField>(geometry) ||
               std::holds_alternative<TriangleMesh>(geometry);
}

}
