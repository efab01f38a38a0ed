// Pairs of colliders whose bounds overlap, from one tick to the next.
// Stage broad. Reads colliders and the index of their boxes; writes flow::Pair.
// (1) key(a) < key(b) in each pair. (2) Pairs are sorted by keys and unique. (3) No pair within one body,
// none without a dynamic body, none that layers or groups keep apart. (4) The pairs depend on the colliders'
// present bounds alone: those whose fat boxes overlap are kept from tick to tick, but given away only while
// the bounds do. So a world that was restored, with other boxes, has the same pairs. Only what is fresh in
// the index is searched for: O(f log n + pairs) for f fresh colliders, and no work for what stands still. No
// allocation once warm. Tested against all pairs by tests/broad/pair_finder_test.cpp.
#pragma once

#include "broad/box_index.h"

#include <span>

namespace astasis::broad {

template<int Dim> class PairFinder {
public:
    // Overwrites `pairs`. `moving` are the colliders of bodies that may have moved; bodies from the place
    // `awake` on sleep or are static, and make no pairs among themselves.
    void find(std::span<const flow::Collider<Dim>> colliders, std::span<const Motion> motions,
              std::span<const std::uint32_t> moving, BoxIndex<Dim>& index, std::vector<flow::Pair>& pairs,
              std::size_t awake = ~std::size_t{0});
    std::size_t visits() const { return visits_; } // of tree nodes, since the last find() began

private:
    struct Kept {
        std::uint64_t key_a, key_b;
        flow::Pair pair;
    };

    // `left`: whether a collider that may be met is left to its own search.
    template<typename Left>
    void search(std::uint32_t i, const Box<Dim>& box, std::span<const flow::Collider<Dim>> colliders,
                std::span<const Motion> motions, const BoxIndex<Dim>& index, std::size_t awake,
                const Left& left);

    std::vector<Kept> kept_, found_, merged_;
    std::size_t visits_ = 0;
};

extern template class PairFinder<2>;
extern template class PairFinder<3>;

}
