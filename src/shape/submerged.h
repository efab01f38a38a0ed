// The part of a shape that is below a level.
//
// Bounded shapes are taken as their outlines, whose sides are cut at the level and summed up from a point on
// it: the cut itself adds nothing. Exact for polygons, boxes and hulls, and for balls in closed form; other
// round shapes are scaled so that the whole is exact. O(corners). Tested by tests/shape/submerged_test.cpp.
#pragma once

#include "math/wide.h"
#include "shape/outline.h"

namespace astasis::shape {

template<int Dim> struct Submerged {
    double content = 0; // m3, m2 in the plane
    math::Wide<Dim> centre{};
};

// A shape that stands still in its body's frame, measured again and again.
template<int Dim> class Hulk {
public:
    struct Room { // to work in, used again from shape to shape
        std::vector<math::Wide<Dim>> side, part;
    };
    explicit Hulk(const ShapeSpec<Dim>& spec);
    // Of the body's frame at a pose; `level` along y from there.
    Submerged<Dim> below(const math::Turn<Dim>& turn, const math::Wide<Dim>& place, double level,
                         Room& room) const;

private:
    Submerged<Dim> cut(const math::Turn<Dim>& turn, const math::Wide<Dim>& place, double level,
                       Room& room) const;
    std::vector<math::Wide<Dim>> corners_; // in the body's frame
    std::vector<std::uint32_t> ends_;      // of each side's corners
    double radius_ = 0;                    // of a ball, whose centre is the one corner
    double scale_ = 1;
};

extern template class Hulk<2>;
extern template class Hulk<3>;

}
