// Which bodies are to be solved in parts of a tick: something comes on so fast in their islands that contacts
// have to be found anew within it (narrow/manifolds.h).
//
// Those are the islands of what comes on, and the islands that these may reach before the tick ends. What is
// hit by something heavier leaves with up to twice its speed, so what is in a hurried island reaches twice as
// far as its farthest body goes, but no farther than two of its own widths. All others are solved in one go,
// and come out as if the hurried were not there. O(moving bodies + manifolds + pairs), and as many questions
// who is near as there are hurried colliders or others, whichever are fewer; no allocation once warm. Tested
// by tests/solve/hurry_test.cpp.
#pragma once

#include "astasis/function_ref.h"
#include "flow/contacts.h"

#include <algorithm>
#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> class Hurry {
public:
    // Calls visit(other) for each collider whose reached bounds may be within a distance of a collider's, and
    // for others if that is easier.
    using Around =
        FunctionRef<void(std::uint32_t collider, float distance, FunctionRef<void(std::uint32_t)> visit)>;
    // `moving`: the colliders of the moving bodies; `coming`: those that come on fast; `pairs`: those that
    // may meet within the tick. Travels are of its whole rest.
    void find(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
              std::span<const std::uint32_t> moving, std::span<const flow::Pair> pairs,
              std::span<const flow::Manifold<Dim>> manifolds, std::span<const flow::Pair> coming,
              Around around);
    // By place: whether a moving body is to be solved in parts.
    std::span<const std::uint8_t> marks() const { return marks_; }

private:
    // A hurried collider's body is sent as far as this times the way of the farthest in its island,
    static constexpr float kMostGained = 2;
    static constexpr float kMostWidths = 2; // and no farther than that, or a heap would reach all about it

    std::uint32_t root(std::uint32_t i);
    void join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds);
    void measure(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                 std::span<const flow::Pair> pairs);
    float reach(const flow::Collider<Dim>& c) { // of one that is hurried
        return std::min(kMostGained * reach_[root(c.body)], kMostWidths * c.thickness);
    }
    void spread(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                Around around);

    // Of an island, by its root: not hurried, found to be, asking whom it may reach, done with that.
    enum Mark : std::uint8_t { kCalm, kFound, kAsking, kHurried };
    std::vector<std::uint32_t> parent_; // of islands, by place
    std::vector<float> reach_;          // of an island: how far its farthest body goes, m
    std::vector<std::uint8_t> marks_;
    std::vector<std::uint32_t> asking_, others_; // colliders; others: that are not hurried so far
};

extern template class Hurry<2>;
extern template class Hurry<3>;

}
