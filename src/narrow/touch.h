// Where two shapes touch: one function for each pair of shapes, free of worlds and bodies.
//
// All of them take two shapes in frames relative to one common origin near both, and a margin. If the shapes
// are nearer than the margin they return up to kMostPoints points, also such that are farther apart: a box
// that lands on one corner comes down on the next within the same tick. The normal has length 1 and points
// from the first shape to the second. Dispatch puts the shape that stands first in Geometry first and turns
// the answer round.
#pragma once

#include "flow/contacts.h"

namespace astasis::narrow {

template<int Dim> struct Frame {
    Vec<Dim> position{};
    Rotation<Dim> rotation{};
};

template<int Dim> struct TouchPoint {
    Vec<Dim> core_a{}, core_b{}; // relative to the common origin
    float separation = 0;
    std::uint32_t feature = 0;
};

template<int Dim> struct Touch {
    Vec<Dim> normal{};
    flow::Guide guide = flow::Guide::FaceOfA;
    float skin_a = 0, skin_b = 0;
    int count = 0;
    std::array<TouchPoint<Dim>, flow::kMostPoints<Dim>> points{};
};

template<int Dim>
Touch<Dim> touch(const Geometry<Dim>& a, const Frame<Dim>& at_a, const Geometry<Dim>& b,
                 const Frame<Dim>& at_b, float margin);

template<int Dim>
Touch<Dim> ball_ball(const Ball<Dim>& a, const Frame<Dim>& at_a, const Ball<Dim>& b, const Frame<Dim>& at_b,
                     float margin);
template<int Dim>
Touch<Dim> ball_box(const Ball<Dim>& a, const Frame<Dim>& at_a, const Box<Dim>& b, const Frame<Dim>& at_b,
                    float margin);
template<int Dim>
Touch<Dim> ball_half_space(const Ball<Dim>& a, const Frame<Dim>& at_a, const HalfSpace<Dim>& b,
                           const Frame<Dim>& at_b, float margin);
template<int Dim>
Touch<Dim> box_half_space(const Box<Dim>& a, const Frame<Dim>& at_a, const HalfSpace<Dim>& b,
                          const Frame<Dim>& at_b, float margin);
Touch<2> box_box(const Box<2>& a, const Frame<2>& at_a, const Box<2>& b, const Frame<2>& at_b, float margin);
Touch<3> box_box(const Box<3>& a, const Frame<3>& at_a, const Box<3>& b, const Frame<3>& at_b, float margin);

}
