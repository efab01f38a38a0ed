// A body as a function of the game sees it within a tick, and the velocities that one may give it.
#pragma once

#include "astasis/ids.h"
#include "astasis/rotation.h"

namespace astasis {

template<int Dim> struct SeenBody {
    BodyId id{};
    Point<Dim> centre{}; // of mass
    Rotation<Dim> rotation{};
    Vec<Dim> velocity{};
    Axial<Dim> angular_velocity{};
    float mass = 0;     // kg
    double time = 0;    // s, since the world was made: the start of the substep, or where a field is asked
    double seconds = 0; // of the substep
};

template<int Dim> struct Velocities {
    Vec<Dim> velocity{};           // of the centre of mass, m/s
    Axial<Dim> angular_velocity{}; // rad/s
};

}
