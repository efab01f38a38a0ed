// Convex shapes in space, seen as cores with rims and skins: what the pairs without a function of their own
// share.
#pragma once

#include "math/trig.h"
#include "narrow/touch.h"
#include "shape/nearest.h"

namespace astasis::narrow {

// The deepest pair of points; `before` is the normal of the tick before, if there was one.
struct Contact3 {
    bool touches = false, overlap = false; // nearer than the margin; cores overlap
    double separation = 0;                 // less the skins
    math::Wide3 normal{}, on_a{}, on_b{};  // points on the cores
};
Contact3 contact_of(const shape::Convex<3>& a, const shape::Convex<3>& b, double margin,
                    const math::Wide3* before);

Touch<3> convex_convex(const shape::Convex<3>& a, const shape::Convex<3>& b, double margin,
                       const math::Wide3* before);
// The manifold along a unit normal from a to b. `on_a` and `on_b` are the points of the cores nearest along
// it; null if they are not known: then there are no points where no feature lies over the other.
Touch<3> convex_along(const shape::Convex<3>& a, const shape::Convex<3>& b, const math::Wide3& normal,
                      const math::Wide3* on_a, const math::Wide3* on_b);
Touch<3> convex_half_space(const shape::Convex<3>& a, const HalfSpace<3>& b, const Frame<3>& at_b,
                           double margin);

}
