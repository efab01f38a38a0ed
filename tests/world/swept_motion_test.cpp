// Swept bodies move as all others do between their impacts: on the true paths of gravity, torque, damping and
// spin; and what they meet or what meets them stands in the lists of the tick. Oracles are closed forms and
// the same bodies with Sweep::None.
#include "support/cases.h"
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class SweptMotionTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SweptMotionTest, test::Dimensions);

// A small ball falls by many times its width in a substep. Its height and speed are sampled after each
// bounce, wherever in its arc; together they tell how high it comes.
TYPED_TEST(SweptMotionTest, SmallBallsBounceToTheHeightThatRestitutionSays) {
    constexpr int D = TypeParam::value;
    for (const float radius : {0.0005f, 0.001f, 0.002f})
        for (const float restitution : {0.7f, 0.9f, 1.0f})
            for (int phase = 0; phase < 10; phase++) {
                World<D> world;
                const Material bouncy{.friction = 0, .restitution = restitution};
                test::add_floor<D>(world, bouncy);
                const double height = 1 + 0.037 * phase;
                const BodyId ball = test::add_ball<D>(world, {0, radius + height}, radius, 0.001f, bouncy);
                double expected = height;
                int bounces = 0;
                for (int tick = 0; tick < 400 && bounces < 4; tick++) {
                    world.step();
                    const auto met = test::turns(world);
                    bounces += static_cast<int>(met);
                    for (std::size_t n = 0; n < met; n++) expected *= restitution * restitution;
                    const double speed = world.velocity(ball).y,
                                 comes_to = world.pose(ball).position.y - radius + speed * speed / (2 * 9.81);
                    ASSERT_NEAR(comes_to, expected, 0.002 * height)
                        << radius << " m, restitution " << restitution << ", phase " << phase << ", bounce "
                        << bounces;
                }
                ASSERT_EQ(bounces, 4);
            }
}

// A parcel flies close above a shelf, which it looks at and never meets.
template<int D> struct Flight {
    World<D> world;
    BodyId body;
};
template<int D> Flight<D> fly(Sweep sweep, test::Numbers n) {
    Flight<D> out{World<D>{}, {}};
    Vec<D> wall = test::all<D>(40);
    wall.y = 0.01f;
    out.world.add({.motion = Motion::Static, .pose = {{0, -0.08}, {}}, .shapes = {{test::box_of(wall)}}});
    Vec<D> sides = test::all<D>(0.02f);
    sides.x = n.f(0.03, 0.08), sides.y = n.f(0.01, 0.04);
    BodySpec<D> spec{.pose = {{-15, 0}, n.rotation(Vec<D>{})},
                     .velocity = {n.f(60, 200), n.f(4, 8)},
                     .shapes = {{.geometry = test::box_of(sides)}},
                     .sweep = sweep};
    spec.free.linear_damping = n.f(0, 0.5), spec.free.angular_damping = n.f(0, 2);
    if constexpr (D == 2) spec.angular_velocity = n.f(-20, 20);
    else spec.angular_velocity = n.template vec<3>(-20, 20);
    out.body = out.world.add(spec);
    return out;
}

TYPED_TEST(SweptMotionTest, WhatMeetsNothingMovesAsWithoutSweeps) {
    constexpr int D = TypeParam::value;
    for (int k = 0; k < std::max(20, test::cases() / 10); k++) {
        test::Numbers n(static_cast<std::uint64_t>(k));
        Flight<D> swept = fly<D>(Sweep::Everything, n), free = fly<D>(Sweep::None, n);
        const float torque = n.f(-1e-3, 1e-3);
        for (int tick = 0; tick < 8; tick++) {
            for (Flight<D>* f : {&swept, &free}) {
                if constexpr (D == 2) f->world.apply_torque(f->body, torque);
                else f->world.apply_torque(f->body, {torque, -0.5f * torque, 0.3f * torque});
                f->world.step();
            }
            ASSERT_EQ(test::turns(swept.world), 0u);
            ASSERT_EQ(swept.world.pose(swept.body), free.world.pose(free.body)) << k << ", tick " << tick;
            ASSERT_EQ(swept.world.velocity(swept.body), free.world.velocity(free.body)) << k;
            ASSERT_EQ(swept.world.angular_velocity(swept.body), free.world.angular_velocity(free.body)) << k;
        }
    }
}

// A smooth ball that bounces to and fro between walls, up to several times a tick: the impacts turn its
// speed round and change nothing else. Spin grows by torque and fades by damping, the fall goes on.
TYPED_TEST(SweptMotionTest, ImpactsLeaveFallTorqueAndDampingAlone) {
    constexpr int D = TypeParam::value;
    for (int k = 0; k < std::max(20, test::cases() / 10); k++) {
        test::Numbers n(static_cast<std::uint64_t>(100 + k));
        const Material perfect{.friction = 0, .restitution = 1};
        const float radius = n.f(0.005, 0.03), damping = n.f(0, 3), torque = n.f(-1e-4, 1e-4);
        const double speed = n.in(50, 150);
        const auto shot = [&](bool walls) {
            World<D> world;
            for (const double x : {-1.05, 1.05})
                if (walls)
                    world.add(
                        {.motion = Motion::Static,
                         .pose = {{x, 0}, {}},
                         .shapes = {{test::box_of(Vec<D>(test::all<D>(0.1f) + Vec<D>{0, 80})), perfect}}});
            const BodyId ball = test::add_ball<D>(world, {}, radius, 0.01f, perfect);
            FreeMotion<D> free;
            free.angular_damping = damping;
            world.set_free_motion(ball, free);
            world.set_velocity(ball, {static_cast<float>(speed), 3});
            std::size_t met = 0;
            for (int tick = 0; tick < 20; tick++) {
                if constexpr (D == 2) world.apply_torque(ball, torque);
                else world.apply_torque(ball, {torque, 2 * torque, -torque});
                world.step();
                met += test::turns(world);
            }
            EXPECT_EQ(met > 5, walls);
            return std::tuple(world.pose(ball).position, world.velocity(ball), world.angular_velocity(ball));
        };
        const auto [at, v, spin] = shot(true);
        const auto [free_at, free_v, free_spin] = shot(false);
        EXPECT_NEAR(at.y, free_at.y, 1e-4) << k;
        EXPECT_NEAR(v.y, free_v.y, 1e-3) << k;
        EXPECT_NEAR(std::fabs(v.x), speed, 1e-3 * speed) << k;
        const auto turning = [](const auto& w) {
            if constexpr (D == 2) return std::fabs(w);
            else return length(w);
        };
        EXPECT_NEAR(turning(spin), turning(free_spin), 1e-4 * turning(free_spin) + 1e-6) << k;
    }
}

// A body that overlaps a thin wall by less than half a percent of its size when a tick begins, as passes
// leave those that press on it, and comes on at any speed: it bounces or stays, it does not go through.
template<int D> void start_in_a_thin_wall(float extra_work) {
    const Material materials[2] = {{.friction = 0.5f, .restitution = 0}, {.friction = 0, .restitution = 1}};
    test::Numbers n(7);
    int through = 0;
    for (int k = 0; k < 2 * test::cases(); k++) {
        WorldSpec<D> world_spec = test::weightless<D>();
        world_spec.extra_work = extra_work;
        World<D> world(world_spec);
        const Material material = materials[k % 2];
        Vec<D> wall = test::all<D>(40);
        wall.x = 0.001f;
        world.add({.motion = Motion::Static,
                   .pose = {{0.0005, 0}, {}},
                   .shapes = {{test::box_of(wall), material}}});
        const float size = n.f(0.005, 0.5);
        const double overlap = size * n.in(0, 0.005), speed = std::pow(1000, n.in(0, 1));
        BodySpec<D> spec{.pose = {{overlap - 0.5 * size, 0}, {}},
                         .velocity = {static_cast<float>(speed), n.f(-1, 1)}};
        if (k % 3 == 0) spec.shapes = {{.geometry = Ball<D>{0.5f * size}, .material = material}};
        else spec.shapes = {{.geometry = test::cube<D>(size), .material = material}};
        const BodyId body = world.add(spec);
        test::step(world, 3);
        through += world.pose(body).position.x > 0;
        EXPECT_LT(world.pose(body).position.x, 0)
            << k << ": " << size << " m, overlap " << overlap << " m, " << speed << " m/s";
        EXPECT_LT(length(world.velocity(body)), 1.01 * speed + 1.1) << k;
        if (through > 5) return;
    }
}
TYPED_TEST(SweptMotionTest, WhatOverlapsAThinWallDoesNotPassIt) { start_in_a_thin_wall<TypeParam::value>(1); }
TYPED_TEST(SweptMotionTest, WhatOverlapsAThinWallDoesNotPassItWithoutExtraWork) {
    start_in_a_thin_wall<TypeParam::value>(0);
}

// A bat that is driven strikes a ball in flight: what the ball gains is the bat's work, and the impulse
// stands among the contacts of the tick.
TYPED_TEST(SweptMotionTest, WorkAndContactsKnowWhatSweptBodiesMeet) {
    constexpr int D = TypeParam::value;
    for (const float bat_speed : {-20.0f, 0.0f, 20.0f, 60.0f}) {
        World<D> world(test::weightless<D>());
        const Material perfect{.friction = 0, .restitution = 1};
        const BodyId bat = world.add({.motion = Motion::Kinematic,
                                      .pose = {{1, 0}, {}},
                                      .velocity = {-bat_speed, 0},
                                      .shapes = {{test::cube<D>(0.5f), perfect}}});
        const BodyId ball = test::add_ball<D>(world, {0, 0}, 0.01f, 0.1f, perfect);
        world.set_velocity(ball, {100, 0});
        const double before = world.energy(ball).kinetic;
        double impulse = 0;
        std::size_t met = 0;
        for (int tick = 0; tick < 4; tick++) {
            world.step();
            met += test::turns(world);
            for (const auto& c : world.contacts())
                if (c.body_a == ball || c.body_b == ball)
                    impulse += c.body_b == ball ? c.impulse.x : -c.impulse.x;
        }
        ASSERT_EQ(met, 1u);
        EXPECT_NEAR(world.velocity(ball).x, -(100 + 2 * bat_speed), 1e-3 * 100) << bat_speed;
        EXPECT_NEAR(impulse, 0.1 * (world.velocity(ball).x - 100), 1e-4 * 20) << bat_speed;
        EXPECT_NEAR(world.work().kinematic, world.energy(ball).kinetic - before, 1e-3 * before) << bat_speed;
        EXPECT_EQ(world.velocity(bat).x, -bat_speed);
    }
}

// The half-space turns more than what it hits again and again: it is the plane that the other one meets.
TYPED_TEST(SweptMotionTest, BoxesMeetAHalfSpaceThatTurns) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const Material bounces{.restitution = 1};
    const BodyId ramp = world.add({.motion = Motion::Kinematic, .shapes = {{HalfSpace<D>{}, bounces}}});
    Vec<D> size = test::all<D>(0.2f);
    size.x = 0.3f, size.y = 0.1f;
    for (int k = 0; k < 6; k++)
        world.add({.pose = {{0.5 + 0.7 * k, 1.0 + 0.1 * k}, {}},
                   .velocity = {0, -40.0f - static_cast<float>(k)},
                   .shapes = {{test::box_of(size), bounces}}});
    Axial<D> spin{};
    if constexpr (D == 2) spin = 9;
    else spin.z = 9;
    world.set_angular_velocity(ramp, spin);
    for (int tick = 0; tick < 60; tick++) {
        world.step();
        const Vec<D> outward = rotate(world.pose(ramp).rotation, Vec<D>{0, 1});
        for (const BodyId id : world.bodies())
            EXPECT_GT(dot(world.pose(id).position - world.pose(ramp).position, outward), -0.05f) << tick;
    }
    EXPECT_TRUE(world.nonfinite().empty());
}

}
}
