// The one configuration of all mechanics cases: 60 ticks a second and the defaults of the library. What a
// case overrides beside shapes, masses, materials and pushes is only what its own set-up names: gravity off.
#pragma once

#include "support/scenes.h"

namespace astasis::fidelity {

inline constexpr double kG = 9.81, kPi = 3.14159265358979323846;

template<int Dim> World<Dim> falling() { return World<Dim>(); }
template<int Dim> World<Dim> weightless() { return World<Dim>({.gravity = {}}); }

}
