// Joints as the stages see them: a kind with its numbers, on the places of two bodies.
//
// (1) At least one of the two bodies is dynamic; the second is kWorld where the world holds the joint. (2)
// Frames are about the centre of mass in the body's frame; of the world, `turn_b` about the place `fixed`.
// (3) The free axes of a kind are those of JointState, in its order.
#pragma once

#include "astasis/joints.h"
#include "flow/bodies.h"

namespace astasis::flow {

enum class JointKind : std::uint8_t {
    Hinge,
    Slider,
    Weld,
    Rod,
    Rope,
    Spring,
    Ball,
    Universal,
    Wheel,
    Pulley,
    Gear,
    Tow
};

inline constexpr std::uint32_t kWorld = 0xffffffffu;
// The most rows of a joint: a steered wheel with limits on its travel.
inline constexpr std::size_t kMostJointRows = 8;

struct JointAxis {
    Limits limits{};
    Motor motor{};
    double position = 0; // counted on over whole turns
};

// A joint as an edge of the graph of islands.
struct JointEdge {
    std::uint32_t body_a, body_b;
};

template<int Dim> struct Joint {
    JointKind kind = JointKind::Weld;
    bool collide = false, broken = false;
    std::uint32_t body_a = 0, body_b = kWorld;
    Vec<Dim> at_a{}, at_b{};
    Rotation<Dim> turn_a{}, turn_b{};
    Rotation<Dim> start_a{}, start_b{}; // of gears: the frames in the world when it was added
    Point<Dim> fixed{};                 // the world's anchor
    Point<Dim> over_a{}, over_b{};      // of pulleys
    float length = 0, ratio = 1, friction = 0;
    float breaking_force = kUnlimited, breaking_torque = kUnlimited;
    std::array<JointAxis, 3> axes{};
    // Impulses of its rows with which the next substep begins, and those of the last one, over its length: N,
    // N m.
    std::array<float, kMostJointRows> load{}, load_before{};
    // The mean force and torque on the first body in the last tick, N and N m.
    Vec<Dim> force{};
    Axial<Dim> torque{};
    std::array<float, 3> motor_load{}, stop_load{};
};

}
