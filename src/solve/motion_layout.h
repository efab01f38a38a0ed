// The layout of free motion in memory while a tick is solved.
//
// Bodies are stored in groups of N, in the order of their rows (solve/contact_layout.h): of a group with N
// lanes, field f of lane l stands at [f * N + l]. All are doubles, so that what thousands of substeps round
// does not add up. Row 0 never moves.
#pragma once

namespace astasis::solve {

template<int Dim> struct MotionLayout {
    static constexpr int kAxial = Dim == 2 ? 1 : 3;
    static constexpr int kSpeeds = Dim + kAxial; // linear, then angular

    static constexpr int kPlace = 0;  // since the start of the tick
    static constexpr int kTurn = Dim; // since then: cosine and sine; a quaternion, its scalar part first
    static constexpr int kTurnSize = Dim == 2 ? 2 : 4;
    // Of each velocity: what its rounding to float left out; what a substep of free motion makes of it,
    // v + v * kLost + kAdded; what it was after free motion.
    static constexpr int kRemainder = kTurn + kTurnSize;
    static constexpr int kLost = kRemainder + kSpeeds;
    static constexpr int kAdded = kLost + kSpeeds;
    static constexpr int kFree = kAdded + kSpeeds;
    // In space only: the rotation of the principal axes at the start of the tick, the inertia about these and
    // its inverse, and 1 for a body whose spin follows from its angular momentum, 0 for one that spins on as
    // it does.
    static constexpr int kStart = kFree + kSpeeds;
    static constexpr int kInertia = kStart + 4;
    static constexpr int kInverseInertia = kInertia + 3;
    static constexpr int kFollows = kInverseInertia + 3;
    static constexpr int kFields = Dim == 2 ? kStart : kFollows + 1;
};

}
