// The way that bodies fall.
#pragma once

#include "astasis/world_queries.h"

namespace astasis::checks {

// How far a body can fall before its centre meets what is below, m; 0 if nothing is, or without gravity.
template<int Dim> double fall_of(const World<Dim>& world, BodyId id) {
    constexpr float kFar = 1000;
    const Vec<Dim> gravity = world.settings().gravity;
    if (!(length(gravity) > 0)) return 0;
    const Vec<Dim> down = (kFar / length(gravity)) * gravity;
    const auto hit = first_hit(world, Ray<Dim>{world.centre_of_mass(id), down}, {.except = id});
    return hit ? hit->fraction * double{kFar} : 0;
}

}
