// What a body is made of, all at once: BodySpec is filled with designated initialisers and given to
// World::add.
#pragma once

#include "astasis/ids.h"
#include "astasis/shapes.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace astasis {

enum class Motion : std::uint8_t {
    Static,    // never moves; infinitely heavy
    Kinematic, // moves by the velocity that the game sets; infinitely heavy, nothing pushes it
    Dynamic,   // moves by forces and contacts
};

// Mass of a body about its centre of mass, seen in the body's own frame.
template<int Dim> struct MassProperties;

template<> struct MassProperties<2> {
    float mass = 0;    // kg
    Vec2 centre{};     // centre of mass in the body's frame, m
    float inertia = 0; // about the centre, kg m2; 0 keeps the body from turning
    friend constexpr bool operator==(const MassProperties&, const MassProperties&) = default;
};

template<> struct MassProperties<3> {
    float mass = 0;
    Vec3 centre{};
    Vec3
        moments{}; // Ixx, Iyy, Izz about the centre along the body's axes, kg m2; all 0 keeps it from turning
    Vec3 products{}; // the tensor's entries xy, xz, yz
    friend constexpr bool operator==(const MassProperties&, const MassProperties&) = default;
};

template<int Dim> struct BodySpec {
    Motion motion = Motion::Dynamic;
    Pose<Dim> pose{};              // of the body's own origin
    Vec<Dim> velocity{};           // of the centre of mass, m/s
    Axial<Dim> angular_velocity{}; // rad/s
    // Share of the velocity lost per second, 1/s, 0 or more: v decays as exp(-damping t), whatever the tick.
    float linear_damping = 0;
    float angular_damping = 0;
    std::vector<ShapeSpec<Dim>> shapes{};
    // Replaces what the shapes and their densities give. Needed only by a dynamic body without shapes.
    std::optional<MassProperties<Dim>> mass{};
    std::uint64_t user_data = 0; // yours: an index or a pointer to your own object
};

// A mass with the inertia that the shapes would have at that mass, to override the mass alone.
// Errors as World::add.
template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes);
template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes, float total_mass);

}
