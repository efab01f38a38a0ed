// Convex hulls in space, built once from points.
#pragma once

#include "astasis/vec.h"

#include <cstdint>
#include <memory>
#include <span>

namespace astasis {

namespace shape {
struct Facets;
struct HullOf;
}

// The smallest convex solid around a set of points, grown by a radius on all sides if wished. Immutable;
// copies share their corners. Made anew, never edited.
class Hull {
public:
    // Points may repeat, lie inside, on one face or on one edge: what is needless is left out, also what
    // stands out by less than a millionth of the whole. Throws Error if a coordinate is not finite, if there
    // are less than 4 points, or if they lie in one plane (within a hundred thousandth of the whole), and so
    // enclose no volume. O(points times faces).
    static Hull around(std::span<const Vec3> points);

    // The same hull with a rounding (m, 0 or more): all points within that distance of it.
    Hull grown(float rounding) const;

    float rounding() const { return rounding_; }
    std::span<const Vec3> corners() const; // of the hull before it is grown, in the shape's frame
    int face_count() const;
    std::span<const std::uint16_t> face(int i) const; // its corners, counter-clockwise as seen from outside
    Vec3 normal(int i) const;                         // of a face, unit, outwards

    const shape::Facets& facets() const { return *facets_; }

private:
    friend struct shape::HullOf; // makes one of facets that were checked before
    explicit Hull(std::shared_ptr<const shape::Facets> facets) : facets_(std::move(facets)) {}
    std::shared_ptr<const shape::Facets> facets_;
    float rounding_ = 0;
};

}
