#include "support/dims.h"

#include <cfenv>

namespace astasis {
namespace {

template<typename T> class DeterminismTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(DeterminismTest, test::Dimensions);

template<int D> std::vector<std::uint64_t> prints_of_a_heap(bool with_edits) {
    World<D> world;
    test::add_floor<D>(world);
    test::Numbers n(41);
    for (int i = 0; i < 25; i++) {
        const double x = n.in(-1, 1);
        const auto rotation = n.rotation(Vec<D>{});
        world.add({.pose = {{x, 0.5 + 0.3 * i}, rotation}, .shapes = {{test::cube<D>(0.4f)}}});
        test::add_ball<D>(world, {-x, 0.7 + 0.3 * i}, 0.2f, 10);
    }
    std::vector<std::uint64_t> prints;
    for (int i = 0; i < 240; i++) {
        if (with_edits && i == 60) world.remove(world.bodies()[7]);
        if (with_edits && i == 90) world.set_pose(world.bodies()[3], {{0, 5}, {}});
        world.step();
        prints.push_back(world.fingerprint());
    }
    return prints;
}

TYPED_TEST(DeterminismTest, TheSameCallsGiveTheSameBits) {
    constexpr int D = TypeParam::value;
    EXPECT_EQ(prints_of_a_heap<D>(false), prints_of_a_heap<D>(false));
    EXPECT_EQ(prints_of_a_heap<D>(true), prints_of_a_heap<D>(true));
    EXPECT_NE(prints_of_a_heap<D>(true), prints_of_a_heap<D>(false));
}

TYPED_TEST(DeterminismTest, AnotherRoundingModeOutsideChangesNothing) {
    constexpr int D = TypeParam::value;
    const auto run = [](int mode) {
        World<D> world;
        test::add_floor<D>(world);
        for (int i = 0; i < 8; i++)
            world.add({.pose = {{0.125 * i, 0.5 + 0.75 * i}, {}}, .shapes = {{test::cube<D>(0.5f)}}});
        std::fesetround(mode);
        test::step(world, 120);
        std::fesetround(FE_TONEAREST);
        return world.fingerprint();
    };
    EXPECT_EQ(run(FE_TONEAREST), run(FE_TOWARDZERO));
}

}
}
