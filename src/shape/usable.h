// Arguments of the stand-alone functions: shapes in their checked form, without copying what is large.
#pragma once

#include "math/wide.h"
#include "shape/measure.h"

#include <optional>

namespace astasis::shape {

template<int Dim> class Usable {
public:
    // Throws Error as checked_geometry. Of grids the heights themselves are not looked at.
    Usable(const Geometry<Dim>& given, const char* field);
    const Geometry<Dim>& get() const { return checked_ ? *checked_ : given_; }

private:
    const Geometry<Dim>& given_;
    std::optional<Geometry<Dim>> checked_;
};

// Errors name the field as "at.position"; without a field as "position".
template<int Dim> void check_pose(const Pose<Dim>& pose, const std::string& field);
template<int Dim> void refuse_two_surfaces(const Geometry<Dim>& a, const Geometry<Dim>& b);

// Whether what a surface goes round or covers holds a point in its frame.
bool surface_holds(const Geometry<2>& surface, const math::Wide2& point);
bool surface_holds(const Geometry<3>& surface, const math::Wide3& point);

}
