// What a tick that is solved in parts needs room for (parts.cpp). Nothing of it lasts beyond the tick: a copy
// begins without any, so that snapshots are small.
#pragma once

#include "solve/hurry.h"

namespace astasis {

template<int Dim> struct Parts {
    solve::Hurry<Dim> hurry;
    std::vector<flow::Pair> pairs;                   // of the hurried
    std::vector<std::uint32_t> farther;              // colliders that come farther than pairs were looked for
    std::vector<Bounds<Dim>> looked;                 // by hurried collider: within which they were
    std::vector<flow::Manifold<Dim>> others, merged; // manifolds
    std::vector<flow::CentrePose<Dim>> began;        // poses of what others cannot move
};

}
