// Turning by an angular velocity, blending, and the frame of tangents that belongs to a normal.
#pragma once

#include "astasis/rotation.h"

#include <array>

namespace astasis::math {

// The rotation after turning by `angle` (radians, about the world's axes), of length 1 again. Exact for any
// angle.
Rotation<2> turned_by(Rotation<2> r, float angle);
Rotation<3> turned_by(Rotation<3> r, Vec3 angle);

// The angle (radians, about the world's axes) by which a rotation is turned into another, the short way
// round.
float turn_between(Rotation<2> from, Rotation<2> to);
Vec3 turn_between(Rotation<3> from, Rotation<3> to);
// The rotation whose matrix has these columns, which make a right-handed frame; and the shortest one that
// turns a unit vector into another.
Rotation<3> rotation_of(const std::array<std::array<double, 3>, 3>& columns);
Rotation<3> rotation_of(Vec3 x, Vec3 y, Vec3 z);
Rotation<3> rotation_between(Vec3 from, Vec3 to);
// An angular quantity of a frame as the world sees it.
inline float axial_rotated(Rotation<2>, float a) { return a; }
inline Vec3 axial_rotated(Rotation<3> r, Vec3 a) { return rotate(r, a); }

// A blend at 0 <= t <= 1 the short way round, and a rotation brought back to length 1.
Rotation<2> blended(Rotation<2> a, Rotation<2> b, float t);
Rotation<3> blended(Rotation<3> a, Rotation<3> b, float t);
Rotation<2> normalized(Rotation<2> r);
Rotation<3> normalized(Rotation<3> r);
float norm_squared(Rotation<2> r);
float norm_squared(Rotation<3> r);

// Unit vectors that make a right-handed frame with the unit normal; they depend on it alone.
std::array<Vec2, 1> tangents(Vec2 normal);
std::array<Vec3, 2> tangents(Vec3 normal);

}
