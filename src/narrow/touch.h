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
#include "shape/surface.h"

#include <span>

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
    flow::Rim<Dim> rim_a, rim_b; // axes relative to the common frame
    bool on_cap = false;         // of a cylinder: its points lie on a circle
    int count = 0;
    std::array<TouchPoint<Dim>, flow::kMostPoints<Dim>> points{};
};

// In overlap several ways out may be about equally short. The one along `before`, the normal of the tick
// before, is kept while none is shorter by more than this share of the smaller size; else shapes would be
// thrown to and fro.
inline constexpr float kAboutAsShort = 0.02f;
inline constexpr float kTurnedAway = 0.9f; // cosine below which two normals are two ways out

// Any two shapes of one dimension, neither of which is a surface. `before` may be null.
Touch<2> touch(const Geometry<2>& a, const Frame<2>& at_a, const Geometry<2>& b, const Frame<2>& at_b,
               float margin, const Vec2* before = nullptr);
Touch<3> touch(const Geometry<3>& a, const Frame<3>& at_a, const Geometry<3>& b, const Frame<3>& at_b,
               float margin, const Vec3* before = nullptr);

// As touch, but also with surfaces, whose pieces touch in several directions: one Touch for each. Two
// surfaces, or two half-planes, never touch. Keeps its room from call to call.
template<int Dim> class Toucher {
public:
    // The result is valid until the next call.
    std::span<const Touch<Dim>> touch(const Geometry<Dim>& a, const Frame<Dim>& at_a, const Geometry<Dim>& b,
                                      const Frame<Dim>& at_b, float margin, const Vec<Dim>* before = nullptr);

private:
    struct Patch { // the points of all pieces with one normal
        Touch<Dim> touch;
        std::vector<TouchPoint<Dim>> points;
    };
    void touch_surface(const Geometry<Dim>& surface, const Frame<Dim>& at, const Geometry<Dim>& convex,
                       const Frame<Dim>& at_convex, float margin);
    void add(const Touch<Dim>& touch, float same_place);

    struct Later { // a piece that does not touch by itself
        const shape::Piece<Dim>* piece;
        Vec<Dim> out_of;
    };
    std::vector<shape::Piece<Dim>> pieces_;
    std::vector<Later> later_;
    std::vector<Patch> patches_;
    std::size_t used_ = 0; // of patches_, which keep their room
    std::vector<Touch<Dim>> touches_;
};

template<int Dim> Touch<Dim> turned_round(Touch<Dim> touch);

// The plane: one function for all pairs of bounded shapes, seen as cores with skins.
Touch<2> convex_convex(const shape::Core& a, const Frame<2>& at_a, const shape::Core& b, const Frame<2>& at_b,
                       float margin, const Vec2* before = nullptr);
Touch<2> convex_half_plane(const shape::Core& a, const Frame<2>& at_a, const HalfPlane& b,
                           const Frame<2>& at_b, float margin);
// What lies over one side of a; no points if nothing does.
Touch<2> side_and_convex(const shape::Core& a, const Frame<2>& at_a, int side, const shape::Core& b,
                         const Frame<2>& at_b);

// Space: the quick ways of rods and boxes; convex_space.h has the function for all others.
struct Rod { // a sphere or a capsule: its segment relative to the common origin, and its radius
    Vec3 from, to;
    float radius;

    Vec3 at(float s) const { return from + (to - from) * s; }
};
Touch<3> rod_rod(const Rod& a, const Rod& b, float margin);
Touch<3> rod_box(const Rod& a, const Box3& b, const Frame<3>& at_b, float margin);
Touch<3> rod_half_space(const Rod& a, const HalfSpace<3>& b, const Frame<3>& at_b, float margin);
Touch<3> box_box(const Box3& a, const Frame<3>& at_a, const Box3& b, const Frame<3>& at_b, float margin,
                 const Vec3* before);

}
