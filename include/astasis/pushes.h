// Pushes that reach further than one body, and regions whose edges are joined.
//
// What lasts how long: a force or torque acts through the next tick and is then forgotten; an impulse or a
// blast changes velocities at once; a thrust stays until it is changed (World::set_thrust).
#pragma once

#include "astasis/world_queries.h"

namespace astasis {

template<int Dim> struct Blast {
    Point<Dim> centre{};
    float radius = 0;  // m, above 0: beyond it nothing is pushed
    float impulse = 0; // N s, at the centre; falls in proportion to the distance, to 0 at the radius
};

// Pushes each dynamic body once, away from the centre at its nearest point, so that it also turns; one that
// is around the centre at its centre of mass. Walls give no shelter: use a filter for that. Returns the
// number of bodies pushed. Throws Error for a radius or impulse that is not finite or out of range.
template<int Dim> int blast(World<Dim>& world, const Blast<Dim>& blast, const Filter& filter = {});

// If a body's centre of mass has left a region, puts it in again from the opposite side, as often as needed;
// its velocity stays, its contacts are forgotten, and blended poses leave no smear. Call it between ticks. An
// infinite side joins nothing. Returns whether it did.
template<int Dim> bool wrap(World<Dim>& world, BodyId id, const Bounds<Dim>& region);

}
