// Shapes: what of a body can touch. Each stands in a frame of its own, which a Placement puts into the body's
// frame.
#pragma once

#include "astasis/hull.h"
#include "astasis/ids.h"
#include "astasis/rotation.h"
#include "astasis/terrain.h"

#include <cstdint>
#include <variant>
#include <vector>

namespace astasis {

// All points within `radius` (m, > 0) of the shape's origin: a circle in the plane, a sphere in space.
template<int Dim> struct Ball { float radius = 0; };
using Circle = Ball<2>;
using Sphere = Ball<3>;

// A rectangle or cuboid centred on the shape's origin, its sides along the axes.
template<int Dim> class Box;

template<> class Box<2> {
public:
    // Full width along x and full height along y, in metres, each > 0: not half extents.
    static constexpr Box sized(float full_width, float full_height) {
        return Box({full_width, full_height}, 0);
    }
    // The same outer size with corners rounded by a radius (m), 0 to less than half the smaller side.
    constexpr Box rounded(float radius) const { return Box(size_, radius); }
    constexpr Vec2 full_size() const { return size_; }
    constexpr float rounding() const { return rounding_; }

private:
    constexpr Box(Vec2 size, float rounding) : size_(size), rounding_(rounding) {}
    Vec2 size_;
    float rounding_;
};

template<> class Box<3> {
public:
    // Full width along x, full height along y and full depth along z, in metres, each > 0: not half extents.
    static constexpr Box sized(float full_width, float full_height, float full_depth) {
        return Box({full_width, full_height, full_depth}, 0);
    }
    // The same outer size with edges and corners rounded by a radius (m), 0 to less than half the smallest
    // side.
    constexpr Box rounded(float radius) const { return Box(size_, radius); }
    constexpr Vec3 full_size() const { return size_; }
    constexpr float rounding() const { return rounding_; }

private:
    constexpr Box(Vec3 size, float rounding) : size_(size), rounding_(rounding) {}
    Vec3 size_;
    float rounding_;
};
using Box2 = Box<2>;
using Box3 = Box<3>;

// All points within `radius` (m, > 0) of the segment between two points that differ: a tube, a rod with round
// ends.
template<int Dim> struct Capsule {
    Vec<Dim> from, to;
    float radius = 0;
};
using Capsule2 = Capsule<2>;
using Capsule3 = Capsule<3>;

// A line in the plane between two points that differ, without thickness. It has no mass of its own: a dynamic
// body needs another shape, or a mass.
struct Segment {
    Vec2 from, to;
};

// A drum in space: all points between the two ends (m, which differ) within `radius` (m, > 0) of the line
// through them.
struct Cylinder {
    Vec3 from, to;
    float radius = 0;
};

// A convex outline in the plane of three or more corners, grown by `rounding` (m, 0 or more) on all sides.
// Corners in clockwise order are turned round, and corners that repeat or lie on a straight side are left
// out: both change nothing of the shape. Refused: less than three corners that remain, no area, a concave or
// self-crossing outline.
struct Polygon {
    std::vector<Vec2> corners;
    float rounding = 0;
};

// All that lies behind the line or plane through the shape's origin; `outward` (any length but zero) points
// out of the solid. It never ends, so it goes on static and kinematic bodies only. The default is a floor:
// solid below y = 0.
template<int Dim> struct HalfSpace { Vec<Dim> outward{0, 1}; };
using HalfPlane = HalfSpace<2>;

// The shapes of each dimension.
template<int Dim> struct ShapesOf;
template<> struct ShapesOf<2> {
    using Any = std::variant<Circle, Box2, HalfPlane, Capsule2, Polygon, Segment, Polyline, TileGrid>;
};
template<> struct ShapesOf<3> {
    using Any = std::variant<Sphere, Box3, HalfSpace<3>, Capsule3, Hull, Cylinder, HeightField, TriangleMesh>;
};
template<int Dim> using Geometry = typename ShapesOf<Dim>::Any;

// Where a shape stands in its body's frame.
template<int Dim> struct Placement {
    Vec<Dim> position{};
    Rotation<Dim> rotation{};
};

// How the coefficients of two materials become one: the smaller, the product, the root of the product, the
// mean, the larger. Where two materials name different ways, the later in this list counts.
enum class Mixing : std::uint8_t { Smaller, Product, GeometricMean, Mean, Larger };

// How a surface behaves.
struct Material {
    // Coulomb's coefficient, 0 or more: the largest sideways force as a share of the normal force. 0 slides
    // for ever; above about 1 things stick and topple instead of sliding. Default: dry cardboard on wood in
    // handbooks' tables.
    float friction = 0.5f;
    // Speed of separation over speed of approach, 0 (stays) to 1 (a perfect bounce).
    float restitution = 0;
    // The same for the surfaces' speed along each other, 0 (friction ends it) to 1 (friction turns it round,
    // as with a ball of hard rubber): as far as friction can. Mixed as restitution is.
    float tangential_restitution = 0;
    // What rolling and spinning in place meet, m, 0 or more: the torque is at most this times the normal
    // force. 0 rolls for ever; the radius of what rolls stops it as friction would stop a block. For a pair
    // the larger one.
    float rolling_resistance = 0;
    float spinning_resistance = 0; // in space, about the normal
    Mixing friction_mixing = Mixing::GeometricMean;
    Mixing restitution_mixing = Mixing::Larger;
};

template<int Dim> struct ShapeSpec {
    Geometry<Dim> geometry;
    Material material{};
    // Mass per area (kg/m2) in the plane, per volume (kg/m3) in space, > 0. The default is that of water,
    // with a plane one metre deep. It decides the mass of a dynamic body unless the body's spec gives a mass.
    float density = 1000;
    Placement<Dim> placement{};
    // How the surface runs along itself, m/s in the shape's frame: a belt. Friction drags along what touches
    // it.
    Vec<Dim> surface_velocity{};
    // A bit for each layer that the shape is on, and for each that it meets: two shapes meet if each is on a
    // layer that the other meets. Which layer means what is yours to say.
    std::uint64_t layers = 1, collides_with = ~std::uint64_t{0};
    // Shapes of one group never meet among themselves; 0 is no group.
    std::uint32_t group = 0;
    // If set, the shape behaves as that material of the world, which may be changed for all its shapes at
    // once, and `material` has no meaning. See World::add_material.
    MaterialId shared{};
    // Whether the shape only tells what is in it (World::events) and never pushes: it has no mass, no
    // contacts and no sensor sees it. It sees the shapes of other bodies that its layers let it meet,
    // whatever moves or stands or sleeps. Of dynamic bodies the other shapes give the mass.
    bool is_sensor = false;
    // Yours: a kind of shape that your code tells apart, and an index or a pointer to an object of yours.
    std::uint32_t tag = 0;
    std::uint64_t user_data = 0;
};

// Whether layers and groups let two shapes meet.
template<int Dim> bool may_meet(const ShapeSpec<Dim>& a, const ShapeSpec<Dim>& b) {
    return (a.layers & b.collides_with) != 0 && (b.layers & a.collides_with) != 0 &&
           (a.group == 0 || a.group != b.group);
}
// Whether they may push each other: no sensor does.
template<int Dim> bool may_touch(const ShapeSpec<Dim>& a, const ShapeSpec<Dim>& b) {
    return !a.is_sensor && !b.is_sensor && may_meet(a, b);
}

}
