// How single bodies move and are pushed: drag, gravity's share, locks, poses to go to, thrusts, blasts,
// wrapping.
#include "support/dims.h"

namespace astasis {
namespace {

using test::error_of;

template<typename T> class MotionTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(MotionTest, test::Dimensions);

template<int D> BodySpec<D> ball_of(float mass, FreeMotion<D> free = {}) {
    const std::vector<ShapeSpec<D>> shapes{{Ball<D>{0.1f}}};
    return {.free = free, .shapes = shapes, .mass = mass_of(shapes, mass)};
}
template<int D> Axial<D> about_z(float rate) {
    Axial<D> out{};
    if constexpr (D == 2) out = rate;
    else out.z = rate;
    return out;
}
float z_of(float a) { return a; }
float z_of(Vec3 a) { return a.z; }

// v = (g / k) (1 - exp(-k t)).
TYPED_TEST(MotionTest, LinearDragFallsAtItsTerminalSpeed) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId id = world.add(ball_of<D>(1, {.linear_damping = 2}));
    test::step(world, 60);
    EXPECT_NEAR(-world.velocity(id).y, 4.241179, 4e-6);
    test::step(world, 540);
    EXPECT_NEAR(-world.velocity(id).y, 4.905, 5e-6);
}

// v = v_t tanh(g t / v_t), s = v_t^2 / g ln cosh(g t / v_t), v_t = sqrt(m g / c).
TYPED_TEST(MotionTest, QuadraticDragFallsAsTheClosedForm) {
    constexpr int D = TypeParam::value;
    for (const double rate : {60.0, 30.0, 240.0}) {
        World<D> world({.tick = 1 / rate});
        const BodyId id = world.add(ball_of<D>(1, {.drag = 0.05f}));
        const double terminal = std::sqrt(9.81 / 0.05);
        const auto run_to = [&](double t) {
            test::step(world, static_cast<int>(std::lround((t - world.time()) * rate)));
        };
        run_to(1);
        EXPECT_NEAR(-world.velocity(id).y, terminal * std::tanh(9.81 / terminal), 1e-4 * 8.47);
        run_to(3);
        EXPECT_NEAR(-world.velocity(id).y, terminal * std::tanh(3 * 9.81 / terminal), 1e-4 * 13.6);
        EXPECT_NEAR(-world.pose(id).position.y,
                    terminal * terminal / 9.81 * std::log(std::cosh(3 * 9.81 / terminal)), 1e-3);
        run_to(10);
        EXPECT_NEAR(-world.velocity(id).y, terminal * std::tanh(98.1 / terminal), 1e-5 * 14);
    }
}

TYPED_TEST(MotionTest, GravityHasAShareForEach) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floats = world.add(ball_of<D>(1, {.gravity_scale = 0}));
    BodySpec<D> spec = ball_of<D>(1, {.gravity_scale = -0.5f});
    spec.pose.position.x = 3;
    const BodyId rises = world.add(spec);
    const double before = world.energy().total();
    test::step(world, 60);
    EXPECT_EQ(world.pose(floats).position.y, 0);
    EXPECT_NEAR(world.velocity(rises).y, 4.905, 1e-5);
    EXPECT_NEAR(world.energy().total(), before, 1e-4);
    FreeMotion<D> free = world.free_motion(floats);
    free.gravity_scale = 2;
    world.set_free_motion(floats, free);
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(floats).y, -2 * 9.81, 1e-4);
}

TYPED_TEST(MotionTest, LocksHoldThroughPushesAndContacts) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world, {.friction = 0.5f});
    FreeMotion<D> free;
    if constexpr (D == 2) free.locks = {.turn = true};
    else free.locks = {.turn_x = true, .turn_y = true, .turn_z = true};
    // A tall box that a push at its top would tip over.
    Vec<D> size = test::all<D>(0.4f);
    size.y = 2;
    const BodyId upright = world.add({.pose = {{0, 1}, {}}, .free = free, .shapes = {{test::box_of(size)}}});
    FreeMotion<D> rail;
    rail.locks.y = true;
    const BodyId hangs =
        world.add({.pose = {{5, 3}, {}}, .velocity = {1, 1}, .free = rail, .shapes = {{Ball<D>{0.2f}}}});
    EXPECT_EQ(world.velocity(hangs), (Vec<D>{1, 0}));
    const float mass = world.mass(upright).mass;
    for (int i = 0; i < 60; i++) {
        world.apply_force_at(upright, {0.8f * 9.81f * mass, 0}, world.pose(upright).position + Vec<D>{0, 1});
        world.step();
    }
    EXPECT_EQ(z_of(world.angular_velocity(upright)), 0);
    EXPECT_EQ(world.pose(upright).rotation, Rotation<D>{});
    EXPECT_NEAR(world.velocity(upright).x, (0.8 - 0.5) * 9.81, 0.02) << "Coulomb's law, without the tipping";
    EXPECT_EQ(world.pose(hangs).position.y, 3);
    EXPECT_NEAR(world.pose(hangs).position.x, 6, 1e-5);
    world.apply_impulse(hangs, {0, 50});
    EXPECT_EQ(world.velocity(hangs).y, 0);
    // What lands on a locked body is carried.
    const BodyId box = world.add({.pose = {{6, 3.5}, {}}, .shapes = {{test::cube<D>(0.3f)}}});
    world.set_velocity(hangs, {0, 0});
    test::step(world, 20);
    EXPECT_EQ(world.pose(hangs).position.y, 3);
    EXPECT_GT(world.pose(box).position.y, 3.3);
}

TEST(MotionSpace, ABearingTurnsAboutItsAxisOnly) {
    World3 world(test::weightless<3>());
    FreeMotion<3> free;
    free.locks = {.x = true, .y = true, .z = true, .turn_x = true, .turn_z = true};
    const Pose<3> leaning{{0, 0, 0}, turned(degrees(30), {1, 0, 0})};
    const BodyId id = world.add({.pose = leaning, .free = free, .shapes = {{Box3::sized(0.2f, 1, 0.4f)}}});
    // About y the leaning box has the inertia u.I u.
    const auto mass = world.mass(id);
    const Vec3 u = rotate_back(leaning.rotation, Vec3{0, 1, 0});
    const float inertia =
        u.x * u.x * mass.moments.x + u.y * u.y * mass.moments.y + u.z * u.z * mass.moments.z;
    world.apply_angular_impulse(id, {5, 2 * inertia, -3});
    EXPECT_NEAR(world.angular_velocity(id).y, 2, 1e-5);
    EXPECT_EQ(world.angular_velocity(id).x, 0);
    test::step(world, 60);
    EXPECT_NEAR(world.angular_velocity(id).y, 2, 1e-5) << "a bearing takes the torques of the other axes";
    const Vec3 axis = rotate(world.pose(id).rotation, u);
    EXPECT_NEAR(length(axis - Vec3{0, 1, 0}), 0, 1e-5);
}

TYPED_TEST(MotionTest, KinematicBodiesGoWhereTheyAreToldAndCarry) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId lift = world.add(
        {.motion = Motion::Kinematic, .shapes = {{test::box_of(test::all<D>(2) - Vec<D>{0, 1.8f})}}});
    const BodyId box = world.add({.pose = {{0, 0.35}, {}}, .shapes = {{test::cube<D>(0.5f)}}});
    test::step(world, 30);
    for (int i = 1; i <= 60; i++) {
        const Pose<D> to{{0.004 * i, 0.01 * i}, test::about_z(radians(0.002 * i), Vec<D>{})};
        world.move_to(lift, to);
        world.step();
        ASSERT_EQ(world.pose(lift).position, to.position);
    }
    EXPECT_NEAR(world.velocity(lift).y, 0.6, 1e-4);
    EXPECT_NEAR(z_of(world.angular_velocity(lift)), 0.12, 1e-4);
    EXPECT_NEAR(world.pose(box).position.y - world.pose(lift).position.y, 0.35, 0.01) << "carried up";
    EXPECT_NEAR(world.pose(box).position.x, 0.24, 0.06) << "and along, by friction";
    world.step();
    EXPECT_EQ(world.velocity(lift), Vec<D>{}) << "not told again, it stands";
    EXPECT_EQ(error_of([&] { world.move_to(box, {}); }).field(), "body");
    EXPECT_EQ(error_of([&] { world.move_to(lift, {{NAN, 0}, {}}); }).field(), "position");
}

TYPED_TEST(MotionTest, MotionChangesLive) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId id =
        world.add({.motion = Motion::Static, .pose = {{0, 5}, {}}, .shapes = {{test::cube<D>(1), {}, 2}}});
    test::step(world, 5);
    EXPECT_EQ(world.mass(id).mass, 0);
    world.set_motion(id, Motion::Dynamic);
    EXPECT_NEAR(world.mass(id).mass, 2, 1e-6);
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(id).y, -9.81, 1e-5);
    world.set_motion(id, Motion::Kinematic);
    EXPECT_NEAR(world.velocity(id).y, -9.81, 1e-5) << "it keeps its velocity";
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(id).y, -9.81, 1e-5);
    world.set_motion(id, Motion::Static);
    EXPECT_EQ(world.velocity(id), Vec<D>{});
    const BodyId ground = world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    EXPECT_EQ(error_of([&] { world.set_motion(ground, Motion::Dynamic); }).field(), "shapes[0].geometry");
    EXPECT_EQ(world.motion(ground), Motion::Static);
    const BodyId bare = world.add({.motion = Motion::Static});
    EXPECT_EQ(error_of([&] { world.set_motion(bare, Motion::Dynamic); }).field(), "shape");
}

TYPED_TEST(MotionTest, ThrustStaysAndForcesDoNot) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId pushed = world.add(ball_of<D>(2));
    BodySpec<D> spec = ball_of<D>(2);
    spec.pose = {{0, 5}, test::about_z(degrees(90), Vec<D>{})};
    const BodyId thrust = world.add(spec);
    world.apply_force(pushed, {120, 0});
    world.set_thrust(thrust, {.force = {4, 0}});
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(pushed).x, 1, 1e-5) << "120 N on 2 kg for one tick";
    EXPECT_NEAR(world.velocity(thrust).y, 2, 1e-4) << "4 N along the body's x, which points up";
    world.set_thrust(thrust, {.torque = about_z<D>(0.01f), .turns_with_body = false});
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(thrust).y, 2, 1e-4);
    EXPECT_GT(z_of(world.angular_velocity(thrust)), 0.1);
    world.clear_thrust(thrust);
    const float spin = z_of(world.angular_velocity(thrust));
    test::step(world, 10);
    EXPECT_EQ(z_of(world.angular_velocity(thrust)), spin);
    world.set_thrust(thrust, {.force = {1, 0}, .at = Vec<D>{0, 0.1f}, .turns_with_body = false});
    test::step(world, 1);
    EXPECT_NE(z_of(world.angular_velocity(thrust)), spin) << "off its centre it turns the body";
    EXPECT_EQ(error_of([&] { world.set_thrust(thrust, {.force = {NAN, 0}}); }).field(), "force");
}

TYPED_TEST(MotionTest, ABlastPushesAwayAndLessFarOff) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    std::vector<BodyId> ids;
    for (const double x : {1.1, 2.1, 5.1}) {
        BodySpec<D> spec = ball_of<D>(1);
        spec.pose.position = {x, 0};
        ids.push_back(world.add(spec));
    }
    EXPECT_EQ(blast(world, Blast<D>{{0, 0}, 4, 8}), 2);
    EXPECT_NEAR(world.velocity(ids[0]).x, 8 * 0.75, 1e-4); // its near side is 1 m away
    EXPECT_NEAR(world.velocity(ids[1]).x, 8 * 0.5, 1e-4);
    EXPECT_EQ(world.velocity(ids[2]), Vec<D>{});
    EXPECT_EQ(blast(world, Blast<D>{{0, 0}, 4, 8}, {.except = ids[0]}), 1);
    EXPECT_EQ(error_of([&] { blast(world, Blast<D>{{}, 0, 1}); }).field(), "radius");
}

TYPED_TEST(MotionTest, WrappingJoinsTheEdgesOfARegion) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    BodySpec<D> spec = ball_of<D>(1);
    spec.velocity = {30, 0};
    const BodyId id = world.add(spec);
    Bounds<D> region{{-2, -INFINITY}, {2, INFINITY}};
    if constexpr (D == 3) region.low.z = -1, region.high.z = 1;
    int wraps = 0;
    for (int i = 0; i < 60; i++) {
        world.step();
        if (wrap(world, id, region)) {
            wraps++;
            EXPECT_EQ(world.previous_pose(id).position, world.pose(id).position) << "no smear";
        }
        ASSERT_LT(std::fabs(world.pose(id).position.x), 2.0001);
    }
    EXPECT_EQ(wraps, 8); // 30 m from the middle of 4 m
    EXPECT_NEAR(world.pose(id).position.x, 30 - 8 * 4, 1e-4);
    EXPECT_EQ(world.velocity(id).x, 30);
}

// A parcel put on a belt slides at mu g until it has the belt's speed, over v^2 / (2 mu g); then it rides.
TYPED_TEST(MotionTest, ABeltBringsParcelsUpToItsSpeed) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const Material rubber{.friction = 0.4f};
    const BodyId belt = world.add({.motion = Motion::Static,
                                   .shapes = {{.geometry = test::box_of(test::all<D>(40) - Vec<D>{0, 39}),
                                               .material = rubber,
                                               .surface_velocity = {2, 0}}}});
    const BodyId parcel = world.add({.pose = {{0, 0.75}, {}}, .shapes = {{test::cube<D>(0.5f), rubber}}});
    test::step(world, 24);
    EXPECT_NEAR(world.velocity(parcel).x, 0.4 * 9.81 * 0.4, 0.02);
    test::step(world, 96);
    EXPECT_NEAR(world.velocity(parcel).x, 2, 1e-3);
    const double up_to_speed = 2 / (0.4 * 9.81);
    EXPECT_NEAR(world.pose(parcel).position.x, 0.5 * 2 * up_to_speed + 2 * (2 - up_to_speed), 0.02);
    EXPECT_NEAR(world.pose(parcel).position.y, 0.75, 1e-3);
    EXPECT_EQ(world.velocity(belt), Vec<D>{});
    world.set_surface_velocity(belt, 0, {});
    test::step(world, 60);
    EXPECT_NEAR(world.velocity(parcel).x, 0, 1e-3) << "the belt stands, and so does what is on it";
    EXPECT_EQ(error_of([&] { world.set_surface_velocity(belt, 0, {NAN, 0}); }).field(), "velocity");
}

// A ball of radius r rolls with a = -(c g / r) / (1 + i), where i = I / (m r^2), and stops for good.
TYPED_TEST(MotionTest, RollingResistanceStopsABall) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const Material soft{.friction = 0.8f, .rolling_resistance = 0.01f};
    const BodyId floor = test::add_floor<D>(world, soft);
    const float r = 0.2f;
    BodySpec<D> spec{.pose = {{0, r}, {}}, .velocity = {2, 0}, .shapes = {{Ball<D>{r}, soft}}};
    spec.angular_velocity = about_z<D>(-2 / r);
    const BodyId ball = world.add(spec);
    const double shape = D == 2 ? 0.5 : 0.4, slower = 0.01 * 9.81 / r / (1 + shape);
    test::step(world, 120);
    EXPECT_NEAR(world.velocity(ball).x, 2 - 2 * slower, 0.01);
    test::step(world, 500);
    EXPECT_NEAR(world.pose(ball).position.x, 2 * 2 / (2 * slower), 0.05);
    EXPECT_NEAR(length(world.velocity(ball)), 0, 1e-4);
    world.set_material(floor, 0, {.friction = -0.0f});
    EXPECT_EQ(error_of([&] { world.set_material(floor, 0, {.rolling_resistance = -1}); }).field(),
              "material.rolling_resistance");
}

TEST(MotionSpace, SpinningResistanceStopsATop) {
    World3 world;
    const Material rough{.friction = 0.5f, .spinning_resistance = 0.01f};
    test::add_floor<3>(world, rough);
    const BodyId ball = world.add(
        {.pose = {{0, 0.2, 0}, {}}, .angular_velocity = {0, 10, 0}, .shapes = {{Sphere{0.2f}, rough}}});
    test::step(world, 60);
    // torque c m g over 0.4 m r^2
    EXPECT_NEAR(world.angular_velocity(ball).y, 10 - 0.01 * 9.81 / (0.4 * 0.04), 0.05);
    test::step(world, 60);
    EXPECT_NEAR(world.angular_velocity(ball).y, 0, 1e-4);
}

// The tick may change its length at any time: time adds up, free fall stays exact, a stack goes on standing.
TYPED_TEST(MotionTest, TheTickMayChangeLive) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    std::vector<BodyId> stack;
    for (int i = 0; i < 5; i++)
        stack.push_back(world.add({.pose = {{5, 0.5 + i}, {}}, .shapes = {{test::cube<D>(1)}}}));
    const BodyId ball = test::add_ball<D>(world, {0, 100}, 0.5f);
    world.set_sleeping(false);
    double time = 0;
    for (int i = 0; i < 120; i++) {
        const double tick = 1.0 / (30 + 15 * (i % 7));
        world.set_tick(tick);
        world.set_substeps(4 + i % 9);
        world.step();
        time += tick;
        ASSERT_NEAR(world.time(), time, 1e-9);
    }
    EXPECT_NEAR(world.pose(ball).position.y, 100 - 0.5 * 9.81 * time * time, 1e-4);
    for (int i = 0; i < 5; i++)
        EXPECT_NEAR(world.pose(stack[static_cast<std::size_t>(i)]).position.y, 0.5 + i, 2e-3);
    EXPECT_EQ(test::error_of([&] { world.set_tick(0); }).field(), "tick");
    EXPECT_EQ(test::error_of([&] { world.set_substeps(0); }).field(), "substeps");
}

}
}
