// What can be asked of a world: what a ray meets, what a shape would meet on its way, what is here or near.
//
// The answers are those of the stand-alone functions of astasis/queries.h for each shape of each body,
// wherever the bodies now stand: exact, whatever the boxes of the broad phase say. Asking changes nothing, so
// queries may run from several threads between ticks. O(log shapes + shapes met), and what each shape met
// costs. Answers that are vectors are written over what the vector held; once it and the thread have been
// used, nothing is allocated. Errors: numbers that are not finite, shapes that are refused.
#pragma once

#include "astasis/function_ref.h"
#include "astasis/queries.h"
#include "astasis/world.h"

namespace astasis {

// Which shapes a query sees: all of them by default.
struct Filter {
    std::uint64_t layers = ~std::uint64_t{0}; // those on one of these layers
    bool sensors = false;                     // also sensors
    BodyId except{};                          // not those of this body: of the one that asks
    // Those for which this returns true, of those that pass the rest: body, index of the shape.
    FunctionRef<bool(BodyId, std::uint32_t)> accept{};
};

template<int Dim> struct Ray {
    Point<Dim> from{};
    Vec<Dim> displacement{}; // to the end of the ray, m
};

// Where a ray or a shape on its way first meets a shape.
template<int Dim> struct Hit {
    BodyId body{};
    std::uint32_t shape = 0;
    std::uint32_t piece = 0; // of a mesh its triangle, of a height field its half cell, of tiles the cell
    double fraction = 0;     // share of the way, 0 to 1
    Point<Dim> position{};   // of entry
    Vec<Dim> normal{};       // of the surface that was met, unit, towards where the ray came from
};

// Rays. A start inside of a convex shape, or on it, hits at fraction 0 with a normal against the way; a ray
// of no length hits only what holds its start. Of hits at one fraction the shape that was added first comes
// first.
template<int Dim>
std::optional<Hit<Dim>> first_hit(const World<Dim>& world, const Ray<Dim>& ray, const Filter& filter = {});
template<int Dim> bool any_hit(const World<Dim>& world, const Ray<Dim>& ray, const Filter& filter = {});
// One for each shape, where it enters it first, by fraction.
template<int Dim>
void all_hits(const World<Dim>& world, const Ray<Dim>& ray, std::vector<Hit<Dim>>& out,
              const Filter& filter = {});
// first_hit for each of many rays; `out` has one entry a ray.
template<int Dim>
void first_hits(const World<Dim>& world, std::span<const Ray<Dim>> rays,
                std::vector<std::optional<Hit<Dim>>>& out, const Filter& filter = {});

// A bounded convex shape moves from a pose by `displacement` without turning: the first shape that it hits.
// If it overlaps one at the start, that is a hit at fraction 0.
template<int Dim>
std::optional<Hit<Dim>> first_impact(const World<Dim>& world, const Geometry<Dim>& shape,
                                     const Pose<Dim>& from, const Vec<Dim>& displacement,
                                     const Filter& filter = {});

template<int Dim> struct Found {
    BodyId body{};
    std::uint32_t shape = 0;
    double separation = 0; // m, from what was asked for; 0 for what overlaps or touches it
    Point<Dim> position{}; // the shape's nearest point; where it overlaps, one that both have
};

// The shapes that overlap or touch a bounded convex shape, or a box along the axes, in the order in which
// they were added. A shape that lies wholly inside of a closed outline,
// in tiles, or under a height field but above its lowest node overlaps it.
template<int Dim>
void overlapping(const World<Dim>& world, const Geometry<Dim>& shape, const Pose<Dim>& at,
                 std::vector<Found<Dim>>& out, const Filter& filter = {});
template<int Dim>
void overlapping(const World<Dim>& world, const Bounds<Dim>& box, std::vector<Found<Dim>>& out,
                 const Filter& filter = {});
// The shapes within a distance (m, 0 or more) of a place, the nearest first; of equals the one added first.
template<int Dim>
void nearest(const World<Dim>& world, const Point<Dim>& place, float within, std::vector<Found<Dim>>& out,
             const Filter& filter = {});

}
