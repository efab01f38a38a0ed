// Rows: one number each that two bodies' velocities shall have, held by one impulse within bounds. All that a
// joint asks is made of them.
//
// With the velocities v, w of both bodies, a row's speed is along (v_b - v_a) + turn_b w_b - turn_a w_a, and
// an impulse j changes v by j along / m and w by j I^-1 turn, of body A with the sign turned. A pass takes
// each row to
//   speed = wanted (+ feedback, in the pass with feedback)
// softly, as contacts are: the share `leak` of the accumulated impulse is given back in the pass with
// feedback; then it is brought within [least, most]. Those of a pair of bodies are a block and are solved one
// after the other, blocks of one colour side by side. All sets give the same bits. Tested by
// tests/solve/rows_test.cpp.
#pragma once

#include "simd/instruction_set.h"
#include "solve/contact_kernels.h"

namespace astasis::solve {

// The layout of a block: as Layout, of a group with N lanes field f of lane l at [f * N + l].
template<int Dim> struct RowLayout {
    static constexpr int kAxial = Layout<Dim>::kAxial;
    static constexpr int kRows = Dim == 2 ? 3 : 6; // at most: what two bodies can do to each other
    // Ints: rows of the bodies; in the first lane the most rows of a block of the group.
    static constexpr int kBodyA = 0, kBodyB = 1, kMostRows = 2;
    static constexpr int kMassA = 3,
                         kMassB = kMassA + Dim; // inverse, along the world's axes: some may be locked
    static constexpr int kRow = kMassB + Dim;
    // Of each row, from row(i) on.
    static constexpr int kAlong = 0, kTurnA = Dim, kTurnB = kTurnA + kAxial;
    static constexpr int kWanted = kTurnB + kAxial, kFeedback = kWanted + 1, kLeak = kFeedback + 1;
    static constexpr int kLeast = kLeak + 1, kMost = kLeast + 1, kImpulse = kMost + 1, kMass = kImpulse + 1;
    static constexpr int kRowFields = kMass + 1;
    static constexpr int row(int i) { return kRow + i * kRowFields; }
    static constexpr int kFields = kRow + kRows * kRowFields;
};

template<int Dim> struct RowKernels {
    int lanes;
    // Effective masses of the rows at the present poses, and the impulses of the substep before.
    void (*begin)(float* groups, int count, const BodyRows& rows);
    // A pass.
    void (*solve)(float* groups, int count, const BodyRows& rows, bool with_feedback);
};

// `set` must be available.
template<int Dim> const RowKernels<Dim>& row_kernels(simd::InstructionSet set);
template<> const RowKernels<2>& row_kernels(simd::InstructionSet set);
template<> const RowKernels<3>& row_kernels(simd::InstructionSet set);

}
