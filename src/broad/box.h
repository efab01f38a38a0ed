// Boxes of floats along the world's axes, rounded outwards from bounds in double: what the tree holds.
#pragma once

#include "astasis/measures.h"
#include "math/numbers.h"

#include <algorithm>

namespace astasis::broad {

template<int Dim> struct Box { Vec<Dim> low{}, high{}; };

// A float that is not above (below) a double.
inline float float_below(double x) {
    const auto f = static_cast<float>(x);
    return f <= x ? f : f - std::max(std::fabs(f) * 1.2e-7f, 1e-37f);
}
inline float float_above(double x) { return -float_below(-x); }

// The smallest box of floats around bounds; parts that a float cannot hold are infinite.
template<int Dim> Box<Dim> box_around(const Bounds<Dim>& b) {
    Box<Dim> out;
    for (int k = 0; k < Dim; k++) out.low[k] = float_below(b.low[k]), out.high[k] = float_above(b.high[k]);
    return out;
}

template<int Dim> ASTASIS_INLINE bool meet(const Box<Dim>& a, const Box<Dim>& b) {
    for (int k = 0; k < Dim; k++)
        if (a.high[k] < b.low[k] || b.high[k] < a.low[k]) return false;
    return true;
}
template<template<int> class Outer, int Dim> bool holds(const Outer<Dim>& outer, const Bounds<Dim>& inner) {
    for (int k = 0; k < Dim; k++)
        if (inner.low[k] < outer.low[k] || inner.high[k] > outer.high[k]) return false;
    return true;
}
template<int Dim> bool is_finite(const Box<Dim>& a) {
    return math::is_finite(a.low) && math::is_finite(a.high);
}

template<int Dim> Box<Dim> joined(const Box<Dim>& a, const Box<Dim>& b) {
    Box<Dim> out;
    for (int k = 0; k < Dim; k++)
        out.low[k] = std::min(a.low[k], b.low[k]), out.high[k] = std::max(a.high[k], b.high[k]);
    return out;
}

// What a line of random place and direction meets a box in proportion to: half its outline in the plane, half
// its surface in space.
inline float extent(const Box<2>& b) { return (b.high.x - b.low.x) + (b.high.y - b.low.y); }
inline float extent(const Box<3>& b) {
    const Vec3 d = b.high - b.low;
    return (d.x * d.y + d.y * d.z) + d.z * d.x;
}

}
