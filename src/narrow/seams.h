// Contacts that cannot come about, taken out: with a shape that lies wholly behind a face on which the other
// already stands.
// Stage narrow. Reads colliders and poses; reads the manifolds and takes some out.
//
// A box that slides over the seam between two floors of separate bodies comes nearer to the side of the
// second one. But it is convex and stands on the plane of the first, the second floor lies behind that plane,
// and so the side cannot be met. What juts out over the plane by more than kFlush of the thinner shape's
// thickness is met as ever, and so is what moves against the face. Only contacts that close within the tick
// are looked at: O(manifolds), and for these also the other contacts of the same shape. Surfaces know their
// own seams (narrow/surface.cpp). Tested by tests/narrow/seams_test.cpp.
#pragma once

#include "astasis/function_ref.h"
#include "flow/contact_lists.h"

namespace astasis::narrow {

inline constexpr float kFlush = 2e-3f;

// Calls visit(manifold) for each manifold of a body, but the one that is asked about.
template<int Dim>
using OthersOf = FunctionRef<void(std::uint32_t body, FunctionRef<void(const flow::Manifold<Dim>&)> visit)>;

// Whether one manifold cannot come about. `collider_of` gives the collider of a body's shape.
template<int Dim>
bool is_seam(const flow::Manifold<Dim>& manifold, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
             const flow::Bodies<Dim>& bodies, const OthersOf<Dim>& others_of,
             FunctionRef<const flow::Collider<Dim>&(std::uint32_t body, std::uint32_t shape)> collider_of);

template<int Dim> class Seams {
public:
    // `pair_of` gives each manifold its pair.
    void drop(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
              std::span<const std::uint32_t> pair_of, const flow::Bodies<Dim>& bodies,
              std::vector<flow::Manifold<Dim>>& manifolds);

private:
    flow::ContactLists lists_;
    std::vector<std::uint8_t> dropped_;
};

extern template class Seams<2>;
extern template class Seams<3>;

}
