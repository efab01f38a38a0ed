// Fast bodies: nothing thin is missed, nothing that is only passed is felt.
#include "support/cases.h"
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class SweepTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SweepTest, test::Dimensions);

int shots() { return test::is_soak() ? 5 * test::cases() : 2 * test::cases(); }

template<int D> World<D> weightless_world(float extra_work) {
    WorldSpec<D> spec = test::weightless<D>();
    spec.extra_work = extra_work;
    return World<D>(spec);
}

template<int D> Geometry<D> some_shape(test::Numbers& n, float size) {
    const double kind = n.in(0, 3);
    if (kind < 1) return Ball<D>{0.5f * size};
    if (kind < 2) return Capsule<D>{{-size, 0}, {size, 0}, 0.25f * size};
    Vec<D> sides = test::all<D>(size);
    sides.x = 2 * size;
    return test::box_of(sides);
}

// Shots at a thin wall that fills the way, any shape, speed and spin; perfect bounces gain no energy, and one
// in five hundred at most loses some: rods whose other end comes down while the first is still near. (Where a
// shape meets one that is a hundred thousand times as large, floats tell roughly where.)
template<int D> void shoot_at_wall(float extra_work, float width, bool keeps_energy) {
    test::Numbers n(3);
    const Material perfect{.friction = 0, .restitution = 1};
    World<D> world = weightless_world<D>(extra_work);
    Vec<D> sides = test::all<D>(width);
    sides.x = 0.001f;
    world.add({.motion = Motion::Static, .shapes = {{test::box_of(sides), perfect}}});
    int losing = 0;
    for (int shot = 0; shot < shots(); shot++) {
        const auto size = static_cast<float>(0.001 * std::pow(500, n.in(0, 1)));
        const double speed = 10 * std::pow(100, n.in(0, 1));
        BodySpec<D> spec{.pose = {{-3 - n.in(0, speed / 60), n.in(-1, 1)}, n.rotation(Vec<D>{})}};
        spec.shapes = {{some_shape<D>(n, size), perfect}};
        Vec<D> way = n.template vec<D>(-1, 1);
        way.x = 1;
        spec.velocity = direction(way, Vec<D>{}) * static_cast<float>(speed);
        if constexpr (D == 2) spec.angular_velocity = n.f(-100, 100);
        else spec.angular_velocity = n.template vec<3>(-60, 60);
        const BodyId body = world.add(spec);
        const double before = world.energy(body).kinetic;
        std::size_t met = 0;
        for (int tick = 0; tick < 100 && met == 0; tick++) world.step(), met += test::turns(world);
        test::step(world, 3);
        EXPECT_LT(world.pose(body).position.x, 0)
            << "shot " << shot << ", " << size << " m, " << speed << " m/s";
        const double after = world.energy(body).kinetic;
        if (keeps_energy) {
            EXPECT_LT(after / before, 1.01) << "shot " << shot;
        }
        losing += after < 0.99 * before;
        world.remove(body);
    }
    if (keeps_energy) {
        EXPECT_LE(losing, shots() / 500);
    }
}
TYPED_TEST(SweepTest, NoShotPassesAThinWall) {
    shoot_at_wall<TypeParam::value>(1, 40, true);
    shoot_at_wall<TypeParam::value>(1, 400, false);
}
TYPED_TEST(SweepTest, NoShotPassesAThinWallWithoutExtraWork) {
    shoot_at_wall<TypeParam::value>(0, 40, false);
    shoot_at_wall<TypeParam::value>(0, 400, false);
}

// Rooms of 4 m by surfaces of all kinds, closed towards the inside.
std::vector<std::vector<ShapeSpec<2>>> rooms(Vec2) {
    const std::vector<Vec2> corners{{-2, -2}, {-2, 2}, {2, 2}, {2, -2}}; // solid on the left: outside
    std::vector<std::uint8_t> ring(100, 1);
    for (std::size_t y = 1; y < 9; y++)
        for (std::size_t x = 1; x < 9; x++) ring[y * 10 + x] = 0;
    std::vector<ShapeSpec<2>> walls, tiles{{TileGrid{10, 10, 0.5f, ring}}};
    tiles[0].placement.position = {-2.5f, -2.5f};
    for (const float side : {-1.0f, 1.0f}) {
        walls.push_back({.geometry = Box2::sized(0.001f, 4.002f), .placement = {{2.0005f * side, 0}, {}}});
        walls.push_back({.geometry = Box2::sized(4.002f, 0.001f), .placement = {{0, 2.0005f * side}, {}}});
    }
    return {walls, tiles, {{Polyline::closed(corners)}}};
}
std::vector<std::vector<ShapeSpec<3>>> rooms(Vec3) {
    std::vector<ShapeSpec<3>> walls;
    for (const float side : {-1.0f, 1.0f}) {
        const float at = 2.0005f * side;
        walls.push_back({.geometry = Box3::sized(0.001f, 4.002f, 4.002f), .placement = {{at, 0, 0}, {}}});
        walls.push_back({.geometry = Box3::sized(4.002f, 0.001f, 4.002f), .placement = {{0, at, 0}, {}}});
        walls.push_back({.geometry = Box3::sized(4.002f, 4.002f, 0.001f), .placement = {{0, 0, at}, {}}});
    }
    const std::vector<Vec3> corners{{-2, -2, -2}, {2, -2, -2}, {2, 2, -2}, {-2, 2, -2},
                                    {-2, -2, 2},  {2, -2, 2},  {2, 2, 2},  {-2, 2, 2}};
    const std::vector<TriangleMesh::Triangle> inwards{{0, 1, 2}, {0, 2, 3}, {4, 6, 5}, {4, 7, 6},
                                                      {0, 5, 1}, {0, 4, 5}, {3, 2, 6}, {3, 6, 7},
                                                      {0, 3, 7}, {0, 7, 4}, {1, 5, 6}, {1, 6, 2}};
    const auto mesh = TriangleMesh::of(corners, inwards);
    return {walls, {{mesh}}};
}

// Two bodies at a time in a closed room, any shape, size, speed and spin: they meet walls, corners and each
// other, and neither leaves. Perfect bounces gain no energy (what bounces in passes, while it spins, up to a
// tenth), and one shot in a hundred at most loses some:
// needles that come to spin by whole turns in a substep.
template<int D> void shoot_in_rooms(float extra_work) {
    const Material perfect{.friction = 0, .restitution = 1};
    const auto all = rooms(Vec<D>{});
    std::size_t met = 0;
    int losing = 0;
    for (std::size_t k = 0; k < all.size(); k++) {
        test::Numbers n(5 + k);
        World<D> world = weightless_world<D>(extra_work);
        auto shapes = all[k];
        for (auto& shape : shapes) shape.material = perfect;
        world.add({.motion = Motion::Static, .shapes = shapes});
        for (int shot = 0; shot < shots() / (2 * static_cast<int>(all.size())); shot++) {
            std::vector<BodyId> two;
            std::string what;
            for (const double x : {-0.9, 0.9}) {
                const auto size = static_cast<float>(0.001 * std::pow(500, n.in(0, 1)));
                const double speed = 10 * std::pow(100, n.in(0, 1));
                BodySpec<D> spec{.pose = {{x, n.in(-0.5, 0.5)}, n.rotation(Vec<D>{})}};
                spec.shapes = {{some_shape<D>(n, size), perfect}};
                spec.velocity = direction(n.template vec<D>(-1, 1), Vec<D>{1}) * static_cast<float>(speed);
                if constexpr (D == 2) spec.angular_velocity = n.f(-100, 100);
                else spec.angular_velocity = n.template vec<3>(-60, 60);
                two.push_back(world.add(spec));
                what += std::to_string(size) + " m, " + std::to_string(speed) + " m/s; ";
            }
            const double before = world.energy().kinetic;
            for (int tick = 0; tick < 5; tick++) world.step(), met += test::turns(world);
            for (const BodyId id : two)
                for (int k2 = 0; k2 < D; k2++)
                    EXPECT_LT(std::fabs(world.centre_of_mass(id)[k2]), 2)
                        << "room " << k << ", shot " << shot << ": " << what;
            EXPECT_LT(world.energy().kinetic / before, extra_work > 0 ? 1.01 : 1.1)
                << "room " << k << ", shot " << shot << ": " << what;
            losing += world.energy().kinetic < 0.99 * before;
            for (const BodyId id : two) world.remove(id);
        }
    }
    EXPECT_GT(met, static_cast<std::size_t>(shots()));
    if (extra_work > 0) {
        EXPECT_LE(losing, shots() / 200); // two bodies a shot
    }
}
TYPED_TEST(SweepTest, NoShotLeavesARoom) { shoot_in_rooms<TypeParam::value>(1); }
TYPED_TEST(SweepTest, NoShotLeavesARoomWithoutExtraWork) { shoot_in_rooms<TypeParam::value>(0); }

// Long tubes that stand at a wall, go off slowly and turn so fast that the other end is there within a tick.
TYPED_TEST(SweepTest, AnEndThatComesRoundIsMet) {
    constexpr int D = TypeParam::value;
    const Material perfect{.friction = 0, .restitution = 1};
    test::Numbers n(11);
    World<D> world(test::weightless<D>());
    Vec<D> wall = test::all<D>(20);
    wall.x = 0.002f;
    world.add({.motion = Motion::Static, .shapes = {{test::box_of(wall), perfect}}});
    int losing = 0;
    for (int k = 0; k < 400; k++) {
        BodySpec<D> spec{.pose = {{}, n.rotation(Vec<D>{})}, .velocity = {n.f(-3, 0)}};
        spec.shapes = {{Capsule<D>{{-0.3f}, {0.3f}, 0.08f}, perfect}};
        if constexpr (D == 2) spec.angular_velocity = n.f(60, 200);
        else spec.angular_velocity = direction(n.template vec<3>(-1, 1), Vec3{1}) * n.f(60, 200);
        const float reach = 0.08f + 0.3f * std::fabs(rotate(spec.pose.rotation, Vec<D>{1}).x);
        spec.pose.position.x = -0.002 - reach;
        const BodyId tube = world.add(spec);
        const double before = world.energy(tube).kinetic;
        test::step(world, 6);
        ASSERT_LT(world.pose(tube).position.x, 0) << k;
        ASSERT_LT(world.energy(tube).kinetic / before, 1.01) << k;
        losing += world.energy(tube).kinetic < 0.99 * before;
        world.remove(tube);
    }
    EXPECT_LE(losing, 4);
}

// Small parcels that are thrown onto each other, each free to move along two axes only: no impact takes them
// along the third.
TEST(SweepSpace, LockedAxesStayLocked) {
    World<3> world;
    test::add_floor<3>(world);
    test::Numbers n(21);
    std::vector<BodyId> parcels;
    for (int i = 0; i < 30; i++) {
        BodySpec<3> spec{.pose = {{n.in(-0.02, 0.02), 0.2 + 0.1 * i, 0.01 * i}, n.rotation(Vec3{})},
                         .velocity = {0, -12, 0},
                         .shapes = {{test::cube<3>(0.03f)}}};
        spec.free.locks.z = true;
        parcels.push_back(world.add(spec));
    }
    std::size_t met = 0;
    for (int tick = 0; tick < 150; tick++) world.step(), met += test::turns(world);
    EXPECT_GT(met, 5u);
    for (int i = 0; i < 30; i++)
        EXPECT_EQ(world.pose(parcels[static_cast<std::size_t>(i)]).position.z, 0.01 * i);
}

TYPED_TEST(SweepTest, FastBodiesMeetEachOther) {
    constexpr int D = TypeParam::value;
    for (int phase = 0; phase < 20; phase++) {
        World<D> world(test::weightless<D>());
        const Material perfect{.friction = 0, .restitution = 1};
        const BodyId a = test::add_ball<D>(world, {-5 - 0.2 * phase, 0}, 0.01f, 1, perfect);
        const BodyId b = test::add_ball<D>(world, {5, 0}, 0.01f, 3, perfect);
        world.set_velocity(a, {300, 0});
        world.set_velocity(b, {-200, 0});
        test::step(world, 5);
        // Newton's law for masses of 1 and 3.
        EXPECT_NEAR(world.velocity(a).x, -450, 0.1);
        EXPECT_NEAR(world.velocity(b).x, 50, 0.1);
    }
}

// A spinning parcel that is swept comes down on one that lies on the floor: it cannot press that one through
// the floor, and so not go on into it.
TYPED_TEST(SweepTest, WhatLiesOnAFloorIsNotPressedThroughIt) {
    constexpr int D = TypeParam::value;
    for (int phase = 0; phase < 50; phase++) {
        World<D> world;
        test::add_floor<D>(world);
        world.add({.pose = {{0, 0.15}, {}}, .shapes = {{test::cube<D>(0.3f)}}});
        BodySpec<D> spec{.pose = {{-0.2 + 0.008 * phase, 0.6 + 0.002 * phase}, {}},
                         .velocity = {0, -5},
                         .shapes = {{test::cube<D>(0.3f)}}};
        if constexpr (D == 2) spec.angular_velocity = 17;
        else spec.angular_velocity = {15, 3, 8};
        world.add(spec);
        for (int tick = 0; tick < 30; tick++) {
            world.step();
            ASSERT_LT(world.penetration().deepest, 0.02f * 0.3f) << "phase " << phase << ", tick " << tick;
        }
    }
}

TYPED_TEST(SweepTest, ASlowTargetIsStruck) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId bullet = test::add_ball<D>(world, {-4, 0}, 0.005f, 0.01f);
    const BodyId parcel = world.add({.shapes = {{.geometry = test::cube<D>(0.3f), .density = 100}}});
    world.set_velocity(bullet, {400, 0});
    const float m = world.mass(parcel).mass;
    test::step(world, 10);
    EXPECT_NEAR(world.velocity(parcel).x, 4 / (m + 0.01f), 0.02 * 4 / m) << "they go on together";
    EXPECT_LT(world.pose(bullet).position.x, world.pose(parcel).position.x);
}

// A flyer that strikes a ball no less slow than a ball may be and swept by nobody, in the middle of a tick:
// both are where they would be had they met there.
TYPED_TEST(SweepTest, AFreeTargetSetsOutWhereItWasHit) {
    constexpr int D = TypeParam::value;
    for (int phase = 0; phase < 30; phase++) {
        World<D> world(test::weightless<D>());
        const Material perfect{.friction = 0, .restitution = 1};
        const BodyId a = test::add_ball<D>(world, {-1 - 0.02 * phase, 0}, 0.1f, 1, perfect);
        const BodyId b = test::add_ball<D>(world, {0, 0}, 0.5f, 1, perfect);
        world.set_velocity(a, {20, 0}), world.set_velocity(b, {-5, 0});
        const double meet = (0.4 + 0.02 * phase) / 25;
        test::step(world, 12);
        EXPECT_NEAR(world.pose(b).position.x, -5 * meet + 20 * (0.2 - meet), 1e-4) << phase;
        EXPECT_NEAR(world.pose(a).position.x, -1 - 0.02 * phase + 20 * meet - 5 * (0.2 - meet), 1e-4)
            << phase;
    }
}

// What a flyer sends off may reach, within the tick, what slept far from all that moved: that takes its share
// too.
TYPED_TEST(SweepTest, ASleeperThatIsHitWithinATickIsSentOn) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const Material perfect{.friction = 0, .restitution = 1};
    const BodyId a = test::add_ball<D>(world, {-0.4, 0}, 0.05f, 1, perfect);
    world.set_velocity(a, {120, 0});
    const BodyId b = test::add_ball<D>(world, {0, 0}, 0.05f, 1, perfect);
    world.set_may_sleep(b, false);
    const BodyId c = world.add({.pose = {{0.9, 0}, {}},
                                .shapes = {{.geometry = Ball<D>{0.05f}, .material = perfect}},
                                .asleep = true});
    const double mass = world.mass(c).mass, given = 120 * 2 / (1 + mass);
    world.step();
    EXPECT_FALSE(world.is_asleep(c));
    EXPECT_NEAR(world.velocity(c).x, given, 1e-3 * given);
    EXPECT_NEAR(world.velocity(a).x + world.velocity(b).x + mass * world.velocity(c).x, 120, 1e-3);
    const double at = world.pose(c).position.x;
    world.step();
    EXPECT_NEAR(world.pose(c).position.x, at + given / 60, 1e-3);
}

// Boxes of a centimetre fall three of their widths in a tick, into each other: nobody hangs in the air there
// for having met others too often, and they come to rest as large ones do.
TYPED_TEST(SweepTest, ACrowdOfSmallBoxesFallsAndRests) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    test::Numbers n(5);
    for (int i = 0; i < 60; i++) {
        Point<D> at{0.016 * (i % 4 - 1.5) + n.in(-0.001, 0.001), 0.012 + 0.016 * (i / (D == 2 ? 4 : 16))};
        if constexpr (D == 3) at.z = 0.016 * (i / 4 % 4 - 1.5) + n.in(-0.001, 0.001);
        world.add({.pose = {at + Vec<D>{0, 0.2f}, n.rotation(Vec<D>{})}, .shapes = {{test::cube<D>(0.01f)}}});
    }
    std::vector<double> from;
    for (const BodyId id : world.bodies()) from.push_back(world.pose(id).position.y);
    std::size_t most = 0;
    for (int tick = 1; tick <= 300; tick++) {
        world.step();
        most = std::max(most, test::turns(world));
        if (tick == 11) { // what is highest has met nothing that does not fall with it
            EXPECT_NEAR(world.pose(world.bodies()[60]).position.y, from[60] - 0.5 * 9.81 * 121 / 3600, 2e-3);
        }
    }
    EXPECT_LT(most, 300u);
    EXPECT_EQ(world.sleepers().bodies, 60u);
    EXPECT_LT(world.penetration().deepest, 0.05f * 0.01f);
}

// Columns of small bodies of very unlike mass fall into each other, over many impacts a tick: what stops
// short or is put back on its path must not keep the speed of a fall that it does not make.
TYPED_TEST(SweepTest, FallingColumnsGainNoEnergy) {
    constexpr int D = TypeParam::value;
    const Material hard{.friction = 0.1f, .restitution = 0.9f};
    const int seeds = std::max(3, test::cases() / 50);
    int gaining = 0;
    for (int seed = 1; seed <= seeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world;
        test::add_floor<D>(world, hard);
        double top = 0;
        for (int i = 0; i < 30; i++) {
            const float side = 0.015f * n.f(0.5, 1.5);
            Geometry<D> shape = test::cube<D>(side);
            if (n.in(0, 1) < 0.5) shape = Ball<D>{side / 2};
            world.add({.pose = {{0, top + side / 2}, {}},
                       .velocity = Vec<D>{n.f(-0.1, 0.1), n.f(-0.1, 0.1)},
                       .shapes = {{.geometry = shape,
                                   .material = hard,
                                   .density = static_cast<float>(std::pow(10, n.in(-1, 4)))}}});
            top += 1.2 * side;
        }
        const double before = world.energy().total();
        double most = before;
        for (int tick = 0; tick < 60; tick++) {
            world.step();
            most = std::max(most, world.energy().total());
        }
        gaining += most > 1.005 * before;
    }
    EXPECT_LE(gaining, seeds / 100) << "of " << seeds;
}

// What the modes look at, and what is told of the others.
TYPED_TEST(SweepTest, Modes) {
    constexpr int D = TypeParam::value;
    const auto passes = [](Sweep sweep, Motion target) {
        World<D> world(test::weightless<D>());
        Vec<D> sides = test::all<D>(2);
        sides.x = 0.002f;
        world.add({.motion = target,
                   .pose = {{0.7, 0}, test::about_z(degrees(30), Vec<D>{})},
                   .shapes = {{.geometry = test::box_of(sides), .density = 1e6f}}});
        world.add({.velocity = {500, 0}, .shapes = {{Ball<D>{0.01f}}}, .sweep = sweep});
        world.step();
        EXPECT_EQ(world.unswept().size(), sweep == Sweep::None ? 1u : 0u);
        return test::turns(world) == 0;
    };
    EXPECT_FALSE(passes(Sweep::Everything, Motion::Static));
    EXPECT_FALSE(passes(Sweep::Everything, Motion::Dynamic));
    EXPECT_FALSE(passes(Sweep::StaticOnly, Motion::Static));
    EXPECT_TRUE(passes(Sweep::StaticOnly, Motion::Dynamic));
    EXPECT_TRUE(passes(Sweep::None, Motion::Static));
}

TYPED_TEST(SweepTest, TellsWhatWasMetOnTheWay) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const Material perfect{.friction = 0, .restitution = 1};
    std::vector<BodyId> walls;
    for (const double x : {-1.05, 1.05})
        walls.push_back(world.add(
            {.motion = Motion::Static, .pose = {{x, 0}, {}}, .shapes = {{test::cube<D>(0.1f), perfect}}}));
    const BodyId ball = test::add_ball<D>(world, {0, 0}, 0.01f, 1, perfect);
    world.set_velocity(ball, {300, 0});
    world.collect_events({.strikes = true});
    world.step(); // 5 m: two and a half times across
    const auto strikes = world.events().strikes;
    ASSERT_EQ(strikes.size(), 3u);
    EXPECT_NEAR(strikes[0].time, 0.99 / 300, 1e-6);
    EXPECT_EQ(strikes[0].body_a, walls[1]);
    EXPECT_EQ(strikes[1].body_a, walls[0]);
    EXPECT_NEAR(strikes[0].speed, 300, 1e-3);
    EXPECT_NEAR(strikes[0].impulse.x, -600, 0.01);
    EXPECT_LT(strikes[0].normal.x, -0.999f);
    EXPECT_NEAR(world.pose(ball).position.x, 0.99 - (5 - 0.99 - 2 * 1.98), 1e-3);
    const auto way = world.way_of(ball);
    ASSERT_EQ(way.size(), 5u);
    for (std::size_t k = 0; k < 3; k++) {
        EXPECT_EQ(way[k + 1].time, strikes[k].time);
        EXPECT_NEAR(way[k + 1].centre.x, k == 1 ? -0.99 : 0.99, 1e-4);
    }
    EXPECT_EQ(way[0].centre, (Point<D>{}));
    EXPECT_EQ(way[4].centre, world.centre_of_mass(ball));
    EXPECT_EQ(world.way_of(walls[0]).size(), 2u);
    world.set_pose(ball, {{0.2, 0.1}});
    EXPECT_EQ(world.way_of(ball).size(), 2u);
    EXPECT_EQ(world.way_of(ball)[0].centre, world.centre_of_mass(ball));
}

// A row of planks is struck at one end: within the tick each comes at the next, which was far from anything
// when the tick began.
TYPED_TEST(SweepTest, PlanksThatAreStruckKeepApart) {
    constexpr int D = TypeParam::value;
    constexpr float kThick = 0.15f;
    Vec<D> plank = test::all<D>(0.8f);
    plank.x = kThick, plank.y = 1.2f;
    for (const float speed : {8.0f, 12.0f})
        for (const double gap : {0.0, 0.02, 0.05, 0.1})
            for (const float density : {1000.0f, 5000.0f}) {
                World<D> world;
                test::add_floor<D>(world);
                for (int i = 0; i < 8; i++)
                    world.add({.pose = {{i * (kThick + gap), 0.6}, {}}, .shapes = {{test::box_of(plank)}}});
                const BodyId striker =
                    world.add({.pose = {{-2, 0.6}, {}},
                               .shapes = {{.geometry = test::cube<D>(0.5f), .density = density}}});
                world.set_velocity(striker, {speed, 0});
                float deepest = 0;
                for (int tick = 0; tick < 60; tick++) {
                    world.step();
                    deepest = std::max(deepest, static_cast<float>(world.penetration().deepest));
                }
                EXPECT_LT(deepest, 0.2f * kThick)
                    << speed << " m/s, " << gap << " m, " << density << " kg/m3";
            }
}

}
}
