// Which bodies are to be solved in parts of a tick: something comes on so fast in their islands that contacts
// have to be found anew within it (narrow/manifolds.h).
//
// Those are the islands of what comes on, and the islands that these may reach before the tick ends. What is
// hit by something heavier leaves with up to twice its speed, so a hurried island reaches twice as far as its
// farthest body goes. All others are solved in one go, and come out as if the hurried were not there.
// O(moving bodies + manifolds + pairs * islands that one leads to in a row); no allocation once warm. Tested
// by tests/solve/hurry_test.cpp.
#pragma once

#include "flow/contacts.h"

#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> class Hurry {
public:
    // `coming`: the colliders that come on fast; `pairs`: those that may meet within the tick. Travels are of
    // its whole rest.
    void find(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
              std::span<const flow::Pair> pairs, std::span<const flow::Manifold<Dim>> manifolds,
              std::span<const flow::Pair> coming);
    // By place: whether a moving body is to be solved in parts.
    std::span<const std::uint8_t> marks() const { return marks_; }
    std::size_t count() const { return count_; } // of those
    // How far one of them may go, m.
    float reach(std::uint32_t i) const { return kMostGained * reach_[i]; }

private:
    static constexpr float kMostGained = 2; // in speed, of what something heavier hits

    std::uint32_t root(std::uint32_t i);
    void spread(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                std::span<const flow::Pair> pairs);

    std::vector<std::uint32_t> parent_; // of islands, by place
    std::vector<float> reach_;          // of a body's island: how far its farthest body goes, m
    std::vector<std::uint8_t> marks_;
    std::size_t count_ = 0;
};

extern template class Hurry<2>;
extern template class Hurry<3>;

}
