// Mass, bounds and reach of shapes; and the checks that refuse what is not a shape.
// Reads public specs. Oracle: tests/shape/measure_test.cpp integrates by sampling.
#pragma once

#include "astasis/body.h"
#include "astasis/measures.h"
#include "math/inertia.h"

#include <span>
#include <string>

namespace astasis::shape {

// Mass at density 1 (area or volume), where its centre is in the shape's frame, and inertia about that
// centre. Nothing for half-spaces and surfaces.
template<int Dim> struct Measure {
    float content = 0;
    Vec<Dim> centre{};
    math::Inertia<Dim> inertia{};
};
Measure<2> measure(const Geometry<2>& geometry);
Measure<3> measure(const Geometry<3>& geometry);

// Bounds of a shape whose frame stands at `at`, turned by `rotation`; infinite for what is unbounded.
Bounds<2> bounds(const Geometry<2>& geometry, const Point<2>& at, Rotation<2> rotation);
Bounds<3> bounds(const Geometry<3>& geometry, const Point<3>& at, Rotation<3> rotation);

// The smallest full width of a shape, m: what penetration is measured against. Infinite for half-spaces,
// surfaces and segments, which have no other side.
float thickness(const Geometry<2>& geometry);
float thickness(const Geometry<3>& geometry);

// The largest distance of a point of the shape from its origin, m. Infinite for what is unbounded.
float reach(const Geometry<2>& geometry);
float reach(const Geometry<3>& geometry);

inline bool is_unbounded(const Geometry<2>& geometry) {
    return std::holds_alternative<HalfSpace<2>>(geometry);
}
inline bool is_unbounded(const Geometry<3>& geometry) {
    return std::holds_alternative<HalfSpace<3>>(geometry);
}

// Throws Error with a field that starts with `field` if the geometry is refused; returns it in its checked
// form.
Geometry<2> checked_geometry(const Geometry<2>& geometry, const std::string& field);
Geometry<3> checked_geometry(const Geometry<3>& geometry, const std::string& field);
void check_positive(float value, const std::string& field, const char* unit);
template<int Dim> Capsule<Dim> checked_capsule(const Capsule<Dim>& capsule, const std::string& field);
// Columns, rows and pitch in range, and as many entries as cells or nodes.
struct GridSize {
    int columns, rows;
    float pitch;
    std::size_t entries;
};
void check_grid(const GridSize& grid, int least, const std::string& field, const char* pitch,
                const char* entries);
inline GridSize size_of(const TileGrid& g) { return {g.columns, g.rows, g.cell, g.solid.size()}; }
inline GridSize size_of(const HeightField& f) { return {f.columns, f.rows, f.pitch, f.heights.size()}; }
inline void check_size(const TileGrid& g, const std::string& field) {
    check_grid(size_of(g), 1, field, ".cell", ".solid");
}
inline void check_size(const HeightField& f, const std::string& field) {
    check_grid(size_of(f), 2, field, ".pitch", ".heights");
}
void check_point(const Vec2& point, const std::string& field);
void check_point(const Vec3& point, const std::string& field);
template<int Dim> HalfSpace<Dim> checked_half_space(const HalfSpace<Dim>& half, const std::string& field);

void check_material(const Material& material, const std::string& field);

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
