// What the mechanics cases are built of.
#pragma once

#include "fidelity/configuration.h"

namespace astasis::fidelity {

// A box of the full sizes; the plane leaves the depth out.
template<int Dim> Box<Dim> sized(double x, double y, double z) {
    Vec<Dim> size{static_cast<float>(x), static_cast<float>(y)};
    if constexpr (Dim == 3) size.z = static_cast<float>(z);
    return test::box_of(size);
}
template<int Dim> Rotation<Dim> tilted(double radians_about_z) {
    return test::about_z(radians(radians_about_z), Vec<Dim>{});
}
template<int Dim> Vec<Dim> up() { return {0, 1}; }
inline float turning(float w) { return w; }
inline float turning(Vec3 w) { return w.z; }
template<int Dim> Axial<Dim> about_z(double w) {
    if constexpr (Dim == 2) return static_cast<float>(w);
    else return {0, 0, static_cast<float>(w)};
}
template<int Dim> double size_of(const Axial<Dim>& w) { return length(w); }

// A disc in the plane; in space a drum along z.
inline Circle log_shape(double radius, Vec2) { return {static_cast<float>(radius)}; }
inline Cylinder log_shape(double radius, Vec3) {
    return {{0, 0, -0.5f}, {0, 0, 0.5f}, static_cast<float>(radius)};
}

template<int Dim>
BodyId add(World<Dim>& world, Point<Dim> at, Geometry<Dim> shape, double mass, Material material,
           Rotation<Dim> rotation = {}) {
    const std::vector<ShapeSpec<Dim>> shapes{{.geometry = std::move(shape), .material = material}};
    return world.add(
        {.pose = {at, rotation}, .shapes = shapes, .mass = mass_of(shapes, static_cast<float>(mass))});
}
template<int Dim>
BodyId add_fixed(World<Dim>& world, Point<Dim> at, Geometry<Dim> shape, Material material,
                 Rotation<Dim> rotation = {}) {
    return world.add({.motion = Motion::Static,
                      .pose = {at, rotation},
                      .shapes = {{.geometry = std::move(shape), .material = material}}});
}
// The ground: solid below a plane through `at` that rises with x by the slope.
template<int Dim> BodyId add_ground(World<Dim>& world, Material material, double slope = 0) {
    return add_fixed<Dim>(world, {}, HalfSpace<Dim>{}, material, tilted<Dim>(slope));
}

template<int Dim> void run(World<Dim>& world, double seconds) {
    const auto ticks = static_cast<int>(std::lround(seconds / world.settings().tick));
    for (int i = 0; i < ticks; i++) world.step();
}

template<int Dim> double deepest(const World<Dim>& world) {
    float least = 0;
    for (const auto& c : world.contacts()) least = std::min(least, c.separation);
    return -least;
}

// The mean force between two bodies in the last tick along `axis`, N: what a gave b.
template<int Dim> double force_between(const World<Dim>& world, BodyId a, BodyId b, Vec<Dim> axis) {
    double sum = 0;
    for (const auto& c : world.contacts())
        if (c.body_a == a && c.body_b == b) sum += dot(c.impulse, axis);
        else if (c.body_a == b && c.body_b == a) sum -= dot(c.impulse, axis);
    return sum / world.settings().tick;
}

template<int Dim> std::vector<Point<Dim>> places(const World<Dim>& world) {
    std::vector<Point<Dim>> out;
    for (const BodyId b : world.bodies()) out.push_back(world.centre_of_mass(b));
    return out;
}

}
