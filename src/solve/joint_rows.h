// The rows of a joint: what each kind asks of two bodies, at given poses.
// Stage solve. Reads flow::Joint and the poses of its bodies; writes rows.
//
// A row is one number of both poses whose rate is a sum over both velocities,
//   rate = a . (v_a, w_a) + b . (v_b, w_b),
// and one impulse j that changes both velocities by j times a or b over the inertia. Three things are asked
// of such a number: that it be 0 (Held), that it stay within a range (Range), or that it be driven at a speed
// or to a place by a bounded force (Drive). A kind is a function that writes its rows, the same number in the
// same order at any pose. Derivatives are exact, so that constraints hold to the second order and keep
// energy. All in double. A row costs some 30 operations. Tested by tests/solve/joint_rows_test.cpp against
// differences of its numbers.
#pragma once

#include "flow/joints.h"
#include "math/wide.h"

#include <array>

namespace astasis::solve {

template<int Dim> inline constexpr int kFreedoms = Dim == 2 ? 3 : 6; // of a body: linear, then angular

template<int Dim> using Lever = std::array<double, kFreedoms<Dim>>;

enum class Asks : std::uint8_t { Held, Range, Drive };

template<int Dim> struct JointRow {
    Lever<Dim> a{}, b{};
    double position = 0; // m or rad: 0 is asked of what is held
    Asks asks = Asks::Held;
    std::uint8_t axis = 0;               // of the joint, if it is about a free one
    bool turns = false;                  // rad
    float most = 0;                      // Drive: N or N m
    const flow::JointAxis* of = nullptr; // whose stops or motor it has; null of friction
};

// The data of a joint beside its rows.
template<int Dim> struct JointAxes {
    std::array<double, 3> position{};   // of the free axes
    std::array<Lever<Dim>, 3> a{}, b{}; // and how they change with the velocities
    math::Wide<Dim> arm_a{};            // the first anchor, from the first centre
};

// A pose in double: a place relative to some origin near both bodies.
template<int Dim> struct WidePose {
    math::Wide<Dim> centre{};
    math::Turn<Dim> turn{};
};

// Positions of the rows alone; rows with their levers; and all free axes.
enum class Wants : std::uint8_t { Positions, Rows, All };

// Writes the rows of a joint, which refer to it, and returns how many there are. Levers and axes that are not
// wanted keep what they have.
template<int Dim>
std::size_t find_rows(const flow::Joint<Dim>& joint, const WidePose<Dim>& a, const WidePose<Dim>& b,
                      JointRow<Dim>* rows, JointAxes<Dim>& axes, Wants wants);

// All that there is of a joint.
template<int Dim> struct JointRows {
    std::array<JointRow<Dim>, flow::kMostJointRows> row{};
    std::size_t count = 0;
    JointAxes<Dim> axes{};
};
template<int Dim>
JointRows<Dim> all_rows(const flow::Joint<Dim>& joint, const WidePose<Dim>& a, const WidePose<Dim>& b) {
    JointRows<Dim> out;
    out.count = find_rows(joint, a, b, out.row.data(), out.axes, Wants::All);
    return out;
}

// How many free axes a kind has.
template<int Dim> int axis_count(flow::JointKind kind);

extern template std::size_t find_rows(const flow::Joint<2>&, const WidePose<2>&, const WidePose<2>&,
                                      JointRow<2>*, JointAxes<2>&, Wants);
extern template std::size_t find_rows(const flow::Joint<3>&, const WidePose<3>&, const WidePose<3>&,
                                      JointRow<3>*, JointAxes<3>&, Wants);

}
