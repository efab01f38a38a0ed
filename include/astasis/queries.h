// What can be asked of shapes and poses alone, without a world.
//
// All check the shapes they are given, as World::add does, and throw Error for a shape that is refused, for
// numbers that are not finite, and where both shapes are surfaces or half-spaces, which meet nothing of their
// kind. A pose here is that of the shape's own frame. Convex pairs cost O(corners); a surface also O(pieces
// near the other shape), or O(pieces) where it says so. Nothing is kept between calls; calls from several
// threads are safe.
#pragma once

#include "astasis/measures.h"

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

namespace astasis {

template<int Dim> inline constexpr int kMostPatchPoints = Dim == 2 ? 2 : 4;

// Where two shapes touch with one normal.
template<int Dim> struct Patch {
    struct Spot {
        Point<Dim> position{};     // midway between both surfaces, in the world
        float separation = 0;      // m; negative in overlap
        std::uint32_t feature = 0; // which corners and edges meet here; no two spots of a patch have the same
    };
    Vec<Dim> normal{}; // unit, from the first shape to the second
    int count = 0;     // of spots, 1 or more
    std::array<Spot, kMostPatchPoints<Dim>> spots{};
};

// The contact manifold: all patches with a spot nearer than `margin` (m, 0 or more); of one patch only such
// spots. Convex shapes have one patch at most; surfaces one for each direction.
template<int Dim>
std::vector<Patch<Dim>> collide(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                                const Pose<Dim>& at_b, float margin = 0);

// What of a shape's core a nearest point lies on; round shapes have the core of a point or a line.
enum class Feature : std::uint8_t { Corner, Edge, Face };

template<int Dim> struct Nearest {
    double separation = 0; // m; in overlap less than 0: the least way out
    Vec<Dim> normal{};     // unit, from the first shape to the second
    Point<Dim> on_a{}, on_b{};
    Feature feature_a = Feature::Corner, feature_b = Feature::Corner;
    std::uint32_t piece = 0; // of a surface: segment, triangle (of height fields 2 a cell), cell; else 0
};

// The nearest points of two shapes. Surfaces are seen as thin: only their pieces count. O(pieces).
template<int Dim>
Nearest<Dim> distance(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                      const Pose<Dim>& at_b);

// A shape on its way: from a pose with constant velocities. It turns about `centre`, in its own frame, whose
// velocity it is.
template<int Dim> struct Moving {
    Pose<Dim> from{};
    Vec<Dim> velocity{};           // m/s
    Axial<Dim> angular_velocity{}; // rad/s
    Vec<Dim> centre{};
};

template<int Dim> struct Impact {
    double time = 0;       // s; of a shape cast the share of the way
    Point<Dim> position{}; // where they touch
    Vec<Dim> normal{};     // unit, from the first shape to the second
    std::uint32_t piece = 0;
};

// When two moving shapes first touch within `seconds`, to 1e-5 of the smaller size, never late by more; 0 if
// they touch or overlap at the start. Conservative advancement (Mirtich 1996, Impulse-based Dynamic
// Simulation of Rigid Body Systems, 2.3).
template<int Dim>
std::optional<Impact<Dim>> time_of_impact(const Geometry<Dim>& a, const Moving<Dim>& motion_a,
                                          const Geometry<Dim>& b, const Moving<Dim>& motion_b,
                                          double seconds);

// The same for a first shape that moves by `displacement` (m) without turning; `time` is the share of the
// way.
template<int Dim>
std::optional<Impact<Dim>> shape_cast(const Geometry<Dim>& a, const Pose<Dim>& from,
                                      const Vec<Dim>& displacement, const Geometry<Dim>& b,
                                      const Pose<Dim>& at_b);

template<int Dim> struct RayHit {
    double fraction = 0;   // share of the way, 0 to 1
    Point<Dim> position{}; // of entry
    Vec<Dim> normal{};     // of the surface, unit; against the way where the ray starts inside
    std::uint32_t piece = 0;
};

// Where the way from a point enters a shape. A start inside of a convex shape or a half-space hits at
// fraction 0; so does one on its surface. A way of no length hits only what holds its start. One-sided
// surfaces are hit from outside only.
template<int Dim>
std::optional<RayHit<Dim>> ray_cast(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& from,
                                    const Vec<Dim>& displacement);

// Whether a shape holds a point, its surface included. Of surfaces: a closed polyline and a closed mesh hold
// what they go round, by winding number, O(pieces); tiles their solid cells; a height field what is below;
// open ones nothing.
template<int Dim> bool contains(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& point);

// The point of a shape that is nearest to a place: the place itself where a convex shape holds it. O(pieces).
template<int Dim>
Point<Dim> closest_point(const Geometry<Dim>& shape, const Pose<Dim>& at, const Point<Dim>& place);

// The box along the world's axes around a shape; infinite for half-planes and half-spaces.
template<int Dim> Bounds<Dim> bounds_of(const Geometry<Dim>& shape, const Pose<Dim>& at);

}
