// Where the numbers of contacts and bodies stand while a tick is solved.
//
// Contacts are stored in groups of manifolds that write to different bodies, so that they can be solved side
// by side: of a group with N lanes, field f of lane l stands at [f * N + l]. Bodies have rows of floats, one
// row a body. All are aligned to kAlignment bytes (solve/aligned.h).
#pragma once

#include "flow/contacts.h"

namespace astasis::solve {

template<int Dim> struct Layout {
    static constexpr int kPoints = flow::kMostPoints<Dim>;
    static constexpr int kAxial = Dim == 2 ? 1 : 3;
    static constexpr int kInertia = Dim == 2 ? 1 : 6;

    // Of a manifold. Ints (bit patterns in floats): rows of the bodies, the flow::Guide, the number of
    // points.
    static constexpr int kBodyA = 0, kBodyB = 1, kGuide = 2, kCount = 3;
    static constexpr int kNormalAtStart = 4;              // of the tick
    static constexpr int kBetween = kNormalAtStart + Dim; // from centre A to centre B, at the start
    static constexpr int kSkinA = kBetween + Dim, kSkinB = kSkinA + 1;
    static constexpr int kMassA = kSkinB + 1, kMassB = kMassA + Dim; // inverse, along each axis
    static constexpr int kFriction = kMassB + Dim;
    static constexpr int kRolling = kFriction + 1, kSpinning = kRolling + 1;
    static constexpr int kSlip = kSpinning + 1;
    static constexpr int kMostPush = kSlip + Dim;
    static constexpr int kTurning = kMostPush + 1;                     // impulse
    static constexpr int kRimA = kTurning + kAxial, kRimB = kRimA + 1; // radii; axes at the start
    static constexpr int kRimAxisA = kRimB + 1, kRimAxisB = kRimAxisA + Dim;
    // Of the present substep.
    static constexpr int kNormal = kRimAxisB + Dim;
    static constexpr int kInertiaA = kNormal + Dim, kInertiaB = kInertiaA + kInertia; // inverse
    static constexpr int kPoint = kInertiaB + kInertia;

    // Of each point, from kPoint + i * kPointFields on.
    static constexpr int kCoreA = 0, kCoreB = Dim; // from each centre, at the start
    static constexpr int kGapAtStart = 2 * Dim;
    static constexpr int kPush = kGapAtStart + 1;                 // impulse along the normal
    static constexpr int kDrag = kPush + 1;                       // friction impulse, in world axes
    static constexpr int kSum = kDrag + Dim;                      // of impulses over the tick
    static constexpr int kArmA = kSum + Dim, kArmB = kArmA + Dim; // of the present substep
    static constexpr int kGap = kArmB + Dim;
    static constexpr int kPushMass = kGap + 1, kDragMass = kPushMass + 1;
    static constexpr int kAlong = kDragMass + 1; // friction impulse along the tangents
    static constexpr int kPointFields = kAlong + (Dim - 1);

    static constexpr int kFields = kPoint + kPoints * kPointFields;
    static constexpr int point(int i) { return kPoint + i * kPointFields; }

    // Floats of a body's row of velocity (linear, then angular, each padded to four), of how it has moved
    // since the start of the tick (place; in the plane sine and cosine less one, in space a quaternion, its
    // scalar part last), and of its inverse inertia.
    static constexpr int kRow = Dim == 2 ? 4 : 8;
    // The gap of a point that is none: it never closes.
    static constexpr float kNoPoint = 1e30f;
};

}
