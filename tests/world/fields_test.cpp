// Fields in a world: what each does, whom it reaches, what it wakes, and that nothing is flung or made of
// nothing.
#include "support/dims.h"

#include <cmath>

namespace astasis {
namespace {

template<typename T> class FieldsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(FieldsTest, test::Dimensions);

template<int D> Bounds<D> region(double low, double high) {
    Bounds<D> out;
    for (int k = 0; k < D; k++) out.low[k] = low, out.high[k] = high;
    return out;
}

// The spring and the orbit that a force of once a tick drives apart, as a field: amplitude and energy after
// 100 periods.
TYPED_TEST(FieldsTest, SpringsAndOrbitsKeepTheirEnergy) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId on_spring = test::add_ball<D>(world, {1, 0}, 0.1f, 2),
                 in_orbit = test::add_ball<D>(world, {0, 5}, 0.1f);
    const float k = 2 * 39.4784176f; // 1 Hz for 2 kg
    world.add_field(
        {.kind = OwnField<D>{[=](const SeenBody<D>& b) {
             const Vec<D> from = b.centre - Point<D>{};
             if (b.id == on_spring) return FieldForce<D>{from * -k, {}};
             return FieldForce<D>{from * (-125 * b.mass / (length(from) * length(from) * length(from))), {}};
         }}});
    world.set_velocity(in_orbit, {5, 0}); // a turn in 2 pi seconds
    double widest = 0;
    for (int t = 0; t < 60 * 628; t++) {
        world.step();
        if (t > 60 * 620) widest = std::max(widest, std::fabs(world.pose(on_spring).position.x));
    }
    EXPECT_NEAR(widest, 1, 1e-3);
    EXPECT_NEAR(length(world.pose(in_orbit).position - Point<D>{}), 5, 5e-3);
    EXPECT_NEAR(world.energy(in_orbit).kinetic - 25, -12.5, 1e-3 * 12.5);
}

// The same spring by apply_force grows without end: what the comment there warns of.
TYPED_TEST(FieldsTest, AForceOfOnceATickFeedsASpring) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId a = test::add_ball<D>(world, {1, 0}, 0.1f);
    double widest = 0;
    for (int t = 0; t < 1200; t++) {
        world.apply_force(a, (world.pose(a).position - Point<D>{}) * -39.4784176f);
        world.step();
        widest = std::max(widest, std::fabs(world.pose(a).position.x));
    }
    EXPECT_GT(widest, 10);
}

TYPED_TEST(FieldsTest, ActWhereAndOnWhomTheySay) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const auto add = [&](double x, std::uint64_t layers) {
        return world.add({.pose = {{x, 0}, {}},
                          .shapes = {{.geometry = Ball<D>{0.1f}, .layers = layers, .collides_with = 0}}});
    };
    const BodyId inside = add(0, 1), outside = add(5, 1), other = add(0.5, 2);
    const BodyId shell =
        world.add({.motion = Motion::Kinematic, .shapes = {{.geometry = Ball<D>{0.1f}, .collides_with = 0}}});
    const FieldId field =
        world.add_field({.kind = UniformField<D>{{0, 2}}, .within = region<D>(-1, 1), .acts_on = 1});
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(inside).y, 1, 1e-5);
    EXPECT_NEAR(world.pose(inside).position.y, 0.25, 1e-5);
    EXPECT_EQ(world.velocity(outside), Vec<D>{});
    EXPECT_EQ(world.velocity(other), Vec<D>{});
    EXPECT_EQ(world.velocity(shell), Vec<D>{});
    world.remove_field(field);
    EXPECT_FALSE(world.contains(field));
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(inside).y, 1, 1e-5) << "no more of it";
}

TYPED_TEST(FieldsTest, AttractorsFlingNothing) {
    constexpr int D = TypeParam::value;
    test::Numbers n(D);
    for (int k = 0; k < 50; k++) {
        World<D> world(test::weightless<D>());
        // Straight through the middle, or near it.
        const BodyId a = test::add_ball<D>(world, {1, n.in(-0.02, 0.02)}, 0.05f);
        world.add_field({.kind = Attraction<D>{.strength = 200}});
        float fastest = 0;
        for (int t = 0; t < 600; t++) {
            world.step();
            fastest = std::max(fastest, length(world.velocity(a)));
        }
        EXPECT_LT(length(world.pose(a).position - Point<D>{}), 1.3f)
            << "it stays as far as it came from, nearly";
        EXPECT_LT(fastest, 100);
    }
}

TYPED_TEST(FieldsTest, MutualAttractionKeepsMomentumAndEnergy) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId a = test::add_ball<D>(world, {-1, 0}, 0.1f, 3),
                 b = test::add_ball<D>(world, {2, 0}, 0.1f, 1.5f);
    world.add_field({.kind = MutualAttraction<D>{.constant = 2}});
    world.set_velocity(a, {0, -0.5f}), world.set_velocity(b, {0, 1});
    const auto energy = [&] {
        return world.energy().kinetic - 2 * 3 * 1.5 / length(world.pose(a).position - world.pose(b).position);
    };
    const double start = energy();
    test::step(world, 6000);
    EXPECT_NEAR(energy(), start, 1e-3 * std::fabs(start));
    EXPECT_LT(length(world.momentum().linear), 1e-4f);
    // The same through a body that attracts and is attracted.
    World<D> other(test::weightless<D>());
    const BodyId sun = test::add_ball<D>(other, {0, 0}, 0.1f, 100),
                 planet = test::add_ball<D>(other, {3, 0}, 0.1f, 1);
    other.add_field({.kind = Attraction<D>{.body = sun, .strength = 27, .pulls_back = true}});
    other.set_velocity(planet, {0, 3});
    test::step(other, 600);
    EXPECT_NEAR(other.momentum().linear.y, 3, 1e-4);
    EXPECT_GT(length(other.velocity(sun)), 1e-3f);
    other.remove(sun);
    EXPECT_TRUE(other.fields().empty()) << "it goes with its body";
}

TYPED_TEST(FieldsTest, WindCarriesAlong) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId a = test::add_ball<D>(world, {0, 0}, 0.1f, 2), b = test::add_ball<D>(world, {0, 3}, 0.1f, 1);
    world.add_field({.kind = Wind<D>{.velocity = {4, 0}, .damping = 1.5f}, .within = region<D>(-100, 20)});
    world.add_field({.kind = Wind<D>{.velocity = {}, .drag = 0.5f}, .within = region<D>(40, 100)});
    world.set_pose(b, {{50, 50}, {}});
    if constexpr (D == 3) world.set_pose(b, {{50, 50, 50}, {}});
    world.set_velocity(b, {8, 0});
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(a).x, 4 * (1 - std::exp(-1.5)), 1e-3);
    EXPECT_NEAR(world.velocity(b).x, 8 / (1 + 0.5 * 8), 5e-3) << "v / (1 + c v t / m)";
    // However strong, it never blows past its own speed.
    World<D> storm(test::weightless<D>());
    const BodyId leaf = test::add_ball<D>(storm, {0, 0}, 0.1f, 0.01f);
    storm.add_field({.kind = Wind<D>{.velocity = {10, 0}, .drag = 5}});
    for (int t = 0; t < 60; t++) {
        storm.step();
        EXPECT_LE(storm.velocity(leaf).x, 10.001f);
    }
    EXPECT_NEAR(storm.velocity(leaf).x, 10, 0.01);
}

TYPED_TEST(FieldsTest, WhatFloatsRestsAtItsDraught) {
    constexpr int D = TypeParam::value;
    World<D> world;
    Vec<D> size = test::all<D>(0.8f); // flat: a cube would float on its edge
    size.y = 0.4f;
    const BodyId box =
        world.add({.pose = {{0, 0.3}, {}}, .shapes = {{.geometry = test::box_of(size), .density = 400}}});
    const BodyId stone =
        world.add({.pose = {{3, 0}, {}}, .shapes = {{.geometry = Ball<D>{0.2f}, .density = 3000}}});
    world.add_field({.kind = Buoyancy<D>{.level = 0, .density = 1000, .damping = 2}});
    test::step(world, 1200);
    // 40 % of it is under water.
    EXPECT_NEAR(world.pose(box).position.y, 0.2 - 0.16, 2e-3);
    EXPECT_LT(world.pose(stone).position.y, -5);
    EXPECT_TRUE(world.is_asleep(box)) << "and it sleeps there";
    // Loaded on one side it lists to that side.
    world.apply_impulse_at(box, {0, -20}, world.centre_of_mass(box) + Vec<D>{0.15f, 0});
    test::step(world, 5);
    EXPECT_GT(std::fabs(angle_of(world.pose(box).rotation).in_degrees()), 0.5);
    test::step(world, 1200);
    EXPECT_NEAR(world.pose(box).position.y, 0.04, 3e-3);
}

TYPED_TEST(FieldsTest, ChangesWakeThoseWhomTheyReach) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const auto add = [&](double x, std::uint64_t layers) {
        return world.add(
            {.pose = {{x, 0.1}, {}}, .shapes = {{.geometry = test::cube<D>(0.2f), .layers = layers}}});
    };
    const BodyId a = add(0, 1), b = add(2, 2);
    test::step(world, 120);
    ASSERT_TRUE(world.is_asleep(a) && world.is_asleep(b));
    const FieldId field = world.add_field({.kind = UniformField<D>{{0, -1}}, .acts_on = 1});
    EXPECT_FALSE(world.is_asleep(a));
    EXPECT_TRUE(world.is_asleep(b)) << "it does not reach that";
    test::step(world, 120);
    ASSERT_TRUE(world.is_asleep(a)) << "what rests in a field sleeps";
    world.set_field(field, {.kind = UniformField<D>{{8, 0}}, .acts_on = 1});
    EXPECT_FALSE(world.is_asleep(a));
    test::step(world, 60);
    EXPECT_GT(world.pose(a).position.x, 0.2);
    world.set_field(field, {.kind = UniformField<D>{}, .acts_on = 1});
    test::step(world, 240);
    ASSERT_TRUE(world.is_asleep(a));
    world.remove_field(field);
    EXPECT_FALSE(world.is_asleep(a));
    // A moving magnet wakes what it attracts.
    World<D> yard;
    test::add_floor<D>(yard);
    const BodyId slug = yard.add({.pose = {{0, 0.1}, {}}, .shapes = {{.geometry = test::cube<D>(0.2f)}}});
    const BodyId magnet = yard.add({.motion = Motion::Kinematic, .pose = {{5, 1}, {}}});
    yard.add_field({.kind = Attraction<D>{.body = magnet, .strength = 30}});
    test::step(yard, 120);
    ASSERT_TRUE(yard.is_asleep(slug));
    yard.set_velocity(magnet, {-2, 0});
    EXPECT_FALSE(yard.is_asleep(slug));
    test::step(yard, 180);
    EXPECT_GT(length(yard.velocity(slug)) + std::fabs(yard.pose(slug).position.x), 0.05);
}

TYPED_TEST(FieldsTest, StateIsSavedWhole) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 0; i < 8; i++) test::add_ball<D>(world, {0.5 * i - 2, 1 + 0.3 * i}, 0.15f, 1);
    const BodyId sun = world.bodies()[3];
    world.add_field({.kind = Attraction<D>{.body = sun, .strength = 3, .pulls_back = true}});
    world.add_field({.kind = MutualAttraction<D>{.constant = 0.1f}});
    const FieldId gone = world.add_field({.kind = UniformField<D>{{1, 0}}});
    world.add_field({.kind = Wind<D>{.velocity = {1, 0}, .drag = 0.1f}, .within = region<D>(-1, 3)});
    world.add_field({.kind = Buoyancy<D>{.level = 0.3}});
    world.remove_field(gone);
    test::step(world, 60);
    const auto bytes = world.save_bytes();
    const auto snapshot = world.save();
    World<D> other;
    other.restore_bytes(bytes);
    test::step(world, 200);
    test::step(other, 200);
    EXPECT_EQ(world.fingerprint(), other.fingerprint());
    const auto print = world.fingerprint();
    world.restore(snapshot);
    test::step(world, 200);
    EXPECT_EQ(world.fingerprint(), print);
    // A function stays with a snapshot; bytes hold its place.
    World<D> own(test::weightless<D>());
    const BodyId a = test::add_ball<D>(own, {0, 0}, 0.1f);
    const OwnField<D> push{[](const SeenBody<D>& b) { return FieldForce<D>{Vec<D>{b.mass, 0}, {}}; }};
    const FieldId id = own.add_field({.kind = push});
    const auto before = own.save();
    World<D> from_bytes;
    from_bytes.restore_bytes(own.save_bytes());
    from_bytes.step();
    EXPECT_EQ(from_bytes.velocity(a), Vec<D>{});
    from_bytes.set_field(id, {.kind = push});
    from_bytes.step();
    EXPECT_NEAR(from_bytes.velocity(a).x, 1.0 / 60, 1e-6);
    own.restore(before);
    own.step();
    EXPECT_NEAR(own.velocity(a).x, 1.0 / 60, 1e-6);
}

// An attraction joins bodies to one island; without it each is an island of its own, as in a restored world.
TYPED_TEST(FieldsTest, BodiesThatARemovedFieldJoinedArePartedAgain) {
    constexpr int D = TypeParam::value;
    World<D> world, other;
    test::add_floor<D>(world);
    std::vector<BodyId> balls;
    for (int k = 0; k < 12; k++) balls.push_back(test::add_ball<D>(world, {3.0 * k, 0.2}, 0.2f));
    const FieldId field = world.add_field({.kind = MutualAttraction<D>{.constant = 0.1f}});
    world.step();
    world.remove_field(field);
    for (std::size_t k = 0; k < 8; k++) world.remove(balls[k]);
    other.restore_bytes(world.save_bytes());
    for (int tick = 0; tick < 10; tick++) {
        world.step(), other.step();
        ASSERT_EQ(world.fingerprint(), other.fingerprint()) << tick;
    }
}

TYPED_TEST(FieldsTest, FoolishFieldsAreRefused) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const auto refused = [&](const Field<D>& field) {
        return test::error_of([&] { world.add_field(field); }).field();
    };
    EXPECT_EQ(refused({.kind = UniformField<D>{{NAN, 0}}}), "acceleration");
    EXPECT_EQ(refused({.kind = Attraction<D>{.strength = INFINITY}}), "strength");
    EXPECT_EQ(refused({.kind = Attraction<D>{.strength = 1, .softening = 0}}), "softening");
    EXPECT_EQ(refused({.kind = Attraction<D>{.body = BodyId{}, .strength = 1}}), "body id");
    EXPECT_EQ(refused({.kind = MutualAttraction<D>{.softening = -1}}), "softening");
    EXPECT_EQ(refused({.kind = Wind<D>{.drag = -1}}), "drag");
    EXPECT_EQ(refused({.kind = Buoyancy<D>{.density = 0}}), "density");
    EXPECT_EQ(refused({.kind = UniformField<D>{}, .within = region<D>(1, -1)}), "within");
    EXPECT_EQ(test::error_of([&] { world.remove_field({}); }).field(), "field id");
    EXPECT_TRUE(world.fields().empty());
}

}
}
