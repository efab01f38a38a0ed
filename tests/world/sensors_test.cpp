// Sensors: what they see, and when.
#include "support/dims.h"

#include <cmath>

namespace astasis {
namespace {

template<typename T> class SensorsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SensorsTest, test::Dimensions);

template<int D> BodyId add_sensor(World<D>& world, Point<D> at, Geometry<D> geometry) {
    return world.add(
        {.motion = Motion::Static, .pose = {at}, .shapes = {{.geometry = geometry, .is_sensor = true}}});
}

// 10,000 shots through barriers of 1 mm to 1 m: each enters and leaves once, at the right times.
TYPED_TEST(SensorsTest, ShotsEnterAndLeaveOnce) {
    constexpr int D = TypeParam::value;
    constexpr double kTick = 1.0 / 60;
    test::Numbers n(7 + D);
    for (int k = 0; k < 10 * ASTASIS_DEFAULT_CASES; k++) {
        const bool falls = k % 2 == 1; // along gravity, or without
        World<D> world(falls ? WorldSpec<D>{} : test::weightless<D>());
        const double thick = std::pow(10.0, n.in(-3, 0)), speed = std::pow(10.0, n.in(1, 3)),
                     ahead = n.in(0.3, 3);
        Vec<D> size = test::all<D>(3);
        size.y = static_cast<float>(thick);
        const BodyId gate = add_sensor<D>(world, {}, test::box_of(size));
        const BodyId shot = test::add_ball<D>(world, {n.in(-1, 1), 0.05 + 0.5 * thick + ahead}, 0.05f);
        world.set_velocity(shot, {n.f(-2, 2), -static_cast<float>(speed)});
        const auto time_of = [&](double way) { // until it has come so far
            return falls ? (std::sqrt(speed * speed + 2 * 9.81 * way) - speed) / 9.81 : way / speed;
        };
        const double enters = time_of(ahead), leaves = time_of(ahead + thick + 0.1);
        int entered = 0, left = 0;
        for (int tick = 0; tick < static_cast<int>(leaves / kTick) + 2; tick++) {
            world.step();
            for (const Crossing& c : world.events().entered) {
                entered++;
                ASSERT_NEAR(tick * kTick + c.time, enters, 1e-4 * kTick) << k << " at " << speed;
                ASSERT_EQ(c.body, shot);
                ASSERT_EQ(c.sensor_body, gate);
            }
            for (const Crossing& c : world.events().left) {
                left++;
                ASSERT_NEAR(tick * kTick + c.time, leaves, 1e-4 * kTick) << k << " at " << speed;
            }
        }
        ASSERT_EQ(entered, 1) << k;
        ASSERT_EQ(left, 1) << k;
    }
}

TYPED_TEST(SensorsTest, SeeWhateverStandsOrSleeps) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    world.set_layers(floor, 0, 2, ~std::uint64_t{0});
    const BodyId rack =
        world.add({.motion = Motion::Static, .pose = {{1, 0.5}}, .shapes = {{test::cube<D>(0.5f)}}});
    const BodyId crate = world.add({.pose = {{-1, 0.25}}, .shapes = {{test::cube<D>(0.5f)}}});
    test::step(world, 120);
    ASSERT_TRUE(world.is_asleep(crate));
    Vec<D> size = test::all<D>(1);
    size.x = 4;
    ShapeSpec<D> zone{.geometry = test::box_of(size), .collides_with = 1, .is_sensor = true};
    const BodyId area = world.add({.motion = Motion::Static, .pose = {{0, 0.5}}, .shapes = {zone}});
    world.step();
    EXPECT_EQ(world.events().entered.size(), 2u) << "not the floor, which is on another layer";
    EXPECT_TRUE(world.is_asleep(crate)) << "a sensor wakes nothing";
    ASSERT_EQ(world.shapes_in(area, 0).size(), 2u);
    EXPECT_EQ(world.shapes_in(area, 0)[0].body, rack);
    test::step(world, 10);
    EXPECT_TRUE(world.events().entered.empty() && world.events().left.empty());
    world.set_layers(rack, 0, 2, ~std::uint64_t{0});
    world.remove(crate);
    world.step();
    EXPECT_EQ(world.events().left.size(), 2u);
    EXPECT_TRUE(world.shapes_in(area, 0).empty());
    EXPECT_EQ(test::error_of([&] { world.shapes_in(rack, 0); }).field(), "sensor");
}

// A drone with a sensor flies over standing crates; a sensor that is removed tells the end of all in it.
TYPED_TEST(SensorsTest, MoveWithTheirBodies) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId drone = world.add({.motion = Motion::Kinematic, .velocity = {6, 0}});
    const std::uint32_t eye = world.add_shape(drone, {.geometry = Ball<D>{0.5f}, .is_sensor = true});
    for (int k = 1; k <= 5; k++)
        world.add({.motion = Motion::Static, .pose = {{2.0 * k, 0}}, .shapes = {{test::cube<D>(0.2f)}}});
    std::size_t entered = 0, left = 0;
    for (int tick = 0; tick < 100; tick++) {
        world.step();
        for (const Crossing& c : world.events().entered) {
            entered++;
            const double face = 2.0 * static_cast<double>(entered) - 0.1 - 0.5;
            EXPECT_NEAR(tick / 60.0 + c.time, face / 6, 1e-4 / 60);
        }
        left += world.events().left.size();
    }
    EXPECT_EQ(entered, 5u);
    EXPECT_EQ(left, 4u);
    world.remove_shape(drone, eye);
    world.step();
    EXPECT_EQ(world.events().left.size(), 1u);
}

// The ends of a rod that spins on the spot pass a small sensor twice a turn, a radian a tick.
TYPED_TEST(SensorsTest, SeeWhatTurnsThroughThem) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId rod = world.add({.shapes = {{Capsule<D>{{-0.3f, 0}, {0.3f, 0}, 0.01f}}}});
    if constexpr (D == 2) world.set_angular_velocity(rod, 60);
    else world.set_angular_velocity(rod, {0, 0, 60});
    add_sensor<D>(world, {0, 0.28}, test::cube<D>(0.02f));
    std::size_t entered = 0, left = 0;
    double last = -1;
    for (int tick = 0; tick < 120; tick++) {
        world.step();
        for (const Crossing& c : world.events().entered) {
            const double time = tick / 60.0 + c.time;
            if (last >= 0) {
                EXPECT_NEAR(time - last, 3.14159265 / 60, 1e-4);
            }
            last = time, entered++;
        }
        left += world.events().left.size();
    }
    EXPECT_NEAR(static_cast<double>(entered), 120 / 3.14159265, 1);
    EXPECT_EQ(left, entered);
}

TYPED_TEST(SensorsTest, NeitherPushNorWeigh) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    ShapeSpec<D> eye{.geometry = test::cube<D>(2), .is_sensor = true};
    const BodyId ball = world.add({.pose = {{0, 2}}, .shapes = {{Ball<D>{0.25f}}, eye}});
    EXPECT_EQ(world.mass(ball), (mass_of<D>({{Ball<D>{0.25f}}})));
    add_sensor<D>(world, {0, 1}, test::cube<D>(1));
    const BodyId other = world.add({.pose = {{0.8, 0.25}}, .shapes = {{Ball<D>{0.25f}}}});
    test::step(world, 120);
    EXPECT_NEAR(world.pose(ball).position.y, 0.25, 1e-3) << "it falls through the zone";
    EXPECT_NEAR(world.pose(other).position.x, 0.8, 1e-6) << "and its own sensor pushes nothing";
    EXPECT_EQ(world.shapes_in(ball, 1).size(), 2u); // the floor and the other ball, no sensor
    const Ray<D> ray{{0, 5}, {0, -4.9f}};
    EXPECT_EQ(first_hit(world, ray)->body, ball);
    EXPECT_NE(first_hit(world, ray, {.sensors = true})->fraction, first_hit(world, ray)->fraction);
    const Error bad = test::error_of([&] {
        world.add({.motion = Motion::Static, .shapes = {{.geometry = HalfSpace<D>{}, .is_sensor = true}}});
    });
    EXPECT_EQ(bad.field(), "shapes[0].is_sensor");
    EXPECT_EQ(test::error_of([&] { world.add({.shapes = {eye}}); }).field(), "shapes");
}

}
}
