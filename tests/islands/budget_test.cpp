// Who gets the extra work of a tick.
#include "islands/budget.h"

#include <gtest/gtest.h>

namespace astasis {
namespace {

using islands::Budget;
using islands::kLeastAllowance;

// Islands that want a level, at twice the price of the level below.
std::vector<std::uint32_t> granted(Budget& budget, int wanted = 0, std::uint64_t at_level_0 = 0,
                                   std::vector<int>* levels = nullptr) {
    std::vector<std::uint32_t> out;
    budget.grant([&](std::uint32_t) { return wanted; },
                 [&](std::uint32_t, int level) { return at_level_0 << level; },
                 [&](std::uint32_t island, int level) {
                     out.push_back(island);
                     if (levels != nullptr) levels->push_back(level);
                 });
    return out;
}

TEST(Budget, TheCheapestIslandsComeFirst) {
    Budget budget;
    budget.begin(0, 1, 0);
    budget.claim(1, kLeastAllowance / 2), budget.claim(2, 10), budget.claim(3, kLeastAllowance);
    budget.claim(4, 10);
    EXPECT_EQ(granted(budget), (std::vector<std::uint32_t>{2, 4, 1}));
    EXPECT_EQ(budget.cost().exactness.spent, kLeastAllowance / 2 + 20);
    EXPECT_EQ(budget.cost().exactness.refused, kLeastAllowance);
}

TEST(Budget, ManySmallIslandsShareAsMuchAsThePlainTickCosts) {
    Budget budget;
    budget.begin(10 * kLeastAllowance, 1, 0);
    for (std::uint32_t i = 0; i < 9; i++) budget.claim(i, kLeastAllowance);
    EXPECT_EQ(granted(budget).size(), 9u);
}

TEST(Budget, WhatCannotHaveItsLevelGetsALowerOne) {
    Budget budget;
    budget.begin(0, 1, 0);
    const std::uint64_t least = kLeastAllowance / 10;
    for (std::uint32_t i = 0; i < 4; i++) budget.claim(i, 4 * least);
    std::vector<int> levels;
    EXPECT_EQ(granted(budget, 2, least, &levels), (std::vector<std::uint32_t>{0, 1, 2}));
    EXPECT_EQ(levels, (std::vector<int>{2, 2, 1}));
    EXPECT_EQ(budget.cost().exactness.spent, 10 * least);
    EXPECT_EQ(budget.cost().exactness.refused, 6 * least);
}

TEST(Budget, ACrowdGetsNothing) {
    Budget budget;
    budget.begin(100 * kLeastAllowance, 1, 0);
    budget.claim(7, kLeastAllowance + 1);
    EXPECT_TRUE(granted(budget).empty());
}

TEST(Budget, NothingIsGrantedWithoutAShare) {
    Budget budget;
    budget.begin(1000, 0, 0);
    budget.claim(7, 1);
    EXPECT_TRUE(granted(budget).empty());
    EXPECT_EQ(budget.cost().exactness.refused, 1u);
}

TEST(Budget, SomeContactsAreFoundAnewInAnyTick) {
    Budget budget;
    budget.begin(1000, 0, 0);
    std::uint64_t found = 0;
    while (budget.buy_update()) found++;
    EXPECT_EQ(found,
              static_cast<std::uint64_t>(islands::kPlainUpdates * 1000) / islands::kContactUpdatePrice);
    EXPECT_EQ(budget.cost().plain, 1000 + found * islands::kContactUpdatePrice);
    EXPECT_EQ(budget.cost().updates.refused, islands::kContactUpdatePrice);
}

}
}
