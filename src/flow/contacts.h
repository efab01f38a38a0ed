// Structs between the finding and the solving of contacts: shapes in the world, pairs, manifolds.
#pragma once

#include "flow/bodies.h"
#include "shape/measure.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <limits>
#include <vector>

namespace astasis::flow {

// One shape of one body, as broad and narrow phase see it; it keeps its place while it lives. The key never
// changes while the shape lives, and orders the pairs; the body is its place in Bodies.
template<int Dim> struct Collider {
    std::uint64_t key = 0;
    std::uint32_t body = 0;
    std::uint32_t shape = 0;              // among the shapes of its body
    const ShapeSpec<Dim>* spec = nullptr; // null: there is none at this place
    float reach = 0;                      // of the shape from the body's centre of mass, m
    float thickness = 0;                  // smallest full width, m
    Vec<Dim> drift{};                     // how far its body's velocity takes it within the tick, m
    float slack = 0;                      // how far its surface may come off that way, m
    Axial<Dim> turn{};                    // and its spin, rad
    Bounds<Dim> bounds{};                 // as it stands
};

// Its bounds, and how far they may come within the tick.
template<int Dim> Bounds<Dim> reached(const Collider<Dim>& c) {
    Bounds<Dim> out = c.bounds;
    for (int k = 0; k < Dim; k++) {
        out.low[k] += std::min(c.drift[k], 0.0f) - c.slack;
        out.high[k] += std::max(c.drift[k], 0.0f) + c.slack;
    }
    return out;
}

// Indices of two colliders whose bounds overlap, the one with the smaller key first.
struct Pair {
    std::uint32_t a = 0, b = 0;
    friend bool operator==(const Pair&, const Pair&) = default;
};

// The guide of a manifold's normal while the bodies move within a tick.
enum class Guide : std::uint8_t {
    FaceOfA, // turns with body A
    FaceOfB, // turns with body B
    Centres, // points from core to core: round against round or against a corner
    World,   // stays as it was found: rods that cross or lie side by side, which may spin about themselves
};

template<int Dim> inline constexpr int kMostPoints = Dim == 2 ? 2 : 4;

// A disc around a core point, across an axis: the rim of a cylinder. The point where it touches is found anew
// along the normal, so that drums roll as smoothly as balls. Radius 0: none.
template<int Dim> struct Rim {
    float radius = 0;
    Vec<Dim> axis{};
};

// A touching point is a core point on each body with a skin around it (zero but for round shapes); its
// separation is the distance of the cores along the normal, less the skins. Solving within the tick
// re-evaluates just that.
template<int Dim> struct ManifoldPoint {
    Vec<Dim> core_a{}, core_b{}; // in each body's frame, from its centre of mass
    float separation = 0;
    std::uint32_t feature = 0;
    // Carried from tick to tick and from substep to substep.
    float normal_force = 0;    // N, in the last substep
    Vec<Dim> friction_force{}; // in world axes
    Vec<Dim> tick_impulse{};   // what A gave B over the whole tick
};

// The pose of one body in another's frame: its centre and its rotation.
template<int Dim> struct RelativePose {
    Vec<Dim> centre{};
    Rotation<Dim> rotation{};
};

template<int Dim> struct Manifold {
    std::uint64_t key_a = 0, key_b = 0; // colliders' keys, key_a < key_b
    std::uint32_t shape_a = 0, shape_b = 0;
    std::uint32_t body_a = 0, body_b = 0; // places in Bodies
    Guide guide = Guide::FaceOfA;
    std::uint8_t count = 0;
    // Its bodies went past each other in the rest of the tick: it has had impulses, but is no contact any
    // more.
    bool passed_by = false;
    bool exact = false,
         unconverged = false; // only within a tick: as its island is treated (islands/islands.h)
    Vec<Dim> normal{};        // world axes, from A to B
    Vec<Dim> local_normal{};  // in the frame of the body that guides it
    float skin_a = 0, skin_b = 0;
    Rim<Dim> rim_a, rim_b; // axes in each body's frame
    float friction = 0, restitution = 0, tangential_restitution = 0;
    float rolling = 0, spinning = 0; // resistances, m
    Vec<Dim> slip{}; // how fast the surface of B runs over that of A beside their motion, world axes
    // Of the resistances, world axes, N m; carried on like the forces of the points.
    Axial<Dim> turning_torque{};
    // The most that it pushes, N, evenly on its points. What is bounded gives way: no impact and no sweep
    // keeps its bodies apart, only the passes do. Asked for in each tick, so it is no part of the state.
    float most_force = kNoBound;
    static constexpr float kNoBound = std::numeric_limits<float>::infinity();
    bool is_bounded() const { return most_force < kNoBound; }
    float thickness = 0; // of the thinner shape
    // The relative pose of its bodies when it was found, the one that reaches less far in the other's
    // frame: while they hardly move against each other it need not be found anew.
    RelativePose<Dim> found{};
    bool may_keep = false;
    // Points stand at the edge of the patch that bears. Friction against turning about the normal acts nearer
    // to its middle: at this share of their distance from it.
    float spread = 1;
    std::array<ManifoldPoint<Dim>, kMostPoints<Dim>> points{};
};

// A point of a manifold at the bodies' present poses: the normal and what lies along it.
template<int Dim> struct Facing {
    Vec<Dim> normal{};
    float separation = 0;
    Vec<Dim> core_a{}, core_b{}; // from each centre of mass, on the rim where there is one
    Vec<Dim> between{};          // from core to core
};

// From a rim's middle to where it reaches farthest along n, in world axes.
template<int Dim> Vec<Dim> reached(const Rim<Dim>& rim, const Rotation<Dim>& rotation, Vec<Dim> n);

// `a` and `b` are the point's cores, turned as the bodies at these poses are.
template<int Dim>
inline Facing<Dim> facing(const Manifold<Dim>& m, const Vec<Dim>& a, const Vec<Dim>& b,
                          const CentrePose<Dim>& pose_a, const CentrePose<Dim>& pose_b) {
    Facing<Dim> now;
    now.core_a = a, now.core_b = b;
    now.between = (pose_b.centre + b) - (pose_a.centre + a);
    now.normal = m.guide == Guide::FaceOfA   ? rotate(pose_a.rotation, m.local_normal)
                 : m.guide == Guide::FaceOfB ? rotate(pose_b.rotation, m.local_normal)
                 : m.guide == Guide::Centres ? direction(now.between, m.normal)
                                             : m.normal;
    if (m.rim_a.radius > 0) now.core_a += reached(m.rim_a, pose_a.rotation, now.normal);
    if (m.rim_b.radius > 0) now.core_b -= reached(m.rim_b, pose_b.rotation, now.normal);
    if (m.rim_a.radius > 0 || m.rim_b.radius > 0)
        now.between = (pose_b.centre + now.core_b) - (pose_a.centre + now.core_a);
    now.separation = dot(now.between, now.normal) - (m.skin_a + m.skin_b);
    return now;
}

// And where impulses act.
template<int Dim> struct PointNow {
    Vec<Dim> normal{};
    float separation = 0;
    Vec<Dim> arm_a{}, arm_b{}; // from each centre of mass to where the impulse acts on it
};

template<int Dim>
PointNow<Dim> evaluate(const Manifold<Dim>& manifold, const ManifoldPoint<Dim>& point,
                       const CentrePose<Dim>& pose_a, const CentrePose<Dim>& pose_b);
template<int Dim>
PointNow<Dim> evaluate(const Manifold<Dim>& m, const ManifoldPoint<Dim>& point, const Bodies<Dim>& bodies) {
    return evaluate(m, point, bodies.pose[m.body_a], bodies.pose[m.body_b]);
}

}
