// The work of a tick beyond its plain course, and who gets it.
// Stage budget. Reads the plain work and claims; says which are granted.
//
// A unit of work is one manifold solved in one pass. A plain tick costs what its bodies and contacts cost.
// All work that makes it more exact is bought from one allowance: `share` times the larger of kLeastAllowance
// and the plain work itself. Claims are granted in the order of their costs, so that the exactness of small
// islands, which is cheap, is the last to go. A claim above `share` times kLeastAllowance is never granted:
// such an island is a crowd, where exactness is not seen but a missed frame is. Units are counted and not
// timed, so that equal worlds spend equally. O(claims log claims); no allocation once warm. Tested by
// tests/islands/budget_test.cpp.
#pragma once

#include "astasis/report.h"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace astasis::islands {

// The extra work that any world may do in a tick: half a millisecond in the plane to three in
// space. From the sweep in docs/decisions/budget.md.
inline constexpr std::uint64_t kLeastAllowance = 48000;

// Prices in units, near to what bench/prices_bench measures: of finding a contact anew, of one iteration of a
// point in an impact, and of one time of impact of a pair. A quarter as many units as the plain work are free
// for contacts, and so many times of impact and one more for each moving body.
inline constexpr std::uint64_t kContactUpdatePrice = 8, kIterationPrice = 2, kSweepPrice = 100;
inline constexpr double kPlainUpdates = 0.25;
inline constexpr std::size_t kPlainSweeps = 500;

class Budget {
public:
    void begin(std::uint64_t plain, float share, std::size_t moving_bodies);
    void claim(std::uint32_t island, std::uint64_t cost) { claims_.push_back({cost, island}); }
    // Calls granted(island, level) for each claim that is. An island that cannot have the level that it
    // wants gets the highest that it can: price(island, level) falls with the level.
    template<typename Wanted, typename Price, typename Granted>
    void grant(const Wanted& wanted, const Price& price, const Granted& granted) {
        sort();
        for (const Claim& c : claims_) {
            int level = wanted(c.island);
            std::uint64_t cost = c.cost;
            while (level > 0 && cost > affordable()) cost = price(c.island, --level);
            if (cost > affordable()) {
                cost_.exactness.refused += c.cost;
                continue;
            }
            buy(cost_.exactness, cost);
            cost_.exactness.refused += c.cost > cost ? c.cost - cost : 0;
            granted(c.island, level);
        }
    }
    // Whether as many units are left; then they are spent.
    bool buy(WorkBought& kind, std::uint64_t units);
    bool buy_iterations(std::uint64_t count) { return buy(cost_.impacts, count * kIterationPrice); }
    bool buy_passes(std::uint64_t units) { return buy(cost_.exactness, units); }
    // The same for a contact that is to be found anew within the tick, and for a time of impact: first what
    // is free in any tick. Without free ones shapes would come into each other by corners that the tick's
    // start could not foresee.
    bool buy_update();
    bool buy_sweep();
    WorkOfTick& cost() { return cost_; }
    const WorkOfTick& cost() const { return cost_; }

private:
    struct Claim {
        std::uint64_t cost;
        std::uint32_t island;
    };
    void sort();
    std::uint64_t affordable() const { return std::min(left_, most_for_one_); } // by one island

    std::vector<Claim> claims_;
    std::uint64_t left_ = 0, most_for_one_ = 0;
    std::uint64_t updates_left_ = 0; // units of the plain tick
    std::size_t sweeps_left_ = 0;    // of the plain tick
    WorkOfTick cost_;
};

}
