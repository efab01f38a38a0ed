// Edits between ticks, ids, and everything that is refused.
#include "support/dims.h"

#include <functional>

namespace astasis {
namespace {

using test::error_of;

template<typename T> class WorldTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(WorldTest, test::Dimensions);

template<int D> BodySpec<D> good_spec() { return {.shapes = {{test::cube<D>(1)}}}; }

TYPED_TEST(WorldTest, StagesAreTimedWhenAsked) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    test::add_ball<D>(world, {0, 0.1}, 0.1f);
    world.step();
    EXPECT_EQ(world.stage_times().total(), 0);
    world.set_timing(true);
    world.step();
    const StageTimes t = world.stage_times();
    for (const double s : {t.pairs, t.manifolds, t.solving, t.events, t.sleep, t.rest}) {
        EXPECT_GT(s, 0);
        EXPECT_LT(s, t.total());
    }
    world.set_timing(false);
    EXPECT_EQ(world.stage_times().solving, 0);
}

TYPED_TEST(WorldTest, ATickIsCounted) {
    constexpr int D = TypeParam::value;
    World<D> world({.sleeping = false});
    EXPECT_EQ(world.tick_counts().pairs, 0u);
    test::add_floor<D>(world);
    for (int k = 0; k < 3; k++) test::add_ball<D>(world, {2.0 * k, 0.1}, 0.1f);
    const BodyId top = test::add_ball<D>(world, {0, 0.3}, 0.1f);
    const BodyId hung = test::add_ball<D>(world, {9, 5}, 0.1f);
    world.add_joint(Hinge<D>{.joins = {.a = hung}});
    world.add({.motion = Motion::Kinematic, .pose = {{20, 5}}, .shapes = {{Ball<D>{0.1f}}}});
    world.step();
    const TickCounts c = world.tick_counts();
    EXPECT_EQ(c.moving, 6u);
    EXPECT_EQ(c.pairs, 6u); // the floor is near to all
    EXPECT_EQ(c.manifolds, 4u);
    EXPECT_EQ(c.points, 4u);
    EXPECT_EQ(c.joints, 1u);
    EXPECT_EQ(c.islands, 4u);
    EXPECT_EQ(c.turns, 0u);
    world.set_pose(top, {{15, 0.3}});
    world.set_velocity(top, {0, -600});
    world.step();
    EXPECT_GT(world.tick_counts().turns, 0u);
}

TYPED_TEST(WorldTest, RemovedBodiesLeaveStaleIds) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId a = world.add(good_spec<D>()), b = world.add(good_spec<D>());
    world.remove(a);
    EXPECT_FALSE(world.contains(a));
    EXPECT_TRUE(world.contains(b));
    const BodyId c = world.add(good_spec<D>()); // takes the slot of a
    EXPECT_EQ(c.index, a.index);
    EXPECT_NE(c, a);
    const Error e = error_of([&] { static_cast<void>(world.pose(a)); });
    EXPECT_EQ(e.field(), "body id");
    EXPECT_NE(e.given().find("stale"), std::string::npos);
    const std::vector<std::function<void()>> calls{[&] { world.remove(a); },
                                                   [&] { static_cast<void>(world.velocity(a)); },
                                                   [&] { static_cast<void>(world.mass(a)); },
                                                   [&] { static_cast<void>(world.shapes(a)); },
                                                   [&] { world.set_pose(a, {}); },
                                                   [&] { world.set_velocity(a, {}); },
                                                   [&] { world.apply_force(a, {}); },
                                                   [&] { static_cast<void>(world.pose(BodyId{})); }};
    for (const auto& call : calls) EXPECT_EQ(error_of(call).field(), "body id");
    EXPECT_EQ(world.bodies().size(), 2u);
}

TYPED_TEST(WorldTest, UserDataAndShapesComeBack) {
    constexpr int D = TypeParam::value;
    World<D> world;
    BodySpec<D> spec = good_spec<D>();
    spec.user_data = 42;
    spec.shapes.push_back({.geometry = Ball<D>{0.2f}, .material = {.friction = 0.9f}});
    const BodyId id = world.add(spec);
    EXPECT_EQ(world.user_data(id), 42u);
    ASSERT_EQ(world.shapes(id).size(), 2u);
    EXPECT_EQ(world.shapes(id)[1].material.friction, 0.9f);
    EXPECT_EQ(world.motion(id), Motion::Dynamic);
}

// Every value that is refused: the field that the error names, and that nothing was added.
TYPED_TEST(WorldTest, BadSpecsAreRefusedByName) {
    constexpr int D = TypeParam::value;
    struct Case {
        std::string field;
        std::function<void(BodySpec<D>&)> spoil;
    };
    const auto size = [](float s) { return Geometry<D>(test::cube<D>(s)); };
    const std::vector<Case> cases{
        {"pose.position", [](auto& s) { s.pose.position.y = NAN; }},
        {"pose.position", [](auto& s) { s.pose.position.x = INFINITY; }},
        {"pose.rotation",
         [](auto& s) {
             s.pose.rotation = {0, 0};
         }},
        {"velocity", [](auto& s) { s.velocity.x = NAN; }},
        {"angular_velocity",
         [](auto& s) {
             if constexpr (D == 2) s.angular_velocity = NAN;
             else s.angular_velocity.z = NAN;
         }},
        {"free.linear_damping", [](auto& s) { s.free.linear_damping = -1; }},
        {"free.angular_damping", [](auto& s) { s.free.angular_damping = NAN; }},
        {"free.drag", [](auto& s) { s.free.drag = INFINITY; }},
        {"free.gravity_scale", [](auto& s) { s.free.gravity_scale = NAN; }},
        {"shapes[0].geometry.width", [&](auto& s) { s.shapes[0].geometry = size(0); }},
        {"shapes[0].geometry.width", [&](auto& s) { s.shapes[0].geometry = size(-2); }},
        {"shapes[0].geometry.width", [&](auto& s) { s.shapes[0].geometry = size(NAN); }},
        {"shapes[1].geometry.radius", [](auto& s) { s.shapes.push_back({Ball<D>{0}}); }},
        {"shapes[0].geometry", [](auto& s) { s.shapes[0].geometry = HalfSpace<D>{}; }},
        {"shapes[1].geometry.outward",
         [](auto& s) {
             s.shapes.push_back({HalfSpace<D>{{0, 0}}});
         }},
        {"shapes[0].density", [](auto& s) { s.shapes[0].density = 0; }},
        {"shapes[0].density", [](auto& s) { s.shapes[0].density = -5; }},
        {"shapes[0].material.friction", [](auto& s) { s.shapes[0].material.friction = -0.1f; }},
        {"shapes[0].material.restitution", [](auto& s) { s.shapes[0].material.restitution = 1.5f; }},
        {"shapes[0].placement.position", [](auto& s) { s.shapes[0].placement.position.y = NAN; }},
        {"shapes", [](auto& s) { s.shapes.clear(); }},
        {"shapes", [&](auto& s) { s.shapes[0].geometry = size(1e-30f); }},
        {"mass.mass", [](auto& s) { s.mass = MassProperties<D>{}; }},
        {"mass.mass", [](auto& s) { s.mass = MassProperties<D>{.mass = -3}; }},
        {"mass.centre",
         [](auto& s) {
             s.mass = MassProperties<D>{.mass = 1, .centre = {NAN, 0}};
         }},
    };
    World<D> world;
    for (const Case& c : cases) {
        BodySpec<D> spec = good_spec<D>();
        c.spoil(spec);
        EXPECT_EQ(error_of([&] { world.add(spec); }).field(), c.field);
        EXPECT_TRUE(world.bodies().empty());
    }
    BodySpec<D> still = good_spec<D>();
    still.motion = Motion::Static;
    still.velocity.x = 1;
    EXPECT_EQ(error_of([&] { world.add(still); }).field(), "velocity");
}

TEST(World, InertiaIsChecked) {
    World2 plane;
    BodySpec<2> flat{.mass = MassProperties<2>{.mass = 1, .inertia = -1}};
    EXPECT_EQ(error_of([&] { plane.add(flat); }).field(), "mass.inertia");
    World3 space;
    BodySpec<3> solid{.mass = MassProperties<3>{.mass = 1, .moments = {1, 0, 1}}};
    EXPECT_EQ(error_of([&] { space.add(solid); }).field(), "mass.moments");
    solid.mass->moments = {}; // never turns
    const BodyId id = space.add(solid);
    space.apply_angular_impulse(id, {1, 2, 3});
    EXPECT_EQ(space.angular_velocity(id), Vec3{});
}

TYPED_TEST(WorldTest, BadSettingsAndValuesAreRefused) {
    constexpr int D = TypeParam::value;
    EXPECT_EQ(error_of([] { World<D> w({.gravity = {NAN, 0}}); }).field(), "gravity");
    EXPECT_EQ(error_of([] { World<D> w({.tick = 0}); }).field(), "tick");
    EXPECT_EQ(error_of([] { World<D> w({.tick = NAN}); }).field(), "tick");
    EXPECT_EQ(error_of([] { World<D> w({.substeps = 0}); }).field(), "substeps");
    World<D> world;
    const BodyId id = world.add(good_spec<D>());
    const BodyId wall = test::add_floor<D>(world);
    const auto print = world.fingerprint();
    EXPECT_EQ(error_of([&] { world.set_pose(id, {{NAN, 0}, {}}); }).field(), "position");
    EXPECT_EQ(error_of([&] { world.set_pose(id, {{}, {0, 0}}); }).field(), "rotation");
    EXPECT_EQ(error_of([&] { world.set_velocity(id, {INFINITY, 0}); }).field(), "velocity");
    EXPECT_EQ(error_of([&] { world.apply_force(id, {NAN, 0}); }).field(), "force");
    EXPECT_EQ(error_of([&] { world.apply_force_at(id, {1, 0}, {NAN, 0}); }).field(), "at");
    EXPECT_EQ(error_of([&] { world.apply_impulse(id, {NAN, 0}); }).field(), "impulse");
    EXPECT_EQ(error_of([&] { world.apply_impulse_at(id, {1, 0}, {0, INFINITY}); }).field(), "at");
    EXPECT_EQ(error_of([&] { world.set_gravity({0, NAN}); }).field(), "gravity");
    EXPECT_EQ(error_of([&] { world.apply_impulse_at(id, {1, 3e38f}, {100, 0}); }).field(), "at");
    EXPECT_EQ(error_of([&] { world.apply_force(wall, {1, 0}); }).field(), "body");
    EXPECT_EQ(error_of([&] { world.set_velocity(wall, {1, 0}); }).field(), "body");
    EXPECT_EQ(error_of([] { mass_of<D>({{HalfSpace<D>{}}}); }).field(), "shapes[0].geometry");
    EXPECT_EQ(error_of([] { mass_of<D>({{test::cube<D>(1)}}, 0); }).field(), "total_mass");
    EXPECT_EQ(world.fingerprint(), print);
}

TYPED_TEST(WorldTest, PosesAreThoseOfTheOriginNotOfTheCentreOfMass) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    BodySpec<D> spec = good_spec<D>();
    spec.shapes[0].placement.position = {2, 0};
    spec.pose = {{1, 1}, test::about_z(degrees(90), Vec<D>{})};
    const BodyId id = world.add(spec);
    EXPECT_NEAR(world.pose(id).position.x, 1, 1e-6);
    EXPECT_NEAR(world.centre_of_mass(id).x, 1, 1e-6);
    EXPECT_NEAR(world.centre_of_mass(id).y, 3, 1e-6);
    Axial<D> spin{};
    if constexpr (D == 2) spin = 1;
    else spin = {0, 0, 1};
    world.set_angular_velocity(id, spin);
    test::step(world, 60);
    EXPECT_NEAR(world.centre_of_mass(id).y, 3, 1e-6); // it turns about its centre of mass
    EXPECT_NEAR(world.pose(id).position.x, 1 + 2 * std::sin(1), 1e-4);
}

TYPED_TEST(WorldTest, TeleportsForgetContactsAndLeaveNoSmear) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId box = world.add({.pose = {{0, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 30);
    EXPECT_FALSE(world.contacts().empty());
    world.set_pose(box, {{50, 20}, {}});
    EXPECT_TRUE(world.contacts().empty());
    EXPECT_EQ(world.previous_pose(box), world.pose(box));
    world.step();
    EXPECT_NEAR(world.previous_pose(box).position.y, 20, 1e-9);
    EXPECT_TRUE(world.contacts().empty());
}

TYPED_TEST(WorldTest, RemovalDropsWhatRestedOnIt) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    const BodyId box = world.add({.pose = {{0, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 30);
    world.remove(floor);
    EXPECT_TRUE(world.contacts().empty());
    test::step(world, 60);
    EXPECT_NEAR(world.pose(box).position.y, 0.5 - 0.5 * 9.81, 0.01);
}

TYPED_TEST(WorldTest, RandomEditsLeaveASoundWorld) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    test::Numbers n(31);
    std::vector<BodyId> alive;
    for (int i = 0; i < 600; i++) {
        const double what = n.in(0, 1);
        if (what < 0.35 || alive.empty()) {
            alive.push_back(
                world.add({.pose = {{n.in(-2, 2), n.in(0.3, 4)}, n.rotation(Vec<D>{})},
                           .shapes = {{n.in(0, 1) < 0.5 ? Geometry<D>(Ball<D>{n.f(0.1, 0.4)})
                                                        : Geometry<D>(test::cube<D>(n.f(0.2, 0.6)))}}}));
        } else {
            const auto k = static_cast<std::size_t>(n.in(0, static_cast<double>(alive.size())));
            if (what < 0.6) {
                world.remove(alive[k]);
                alive.erase(alive.begin() + static_cast<std::ptrdiff_t>(k));
            } else if (what < 0.8) {
                world.set_pose(alive[k], {{n.in(-2, 2), n.in(0.3, 4)}, n.rotation(Vec<D>{})});
            } else {
                world.apply_impulse_at(alive[k], n.template vec<D>(-50, 50), world.pose(alive[k]).position);
            }
        }
        world.step();
        for (const auto& c : world.contacts())
            ASSERT_TRUE(world.contains(c.body_a) && world.contains(c.body_b));
    }
    ASSERT_EQ(world.bodies().size(), alive.size() + 1);
    EXPECT_TRUE(world.nonfinite().empty());
    for (const BodyId id : alive) {
        ASSERT_TRUE(std::isfinite(world.pose(id).position.y));
        ASSERT_GT(world.pose(id).position.y, -0.5);
    }
}

// Of a pile of one on a floor: whether it falls through with these layers, meets and groups.
template<int D> bool falls(ShapeSpec<D> floor, ShapeSpec<D> box) {
    World<D> world;
    world.add({.motion = Motion::Static, .shapes = {floor}});
    const BodyId id = world.add({.pose = {{0, 0.5}, {}}, .shapes = {box}});
    test::step(world, 30);
    return world.pose(id).position.y < 0;
}

TYPED_TEST(WorldTest, LayersAndGroupsKeepShapesApart) {
    constexpr int D = TypeParam::value;
    ShapeSpec<D> floor{HalfSpace<D>{}}, box{test::cube<D>(1)};
    EXPECT_FALSE(falls<D>(floor, box));
    box.collides_with = 2;
    EXPECT_TRUE(falls<D>(floor, box)) << "the floor is on layer 1";
    floor.layers = 2;
    EXPECT_FALSE(falls<D>(floor, box));
    floor.collides_with = 4;
    EXPECT_TRUE(falls<D>(floor, box)) << "both must meet the other";
    box.layers = 4;
    EXPECT_FALSE(falls<D>(floor, box));
    floor.group = box.group = 3;
    EXPECT_TRUE(falls<D>(floor, box));
    box.group = 4;
    EXPECT_FALSE(falls<D>(floor, box));
}

TYPED_TEST(WorldTest, LayersChangeLive) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    const BodyId box = world.add({.pose = {{0, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 30);
    EXPECT_NEAR(world.pose(box).position.y, 0.5, 1e-3);
    world.set_layers(floor, 0, 1, 0);
    test::step(world, 6);
    EXPECT_LT(world.pose(box).position.y, 0.47);
    world.set_layers(floor, 0, 1, 1);
    test::step(world, 60);
    EXPECT_NEAR(world.pose(box).position.y, 0.5, 5e-3);
    world.set_group(floor, 0, 9);
    world.set_group(box, 0, 9);
    test::step(world, 30);
    EXPECT_LT(world.pose(box).position.y, 0);
    EXPECT_EQ(error_of([&] { world.set_group(box, 1, 9); }).field(), "shape");
    EXPECT_EQ(error_of([&] { world.set_layers(BodyId{}, 0, 1, 1); }).field(), "body id");
}

TYPED_TEST(WorldTest, BodiesAreListedAsTheyCame) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.reserve(6, 6);
    std::vector<BodyId> ids;
    for (const Motion m :
         {Motion::Dynamic, Motion::Static, Motion::Kinematic, Motion::Static, Motion::Dynamic})
        ids.push_back(world.add({.motion = m, .shapes = {{test::cube<D>(1)}}, .user_data = ids.size()}));
    EXPECT_TRUE(std::equal(ids.begin(), ids.end(), world.bodies().begin(), world.bodies().end()));
    for (std::size_t i = 0; i < ids.size(); i++) EXPECT_EQ(world.user_data(ids[i]), i);
    world.remove(ids[1]);
    EXPECT_EQ(world.motion(ids[2]), Motion::Kinematic);
    world.remove(ids[0]);
    EXPECT_EQ(world.user_data(ids[4]), 4u);
    EXPECT_EQ(world.bodies().size(), 3u);
}

TYPED_TEST(WorldTest, WhatStopsBeingFiniteIsHeldAndSpreadsNothing) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId good = world.add({.pose = {{0, 0.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    const BodyId bad = world.add({.pose = {{0, 1.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 10);
    world.set_velocity(bad, {3e38f, 3e38f});
    test::step(world, 10);
    ASSERT_EQ(world.nonfinite().size(), 1u);
    EXPECT_EQ(world.nonfinite()[0], bad);
    EXPECT_EQ(world.velocity(bad), Vec<D>{});
    EXPECT_NEAR(world.pose(bad).position.y, 1.5, 0.01);
    EXPECT_NEAR(world.pose(good).position.y, 0.5, 0.01);
}

// A game that pushes a body in every tick goes on when that body is held.
TYPED_TEST(WorldTest, WhatIsHeldTakesNoPush) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId bad = test::add_ball<D>(world, {0, 3}, 0.5f);
    world.set_velocity(bad, {3e38f, 0});
    world.step();
    ASSERT_EQ(world.nonfinite().size(), 1u);
    const auto held = world.fingerprint();
    world.apply_force(bad, {1, 0}), world.apply_force_at(bad, {1, 0}, {0, 1});
    world.apply_torque(bad, Axial<D>{1});
    world.apply_impulse(bad, {1, 0}), world.apply_impulse_at(bad, {1, 0}, {0, 1});
    world.apply_angular_impulse(bad, Axial<D>{1});
    world.set_velocity(bad, {1, 0}), world.set_angular_velocity(bad, Axial<D>{1});
    world.set_thrust(bad, {.force = {1, 0}});
    world.move_to(bad, {{0, 5}, {}});
    EXPECT_EQ(world.fingerprint(), held);
    EXPECT_EQ(error_of([&] { world.apply_force(bad, {NAN, 0}); }).field(), "force");
    world.set_motion(bad, Motion::Dynamic);
    world.apply_impulse(bad, {1, 0});
    world.step();
    EXPECT_GT(world.velocity(bad).x, 0.5f) << "set free again, it takes them";
    EXPECT_TRUE(world.nonfinite().empty());
}

}
}
