// Helpers of the cases of joints.
#pragma once

#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <cmath>
#include <vector>

namespace astasis::fidelity {

template<int Dim> BodyId bob(World<Dim>& world, Point<Dim> at, double mass = 1) {
    return add<Dim>(world, at, Ball<Dim>{0.05f}, mass, {});
}
template<int Dim> Hinge<Dim> hinge(Joined<Dim> joins, Limits limits = {}, Motor motor = {}) {
    Hinge<Dim> out;
    out.joins = joins, out.limits = limits, out.motor = motor;
    return out;
}
// Two bodies, or a body and the world, at one place that turns freely in the plane and in space.
template<int Dim> JointId pin(World<Dim>& world, Joined<Dim> joins) {
    if constexpr (Dim == 2) return world.add_joint(Hinge<2>{.joins = joins});
    else return world.add_joint(BallJoint{.joins = joins});
}
template<int Dim> JointId rod_to(World<Dim>& world, BodyId body, Point<Dim> at) {
    return world.add_joint(Rod<Dim>{.joins = {.a = body, .at = at}});
}
template<int Dim> double height(const World<Dim>& world, BodyId body) { return world.centre_of_mass(body).y; }

// The angle of a body's place about a point, from straight down, rad.
template<int Dim> double swing(const World<Dim>& world, BodyId body) {
    const Point<Dim> p = world.centre_of_mass(body);
    return std::atan2(p.x, -p.y);
}

// Times at which a value falls through 0, within a tick by a chord.
template<int Dim, typename Value>
std::vector<double> falls(World<Dim>& world, std::size_t count, const Value& value) {
    std::vector<double> out;
    double before = value();
    while (out.size() < count && world.time() < 1000) {
        world.step();
        const double now = value();
        if (before > 0 && now <= 0)
            out.push_back(world.time() - world.settings().tick * now / (now - before));
        before = now;
    }
    return out;
}

}
