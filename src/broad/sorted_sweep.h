// Sorted sweep along one axis: pairs of colliders whose bounds overlap.
// Stage broad. Reads flow::Collider, writes flow::Pair.
// (1) key(a) < key(b) in each pair. (2) Pairs are sorted by keys and unique. (3) No pair within one body,
// none without a dynamic body. The result depends on the set of colliders alone, not on their order or on the
// axis. O(n log n + overlaps along the axis) time; no allocation once warm. Tested against all pairs by
// tests/broad/sorted_sweep_test.cpp.
#pragma once

#include "flow/contacts.h"

#include <span>

namespace astasis::broad {

template<int Dim> class SortedSweep {
public:
    // Overwrites `pairs`.
    void find(std::span<const flow::Collider<Dim>> colliders, std::span<const Motion> motions,
              std::vector<flow::Pair>& pairs);

private:
    std::vector<std::uint32_t> order_, open_;
};

extern template class SortedSweep<2>;
extern template class SortedSweep<3>;

}
