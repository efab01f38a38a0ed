// The parts of scene files that make bodies: materials, layers, shapes, grids.
#pragma once

#include "astasis/scene/scene.h"
#include "scene/cursor.h"

namespace astasis::scene {

inline constexpr std::uint64_t kMostBodies = 1000000;

// How many bodies an entry makes.
template<int Dim> std::uint64_t count_of(const BodyEntry<Dim>& entry) {
    std::uint64_t out = 1;
    if (entry.repeated)
        for (const int n : entry.count) out *= static_cast<std::uint64_t>(n);
    return out;
}

template<int Dim> Point<Dim> point(const Cursor& c);
// An angle a second in the plane, an angle a second about an axis in space; in radians, times the axis.
void read_spin(const Cursor& c, float& out);
void read_spin(const Cursor& c, Vec3& out);
// Only what is given is changed.
void read_coefficients(const Cursor& c, Material& out);
MaterialEntry read_material(const Cursor& c);
// The bits of layers' names, each given when it is first met.
template<int Dim> std::uint64_t read_layers(const Cursor& c, Scene<Dim>& scene);
// The name of a material; refuses one that the file has not.
template<int Dim> std::string read_material_name(const Cursor& c, const Scene<Dim>& scene);
template<int Dim> BodyEntry<Dim> read_body(const Cursor& c, Scene<Dim>& scene);

}
