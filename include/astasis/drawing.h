// Seeing a world with whatever draws for you: implement a Pen, call draw().
//
// draw() tells the pen what is there, back to front: shapes that stand still, shapes that move, velocities,
// contacts. Each mark says what it means and whose it is, so that a pen can choose colours and widths, or
// leave out what it does not care for; an empty function body is enough for that. examples/terminal_view.cpp
// is a whole pen in a page.
#pragma once

#include "astasis/function_ref.h"
#include "astasis/measures.h"
#include "astasis/world.h"

#include <optional>
#include <string_view>

namespace astasis {

enum class Meaning : std::uint8_t {
    Shape,   // area: of the plane an outline, in space a facet, of a shape
    Inside,  // area: a part of a solid without outline of its own (cells of a tile grid)
    Surface, // line: the edge of a surface in the plane, with `vector` out of its solid, zero if it has none
    Spoke,   // line: from the middle of a round shape to its rim, so that its turning is seen
    CentreOfMass, // point: of a dynamic body
    Velocity,     // line: of the centre of mass; `vector` in m/s
    Contact,      // point: `vector` is the normal, from the first body to the second
    Force,        // line: at a contact, averaged over the tick, on the one that moves, of two that do on the
                  // upper: what bears pushes up; `vector` in N
    Link,         // line: between the centres of two bodies of one island that touch
    Bounds,       // area: the box along the axes around a shape
    Axis,         // line: an axis of a body's own frame; `vector` along it
    Name,         // text
    Pin,          // point: where a joint lets two bodies turn against each other; `held` if the world is one
    Weld,         // point: where a joint holds two bodies fast; `held` as well
    Rail,         // line: along which a joint lets a body slide, through its anchor; `held` as well
    Rod,          // line: between the ends of a joint that keeps their distance
    Rope,         // line: the same of a rope, or a part of one that leads over a place of the world
    Coil,         // line: between the ends of a spring, or of a pull to a place
    Field,     // area: the region of a field; of a fluid what is below its level. In space the faces of a box
    Attractor, // point: what a field pulls to
    Sensor,    // area: as of a shape; text: how many shapes are in it
};

template<int Dim> struct Mark {
    Meaning meaning = Meaning::Shape;
    Motion motion = Motion::Static;
    bool asleep = false;     // whether the body is; of a link, whether both are
    BodyId body{};           // whose it is; of contacts and forces the second body
    std::uint32_t shape = 0; // among the body's shapes
    Vec<Dim> vector{};       // see Meaning; of a facet in space its normal, unit, outwards
    JointId joint{};         // of the marks of joints, whose `body` is the first
    bool held = false;       // by the world
};

// What draws. Places are those of the world, in metres. Areas are convex; in space their corners are
// counter-clockwise as seen from outside, in the plane as well. Spans live as long as the call.
template<int Dim> class Pen {
public:
    virtual ~Pen() = default;
    virtual void line(const Point<Dim>& from, const Point<Dim>& to, const Mark<Dim>& mark) = 0;
    virtual void area(std::span<const Point<Dim>> corners, const Mark<Dim>& mark) = 0;
    virtual void point(const Point<Dim>& at, const Mark<Dim>& mark) = 0;
    virtual void text(const Point<Dim>& at, std::string_view text, const Mark<Dim>& mark) = 0;
};

// What is drawn.
template<int Dim> struct Shown {
    bool shapes = true, centres = true, velocities = true, contacts = true, forces = true;
    bool joints = true, fields = true, sensors = true;
    bool links = false; // what hangs together: the islands, which sleep and wake whole
    bool bounds = false, axes = false;
    FunctionRef<std::string_view(BodyId)> name{}; // if given, each body's name is written at it
    // Half-planes and half-spaces are drawn within this; by default within twice what all else takes up.
    std::optional<Bounds<Dim>> window{};
    // How far a straight piece may stay away from the round outline that it stands for, m. Larger: fewer
    // pieces.
    float fineness = 0.005f;
    float metres_a_second = 0.1f;   // the length of the line for a velocity of 1 m/s
    float metres_a_newton = 0.001f; // and for a force of 1 N
};

// O(shapes and their corners). Throws what the pen throws; fineness that is not above 0 is refused.
template<int Dim> void draw(const World<Dim>& world, Pen<Dim>& pen, const Shown<Dim>& shown = {});

}
