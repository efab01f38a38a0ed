// Each mechanics case keeps its good tolerance. The lengthy ones run in scripts/soak.sh (bench/fidelity).
#include "fidelity/outcome.h"

#include <gtest/gtest.h>

#include <cmath>

namespace astasis::fidelity {
namespace {

std::vector<Case> quick_cases() {
    std::vector<Case> out = cases();
    std::erase_if(out, [](const Case& c) { return c.lengthy; });
    return out;
}

class Fidelity : public ::testing::TestWithParam<Case> {};

TEST_P(Fidelity, IsGood) {
    Outcome outcome;
    GetParam().run(outcome);
    ASSERT_FALSE(outcome.quantities().empty());
    for (const Quantity& q : outcome.quantities())
        EXPECT_TRUE(q.is_good()) << GetParam().title << ": " << q.name << " is " << q.measured << " "
                                 << q.unit << ", wanted " << q.wanted << " within " << q.good;
}

INSTANTIATE_TEST_SUITE_P(, Fidelity, ::testing::ValuesIn(quick_cases()), [](const auto& c) {
    return std::string(c.param.name) + (c.param.dimensions == 2 ? "InThePlane" : "InSpace");
});

// The tolerances can be missed.
TEST(FidelityOutcome, TellsWhatIsShort) {
    Outcome out;
    out.near("a", "m", 1.02, 1, 0.03, 0.001);
    EXPECT_TRUE(out.is_good());
    EXPECT_FALSE(out.is_best());
    out.near_share("b", "m", 102, 100, 0.01, 0.001);
    EXPECT_FALSE(out.is_good());
    Outcome bounds;
    bounds.at_most("c", "m", 0.5, 1, 0.1);
    bounds.at_least("d", "", 2, 0.9, 1.9);
    bounds.within("e", "deg", 12, 10, 20, 13, 15);
    bounds.holds_best("f", false);
    EXPECT_TRUE(bounds.is_good());
    EXPECT_FALSE(bounds.is_best());
    for (const int miss : {0, 1, 2, 3, 4}) {
        Outcome bad;
        if (miss == 0) bad.at_most("c", "m", 1.5, 1, 0.1);
        if (miss == 1) bad.at_least("d", "", 0.5, 0.9, 1.9);
        if (miss == 2) bad.within("e", "deg", 21, 10, 20, 13, 15);
        if (miss == 3) bad.holds("f", false);
        if (miss == 4) bad.near("g", "m", std::nan(""), 0, 1, 1);
        EXPECT_FALSE(bad.is_good()) << miss;
    }
}

}
}
