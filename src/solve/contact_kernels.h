// The kernels of contact solving for each instruction set.
//
// A substep asks of each point, with relative normal velocity v and gap s:
//   s > 0: v >= -s/h, so that the gap closes but is not crossed;
//   s < 0: v >= push, where push = min(correction |s|/h, limit) in the pass with position correction and 0 in
//   the passes without.
// The correcting pass is soft: the share `softness` of the accumulated impulse is given back, as an
// implicitly integrated spring and damper would (Baumgarte 1972; Anitescu and Potra 2002, eqs. of the
// time-stepping scheme with compliance). Of a load that masses alone tell (islands/islands.h) next to nothing
// is given back, so that what stands does not sink. A point that bounces has v >= its bounce speed instead.
// Friction stays in Coulomb's disc of the present normal impulse. Its step is one number for both tangents:
// the fixed point of a projected step is friction against the slip only if the step is along the slip. The
// points of a manifold are solved several iterations together before the next manifold, so that what rests on
// several points feels them as one face. All sets give the same bits. Tested by
// tests/solve/contact_kernels_test.cpp.
#pragma once

#include "simd/instruction_set.h"
#include "solve/contact_layout.h"
#include "solve/motion_kernels.h"

namespace astasis::solve {

// Settings of the contact solver. The shares are per substep and have no unit, so that they hold at any
// scale.
struct Tuning {
    // The position correction factor: share of the overlap that a substep takes back. Too low: piles sink;
    // too high: they jitter.
    float correction;
    // Share of the impulse that is given back. Too low: tall stacks rattle; too high: heavy things sink into
    // light ones.
    float softness;
    // Share of a known load of which nothing is given back. Too low: stacks sink; too high: they rattle, as
    // without softness.
    float known_share;
    // The most iterations over the points of one manifold in a pass. Too low: boxes rock
    // on their points and stacks wander; more costs time in proportion.
    int iterations;
    // The same where exactness is not asked for.
    int plain_iterations;
    // The points of a manifold have converged when an iteration changes their impulses by less than this
    // share. Too low: iterations that change nothing; too high: as too few iterations.
    float converged;
    // The fastest push, in thicknesses of the thinner shape a second. Too low: what was spawned overlapping
    // stays so for long; too high: it bursts apart.
    float most_thicknesses_a_second;
};

// From the sweep in docs/decisions/contact-defaults.md.
inline constexpr Tuning kTuning{.correction = 0.15f,
                                .softness = 0.12f,
                                .known_share = 0.9f,
                                .iterations = 8,
                                .plain_iterations = 2,
                                .converged = 2e-4f,
                                .most_thicknesses_a_second = 4.0f};

// A contact that carried a load in the substep before rests, and does not bounce anew, unless it now closes
// so fast that the load is less than this share of the impulse which that takes. Two balls that graze each
// other at the end of a substep carry next to nothing before they meet.
inline constexpr float kDwarfed = 0.1f;

// Of a substep the first pass corrects positions, the second does not; further ones are for contacts that
// have yet to find their load.
enum class Pass { Correcting, Plain, Further };

// Whether geometry is found anew for another substep, so that what the last one gave is added to the sums.
enum class When { NextSubstep, SameSubstep };

// Rows of bodies; those of inverse inertia in space only.
struct BodyRows {
    float* velocity;
    const float* gained; // of the velocity, by free motion in this substep
    const float* moved;
    const float* inertia;
    MostGained most_gained = {}; // of all bodies
};

// A point that may meet within the substep: see Closing in solve/impacts.h.
struct Approach {
    std::uint32_t group, lane, point;
    float gap, speed, gained;
};

// The first fields of the groups: see Layout.
struct GroupFloats {
    float *hot, *cold;
};

template<int Dim> struct ContactKernels {
    int lanes;
    // Geometry and masses where the bodies are now. Points that may meet within the substep go to
    // `approaches`, which has room for all; returns their number.
    int (*refresh)(const GroupFloats& groups, int count, const BodyRows& rows, float seconds, When when,
                   Approach* approaches);
    // Gives the bodies the impulses of the substep before.
    void (*warm_start)(const GroupFloats& groups, int count, const BodyRows& rows);
    void (*solve)(const GroupFloats& groups, int count, const BodyRows& rows, const Tuning& tuning,
                  float seconds, Pass pass);
};

// `set` must be available.
template<int Dim> const ContactKernels<Dim>& contact_kernels(simd::InstructionSet set);
template<> const ContactKernels<2>& contact_kernels(simd::InstructionSet set);
template<> const ContactKernels<3>& contact_kernels(simd::InstructionSet set);

}
