// What stands stays: tall piles for a minute at the default settings. Sanitized builds, which are twenty
// times slower, look at a part of the time.
#include "support/dims.h"

namespace astasis {
namespace {

constexpr int kSeconds = ASTASIS_DEFAULT_CASES >= 1000 ? 60 : 4;

template<int D> void expect_stands(World<D>& world, double deepest) {
    test::step(world, 60);
    std::vector<Point<D>> at;
    for (const BodyId id : world.bodies()) at.push_back(world.centre_of_mass(id));
    test::step(world, 60 * (kSeconds - 1));
    float most = 0;
    for (std::size_t i = 0; i < at.size(); i++)
        most = std::max(most, length(world.centre_of_mass(world.bodies()[i]) - at[i]));
    EXPECT_LT(most, 1e-3f);
    EXPECT_LT(world.penetration().deepest, deepest);
}

TEST(Standing, PyramidOfTwentyRows) {
    World2 world;
    test::add_floor<2>(world);
    for (int row = 0; row < 20; row++)
        for (int i = 0; i < 20 - row; i++)
            world.add({.pose = {{1.05 * (i + 0.5 * row), 0.5 + row}, {}}, .shapes = {{Box2::sized(1, 1)}}});
    expect_stands(world, 0.01);
}

TEST(Standing, TenLayersInSpace) {
    World3 world;
    test::add_floor<3>(world);
    for (int layer = 0; layer < 10; layer++)
        for (int i = 0; i < 3; i++)
            for (int k = 0; k < 3; k++)
                world.add(
                    {.pose = {{1.05 * i, 0.5 + layer, 1.05 * k}, {}}, .shapes = {{Box3::sized(1, 1, 1)}}});
    expect_stands(world, 0.01);
}

template<typename T> class StandingTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(StandingTest, test::Dimensions);

TYPED_TEST(StandingTest, AThousandTimesAsHeavyOnTop) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    world.add({.pose = {{0, 0.5}, {}}, .shapes = {{.geometry = test::cube<D>(1), .density = 1}}});
    world.add({.pose = {{0, 1.5}, {}}, .shapes = {{.geometry = test::cube<D>(1), .density = 1000}}});
    expect_stands(world, 0.02);
}

// What stands on one thing alone does not sink for its load to be found: a contact gives way by a tenth of
// what softness would have it. The lowest face of ten cubes sank by 0.9 mm.
TYPED_TEST(StandingTest, StacksHardlySink) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 0; i < 10; i++)
        world.add({.pose = {{0, 0.5 + i}, {}}, .shapes = {{.geometry = test::cube<D>(1)}}});
    expect_stands(world, 1e-4);
}

// Loads come to the top of a tall tower substep by substep, from next to nothing: where they were smaller
// than floats have quotients for, places became no numbers. At rest it sways by less than a centimetre.
TYPED_TEST(StandingTest, ATowerOfAHundred) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 0; i < 100; i++)
        world.add({.pose = {{0, 0.5 + i}, {}}, .shapes = {{.geometry = test::cube<D>(1)}}});
    test::step(world, 60 * kSeconds);
    const auto top = world.centre_of_mass(world.bodies().back());
    EXPECT_LT(length(top - Point<D>{0, 99.5}), 0.01f);
    if (kSeconds >= 60) {
        EXPECT_EQ(world.sleepers().bodies, 100u);
    }
}

// Where the most substeps do not suffice contacts stay soft: without it this trembled by a millimetre for
// ever.
TYPED_TEST(StandingTest, TenThousandTimesAsHeavyOnTopComesToRest) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    world.add({.pose = {{0, 0.25}, {}}, .shapes = {{.geometry = test::cube<D>(0.5f), .density = 1}}});
    world.add({.pose = {{0, 0.75}, {}}, .shapes = {{.geometry = test::cube<D>(0.5f), .density = 10000}}});
    test::step(world, 60 * 4);
    EXPECT_EQ(world.sleepers().bodies, 2u);
    EXPECT_LT(world.penetration().deepest, 0.002);
}

// A wall of 200 parcels is hit by a spinning drum, wherever: 0.2 s after it has come nothing is pressed into
// anything by more than 10 % of a parcel, and all but one tick in a hundred have no more than 2 %.
TYPED_TEST(StandingTest, AWallHitByADrum) {
    constexpr int D = TypeParam::value;
    Vec<D> size{0.4f, 0.3f};
    if constexpr (D == 3) size.z = 0.3f;
    int ticks = 0, deep = 0;
    for (int place = 1; place < (D == 2 ? 7 : 4); place++) {
        World<D> world;
        test::add_floor<D>(world);
        for (int row = 0; row < 10; row++)
            for (int i = 0; i < 20; i++)
                world.add({.pose = {{0.41 * (i + (row % 2) * 0.5), 0.15 + 0.3 * row}, {}},
                           .shapes = {{.geometry = test::box_of(size), .density = 140}}});
        BodySpec<D> drum{.pose = {{-2, 1.6 + 0.01 * place}, {}},
                         .velocity = {10, 0},
                         .shapes = {{.geometry = Ball<D>{0.4f}, .density = 600}}};
        if constexpr (D == 3) {
            drum.pose.position = {4 + 0.02 * place, 1.6, 2};
            drum.velocity = {0, 0, -10};
        }
        const BodyId id = world.add(drum);
        world.apply_impulse_at(id, Vec<D>{D == 2 ? 20.0f : 10.0f, 0},
                               world.centre_of_mass(id) + Vec<D>{0, 0.3f});
        EXPECT_GT(length(world.angular_velocity(id)), 0.1f);
        for (int tick = 0; tick < 180; tick++) {
            world.step();
            if (world.time() < 0.4) continue;
            const float deepest = world.penetration().deepest;
            ASSERT_LT(deepest, 0.1f * 0.3f) << "place " << place << ", at " << world.time() << " s";
            ticks++, deep += deepest > 0.02f * 0.3f;
        }
    }
    EXPECT_LE(deep, ticks / 100);
}

}
}
