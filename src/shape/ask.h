// What can be asked of shapes and poses, without checks: both the stand-alone functions and the queries of a
// world stand on this. See astasis/queries.h for what each answer means.
// Shapes must be in their checked form and numbers finite. No allocation once warm, but for depths in
// overlap.
#pragma once

#include "astasis/queries.h"

namespace astasis::shape {

template<int Dim>
astasis::Nearest<Dim> nearest_points(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                                     const Pose<Dim>& at_b);
// Of a place, to a shape: normal from the place to it.
template<int Dim>
astasis::Nearest<Dim> nearest_to(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& place);
template<int Dim>
std::optional<Impact<Dim>> first_touch(const Geometry<Dim>& a, const Moving<Dim>& motion_a,
                                       const Geometry<Dim>& b, const Moving<Dim>& motion_b, double seconds,
                                       int most_steps = 20000);
template<int Dim>
std::optional<RayHit<Dim>> ray_into(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& from,
                                    const Vec<Dim>& way);
template<int Dim> bool holds_point(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& point);

}
