// Hooks: functions of the game that a tick calls.
//
// Within a tick the world can be looked at, though some bodies may show where they were before the tick and
// others where they are after it; it cannot be edited or saved: that throws Error and changes nothing. What a
// hook throws does not stop the tick: step() throws it when the tick is done. Hooks are no part of a world's
// state: they stay when it is restored. What is to happen before or after whole ticks is the game's own code
// about step(), or Pacer's two functions: there everything may be edited. Ticks run on one thread now; one
// day islands may be solved on several, and then a hook may be called from any of them: it answers by what it
// is given alone, and guards what it writes.
#pragma once

#include "astasis/seen_body.h"
#include "astasis/vec.h"

#include <cstdint>
#include <functional>
#include <limits>
#include <span>

namespace astasis {

// A contact patch of two shapes before it is solved, the shape that was added first as `a`. Asked for in
// every tick, and once more where shapes meet within it: the answer for a pair is to be the same all through
// a tick.
template<int Dim> struct ContactAsked {
    // The contact:
    BodyId body_a, body_b;
    std::uint32_t shape_a = 0, shape_b = 0; // numbers of the shapes
    Point<Dim> position{};                  // of the point that is nearest, on a
    Vec<Dim> normal{};                      // unit, from a to b
    float separation = 0;                   // m, of that point; below 0 in overlap
    Vec<Dim> velocity{};                    // of b against a there, m/s, when the tick began
    // The hook may change these: whether the contact is solved at all, and how.
    bool keep = true;
    float friction = 0, restitution = 0; // both as mixed; 0 or more, and 0 to 1
    Vec<Dim> surface_velocity{};         // of a's surface over b's, beside the bodies' motion, m/s
    // The most that it pushes along its normal, N, 0 or more, evenly on the points of the patch. What comes
    // on harder sinks in or goes through: a bounded contact has no restitution, and nothing is swept for it.
    float most_push = std::numeric_limits<float>::infinity();
};

// Whether two bodies may touch: asked once when they come near for the first time, and once more in a world
// that was restored. It answers by the ids (and user data that stay) alone.
using PairFilter = std::function<bool(BodyId, BodyId)>;
template<int Dim> using ContactHook = std::function<void(ContactAsked<Dim>&)>;

// A substep that begins, of bodies that are solved together: a tick is taken by groups of islands, one after
// the other and each in as many substeps as it needs (WorldSpec::substeps, or two, four and so on times as
// many). Bodies here are dynamic and awake. Good only while the hook runs. Errors of all: a body that is not
// in this group; numbers that are not finite.
template<int Dim> class Substep {
public:
    virtual double time() const noexcept = 0;    // s, of its start since the world was made
    virtual double seconds() const noexcept = 0; // its length
    // By their places, an order that is part of the same bits. Valid until the next call.
    virtual std::span<const BodyId> bodies() const = 0;
    virtual bool contains(BodyId id) const noexcept = 0;
    virtual SeenBody<Dim> body(BodyId id) const = 0;
    // A force (N) at the centre of mass and a torque (N m), through this substep, beside all others.
    virtual void push(BodyId id, const Vec<Dim>& force, const Axial<Dim>& torque = {}) = 0;
    // Velocities with which a body moves through this substep, in the place of what gravity, forces, fields
    // and damping would make of its own; then contacts and joints are solved. Locked axes stay locked.
    virtual void set_velocities(BodyId id, const Velocities<Dim>& velocities) = 0;

protected:
    ~Substep() = default;
};
template<int Dim> using SubstepHook = std::function<void(Substep<Dim>&)>;

// A body's own integration: from where it is and how it moves at the start of a substep its velocities
// through it, as with Substep::set_velocities. It answers by what it is given alone. Numbers that are not
// finite leave the body to its free motion.
template<int Dim> using OwnMotion = std::function<Velocities<Dim>(const SeenBody<Dim>&)>;

}
