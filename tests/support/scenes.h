// The little scenes that many tests begin with, spelt alike for both dimensions.
#pragma once

#include "astasis/astasis.h"

#include <cmath>
#include <cstdint>
#include <vector>

namespace astasis::test {

inline Box<2> box_of(Vec2 s) { return Box<2>::sized(s.x, s.y); }
inline Box<3> box_of(Vec3 s) { return Box<3>::sized(s.x, s.y, s.z); }
template<int Dim> Vec<Dim> all(float x) {
    Vec<Dim> v{};
    for (int i = 0; i < Dim; i++) v[i] = x;
    return v;
}
template<int Dim> Box<Dim> cube(float side) { return box_of(all<Dim>(side)); }
inline Rotation<2> about_z(Angle a, Vec2) { return turned(a); }
inline Rotation<3> about_z(Angle a, Vec3) { return turned(a, {0, 0, 1}); }

template<int Dim> BodyId add_floor(World<Dim>& world, Material material = {}) {
    return world.add({.motion = Motion::Static, .shapes = {{HalfSpace<Dim>{}, material}}});
}
template<int Dim>
BodyId add_ball(World<Dim>& world, Point<Dim> at, float radius, float mass = 1, Material material = {}) {
    const std::vector<ShapeSpec<Dim>> shapes{{Ball<Dim>{radius}, material}};
    return world.add({.pose = {at, {}}, .shapes = shapes, .mass = mass_of(shapes, mass)});
}
template<int Dim> void step(World<Dim>& world, int ticks) {
    for (int i = 0; i < ticks; i++) world.step();
}
// How often swept bodies were turned back in the last tick, of two that are swept both.
template<int Dim> std::size_t turns(const World<Dim>& world) {
    std::size_t out = 0;
    for (const BodyId id : world.bodies()) out += world.way_of(id).size() - 2;
    return out;
}
template<int Dim> WorldSpec<Dim> weightless() { return {.gravity = {}}; }

// A fixed sequence of numbers from low to high.
class Numbers {
public:
    explicit Numbers(std::uint64_t seed) : state_(seed * 2862933555777941757u + 3037000493u) {}
    double in(double low, double high) {
        state_ = state_ * 6364136223846793005u + 1442695040888963407u;
        return low + (high - low) * static_cast<double>(state_ >> 11) * 0x1p-53;
    }
    float f(double low, double high) { return static_cast<float>(in(low, high)); }
    template<int Dim> Vec<Dim> vec(double low, double high) {
        Vec<Dim> v{};
        for (int i = 0; i < Dim; i++) v[i] = f(low, high);
        return v;
    }
    Rotation<2> rotation(Vec2) { return turned(radians(in(-4, 4))); }
    Rotation<3> rotation(Vec3) {
        const Vec3 axis = vec<3>(-1, 1);
        return turned(radians(in(-4, 4)), axis + Vec3{0, 0, 1e-3f});
    }

private:
    std::uint64_t state_;
};

}
