// Mass of polyhedra in space, sharp or rounded: exact.
#pragma once

#include "shape/convex.h"

namespace astasis::shape {

struct SolidMeasure {
    double volume = 0;
    math::Wide3 centre{};
    std::array<double, 6> second{}; // integrals of xx, xy, xz, yy, yz, zz about the centre
};
SolidMeasure polyhedron_measure(const Convex<3>& convex);

}
