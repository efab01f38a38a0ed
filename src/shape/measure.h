// Mass, bounds and reach of shapes; and the checks that refuse what is not a shape.
// Reads public specs. Oracle: tests/shape/measure_test.cpp integrates by sampling.
#pragma once

#include "astasis/body.h"
#include "astasis/measures.h"
#include "math/inertia.h"

#include <span>
#include <string>

namespace astasis::shape {

// Mass at density 1 (area or volume) and inertia about the shape's own origin, which is its centre of mass.
template<int Dim> struct Measure {
    float content = 0;
    math::Inertia<Dim> inertia{};
};
template<int Dim> Measure<Dim> measure(const Geometry<Dim>& geometry);

// Bounds of a shape whose frame stands at `at`, turned by `rotation`.
template<int Dim>
Bounds<Dim> bounds(const Geometry<Dim>& geometry, const Point<Dim>& at, Rotation<Dim> rotation);

// The smallest full width of a shape, m: what penetration is measured against. Infinite for a half-space.
template<int Dim> float thickness(const Geometry<Dim>& geometry);

// The largest distance of a point of the shape from its origin, m. Infinite for a half-space.
template<int Dim> float reach(const Geometry<Dim>& geometry);

template<int Dim> bool is_unbounded(const Geometry<Dim>& geometry);

// Throws Error with a field that starts with `field` if a value is not finite or out of range; else returns
// the shape with its rotation and outward normal brought to length 1.
template<int Dim> ShapeSpec<Dim> checked(const ShapeSpec<Dim>& spec, const std::string& field);

// Mass, centre and inertia of checked shapes together. All shapes must be bounded.
template<int Dim> MassProperties<Dim> combined_mass(std::span<const ShapeSpec<Dim>> shapes);

// Inertia as the tensor of the core, from the public struct, and back.
float tensor_of(const MassProperties<2>& mass);
math::Sym3 tensor_of(const MassProperties<3>& mass);
void set_tensor(MassProperties<2>& mass, float inertia);
void set_tensor(MassProperties<3>& mass, const math::Sym3& inertia);

}
