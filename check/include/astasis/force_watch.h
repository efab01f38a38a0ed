// Finds forces of the game's own that follow from where a body is, as springs do, and are too stiff for the
// tick.
//
// World::apply_force takes a force through a whole tick, as it was at its start. One of stiffness k then
// pulls too long each time and feeds the body energy: the amplitude of a mass m grows by a factor of about
// exp(k / (4 m) tick) a second (from the eigenvalues of x' = x + v h - w2 h2 / 2 x, v' = v - w2 h x, w2 = k /
// m, whose product is 1 + w2 h2 / 2). Joints (Spring) and fields have no such end.
#pragma once

#include "astasis/check.h"

#include <array>
#include <unordered_map>

namespace astasis {

template<int Dim> class ForceWatch {
public:
    // Before a tick, when all forces are applied: World::applied_force of each body is looked at. O(bodies).
    void before_tick(const World<Dim>& world);
    // The findings so far, a sentence a body; rule "stiff". Bodies are named as by check().
    std::vector<checks::Finding> findings(const World<Dim>& world,
                                          const std::function<std::string(BodyId)>& name = {}) const;

private:
    struct Seen { // sums of the differences from tick to tick
        Point<Dim> at{};
        Vec<Dim> force{};
        std::size_t ticks = 0;
        double ways = 0, pulls = 0, forces = 0; // of way2, -force way, force2
    };
    std::unordered_map<BodyId, Seen> seen_;
};

extern template class ForceWatch<2>;
extern template class ForceWatch<3>;

}
