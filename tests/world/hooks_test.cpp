// Hooks: who may touch, what a contact becomes, and what a hook cannot do.
#include "support/dims.h"

#include <cmath>
#include <limits>
#include <map>
#include <stdexcept>

namespace astasis {
namespace {

template<typename T> class HooksTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(HooksTest, test::Dimensions);

// Balls of one colour pass through each other; each pair is asked for once.
TYPED_TEST(HooksTest, AFilterIsAskedOncePerPair) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    std::vector<BodyId> balls;
    for (int k = 0; k < 4; k++) {
        balls.push_back(test::add_ball<D>(world, {0.01 * k, 0.3 + 0.7 * k}, 0.25f));
        world.set_user_data(balls.back(), 1 + static_cast<std::uint64_t>(k % 2));
    }
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> asked;
    world.set_pair_filter([&](BodyId a, BodyId b) {
        asked[{a.index, b.index}]++;
        return world.user_data(a) != world.user_data(b);
    });
    test::step(world, 240);
    for (const auto& [pair, times] : asked) EXPECT_EQ(times, 1) << pair.first << " " << pair.second;
    EXPECT_GE(asked.size(), 5u);
    for (const auto& c : world.contacts()) EXPECT_NE(world.user_data(c.body_a), world.user_data(c.body_b));
    World<D> other;
    other.restore(world.save());
    world.set_pair_filter({});
    for (World<D>* w : {&world, &other}) test::step(*w, 1);
    EXPECT_EQ(world.fingerprint(), other.fingerprint()) << "a filter is no part of the state";
}

// A mezzanine that lets through from below and carries from above.
TYPED_TEST(HooksTest, AOneWayPlatform) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    Vec<D> size = test::all<D>(4);
    size.y = 0.2f;
    const BodyId deck =
        world.add({.motion = Motion::Static, .pose = {{0, 2}}, .shapes = {{test::box_of(size)}}});
    world.set_contact_hook([&](ContactAsked<D>& c) {
        if (c.body_a != deck && c.body_b != deck) return;
        const BodyId other = c.body_a == deck ? c.body_b : c.body_a;
        c.keep = world.previous_pose(other).position.y > 2.1 + 0.19;
    });
    const BodyId ball = test::add_ball<D>(world, {0, 0.2}, 0.2f);
    world.set_velocity(ball, {0, 8});
    double highest = 0;
    for (int tick = 0; tick < 240; tick++) {
        world.step();
        highest = std::max(highest, world.pose(ball).position.y);
    }
    EXPECT_NEAR(highest, 0.2 + 64 / (2 * 9.81), 0.01) << "nothing slowed it on its way up";
    EXPECT_NEAR(world.pose(ball).position.y, 2.3, 2e-3) << "and the deck bears it";
}

// Ice, rubber and a belt by hook are those by material.
TYPED_TEST(HooksTest, ContactsBecomeWhatTheHookSays) {
    constexpr int D = TypeParam::value;
    const auto run = [](bool by_hook) {
        World<D> world;
        ShapeSpec<D> floor{.geometry = HalfSpace<D>{}, .material = {.friction = 0.5f, .restitution = 0.1f}};
        if (!by_hook) {
            floor.material = {.friction = 0.02f, .restitution = 0.6f};
            floor.surface_velocity = {1.5f, 0};
        }
        const BodyId ground = world.add({.motion = Motion::Static, .shapes = {floor}});
        if (by_hook)
            world.set_contact_hook([ground](ContactAsked<D>& c) {
                EXPECT_EQ(c.body_a, ground);
                EXPECT_NEAR(c.normal.y, 1, 1e-5);
                c.friction = 0.02f, c.restitution = 0.6f;
                c.surface_velocity = {1.5f, 0};
            });
        const Material own{.friction = by_hook ? 0.5f : 0.02f};
        const BodyId box =
            world.add({.pose = {{0, 1}}, .velocity = {-1, 0}, .shapes = {{test::cube<D>(0.4f), own}}});
        test::step(world, 120);
        return world.pose(box);
    };
    const Pose<D> hooked = run(true), plain = run(false);
    EXPECT_EQ(hooked, plain);
    EXPECT_GT(hooked.position.x, -1.9) << "the belt slows it";
}

// Each call that changes a world is refused within a tick; the tick ends as it would have.
TYPED_TEST(HooksTest, EditsWithinATickAreRefused) {
    constexpr int D = TypeParam::value;
    const auto make = [](World<D>& world, std::vector<BodyId>& ids, JointId& joint, FieldId& field) {
        test::add_floor<D>(world);
        for (int k = 0; k < 3; k++) ids.push_back(test::add_ball<D>(world, {0.6 * k, 0.24}, 0.25f));
        joint = world.add_joint(Rod<D>{.joins = {.a = ids[0], .b = ids[1]}});
        field = world.add_field({.kind = UniformField<D>{.acceleration = {0.1f, 0}}});
    };
    World<D> quiet, world;
    std::vector<BodyId> ids, same;
    JointId joint;
    FieldId field;
    make(quiet, same, joint, field), make(world, ids, joint, field);
    const Snapshot<D> snapshot = world.save();
    const std::vector<std::byte> bytes = world.save_bytes();
    const BodyId id = ids[0];
    const std::vector<std::function<void()>> edits{
        [&] { world.step(); },
        [&] { world.add({.shapes = {{Ball<D>{1}}}}); },
        [&] { world.remove(id); },
        [&] { world.set_pose(id, {}); },
        [&] { world.set_velocity(id, {}); },
        [&] { world.set_angular_velocity(id, {}); },
        [&] { world.set_motion(id, Motion::Static); },
        [&] { world.move_to(id, {}); },
        [&] { world.set_free_motion(id, {}); },
        [&] { world.add_shape(id, {Ball<D>{1}}); },
        [&] { world.remove_shape(id, 0); },
        [&] { world.set_layers(id, 0, 1, 1); },
        [&] { world.set_group(id, 0, 1); },
        [&] { world.set_tag(id, 0, 1); },
        [&] { world.set_user_data(id, 1); },
        [&] { world.set_user_data(id, 0, 1); },
        [&] { world.set_material(id, 0, {}); },
        [&] { world.set_surface_velocity(id, 0, {}); },
        [&] { world.add_material({}); },
        [&] { world.apply_force(id, {}); },
        [&] { world.apply_force_at(id, {}, {}); },
        [&] { world.apply_torque(id, {}); },
        [&] { world.apply_impulse(id, {}); },
        [&] { world.apply_impulse_at(id, {}, {}); },
        [&] { world.apply_angular_impulse(id, {}); },
        [&] { world.add_field({.kind = UniformField<D>{}}); },
        [&] { world.remove_field(field); },
        [&] { world.set_field(field, {.kind = UniformField<D>{}}); },
        [&] { world.set_thrust(id, {}); },
        [&] { world.clear_thrust(id); },
        [&] { world.add_joint(Rod<D>{.joins = {.a = id}}); },
        [&] { world.remove_joint(joint); },
        [&] { world.set_joint(joint, Rod<D>{.joins = {.a = ids[0], .b = ids[1]}}); },
        [&] { world.set_motor(joint, {}); },
        [&] { world.set_limits(joint, {}); },
        [&] { world.set_gravity({}); },
        [&] { world.set_tick(0.01); },
        [&] { world.set_substeps(4); },
        [&] { world.set_extra_work(0); },
        [&] { world.set_sweep(id, Sweep::None); },
        [&] { world.wake(id); },
        [&] { world.set_may_sleep(id, false); },
        [&] { world.set_sleeping(false); },
        [&] { world.collect_events({}); },
        [&] { world.set_pair_filter({}); },
        [&] { world.set_contact_hook({}); },
        [&] { world.restore(snapshot); },
        [&] { world.restore_bytes(bytes); },
        [&] { world.reserve(100, 100); },
        [&] { static_cast<void>(world.save()); },
        [&] { static_cast<void>(world.save_bytes()); },
    };
    std::size_t refused = 0, asked = 0;
    world.set_contact_hook([&](ContactAsked<D>&) {
        const auto& edit = edits[asked++ % edits.size()];
        try {
            edit();
        } catch (const Error& e) {
            refused += e.field() == std::string("world");
        }
    });
    for (int tick = 0; tick < 30; tick++) {
        world.step(), quiet.step();
        ASSERT_EQ(world.fingerprint(), quiet.fingerprint()) << tick;
    }
    EXPECT_EQ(refused, asked);
    EXPECT_GT(asked, edits.size());
}

// A door that pushes no harder than it may: what is in its way gives it no more than that.
TYPED_TEST(HooksTest, APushHasABound) {
    constexpr int D = TypeParam::value;
    for (const float most : {30.0f, 0.0f}) {
        World<D> world(test::weightless<D>());
        const BodyId door =
            world.add({.motion = Motion::Kinematic, .velocity = {1, 0}, .shapes = {{test::cube<D>(1)}}});
        const BodyId crate =
            world.add({.pose = {{0.9, 0.1}},
                       .shapes = {{test::cube<D>(0.6f)}},
                       .mass = mass_of(std::vector<ShapeSpec<D>>{{test::cube<D>(0.6f)}}, 20.0f)});
        world.set_contact_hook([&](ContactAsked<D>& c) { c.most_push = most, c.friction = 0; });
        float before = 0;
        for (int tick = 0; tick < 20; tick++) {
            world.step();
            const float v = world.velocity(crate).x;
            // It gains no more than the bound gives in a tick, and all of that once both its corners touch.
            ASSERT_LE(v - before, most / 20 / 60 * 1.0001f);
            if (tick > 8) {
                ASSERT_GE(v - before, most / 20 / 60 * 0.999f);
            }
            before = v;
        }
        EXPECT_GT(world.pose(door).position.x + 0.5, world.pose(crate).position.x - 0.3 + 0.05);
        float force = 0;
        for (const auto& c : world.contacts()) force += length(c.impulse) * 60;
        EXPECT_NEAR(force, most, 1e-3f * most);
    }
}

// What is heavier than a floor bears sinks through it as the rest of its weight says; what is lighter rests.
TYPED_TEST(HooksTest, AFloorBearsUpToItsBound) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const std::vector<ShapeSpec<D>> box{{test::cube<D>(0.4f)}};
    const BodyId light = world.add({.pose = {{-2, 0.2}}, .shapes = box, .mass = mass_of(box, 4.0f)});
    const BodyId heavy = world.add({.pose = {{2, 0.2}}, .shapes = box, .mass = mass_of(box, 10.0f)});
    const BodyId fast =
        world.add({.pose = {{6, 8}}, .velocity = {0, -100}, .shapes = box, .mass = mass_of(box, 10.0f)});
    world.set_contact_hook([&](ContactAsked<D>& c) { c.most_push = 50, c.restitution = 1; });
    for (int tick = 0; tick < 30; tick++) world.step();
    EXPECT_NEAR(world.pose(light).position.y, 0.2, 2e-3);
    const double left = 9.81 - 5; // m/s2
    EXPECT_NEAR(world.velocity(heavy).y, -left * 0.5, 0.02 * left);
    EXPECT_NEAR(world.pose(heavy).position.y, 0.2 - 0.5 * left * 0.25, 0.03);
    EXPECT_LT(world.velocity(fast).y, -99);
    EXPECT_LT(world.pose(fast).position.y, -40);
    test::step(world, 60);
    EXPECT_TRUE(world.is_asleep(light));
}

// An exception or a foolish answer of a hook leaves the tick whole.
TYPED_TEST(HooksTest, WhatAHookThrowsComesAfterTheTick) {
    constexpr int D = TypeParam::value;
    World<D> world, quiet;
    for (World<D>* w : {&world, &quiet}) {
        test::add_floor<D>(*w);
        test::add_ball<D>(*w, {0, 0.24}, 0.25f);
        w->add_field({.kind = OwnField<D>{[](const SeenBody<D>&) { return FieldForce<D>{}; }}});
    }
    const FieldId bad = world.fields()[0];
    world.set_contact_hook([](ContactAsked<D>&) { throw std::runtime_error("a game's own"); });
    for (int tick = 0; tick < 5; tick++) {
        EXPECT_THROW(world.step(), std::runtime_error);
        quiet.step();
        EXPECT_EQ(world.ticks(), quiet.ticks());
        ASSERT_EQ(world.fingerprint(), quiet.fingerprint());
    }
    world.set_contact_hook([](ContactAsked<D>& c) {
        c.friction = std::numeric_limits<float>::quiet_NaN(), c.restitution = 7;
        c.surface_velocity.x = std::numeric_limits<float>::infinity();
        c.most_push = -3;
    });
    test::step(world, 5), test::step(quiet, 5);
    EXPECT_EQ(world.pose(world.bodies()[1]), quiet.pose(quiet.bodies()[1]));
    world.set_field(bad, {.kind = OwnField<D>{[](const SeenBody<D>&) -> FieldForce<D> { throw 7; }}});
    EXPECT_THROW(world.step(), int);
    world.remove_field(bad);
    EXPECT_NO_THROW(world.step());
}

}
}
