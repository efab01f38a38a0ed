// Where two rods that cross touch, or a rod and an edge: points along the first.
#pragma once

#include "narrow/touch.h"

namespace astasis::narrow {

// Two rods seen across their common normal; an edge is a rod without a radius.
struct Crossing {
    Rod a, b;
    Vec3 da, db;                    // from end to end
    float length_a, length_b, both; // radii
    float slant;                    // sine
    // What they share of the first, seen across it: its ends miss those of the second by a square of the
    // slant.
    float low, high;

    // Both have a length.
    Crossing(const Rod& first, const Rod& second);
    // The point of the first at s, as it touches the second along the normal: round against round touch later
    // by R - sqrt(R^2 - side^2), R being both radii. None if it is beside the second by more than a share of
    // R.
    bool add(float s, float most_beside, std::uint32_t feature, Touch<3>& out) const;
};

// Features of a stretch's ends begin here.
inline constexpr std::uint32_t kStretchFeature = 4096;

// Rods that nearly lie side by side roll over one another: where they are nearest moves by metres for a turn
// of a thousandth. Found anew from tick to tick, it would leap to and fro about the place that bears. So it
// stands for the two ends of the stretch in which it lies, of so many stretches, by a power of two, that what
// bulges between the ends is next to nothing. `apart` is the distance of the axes. Returns false, and adds
// nothing, where the nearest place stays by itself.
bool add_stretch(const Crossing& crossing, float nearest_s, float apart, Touch<3>& out);

}
