// Shapes that roll.
#pragma once

#include "astasis/shapes.h"

namespace astasis::checks {

template<int Dim> bool is_round(const Geometry<Dim>& geometry) {
    if constexpr (Dim == 3)
        if (std::holds_alternative<Cylinder>(geometry)) return true;
    return std::holds_alternative<Ball<Dim>>(geometry) || std::holds_alternative<Capsule<Dim>>(geometry);
}

}
