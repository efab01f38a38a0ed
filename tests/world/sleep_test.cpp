// Falling asleep and waking: what must wake does, what must not sleep does not.
#include "support/cases.h"
#include "support/dims.h"

#include <functional>

namespace astasis {
namespace {

template<typename T> class SleepTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SleepTest, test::Dimensions);

template<int D> BodyId add_box(World<D>& world, Point<D> at) {
    return world.add({.pose = {at, {}}, .shapes = {{test::cube<D>(1)}}});
}
// Two stacks that do not touch, asleep.
template<int D> struct Stacks {
    World<D> world;
    BodyId floor = test::add_floor<D>(world);
    BodyId low = add_box<D>(world, {0, 0.5}), high = add_box<D>(world, {0, 1.5});
    BodyId apart = add_box<D>(world, {5, 0.5});
    Stacks() {
        test::step(world, 90);
        EXPECT_TRUE(world.is_asleep(low) && world.is_asleep(high) && world.is_asleep(apart));
    }
};

TYPED_TEST(SleepTest, SleepersStayWhereTheyAreToTheBit) {
    constexpr int D = TypeParam::value;
    Stacks<D> s;
    const auto pose = s.world.pose(s.high);
    const auto contacts = s.world.contacts();
    EXPECT_EQ(s.world.sleepers().bodies, 3u);
    EXPECT_EQ(s.world.sleepers().islands, 2u);
    test::step(s.world, 100);
    EXPECT_EQ(s.world.pose(s.high), pose);
    EXPECT_EQ(s.world.previous_pose(s.high), pose);
    EXPECT_EQ(s.world.velocity(s.high), Vec<D>{});
    EXPECT_EQ(s.world.contacts().size(), contacts.size()) << "contacts are shown as they were";
    EXPECT_EQ(first_hit(s.world, Ray<D>{{0, 9}, {0, -20}})->body, s.high);
}

TYPED_TEST(SleepTest, EveryEditWakesItsIslandAndNoOther) {
    constexpr int D = TypeParam::value;
    using Edit = std::function<void(Stacks<D>&)>;
    const std::vector<Edit> edits{
        [](auto& s) {
            s.world.apply_force(s.low, {1, 0});
        },
        [](auto& s) {
            s.world.apply_impulse(s.low, {1, 0});
        },
        [](auto& s) { s.world.apply_angular_impulse(s.low, {}); },
        [](auto& s) {
            s.world.set_velocity(s.high, {1, 0});
        },
        [](auto& s) { s.world.set_angular_velocity(s.low, {}); },
        [](auto& s) {
            s.world.set_pose(s.high, {{0, 1.6}, {}});
        },
        [](auto& s) {
            s.world.set_thrust(s.low, {.force = {1, 0}});
        },
        [](auto& s) { s.world.set_free_motion(s.low, {.linear_damping = 1}); },
        [](auto& s) { s.world.set_motion(s.low, Motion::Kinematic); },
        [](auto& s) { s.world.add_shape(s.low, {Ball<D>{0.2f}}); },
        [](auto& s) { s.world.set_layers(s.low, 0, 2, 2); },
        [](auto& s) { s.world.set_group(s.low, 0, 3); },
        [](auto& s) { s.world.set_material(s.low, 0, {.friction = 0.1f}); },
        [](auto& s) {
            s.world.set_surface_velocity(s.low, 0, {1, 0});
        },
        [](auto& s) { s.world.wake(s.low); },
        [](auto& s) { s.world.set_may_sleep(s.low, false); },
        [](auto& s) { s.world.remove(s.low); },
        [](auto& s) {
            s.world.add({.motion = Motion::Static, .pose = {{0, 2.4}, {}}, .shapes = {{test::cube<D>(1)}}});
        },
    };
    for (std::size_t k = 0; k < edits.size(); k++) {
        Stacks<D> s;
        edits[k](s);
        EXPECT_FALSE(s.world.is_asleep(s.high)) << "edit " << k;
        EXPECT_TRUE(s.world.is_asleep(s.apart)) << "edit " << k;
        s.world.step();
        EXPECT_TRUE(s.world.is_asleep(s.apart)) << "edit " << k;
    }
}

TYPED_TEST(SleepTest, EditsOfWhatAllRestsOnWakeAll) {
    constexpr int D = TypeParam::value;
    using Edit = std::function<void(Stacks<D>&)>;
    const std::vector<Edit> edits{
        [](auto& s) {
            s.world.set_gravity({0, -5});
        },
        [](auto& s) { s.world.remove(s.floor); },
        [](auto& s) {
            s.world.set_pose(s.floor, {{0, -1}, {}});
        },
        [](auto& s) { s.world.set_motion(s.floor, Motion::Kinematic); },
        [](auto& s) { s.world.set_material(s.floor, 0, {.friction = 0}); },
        [](auto& s) {
            s.world.set_surface_velocity(s.floor, 0, {1, 0});
        },
        [](auto& s) { s.world.set_sleeping(false); },
    };
    for (std::size_t k = 0; k < edits.size(); k++) {
        Stacks<D> s;
        edits[k](s);
        for (const BodyId id : {s.low, s.high, s.apart}) EXPECT_FALSE(s.world.is_asleep(id)) << "edit " << k;
    }
}

TYPED_TEST(SleepTest, APlatformTakesItsRidersAlong) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId platform = world.add({.motion = Motion::Kinematic, .shapes = {{test::cube<D>(1)}}});
    const BodyId rider = add_box<D>(world, {0, 1});
    test::step(world, 90);
    EXPECT_TRUE(world.is_asleep(rider));
    EXPECT_TRUE(world.is_asleep(platform)) << "it stands";
    world.set_velocity(platform, {0.5f, 0});
    test::step(world, 120);
    EXPECT_FALSE(world.is_asleep(rider));
    EXPECT_NEAR(world.pose(rider).position.x, 1, 0.1);
    world.set_velocity(platform, {});
    test::step(world, 120);
    EXPECT_TRUE(world.is_asleep(rider));
    world.move_to(platform, {{1, 0.2}, {}});
    test::step(world, 2);
    EXPECT_GT(world.pose(rider).position.y, 1.1);
}

// What slept long before the plate set out: it is met as what is awake would be.
TYPED_TEST(SleepTest, ADrivenPlateWakesWhatItMeets) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId box = add_box<D>(world, {0, 0.5f});
    const BodyId plate =
        world.add({.motion = Motion::Kinematic, .pose = {{-6, 0.6}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 120);
    ASSERT_TRUE(world.is_asleep(box));
    world.set_velocity(plate, {2, 0});
    test::step(world, 240); // 8 m, of which 5 m to the box
    EXPECT_FALSE(world.is_asleep(box));
    EXPECT_NEAR(world.pose(box).position.x, world.pose(plate).position.x + 1, 0.01);
}

// At the highest point of a throw, weak gravity or strong; a slow spin; a thrust against a wall; a belt.
TYPED_TEST(SleepTest, WhatShouldMoveDoesNotSleep) {
    constexpr int D = TypeParam::value;
    for (const float g : {0.01f, 1.0f, 9.81f, 100.0f}) {
        World<D> world({.gravity = {0, -g}});
        const BodyId ball = test::add_ball<D>(world, {0, 0}, 0.5f);
        world.set_velocity(ball, {0, g}); // turns round after 1 s
        test::step(world, 120);
        EXPECT_FALSE(world.is_asleep(ball));
        EXPECT_NEAR(world.pose(ball).position.y, 0, 1e-3 * g);
    }
    World<D> world(test::weightless<D>());
    const BodyId top = test::add_ball<D>(world, {0, 0}, 0.5f),
                 drifting = test::add_ball<D>(world, {3, 0}, 0.5f);
    Axial<D> spin{};
    if constexpr (D == 2) spin = 0.01f;
    else spin = {0, 0.01f, 0};
    world.set_angular_velocity(top, spin);
    world.set_velocity(drifting, {0, 0.002f});
    const BodyId resting = test::add_ball<D>(world, {6, 0}, 0.5f),
                 restless = test::add_ball<D>(world, {9, 0}, 0.5f);
    world.set_may_sleep(restless, false);
    test::step(world, 200);
    EXPECT_FALSE(world.is_asleep(top));
    EXPECT_FALSE(world.is_asleep(drifting));
    EXPECT_FALSE(world.is_asleep(restless));
    EXPECT_TRUE(world.is_asleep(resting));
}

// A hair above its critical slope a box has come a hundredth of a width after half a second; so has a ball on
// a floor that is all but level.
TYPED_TEST(SleepTest, WhatBeginsToCreepDoesNotSleep) {
    constexpr int D = TypeParam::value;
    constexpr double kDegree = 3.14159265358979323846 / 180;
    const auto slope = [&](double angle, Geometry<D> shape, float friction) {
        World<D> world;
        const auto tilt = test::about_z(radians(angle), Vec<D>{});
        world.add({.motion = Motion::Static,
                   .pose = {{}, tilt},
                   .shapes = {{HalfSpace<D>{}, {.friction = friction}}}});
        const BodyId id = world.add({.pose = {{-0.5 * std::sin(angle), 0.5 * std::cos(angle)}, tilt},
                                     .shapes = {{shape, {.friction = friction}}}});
        return std::pair<World<D>, BodyId>(std::move(world), id);
    };
    constexpr double kFoundLoad = 5 * 0.3e-3; // m; it starts without load, and slips until the floor bears it
    Vec<D> cube{1, 1};
    if constexpr (D == 3) cube.z = 1;
    const double critical = std::atan(0.5);
    for (const double above : {0.02, 0.1, 0.5}) {
        auto [world, box] = slope(critical + above * kDegree, test::box_of(cube), 0.5f);
        const auto from = world.pose(box).position;
        test::step(world, 300);
        const double pull =
            9.81 * (std::sin(critical + above * kDegree) - 0.5 * std::cos(critical + above * kDegree));
        EXPECT_NEAR(length(world.pose(box).position - from), 12.5 * pull, 0.01 * 12.5 * pull + kFoundLoad)
            << above;
        EXPECT_FALSE(world.is_asleep(box)) << above;
    }
    auto [below, resting] = slope(critical - 0.1 * kDegree, test::box_of(cube), 0.5f);
    test::step(below, 60);
    EXPECT_TRUE(below.is_asleep(resting));
    auto [nearly_level, ball] = slope(0.05 * kDegree, Ball<D>{0.5f}, 0.5f);
    test::step(nearly_level, 300);
    EXPECT_FALSE(nearly_level.is_asleep(ball));
}

// Nothing stops a ball that rolls on a level floor: it sleeps if no point of it comes a hundredth of its
// width in half a second.
TYPED_TEST(SleepTest, WhatRollsOnAsSlowlyAsBeforeSleeps) {
    constexpr int D = TypeParam::value;
    for (const float speed : {0.001f, 0.0025f, 0.005f, 0.02f}) {
        World<D> world;
        test::add_floor<D>(world);
        const BodyId ball = test::add_ball<D>(world, {0, 0.15}, 0.15f, 1);
        test::step(world, 2); // it has found its load
        world.set_velocity(ball, {speed, 0});
        if constexpr (D == 2) world.set_angular_velocity(ball, -speed / 0.15f);
        else world.set_angular_velocity(ball, {0, 0, -speed / 0.15f});
        test::step(world, 120);
        EXPECT_EQ(world.is_asleep(ball), 2 * speed * 0.5f < 0.01f * 0.3f) << speed;
    }
}

// What is poured into a bin, of all kinds, each time a little otherwise: nothing in it trembles on.
TEST(SleepPlane, PiledParcelsOfAllKindsRest) {
    const std::vector<Vec2> bin{{9, 1}, {4, 0}, {-4, 0}, {-9, 1}};
    const std::vector<Geometry<2>> kinds{Box2::sized(0.8f, 0.6f), Circle{0.4f},
                                         Capsule2{{-0.3f, 0}, {0.3f, 0}, 0.2f},
                                         Polygon{{{-0.4f, -0.3f}, {0.5f, -0.2f}, {0.1f, 0.5f}}, 0.05f}};
    for (int pile = 0; pile < 12; pile++) {
        World<2> world;
        world.add({.motion = Motion::Static, .shapes = {{Polyline::open(bin)}}});
        for (int i = 0; i < 40; i++)
            world.add(
                {.pose = {{-3 + 1.2 * (i % 6) + 1e-3 * ((7 * pile + 13 * i) % 11 - 5), 0.6 + i / 6}, {}},
                 .free = {.angular_damping = 1},
                 .shapes = {
                     {kinds[static_cast<std::size_t>(i) % kinds.size()], {.rolling_resistance = 0.01f}}}});
        test::step(world, 900);
        EXPECT_EQ(world.sleepers().bodies, 40u) << "pile " << pile;
    }
}

// Tubes that lie nearly along one another bear each other at one place, which moves by metres for a turn of a
// thousandth: it must not leap to and fro from tick to tick.
TEST(SleepSpace, PiledTubesRest) {
    for (int pile = 0; pile < 6; pile++) {
        World<3> world;
        test::add_floor<3>(world);
        for (const double side : {-0.65, 0.65})
            world.add({.motion = Motion::Static,
                       .pose = {{0, 0.6, side}, {}},
                       .shapes = {{Box3::sized(2.4f, 1.2f, 0.1f)}}});
        for (int i = 0; i < 20; i++)
            world.add(
                {.pose = {{0.03 * ((7 * pile + 13 * i) % 7 - 3), 0.15 + 0.3 * (i / 4), 0.3 * (i % 4) - 0.45},
                          turned(degrees(0.7 * ((5 * pile + 11 * i) % 9 - 4)), {0, 1, 0})},
                 .free = {.linear_damping = 0.05f, .angular_damping = 0.8f},
                 .shapes = {{Capsule3{{-0.7f, 0, 0}, {0.7f, 0, 0}, 0.1f}, {.rolling_resistance = 0.002f}}}});
        test::step(world, 720);
        EXPECT_EQ(world.sleepers().bodies, 20u) << "pile " << pile;
    }
}

TYPED_TEST(SleepTest, OnlyTheIslandThatIsHitWakes) {
    constexpr int D = TypeParam::value;
    Stacks<D> s;
    const BodyId ball = test::add_ball<D>(s.world, {0, 4}, 0.3f);
    test::step(s.world, 30);
    EXPECT_TRUE(s.world.is_asleep(s.low)) << "the ball is still in the air";
    bool woke = false;
    for (int i = 0; i < 60; i++) {
        s.world.step();
        EXPECT_EQ(s.world.is_asleep(s.low), s.world.is_asleep(s.high)) << "islands wake whole";
        woke = woke || !s.world.is_asleep(s.low);
        EXPECT_TRUE(s.world.is_asleep(s.apart));
    }
    EXPECT_TRUE(woke);
    EXPECT_GT(s.world.pose(ball).position.y, 0);
}

TYPED_TEST(SleepTest, WhatIsAddedAsleepWakesTogether) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    std::vector<BodyId> row;
    for (int i = 0; i < 6; i++)
        row.push_back(
            world.add({.pose = {{1.0 * i, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}, .asleep = true}));
    const BodyId apart = world.add({.pose = {{20, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}, .asleep = true});
    EXPECT_TRUE(world.is_asleep(row[0]));
    test::step(world, 3);
    EXPECT_EQ(world.sleepers().bodies, 7u);
    EXPECT_EQ(world.sleepers().islands, 2u);
    world.apply_impulse(row[5], {0, 1});
    for (const BodyId id : row) EXPECT_FALSE(world.is_asleep(id));
    EXPECT_TRUE(world.is_asleep(apart));
    EXPECT_EQ(test::error_of([&] {
                  world.add({.motion = Motion::Static, .shapes = {{test::cube<D>(1)}}, .asleep = true});
              }).field(),
              "asleep");
}

TEST(SleepPlane, ATileThatGoesWakesWhatStoodOnIt) {
    World2 world;
    const BodyId grid =
        world.add({.motion = Motion::Static, .shapes = {{TileGrid{4, 1, 1.0f, {1, 1, 1, 1}}}}});
    const BodyId box = add_box<2>(world, {0.5, 1.5});
    test::step(world, 90);
    ASSERT_TRUE(world.is_asleep(box));
    set_cell(world, grid, 0, 0, 0, false);
    EXPECT_FALSE(world.is_asleep(box));
    test::step(world, 30);
    EXPECT_LT(world.pose(box).position.y, 1);
}

// A world restored, as a value or from bytes, sleeps and wakes as the one that went on.
TYPED_TEST(SleepTest, IsPartOfTheState) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    for (int i = 0; i < 5; i++) add_box<D>(world, {3.0 * i, 0.5}), add_box<D>(world, {3.0 * i, 1.5});
    for (int tick = 0; tick < 160; tick++) {
        if (tick == 60) world.apply_impulse(world.bodies()[4], {50, 0});
        World<D> saved, from_bytes;
        saved.restore(world.save());
        from_bytes.restore_bytes(world.save_bytes());
        world.step();
        for (World<D>* other : {&saved, &from_bytes}) {
            ASSERT_NO_FATAL_FAILURE(other->step());
            ASSERT_EQ(other->fingerprint(), world.fingerprint()) << "tick " << tick;
            ASSERT_EQ(other->sleepers().bodies, world.sleepers().bodies);
        }
    }
    EXPECT_EQ(world.sleepers().bodies, 10u);
    World<D> other;
    other.restore_bytes(world.save_bytes());
    for (World<D>* w : {&world, &other}) {
        w->remove(floor);
        test::step(*w, 20);
    }
    EXPECT_EQ(world.fingerprint(), other.fingerprint());
    EXPECT_LT(world.pose(world.bodies()[1]).position.y, 0);
}

// Random edits of a crowd: nothing is lost, nothing is not finite, and snapshots go on to the bit.
TYPED_TEST(SleepTest, RandomEdits) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    test::Numbers n(77);
    std::vector<BodyId> bodies;
    const int ticks = test::is_soak() ? 50 * test::cases() : 1500;
    for (int tick = 0; tick < ticks; tick++) {
        const auto some = [&] {
            return bodies[static_cast<std::size_t>(n.in(0, static_cast<double>(bodies.size()) - 1e-9))];
        };
        const double what = n.in(0, 12);
        if (bodies.size() < 30 || (what < 0.3 && bodies.size() < 50))
            bodies.push_back(world.add(
                {.pose = {{n.in(-5, 5), n.in(0.5, 4)}, n.rotation(Vec<D>{})},
                 .shapes = {{what < 6 ? Geometry<D>{Ball<D>{0.3f}} : Geometry<D>{test::cube<D>(0.6f)}}}}));
        else if (what < 0.6) {
            const auto k = static_cast<std::size_t>(n.in(0, static_cast<double>(bodies.size()) - 1e-9));
            world.remove(bodies[k]);
            bodies.erase(bodies.begin() + static_cast<std::ptrdiff_t>(k));
        } else if (what < 0.8) world.set_pose(some(), {{n.in(-5, 5), n.in(0.5, 4)}, n.rotation(Vec<D>{})});
        else if (what < 1.0) world.set_angular_velocity(some(), {});
        else if (what < 1.1) {
            const BodyId id = some();
            world.set_motion(id, world.motion(id) == Motion::Dynamic ? Motion::Kinematic : Motion::Dynamic);
        } else if (what < 1.2) world.set_gravity({n.f(-1, 1), -9.81f});
        else if (what < 1.3) {
            const BodyId id = some();
            world.set_layers(id, world.shape_numbers(id)[0], 1, n.in(0, 1) < 0.2 ? 2 : ~std::uint64_t{0});
        } else if (what < 1.5) { // another shape in the place of the first
            const BodyId id = some();
            world.add_shape(id, {n.in(0, 1) < 0.5 ? Geometry<D>{Ball<D>{n.f(0.2, 0.4)}}
                                                  : Geometry<D>{test::cube<D>(n.f(0.4, 0.8))}});
            world.remove_shape(id, world.shape_numbers(id)[0]);
        }
        if (tick % 100 == 50) {
            World<D> other;
            other.restore_bytes(world.save_bytes());
            ASSERT_EQ(other.fingerprint(), world.fingerprint());
            World<D> third;
            third.restore(world.save());
            for (int i = 0; i < 3; i++) other.step(), third.step();
            ASSERT_EQ(other.fingerprint(), third.fingerprint());
        }
        world.step();
        ASSERT_EQ(world.bodies().size(), bodies.size() + 1);
        ASSERT_TRUE(world.nonfinite().empty());
        std::size_t asleep = 0;
        for (const BodyId id : bodies) {
            asleep += world.is_asleep(id);
            ASSERT_TRUE(std::isfinite(world.pose(id).position.x + world.pose(id).position.y));
        }
        ASSERT_EQ(asleep, world.sleepers().bodies);
    }
}

}
}
