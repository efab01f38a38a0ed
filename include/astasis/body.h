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

// Sweep says what stops a body that moves far in a substep (by more than half its smallest width): it is
// brought to each impact, turning included, turned back there and sent on, and passes through slots
// untouched. Slow bodies pay nothing for it.
enum class Sweep : std::uint8_t {
    None,       // what is thin and in its way may be missed
    StaticOnly, // static and kinematic bodies
    Everything, // dynamic ones too
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

// Axes of the world along which, or about which, a body cannot move: nothing changes its velocity there,
// which is 0.
template<int Dim> struct Locks;
template<> struct Locks<2> {
    bool x = false, y = false, turn = false;
    friend constexpr bool operator==(const Locks&, const Locks&) = default;
};
template<> struct Locks<3> {
    bool x = false, y = false, z = false;
    bool turn_x = false, turn_y = false, turn_z = false;
    friend constexpr bool operator==(const Locks&, const Locks&) = default;
};

// How a dynamic body moves by itself. Of no meaning for others, which keep it for when they become dynamic.
template<int Dim> struct FreeMotion {
    // Share of the velocity lost per second, 1/s, 0 or more: v decays as exp(-damping t), whatever the tick.
    // More of it comes to rest sooner and falls slower: at most at gravity / damping.
    float linear_damping = 0;
    float angular_damping = 0;
    // The air's resistance, kg/m, 0 or more: a force of -drag |v| v. The fastest fall is sqrt(m g / drag).
    float drag = 0;
    float gravity_scale = 1; // times the world's gravity: 0 floats, below 0 rises
    Locks<Dim> locks{};
};

// A push that stays until it is changed, unlike forces, which last a tick: an engine, a fan, a wind.
template<int Dim> struct Thrust {
    Vec<Dim> force{};             // N
    Axial<Dim> torque{};          // N m, beside what the force has at its point
    std::optional<Vec<Dim>> at{}; // where the force acts, in the body's frame; the centre of mass by default
    bool turns_with_body = true;  // force and torque are in the body's frame; else in the world's
};

template<int Dim> struct BodySpec {
    Motion motion = Motion::Dynamic;
    Pose<Dim> pose{};              // of the body's own origin
    Vec<Dim> velocity{};           // of the centre of mass, m/s
    Axial<Dim> angular_velocity{}; // rad/s
    FreeMotion<Dim> free{};
    std::vector<ShapeSpec<Dim>> shapes{};
    // Whether it may sleep when it has lain still for a while; and whether it begins asleep: only a dynamic
    // body at rest. What is added asleep wakes together with what is asleep about it.
    bool may_sleep = true, asleep = false;
    Sweep sweep = Sweep::Everything;
    // Replaces what the shapes and their densities give. Needed only by a dynamic body without shapes.
    std::optional<MassProperties<Dim>> mass{};
    std::uint64_t user_data = 0; // yours: an index or a pointer to your own object
};

// A mass with the inertia that the shapes would have at that mass, to override the mass alone.
// Errors as World::add.
template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes);
template<int Dim> MassProperties<Dim> mass_of(const std::vector<ShapeSpec<Dim>>& shapes, float total_mass);

}
