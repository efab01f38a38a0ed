// Manifolds of all pairs, with the impulses of the tick before carried over by feature.
// Stage narrow. Reads pairs, colliders and poses; reads the old manifolds and writes the new ones.
// (1) Manifolds come in the order of the pairs, sorted by keys; a pair with a surface may have several. (2) A
// manifold has at least one point. (3) Those that cannot come about are left out (narrow/seams.h). O(pairs +
// old manifolds); no allocation once warm. (4) Within a tick they may be found anew for its rest, where
// bodies come on fast: the others, and what they have given in this tick, stay. Tested by
// tests/narrow/manifolds_test.cpp.
#pragma once

#include "flow/materials.h"
#include "narrow/seams.h"
#include "narrow/touch.h"

#include <span>

namespace astasis::narrow {

template<int Dim> class ManifoldFinder {
public:
    enum class When : std::uint8_t { TickBegins, WithinTick };
    void find(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
              const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
              std::span<const flow::Manifold<Dim>> before, std::vector<flow::Manifold<Dim>>& after,
              When when = When::TickBegins);
    // Where some of those found last come on so fast that others may be met before the tick ends: how many of
    // the substeps that are left to solve before they are found anew, if none is to come on by more than
    // `way`, a share of the thinner shape's thickness, in between. Elsewhere all.
    int substeps_before_next(int left, float way) const;
    // The colliders of those.
    std::span<const flow::Pair> coming() const { return coming_; }
    // Both, of some of those found last.
    void see(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
             std::span<const flow::Manifold<Dim>> manifolds);

private:
    void find(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, const flow::Bodies<Dim>& bodies,
              const flow::Materials& materials, std::span<const flow::Manifold<Dim>> before,
              std::vector<flow::Manifold<Dim>>& after, When when);
    void begin_seeing();
    void see(const flow::Pair& pair, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
             std::span<const flow::Manifold<Dim>> manifolds);
    void foresee(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, const flow::Bodies<Dim>& bodies,
                 const flow::Materials& materials, const Point<Dim>& origin, flow::Manifold<Dim>& manifold);

    Toucher<Dim> toucher_;
    Seams<Dim> seams_;
    std::vector<std::uint32_t> pair_of_; // of each manifold
    std::vector<std::uint8_t> used_;     // points of old manifolds that were carried over
    std::vector<flow::Pair> coming_;     // pairs that come on faster than kComesOn
    float come_on_ = 0;                  // the fastest, a share of the thinner one's thickness
};

extern template class ManifoldFinder<2>;
extern template class ManifoldFinder<3>;

}
