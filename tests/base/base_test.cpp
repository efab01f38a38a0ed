#include "base/float_control.h"
#include "base/slot_map.h"
#include "base/text.h"

#include <gtest/gtest.h>

#include <cfenv>
#include <cmath>
#include <map>
#include <random>

namespace astasis::base {
namespace {

TEST(SlotMap, AgreesWithAMapUnderRandomEdits) {
    SlotMap<BodyId> slots;
    std::vector<int> values; // the dense array beside it
    std::map<int, BodyId> alive;
    std::vector<BodyId> gone;
    std::mt19937 bits(1);
    for (int i = 0; i < 20000; i++) {
        if (alive.empty() || bits() % 3 != 0) {
            const BodyId id = slots.add();
            values.push_back(i);
            alive[i] = id;
        } else {
            const auto victim = std::next(alive.begin(), static_cast<long>(bits() % alive.size()));
            const auto gap = slots.remove(victim->second);
            values[gap] = values.back();
            values.pop_back();
            gone.push_back(victim->second);
            alive.erase(victim);
        }
    }
    ASSERT_EQ(slots.size(), alive.size());
    for (const auto& [value, id] : alive) {
        ASSERT_EQ(values[slots.place(id)], value);
        ASSERT_EQ(slots.ids()[slots.place(id)], id);
    }
    for (const BodyId id : gone) ASSERT_EQ(slots.place(id), SlotMap<BodyId>::kNone);
    EXPECT_EQ(slots.place(BodyId{}), SlotMap<BodyId>::kNone);
}

TEST(FloatControl, SetsRoundingAndGivesItBack) {
    ASSERT_EQ(std::fesetround(FE_UPWARD), 0);
    {
        const FloatControl control;
        volatile float one = 1, tiny = 1e-9f;
        EXPECT_EQ(one + tiny, 1.0f);
    }
    volatile float one = 1, tiny = 1e-9f;
    EXPECT_GT(one + tiny, 1.0f);
    std::fesetround(FE_TONEAREST);
    EXPECT_TRUE(arithmetic_is_exact());
}

TEST(Text, NumbersReadBackTheSame) {
    EXPECT_EQ(number(0.1f), "0.1");
    EXPECT_EQ(number(-9.81), "-9.81");
    EXPECT_EQ(number(std::nan("")), "nan");
    EXPECT_EQ(number(INFINITY), "inf");
    EXPECT_EQ(text_of(Vec3{1, 2.5f, -3}), "(1, 2.5, -3)");
}

}
}
