// Fields: forces that depend on where a body is and how it moves, taken anew in every substep.
//
// A force that is given with World::apply_force is that of the tick's start for the whole tick. That is right
// for what changes slowly, and wrong for a spring or an orbit, which gain energy by it without end: those are
// fields (or joints). Fields act on dynamic bodies whose centre of mass is in their region and of which a
// shape is on one of their layers. They act by velocity Verlet (Hairer, Lubich, Wanner 2006, Geometric
// Numerical Integration, sect. I.1.4): springs and orbits keep their energy.
#pragma once

#include "astasis/ids.h"
#include "astasis/measures.h"
#include "astasis/seen_body.h"

#include <functional>
#include <optional>
#include <variant>

namespace astasis {

// The same acceleration everywhere, as gravity.
template<int Dim> struct UniformField {
    Vec<Dim> acceleration{}; // m/s2
};

// An acceleration of strength / r^2 towards a place or a body. Nearer than where a body would turn by more
// than a seventh of a radian in a substep it falls with the distance, as in a solid ball: nothing is flung
// away.
template<int Dim> struct Attraction {
    Point<Dim> centre{};          // used if there is no body
    std::optional<BodyId> body{}; // its centre of mass; the field goes with it when it is removed
    float strength = 0;           // m3/s2: G M of what attracts; below 0 it repels
    float softening = 0.01f;      // m, above 0: r^2 + softening^2 stands for r^2
    bool pulls_back = false;      // whether the body, if it is dynamic, is attracted by the others' masses
};

// Each body attracts each other that the field reaches, by constant * mass / r^2. O(bodies^2) a substep.
template<int Dim> struct MutualAttraction {
    float constant = 0;      // m3/(kg s2)
    float softening = 0.01f; // m, above 0
};

// Air or water that moves: a force of -(drag |u| + damping m) u on what moves through it with the velocity u.
template<int Dim> struct Wind {
    Vec<Dim> velocity{};
    float drag = 0;    // kg/m, as FreeMotion::drag
    float damping = 0; // 1/s
};

// A fluid below a level: lifts each shape by the weight of the fluid in its place, at the middle of the part
// that is under the level, and slows it. O(corners of the shapes) a substep; round shapes as some dozens of
// sides.
template<int Dim> struct Buoyancy {
    double level = 0;     // m, along y
    float density = 1000; // kg/m3, kg/m2 in the plane; above 0
    Vec<Dim> flow{};      // m/s
    float damping =
        0.5f; // 1/s, 0 or more: share of the difference to the flow, for as much mass as is displaced
};

template<int Dim> struct FieldForce {
    Vec<Dim> force{};    // N, at the centre of mass
    Axial<Dim> torque{}; // N m
};
// A force of your own. The function is called for each body in each substep, in the order of the bodies'
// places; it must give the same for the same and not touch the world. It stays with the world and its
// snapshots; bytes hold the field without it, which does nothing until set_field gives it one.
template<int Dim> struct OwnField { std::function<FieldForce<Dim>(const SeenBody<Dim>&)> force{}; };

template<int Dim>
using FieldKind = std::variant<UniformField<Dim>, Attraction<Dim>, MutualAttraction<Dim>, Wind<Dim>,
                               Buoyancy<Dim>, OwnField<Dim>>;

template<int Dim> struct Field {
    FieldKind<Dim> kind{};
    std::optional<Bounds<Dim>> within{};       // everywhere, if it is not given
    std::uint64_t acts_on = ~std::uint64_t{0}; // layers
};

}
