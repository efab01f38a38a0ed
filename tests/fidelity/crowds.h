// Crowds that several cases begin with, and the generator that places them.
#pragma once

#include "fidelity/scenes.h"

#include <algorithm>
#include <cstdint>

namespace astasis::fidelity {

// Numbers from 0 to 1: a linear congruential generator modulo 2^64.
class Draws {
public:
    explicit Draws(std::uint64_t seed) : state_(seed) {}
    double next() {
        state_ = state_ * 6364136223846793005u + 1442695040888963407u;
        return static_cast<double>(state_ >> 11) * 0x1p-53;
    }
    double in(double low, double high) { return low + (high - low) * next(); }

private:
    std::uint64_t state_;
};

enum class Order { Forward, Backward, Shuffled };

inline std::vector<std::size_t> in_order(std::size_t count, Order order) {
    std::vector<std::size_t> out(count);
    for (std::size_t i = 0; i < count; i++) out[i] = order == Order::Backward ? count - 1 - i : i;
    Draws draws(3);
    if (order == Order::Shuffled)
        for (std::size_t i = count; i-- > 1;)
            std::swap(out[i], out[static_cast<std::size_t>(draws.next() * static_cast<double>(i + 1))]);
    return out;
}

// 10 x 10 discs or 5 x 5 x 5 balls that fly together.
template<int Dim> void fill_burst(World<Dim>& world, Order order) {
    constexpr int kSide = Dim == 2 ? 10 : 5, kCount = Dim == 2 ? 100 : 125;
    Draws draws(1);
    std::vector<BodySpec<Dim>> specs;
    for (int n = 0; n < kCount; n++) {
        const std::vector<ShapeSpec<Dim>> shapes{{Ball<Dim>{0.1f}, {.friction = 0.3f, .restitution = 0.7f}}};
        BodySpec<Dim> spec{.shapes = shapes, .mass = mass_of(shapes, 1)};
        int rest = n;
        for (int k = 0; k < Dim; k++, rest /= kSide) {
            const double x = 0.3 * (rest % kSide - 0.5 * (kSide - 1));
            if (k == 0) spec.pose.position.x = x;
            else if (k == 1) spec.pose.position.y = x;
            else if constexpr (Dim == 3) spec.pose.position.z = x;
            spec.velocity[k] = static_cast<float>(-0.5 * x + (k + 1) + draws.in(-0.1, 0.1));
        }
        if constexpr (Dim == 2) spec.angular_velocity = static_cast<float>(draws.in(-5, 5));
        else
            for (int k = 0; k < 3; k++) spec.angular_velocity[k] = static_cast<float>(draws.in(-2.9, 2.9));
        specs.push_back(spec);
    }
    for (const std::size_t i : in_order(specs.size(), order)) world.add(specs[i]);
}

// The size of a body's angular momentum about the world's origin, of 1 kg balls of radius 0.1 m.
inline double angular_of(const World<2>& world, BodyId b) {
    const auto p = world.pose(b).position;
    const Vec2 v = world.velocity(b);
    return std::fabs(p.x * v.y - p.y * v.x + 0.005 * world.angular_velocity(b));
}
inline double angular_of(const World<3>& world, BodyId b) {
    const auto p = world.pose(b).position;
    const Vec3 r{static_cast<float>(p.x), static_cast<float>(p.y), static_cast<float>(p.z)};
    return length(cross(r, world.velocity(b)) + world.angular_velocity(b) * 0.004f);
}

// Boxes in a pyramid of ten rows, or six layers, with gaps beside them.
void build_pyramid(World<2>& world, Order order = Order::Forward);
void build_pyramid(World<3>& world, Order order = Order::Forward);

}
