// Manifolds of all pairs, with the impulses of the tick before carried over by feature.
// Stage narrow. Reads pairs, colliders and poses; reads the old manifolds and writes the new ones.
// (1) Manifolds come in the order of the pairs, sorted by keys; a pair with a surface may have several. (2) A
// manifold has at least one point. (3) Those that cannot come about are left out (narrow/seams.h). O(pairs +
// old manifolds); no allocation once warm. Tested by tests/narrow/manifolds_test.cpp.
#pragma once

#include "flow/materials.h"
#include "narrow/seams.h"
#include "narrow/touch.h"

#include <span>

namespace astasis::narrow {

// Two colliders, the one with the smaller key first, with their bodies at poses of any time, and how far
// apart they may be and still have a manifold.
template<int Dim> struct PairAt {
    const flow::Collider<Dim>&a, &b;
    flow::CentrePose<Dim> pose_a, pose_b;
    float margin;
};

// Looks at a manifold before it is solved, and may change what its materials make of it; returns whether it
// is kept.
template<int Dim> using LookAt = FunctionRef<bool(flow::Manifold<Dim>&, const PairAt<Dim>&)>;

template<int Dim> class ManifoldFinder {
public:
    // Called with each manifold that is found or kept from now on; what it refers to must outlive that.
    void set_look_at(LookAt<Dim> look_at) { look_at_ = look_at; }
    void find(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
              const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
              std::span<const flow::Manifold<Dim>> before, std::vector<flow::Manifold<Dim>>& after);

    // Those of one pair, behind what `after` holds. Impulses that points gave in the present tick are carried
    // over too if the tick goes on.
    void find_pair(const PairAt<Dim>& at, const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
                   std::span<const flow::Manifold<Dim>> before, bool within_tick,
                   std::vector<flow::Manifold<Dim>>& after);

private:
    void keep(const flow::Manifold<Dim>& m, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
              const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
              std::vector<flow::Manifold<Dim>>& after);

    LookAt<Dim> look_at_;
    Toucher<Dim> toucher_;
    Seams<Dim> seams_;
    std::vector<std::uint32_t> pair_of_; // of each manifold
    std::vector<std::uint8_t> used_;     // points of old manifolds that were carried over
};

extern template class ManifoldFinder<2>;
extern template class ManifoldFinder<3>;

}
