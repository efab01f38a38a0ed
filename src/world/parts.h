// What a tick that is solved in parts needs room for (parts.cpp). Nothing of it lasts beyond the tick: a copy
// begins without any, so that snapshots are small.
#pragma once

#include "solve/hurry.h"

namespace astasis {

template<int Dim> struct Parts {
    solve::Hurry<Dim> hurry;
    std::vector<std::uint32_t> farther;              // colliders that may be sent farther than they go
    std::vector<flow::Pair> pairs;                   // of the hurried
    std::vector<flow::Manifold<Dim>> others, merged; // manifolds
    std::vector<flow::CentrePose<Dim>> began;        // poses of what others cannot move
};

}
