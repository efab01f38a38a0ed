// Where two shapes touch: one function for each pair of shapes, free of worlds and bodies.
//
// All of them take two shapes in frames relative to one common origin near both, and a margin. If the shapes
// are nearer than the margin they return up to kMostPoints points, also such that are farther apart: a box
// that lands on one corner comes down on the next within the same tick. The normal has length 1 and points
// from the first shape to the second. Dispatch puts the shape that stands first in Geometry first and turns
// the answer round.
#pragma once

#include "flow/contacts.h"
#include "shape/core_plane.h"

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

// The plane: one function for all pairs of bounded shapes, seen as cores with skins.
Touch<2> touch(const Geometry<2>& a, const Frame<2>& at_a, const Geometry<2>& b, const Frame<2>& at_b,
               float margin);
Touch<2> convex_convex(const shape::Core& a, const Frame<2>& at_a, const shape::Core& b, const Frame<2>& at_b,
                       float margin);
Touch<2> convex_half_plane(const shape::Core& a, const Frame<2>& at_a, const HalfPlane& b,
                           const Frame<2>& at_b, float margin);

// Space: a function a pair.
Touch<3> touch(const Geometry<3>& a, const Frame<3>& at_a, const Geometry<3>& b, const Frame<3>& at_b,
               float margin);
struct Rod { // a sphere or a capsule: its segment relative to the common origin, and its radius
    Vec3 from, to;
    float radius;
};
Touch<3> rod_rod(const Rod& a, const Rod& b, float margin);
Touch<3> rod_box(const Rod& a, const Box3& b, const Frame<3>& at_b, float margin);
Touch<3> rod_half_space(const Rod& a, const HalfSpace<3>& b, const Frame<3>& at_b, float margin);
Touch<3> box_half_space(const Box3& a, const Frame<3>& at_a, const HalfSpace<3>& b, const Frame<3>& at_b,
                        float margin);
Touch<3> box_box(const Box3& a, const Frame<3>& at_a, const Box3& b, const Frame<3>& at_b, float margin);

}
