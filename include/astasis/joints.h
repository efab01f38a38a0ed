// Joints: what holds two bodies together, or one to the world.
//
// A joint is added whole from the struct of its kind, filled with designated initialisers, by
// World::add_joint. Positions along its free axes are 0 as the bodies are when it is added, unless its kind
// says otherwise; metres along a line, radians about an axis, counted on over whole turns. They grow as the
// first body moves along the axis, or turns about it, against the second or the world.
#pragma once

#include "astasis/ids.h"
#include "astasis/rotation.h"

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <variant>

namespace astasis {

inline constexpr float kUnlimited = std::numeric_limits<float>::infinity();

// The two bodies that a joint holds, and its anchors on them.
template<int Dim> struct Joined {
    BodyId a{};                // one of the two is dynamic
    std::optional<BodyId> b{}; // the world, if there is none
    // The anchors: one place in the world for both, or a place in each body's own frame. One that is not
    // given follows from the other, as the bodies are now; without any it is the origin of `a`. Joints
    // between two places (rod, rope, spring, pulley) take each by itself, the origin if it is not given; `at`
    // is then the place of the end that the world holds.
    std::optional<Point<Dim>> at{};
    std::optional<Vec<Dim>> on_a{}, on_b{};
    bool collide = false; // whether the two touch each other
    // The joint breaks when its mean force (N) or torque (N m) in a tick is higher.
    float breaking_force = kUnlimited, breaking_torque = kUnlimited;
    std::uint64_t user_data = 0;
};

// How something gives way instead of being rigid: by frequency and damping ratio, which follow the masses
// that move, or by stiffness and damping. All 0 is rigid. Above a sixth of the substeps a second (80 Hz by
// default) a spring is as stiff as the substeps can follow.
struct Springing {
    float frequency = 0;     // Hz, of the two bodies against each other along this axis
    float damping_ratio = 0; // 1 comes to rest without swinging
    float stiffness = 0;     // N/m, N m/rad; used where there is no frequency
    float damping = 0;       // N s/m, N m s/rad
    friend constexpr bool operator==(const Springing&, const Springing&) = default;
};

struct Limits {
    float lower = -kUnlimited, upper = kUnlimited; // m or rad
    float restitution = 0;                         // 0 to 1: the share of speed with which it rebounds
    Springing spring{};                            // of the stops; rigid by default
    friend constexpr bool operator==(const Limits&, const Limits&) = default;
};
inline Limits between(Angle lower, Angle upper) {
    return {static_cast<float>(lower.in_radians()), static_cast<float>(upper.in_radians())};
}

// Drives a free axis. A motor that reaches `most` is too weak for what it is asked, and stalls: see
// JointState::motor. With a speed of 0 it is a brake, or the joint's friction.
struct Motor {
    float most = 0;                // N or N m, above 0: the highest force or torque; 0 is no motor
    float speed = 0;               // m/s or rad/s; with a target the highest, where 0 is any
    std::optional<float> target{}; // m or rad: goes there and holds it
    Springing spring{};            // pulls to the target by a spring, or to the speed by its damping alone
    friend constexpr bool operator==(const Motor&, const Motor&) = default;
};

// Turns about one point; in space about one axis.
template<int Dim> struct Hinge;
template<> struct Hinge<2> {
    Joined<2> joins{};
    Limits limits{};
    Motor motor{};
};
template<> struct Hinge<3> {
    Joined<3> joins{};
    Vec3 axis{0, 0, 1}; // in the world, as the bodies are now
    Limits limits{};
    Motor motor{};
};

// Slides along one line, which is fixed to the second body.
template<int Dim> struct Slider {
    Joined<Dim> joins{};
    Vec<Dim> axis{1, 0}; // in the world, as the bodies are now
    Limits limits{};
    Motor motor{};
};

// Holds all.
template<int Dim> struct Weld { Joined<Dim> joins{}; };

// Keeps two places a distance apart; a rope keeps them no farther apart, a spring pulls them to it.
template<int Dim> struct Rod {
    Joined<Dim> joins{};
    std::optional<float> length{}; // m; as far as they are apart now if it is not given
};
template<int Dim> struct Rope {
    Joined<Dim> joins{};
    std::optional<float> length{}; // m
    Springing spring{};            // stretches when taut
};
template<int Dim> struct Spring {
    Joined<Dim> joins{};
    std::optional<float> length{}; // m, at rest
    Springing spring{.frequency = 1};
    Limits limits{.lower = 0}; // of its length
};

// Turns about one point in all directions. Free axes: the swing of its axis, 0 or more, and the twist about
// it.
struct BallJoint {
    Joined<3> joins{};
    Vec3 axis{0, -1, 0}; // in the world, as the bodies are now: along the limb that it moves
    Vec3 cone_axis{};    // the middle of the cone, in the world, fixed to the second body; `axis` if it is 0
    std::optional<Angle> cone{}; // the highest swing of the axis, up to 180 degrees
    Limits twist{};
    float friction = 0; // N m, about each axis
};

// Two shafts at an angle: turns about an axis of each body, which stay square to each other.
struct Universal {
    Joined<3> joins{};
    Vec3 axis_a{1, 0, 0}, axis_b{0, 1, 0}; // in the world, as the bodies are now; square
    Limits limits_a{}, limits_b{};
    Motor motor_a{}, motor_b{};
};

// A sprung axle: the first body is a wheel that turns on it and moves up and down against the second, which
// may steer it. Free axes: travel (0 as it is now), spin, and in space steering.
template<int Dim> struct Wheel;
template<> struct Wheel<2> {
    Joined<2> joins{};
    Vec2 up{0, 1}; // the way of its travel, in the world
    Springing suspension{.frequency = 3, .damping_ratio = 0.7f};
    Limits travel{};
    Motor drive{};
};
template<> struct Wheel<3> {
    Joined<3> joins{};
    Vec3 up{0, 1, 0};
    Vec3 axle{0, 0, 1}; // in the world, square to `up`
    Springing suspension{.frequency = 3, .damping_ratio = 0.7f};
    Limits travel{};
    Motor drive{};
    Motor steering{.most = kUnlimited, .target = 0.0f}; // about `up`; holds straight on by default
};

// A rope over two places of the world, with one end at each body: the length from over_a to the first, and
// `ratio` times that from over_b to the second, are together no longer than `length`.
template<int Dim> struct Pulley {
    Joined<Dim> joins{};
    Point<Dim> over_a{}, over_b{};
    float ratio = 1;               // above 0
    std::optional<float> length{}; // m; what it is now if it is not given
};

// Turns two bodies together: the turn of the first and `ratio` times that of the second stay 0. Each is to be
// held so that it turns about its axis, by a hinge or a wheel.
template<int Dim> struct Gear;
template<> struct Gear<2> {
    Joined<2> joins{};
    float ratio = 1; // not 0: wheels that mesh have the quotient of the second's teeth and the first's
};
template<> struct Gear<3> {
    Joined<3> joins{};
    float ratio = 1;
    Vec3 axis_a{0, 0, 1}, axis_b{0, 0, 1}; // in the world, as the bodies are now
};

// Pulls a place of a body to a place in the world that the game moves: see World::set_tow_target.
template<int Dim> struct Tow {
    Joined<Dim> joins{}; // of `a` alone: `on_a`; or `at`, which is where it begins
    Point<Dim> target{};
    float most = 0; // N, above 0
    Springing spring{.frequency = 5, .damping_ratio = 1};
};

template<int Dim>
using Joint = std::conditional_t<Dim == 2,
                                 std::variant<Hinge<2>, Slider<2>, Weld<2>, Rod<2>, Rope<2>, Spring<2>,
                                              Wheel<2>, Pulley<2>, Gear<2>, Tow<2>>,
                                 std::variant<Hinge<3>, Slider<3>, Weld<3>, Rod<3>, Rope<3>, Spring<3>,
                                              Wheel<3>, Pulley<3>, Gear<3>, Tow<3>, BallJoint, Universal>>;

// A free axis: hinge, turn; slider, way; rod, rope, spring and pulley, length; ball joint, swing and twist;
// universal, about axis_a and about axis_b; wheel, travel, spin and steering; gear, the turn of the first;
// tow, distance.
struct JointAxisState {
    float position = 0, speed = 0; // m or rad, and per second
    float motor = 0; // N or N m, of its motor or spring in the last tick; `Motor::most` where it is too weak
    float stop = 0;  // the same of its limits
};

template<int Dim> struct JointState {
    int axis_count = 0;
    std::array<JointAxisState, 3> axes{};
    std::array<Vec<Dim>, 3> directions{}; // of the axes, in the world, unit; 0 of turns in the plane
    // The mean force (N) and torque (N m) on the first body in the last tick, at its anchor.
    Vec<Dim> force{};
    Axial<Dim> torque{};
    // How far it gave way along the axes that it holds: m, and rad.
    float stretch = 0, turned = 0;
    Point<Dim> anchor_a{}, anchor_b{}; // in the world
    bool broken = false;
};

}
