// The layout of contacts and bodies in memory while a tick is solved.
//
// Contacts are stored in groups of manifolds that write to different bodies, so that they can be solved side
// by side: of a group with N lanes, field f of lane l stands at [f * N + l]. What every pass reads stands
// together (hot); what only the geometry of a substep and the ends of a tick need, apart from it (cold):
// passes over large heaps are bound by what they load. Bodies have rows of floats, one row a body. All are
// aligned to kAlignment bytes (solve/aligned.h).
#pragma once

#include "flow/contacts.h"

namespace astasis::solve {

template<int Dim> struct Layout {
    static constexpr int kPoints = flow::kMostPoints<Dim>;
    static constexpr int kAxial = Dim == 2 ? 1 : 3;
    static constexpr int kInertia = Dim == 2 ? 1 : 6;

    // Hot, of a manifold. Ints (bit patterns in floats): rows of the bodies; and, in the first lane, of the
    // whole group the most points and whether some lane has what is rare.
    static constexpr int kBodyA = 0, kBodyB = 1, kOfGroup = 2;
    static constexpr int kMostPointsOfGroup = 0xff, kRareInGroup = 0x100, kLocksInGroup = 0x200,
                         kSlipsInGroup = 0x400, kBouncesInGroup = 0x800, kExactInGroup = 0x1000,
                         kUnconvergedInGroup = 0x2000;
    static constexpr int kNormal = 3;                                 // of the present substep, as all below
    static constexpr int kMassA = kNormal + Dim, kMassB = kMassA + 1; // inverse; 0 of bodies with locks
    static constexpr int kInertiaA = kMassB + 1, kInertiaB = kInertiaA + kInertia; // inverse, in contact axes
    static constexpr int kFriction = kInertiaB + kInertia, kMostPush = kFriction + 1;
    static constexpr int kKnownLoad = kMostPush + 1; // impulse at each point: see Tuning::known_share
    static constexpr int kSoftness = kKnownLoad + 1; // see Tuning::softness
    static constexpr int kExact = kSoftness + 1, kUnconverged = kExact + 1; // 1 of those, else 0
    // In space, of friction: its levers across the normal are kShare times the points', plus kMiddle.
    static constexpr int kShare = kUnconverged + 1, kMiddleA = kShare + 1, kMiddleB = kMiddleA + 2;
    static constexpr int kPoint = Dim == 2 ? kShare : kMiddleB + 2;
    // Of each point, from point(i) on. Levers are in contact axes.
    static constexpr int kArmA = 0, kArmB = Dim;
    static constexpr int kGap = 2 * Dim;
    static constexpr int kPush = kGap + 1; // impulse along the normal
    static constexpr int kPushMass = kPush + 1, kDragMass = kPushMass + 1;
    static constexpr int kAlong = kDragMass + 1; // friction impulse along the tangents
    static constexpr int kPointFields = kAlong + (Dim - 1);
    static constexpr int point(int i) { return kPoint + i * kPointFields; }
    static constexpr int kHotFields = kPoint + kPoints * kPointFields;

    // Cold, of a manifold. The flow::Guide is an int.
    static constexpr int kGuide = 0;
    static constexpr int kNormalAtStart = 1;              // of the tick
    static constexpr int kBetween = kNormalAtStart + Dim; // from centre A to centre B, at the start
    static constexpr int kSkinA = kBetween + Dim, kSkinB = kSkinA + 1;
    static constexpr int kRimA = kSkinB + 1, kRimB = kRimA + 1; // radii; axes at the start
    static constexpr int kRimAxisA = kRimB + 1, kRimAxisB = kRimAxisA + Dim;
    // Rare: read in passes only where some lane has it.
    static constexpr int kRolling = kRimAxisB + Dim, kSpinning = kRolling + 1;
    static constexpr int kSlip = kSpinning + 1; // of surfaces beside their bodies' motion,
    static constexpr int kSlipNow =
        kSlip + Dim; // and with what the turning of what nothing can push adds in the substep
    static constexpr int kTurns = kSlipNow + Dim; // an int: which body does, if one does so
    static constexpr int kTurnsA = 1, kTurnsB = 2;
    static constexpr int kTurning = kTurns + 1;            // impulse
    static constexpr int kMostImpulse = kTurning + kAxial; // of a point in a substep, along the normal
    // Of bodies with locks, inverse masses along the world's axes.
    static constexpr int kLockedMassA = kMostImpulse + 1, kLockedMassB = kLockedMassA + Dim;
    static constexpr int kSpread = kLockedMassB + Dim;
    // 1 where normal, levers and masses were found while both bodies stood as they began the tick, else 0.
    static constexpr int kStands = kSpread + 1;
    static constexpr int kColdPoint = kStands + 1;
    // Of each point, from cold_point(i) on.
    static constexpr int kCoreA = 0, kCoreB = Dim; // from each centre, at the start
    static constexpr int kGapAtStart = 2 * Dim;
    static constexpr int kSum =
        kGapAtStart + 1; // of the impulses of substeps before the present, in world axes
    // The speed at which the point leaves after this substep; 0 of points that do not bounce in it.
    static constexpr int kBounce = kSum + Dim;
    static constexpr int kColdPointFields = kBounce + 1;
    static constexpr int cold_point(int i) { return kColdPoint + i * kColdPointFields; }
    static constexpr int kColdFields = kColdPoint + kPoints * kColdPointFields;

    // Floats of a body's row of velocity (linear, then angular, each padded to four), of how it has moved
    // since the start of the tick (place; in the plane sine and cosine less one, in space a quaternion, its
    // scalar part last), and of its inverse inertia.
    static constexpr int kRow = Dim == 2 ? 4 : 8;
    // The gap of a point that is none: it never closes.
    static constexpr float kNoPoint = 1e30f;
};

}
