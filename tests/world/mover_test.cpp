// The mover: floors, walls, steps, slopes, corners, platforms, crates.
#include "support/dims.h"

#include <cmath>
#include <cstring>

namespace astasis {
namespace {

template<typename T> class MoverTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(MoverTest, test::Dimensions);

template<int D> MoverSpec<D> walker() {
    return {.shape = Capsule<D>{{0, -0.5f}, {0, 0.5f}, 0.3f}, .step_height = 0.3f};
}
template<int D> BodyId add_box(World<D>& world, Point<D> at, Vec2 size, Motion motion = Motion::Static) {
    Vec<D> full = test::all<D>(4);
    full.x = size.x, full.y = size.y;
    return world.add({.motion = motion, .pose = {at}, .shapes = {{test::box_of(full)}}});
}
template<int D> void walk(World<D>& world, Mover<D>& mover, Vec<D> velocity, int ticks) {
    for (int k = 0; k < ticks; k++) mover.move(world, velocity), world.step();
}
constexpr double kStands = 0.8 + 0.01; // half its height and a skin

TYPED_TEST(MoverTest, WalksOnAFloorAndFallsOffItsEdge) {
    constexpr int D = TypeParam::value;
    World<D> world;
    add_box<D>(world, {0, -0.5}, {4, 1});
    Mover<D> mover(walker<D>(), {0, 1.5});
    walk<D>(world, mover, {0, -3}, 60);
    ASSERT_TRUE(mover.standing());
    EXPECT_NEAR(mover.position().y, kStands, 1e-4);
    walk<D>(world, mover, {1.5f, -3}, 60);
    EXPECT_NEAR(mover.position().x, 1.5, 1e-4);
    EXPECT_NEAR(mover.position().y, kStands, 1e-4);
    EXPECT_NEAR(mover.standing()->normal.y, 1, 1e-5);
    walk<D>(world, mover, {1.5f, -3}, 60);
    EXPECT_FALSE(mover.standing());
    EXPECT_LT(mover.position().y, 0);
    EXPECT_NEAR(mover.position().x, 3, 0.05) << "its round foot slid off the edge";
}

TYPED_TEST(MoverTest, StopsAtWallsAndSlidesAlongThem) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId wall = add_box<D>(world, {2, 1}, {1, 2});
    Mover<D> mover(walker<D>(), {0, kStands});
    Vec<D> way{2, -3};
    if constexpr (D == 3) way.z = 0.5f;
    walk<D>(world, mover, way, 120);
    EXPECT_NEAR(mover.position().x, 1.5 - 0.3 - 0.01, 1e-3);
    if constexpr (D == 3) {
        EXPECT_NEAR(mover.position().z, 1, 1e-3) << "it goes on along the wall";
    }
    bool met = false;
    for (const auto& t : mover.touched()) met = met || t.body == wall;
    EXPECT_TRUE(met);
    EXPECT_TRUE(mover.standing());
    walk<D>(world, mover, {-2, -3}, 30);
    EXPECT_NEAR(mover.position().x, 1.5 - 0.3 - 0.01 - 1, 1e-3) << "nothing holds it there";
}

// Six steps up, along, and down again on the other side.
TYPED_TEST(MoverTest, ClimbsStepsUpToAHeight) {
    constexpr int D = TypeParam::value;
    for (const float rise : {0.1f, 0.25f, 0.35f}) {
        World<D> world;
        test::add_floor<D>(world);
        for (int k = 1; k <= 6; k++) {
            const float high = rise * static_cast<float>(k);
            add_box<D>(world, {1 + 0.5 * k, 0.5 * double{high}}, {0.5f, high});
            add_box<D>(world, {7.5 - 0.5 * k, 0.5 * double{high}}, {0.5f, high});
        }
        Mover<D> mover(walker<D>(), {0, kStands});
        double highest = 0;
        for (int k = 0; k < 400; k++) {
            mover.move(world, {1.5f, -3}), world.step();
            highest = std::max(highest, mover.position().y);
            ASSERT_TRUE(mover.standing()) << rise << " at " << mover.position().x;
        }
        if (rise < 0.3f) {
            EXPECT_NEAR(highest, kStands + 6 * double{rise}, 0.01) << rise; // within the skin
            EXPECT_NEAR(mover.position().x, 10, 1) << rise;
            EXPECT_NEAR(mover.position().y, kStands, 1e-3) << rise;
        } else {
            EXPECT_NEAR(highest, kStands, 1e-3) << "too high";
            EXPECT_NEAR(mover.position().x, 1.25 - 0.3, 0.03);
        }
    }
}

TYPED_TEST(MoverTest, ClimbsSlopesUpToAnAngle) {
    constexpr int D = TypeParam::value;
    for (const double angle : {20.0, 40.0, 55.0, 75.0}) {
        World<D> world;
        test::add_floor<D>(world);
        const double a = angle * 3.14159265 / 180;
        world.add({.motion = Motion::Static,
                   .pose = {{1, 0}},
                   .shapes = {
                       {HalfSpace<D>{{-static_cast<float>(std::sin(a)), static_cast<float>(std::cos(a))}}}}});
        Mover<D> mover(walker<D>(), {-1, kStands});
        walk<D>(world, mover, {1.5f, -3}, 180);
        if (angle < 45) {
            EXPECT_NEAR(mover.position().x, -1 + 4.5, 0.3) << angle;
            EXPECT_GT(mover.position().y, 0.8 * (mover.position().x - 1) * std::tan(a)) << angle;
            EXPECT_NEAR(mover.standing()->normal.y, std::cos(a), 1e-3) << angle;
        } else {
            EXPECT_LT(mover.position().y, 0.9) << angle;
            EXPECT_LT(mover.position().x, 1) << angle;
        }
    }
}

// In the corner of tiles, pushed into it from all sides: it comes to stand, to the bit.
TEST(MoverPlane, StandsStillInTheCornersOfTiles) {
    World2 world;
    TileGrid tiles{.columns = 8, .rows = 6, .cell = 0.5f, .solid = std::vector<std::uint8_t>(48, 0)};
    const auto set = [&](int column, int row) {
        tiles.solid[static_cast<std::size_t>(row * 8 + column)] = true;
    };
    for (int k = 0; k < 8; k++) set(k, 0);
    for (int k = 0; k < 6; k++) set(0, k), set(7, k);
    set(6, 1);
    world.add({.motion = Motion::Static, .shapes = {{tiles}}});
    MoverSpec<2> spec{.shape = Box2::sized(0.4f, 0.9f)};
    spec.step_height = 0.2f;
    for (const Vec2 push : {Vec2{-2, -3}, Vec2{2, -3}, Vec2{-2, 0}, Vec2{2, -0.1f}}) {
        Mover<2> mover(spec, {2, 1.2});
        walk<2>(world, mover, {0, -3}, 60);
        EXPECT_NEAR(mover.position().y, 0.5 + 0.45 + 0.01, 1e-3);
        walk<2>(world, mover, push, 120);
        const Point2 corner = mover.position();
        EXPECT_NEAR(corner.x, push.x < 0 ? 0.5 + 0.21 : 3 - 0.21, 2e-3);
        for (int k = 0; k < 100; k++) {
            mover.move(world, push);
            ASSERT_NEAR(mover.position().x, corner.x, 1e-6);
            ASSERT_NEAR(mover.position().y, corner.y, 1e-6);
        }
    }
    // Along the seams of the floor nothing catches.
    Mover<2> mover(spec, {0.8, 0.97});
    walk<2>(world, mover, {1, -3}, 60);
    EXPECT_NEAR(mover.position().x, 1.8, 1e-3);
}

TYPED_TEST(MoverTest, RidesWhatItStandsOn) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId lift = add_box<D>(world, {0, 0}, {3, 0.2f}, Motion::Kinematic);
    Mover<D> mover(walker<D>(), {0.5, 0.1 + kStands});
    mover.move(world, {0, -1});
    ASSERT_TRUE(mover.standing());
    world.set_velocity(lift, {0.8f, 1.2f});
    for (int k = 0; k < 120; k++) {
        world.step();
        mover.move(world, {0, -1});
        ASSERT_TRUE(mover.standing()) << k;
        const Pose<D> at = world.pose(lift);
        ASSERT_NEAR(mover.position().x - at.position.x, 0.5, 1e-4);
        ASSERT_NEAR(mover.position().y - at.position.y, 0.1 + kStands, 1e-4);
    }
}

// The mover leans on a crate with its force and no more: a light one goes along, a heavy one stays.
TYPED_TEST(MoverTest, PushesWithABoundedForce) {
    constexpr int D = TypeParam::value;
    for (const bool heavy : {false, true}) {
        World<D> world;
        test::add_floor<D>(world, {.friction = 0.5f});
        const std::vector<ShapeSpec<D>> shapes{{test::cube<D>(1)}};
        const BodyId crate = world.add(
            {.pose = {{2, 0.5}}, .shapes = shapes, .mass = mass_of<D>(shapes, heavy ? 100.0f : 20.0f)});
        MoverSpec<D> spec = walker<D>();
        spec.push = 200;
        Mover<D> mover(spec, {0, kStands});
        walk<D>(world, mover, {1.5f, -3}, 180);
        const double way = world.pose(crate).position.x - 2;
        if (heavy) {
            EXPECT_NEAR(way, 0, 1e-3);
        } else {
            EXPECT_GT(way, 1);
        }
        EXPECT_LT(mover.position().x, world.pose(crate).position.x - 0.5 - 0.3 + 1e-3);
    }
}

// Two of them on the same ways through a heap are the same to the bit, and neither ends in anything.
TYPED_TEST(MoverTest, RandomWalksAreTheSameAgainAndEndNowhereInside) {
    constexpr int D = TypeParam::value;
    const auto run = [](std::vector<Point<D>>& places) {
        World<D> world;
        test::add_floor<D>(world);
        test::Numbers n(9 + D);
        for (int k = 0; k < 60; k++) {
            Point<D> at{n.in(-5, 5), n.in(0, 1.5)};
            if constexpr (D == 3) at.z = n.in(-5, 5);
            world.add({.motion = Motion::Static,
                       .pose = {at, n.rotation(Vec<D>{})},
                       .shapes = {{test::cube<D>(n.f(0.2, 1))}}});
        }
        Mover<D> mover(walker<D>(), {0, 6});
        std::vector<Found<D>> found;
        double deepest = 0;
        Vec<D> way{};
        for (int k = 0; k < 3000; k++) {
            if (k % 20 == 0) way = n.vec<D>(-4, 4), way.y = n.f(-5, 3);
            mover.move(world, way);
            places.push_back(mover.position());
            if (k < 60) continue; // it may have begun in something
            overlapping<D>(world, walker<D>().shape, {mover.position()}, found);
            for (const auto& f : found) {
                const auto near = distance<D>(walker<D>().shape, {mover.position()},
                                              world.shape(f.body, 0).geometry, world.pose(f.body));
                deepest = std::min(deepest, near.separation);
            }
        }
        return deepest;
    };
    std::vector<Point<D>> once, again;
    EXPECT_GT(run(once), -0.01);
    run(again);
    EXPECT_EQ(once, again);
}

TYPED_TEST(MoverTest, RefusesWhatItCannotBe) {
    constexpr int D = TypeParam::value;
    EXPECT_EQ(test::error_of([] { Mover<D>({.shape = HalfSpace<D>{}}); }).field(), "shape");
    EXPECT_EQ(test::error_of([] { Mover<D>({.shape = Ball<D>{1}, .skin = 0}); }).field(), "skin");
    EXPECT_EQ(test::error_of([] { Mover<D>({.shape = Ball<D>{1}, .step_height = -1}); }).field(),
              "step_height");
    EXPECT_EQ(test::error_of([] { Mover<D>({.shape = Ball<D>{1}, .steepest = degrees(95)}); }).field(),
              "steepest");
    World<D> world;
    Mover<D> mover(walker<D>());
    EXPECT_EQ(test::error_of([&] { mover.move(world, {NAN, 0}); }).field(), "velocity");
}

}
}
