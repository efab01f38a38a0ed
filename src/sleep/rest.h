// Measures how long bodies have been at rest, and decides which islands may sleep.
// Stage sleep. Reads moving bodies, manifolds, joints and islands; writes Bodies::still.
//
// A body lies still while no point of it has come farther than a small share of its size from where it was
// when it began to; speeds say less, since what trembles in a pile has some and a thrown ball at its highest
// point has none. What comes farther, and ever faster, with every tick of half that time has only begun to
// move, and does not rest; what rolls on as slowly as before does. O(moving bodies + manifolds); no
// allocation once warm. Tested by tests/world/sleep_test.cpp.
#pragma once

#include "flow/contacts.h"
#include "flow/joints.h"

#include <span>
#include <vector>

namespace astasis::sleep {

// Seconds for which all of an island lies still before it sleeps, and how far a point may come in that time,
// as a share of the body's smallest width: of what bears on something, and of what floats, where nothing
// would ever stop it. And as a share of how far gravity takes a falling body in that time: less is no
// creeping on a slope. What leaves tick by tick counts from the pace on that would come so large a share of
// that way: less is rounding, or dies away; and hastens if it comes farther by so much than in the mean
// before. From the sweep in docs/decisions/sleep-defaults.md.
inline constexpr double kStillSeconds = 0.5;
inline constexpr float kStillShare = 1e-2f, kFloatingShare = 1e-4f, kFallShare = 3e-3f, kLeavingShare = 0.1f,
                       kHastens = 1.05f;

template<int Dim> class Rest {
public:
    // After a tick.
    void watch(flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
               std::span<const flow::Joint<Dim>> joints, std::span<const std::uint32_t> active_joints,
               double tick, float gravity);
    // The islands that may sleep, by a flag at the place of their root, which island_of gives for each moving
    // body. Returns whether there are any.
    bool find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              std::span<const flow::Joint<Dim>> joints, std::span<const std::uint32_t> active_joints,
              std::span<const std::uint32_t> island_of, double tick);
    bool may_sleep(std::uint32_t root) const { return rests_[root] != 0; }

private:
    std::vector<std::uint8_t> rests_, bears_;
};

extern template class Rest<2>;
extern template class Rest<3>;

}
