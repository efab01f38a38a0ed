// From a joint's spec to what the stages take: checks, anchors and frames.
#pragma once

#include "flow/joints.h"

#include <string>

namespace astasis {

// A body as a joint finds it; of the world, none is given.
template<int Dim> struct JointBody {
    Pose<Dim> pose{};  // of its own origin
    Vec<Dim> centre{}; // of mass, in its frame
    float size = 0;    // smallest width, m; 0 without shapes
};

// Fills in what the spec leaves open (anchors, lengths). Throws Error for a field out of range, and for
// anchors that are apart where they are held together. `b` is null for the world. Bodies of the joint are
// left as they are.
template<int Dim>
flow::Joint<Dim> make_joint(Joint<Dim>& spec, const JointBody<Dim>& a, const JointBody<Dim>* b);

template<int Dim> Joined<Dim>& joined(Joint<Dim>& spec) {
    return std::visit([](auto& kind) -> Joined<Dim>& { return kind.joins; }, spec);
}
template<int Dim> const Joined<Dim>& joined(const Joint<Dim>& spec) {
    return std::visit([](const auto& kind) -> const Joined<Dim>& { return kind.joins; }, spec);
}

template<int Dim> flow::JointKind kind_of_joint(const Joint<Dim>& spec);
void check_limits(const Limits& limits, const std::string& field);
void check_motor(const Motor& motor, const std::string& field);

extern template flow::JointKind kind_of_joint<2>(const Joint<2>&);
extern template flow::JointKind kind_of_joint<3>(const Joint<3>&);
extern template flow::Joint<2> make_joint(Joint<2>&, const JointBody<2>&, const JointBody<2>*);
extern template flow::Joint<3> make_joint(Joint<3>&, const JointBody<3>&, const JointBody<3>*);

}
