// Helpers of the tests of joints.
#pragma once

#include "support/dims.h"

namespace astasis::test {

inline constexpr double kPi = 3.14159265358979;

template<int D> BodyId add_joined(World<D>& world, Point<D> at, Vec2 size, float mass = 1) {
    Vec<D> full{size.x, size.y};
    if constexpr (D == 3) full.z = size.y;
    const std::vector<ShapeSpec<D>> shapes{{box_of(full)}};
    return world.add({.pose = {at, {}}, .shapes = shapes, .mass = mass_of(shapes, mass)});
}
template<int D> Hinge<D> hinge(Joined<D> joins, Limits limits = {}, Motor motor = {}) {
    Hinge<D> out;
    out.joins = joins, out.limits = limits, out.motor = motor;
    return out;
}
template<int D> Axial<D> about_z(float w) {
    if constexpr (D == 2) return w;
    else return {0, 0, w};
}
template<int D> float z_of(const Axial<D>& w) {
    if constexpr (D == 2) return w;
    else return w.z;
}

}
