// A mover for characters: a convex shape that walks through a world by its queries, and that nothing pushes.
//
// It slides along what it meets, climbs steps and slopes, keeps a skin's distance from all, and rides on what
// it stands on. Call move() before each step() with the velocity that the character wants; falling is yours:
// give the velocity a part downwards. It is a value of your game, not of the world: save it beside a
// snapshot. The same calls give the same bits. O(queries): some six casts a move.
#pragma once

#include "astasis/world_queries.h"

#include <optional>
#include <span>
#include <vector>

namespace astasis {

// Defaults: docs/decisions/mover.md.
template<int Dim> struct MoverSpec {
    Geometry<Dim> shape{};                    // bounded and convex, about the mover's place; y is up
    float skin = 0.01f;                       // m, above 0: the distance that it keeps
    float step_height = 0.2f;                 // m, 0 or more: of what it climbs and goes down at a walk
    Angle steepest = degrees(45);             // of slopes that it walks on, above 0 and below 90 degrees
    float push = 0;                           // N, 0 or more: on dynamic bodies in its way; 0 goes round them
    std::uint64_t layers = ~std::uint64_t{0}; // it sees shapes on one of these
    // A kinematic body that goes where it goes, so that others meet it, and that it does not see.
    BodyId body{};
};

// A shape in its way.
template<int Dim> struct MoverTouch {
    BodyId body;
    std::uint32_t shape = 0;
    Point<Dim> position{};
    Vec<Dim> normal{}; // unit, towards the mover
};

template<int Dim> class Mover {
public:
    // Errors name the field: a shape that is no bounded convex one, a number out of range.
    explicit Mover(const MoverSpec<Dim>& spec, const Point<Dim>& at = {});

    // Goes on for a tick of the world. `velocity` is in m/s, beside that of what it stands on. Errors: a
    // velocity that is not finite.
    void move(World<Dim>& world, const Vec<Dim>& velocity);
    void put(const Point<Dim>& at); // elsewhere, at once

    const Point<Dim>& position() const { return at_; }
    // The ground after the last move, of a walkable slope.
    const std::optional<MoverTouch<Dim>>& standing() const { return standing_; }
    // The shapes that it touched in the last move, in the order in which it met them.
    std::span<const MoverTouch<Dim>> touched() const { return touched_; }

private:
    struct Walk; // a way tried
    Filter filter() const;
    std::optional<Hit<Dim>> cast(const World<Dim>& world, const Point<Dim>& from, const Vec<Dim>& way) const;
    bool is_walkable(const Vec<Dim>& normal) const;
    double foot(const Point<Dim>& at) const; // the height of its lowest point
    bool bears(const World<Dim>& world, const Hit<Dim>& hit, const Vec<Dim>& way, double most) const;
    void ride(const World<Dim>& world);
    void leave_overlaps(const World<Dim>& world);
    Walk slide(const World<Dim>& world, const Point<Dim>& from, const Vec<Dim>& way, bool on_foot) const;
    std::optional<Walk> climb(const World<Dim>& world, const Point<Dim>& from, const Vec<Dim>& way) const;
    bool drop(const World<Dim>& world, float way, const Vec<Dim>& on);
    void stand_over(const World<Dim>& world);
    void stand_on(const World<Dim>& world, const Hit<Dim>& hit);
    void push_on(World<Dim>& world) const;

    MoverSpec<Dim> spec_;
    Point<Dim> at_;
    std::optional<MoverTouch<Dim>> standing_;
    Pose<Dim> ground_{}; // the pose of what it stands on then
    std::vector<MoverTouch<Dim>> touched_;
};

extern template class Mover<2>;
extern template class Mover<3>;

}
