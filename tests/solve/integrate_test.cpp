#include "solve/integrate.h"

#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class FreeMotionTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(FreeMotionTest, test::Dimensions);

// v = v0 + g t, y = v0 t + g t^2/2: exact for any tick, but for float rounding.
TYPED_TEST(FreeMotionTest, AThrowIsExactAtAnyTick) {
    constexpr int D = TypeParam::value;
    for (const int rate : {30, 60, 144, 1000}) {
        World<D> world({.tick = 1.0 / rate, .substeps = 3});
        const BodyId ball = world.add({.velocity = {10, 10}, .shapes = {{Ball<D>{0.1f}}}});
        test::step(world, 2 * rate);
        EXPECT_NEAR(world.pose(ball).position.x, 20, 2e-6) << rate;
        EXPECT_NEAR(world.pose(ball).position.y, 0.38, 2e-6) << rate;
        EXPECT_FLOAT_EQ(world.velocity(ball).y, 10 - 9.81f * 2);
    }
}

// Terminal speed and path with linear damping k: y = ((v + g/k)/k)(1 - e^-kt) - g t/k.
TYPED_TEST(FreeMotionTest, DampingDoesNotDependOnTheTick) {
    constexpr int D = TypeParam::value;
    const double k = 0.5, t = 2, decay = std::exp(-k * t);
    const double x = 10 / k * (1 - decay), y = (10 + 9.81 / k) / k * (1 - decay) - 9.81 * t / k;
    for (const int rate : {30, 60, 240}) {
        World<D> world({.tick = 1.0 / rate});
        const BodyId ball =
            world.add({.velocity = {10, 10}, .free = {.linear_damping = 0.5f}, .shapes = {{Ball<D>{0.1f}}}});
        test::step(world, 2 * rate);
        const double second_order = 1.5e-5 * (30.0 / rate) * (30.0 / rate) + 1e-6;
        EXPECT_NEAR(world.pose(ball).position.x, x, second_order) << rate;
        EXPECT_NEAR(world.pose(ball).position.y, y, second_order) << rate;
        EXPECT_NEAR(world.velocity(ball).x, 10 * decay, 2e-6);
    }
}

TYPED_TEST(FreeMotionTest, SpinDecaysAsAnExponential) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    Axial<D> spin{};
    if constexpr (D == 2) spin = 30;
    else spin = {0, 30, 0};
    const BodyId ball =
        world.add({.angular_velocity = spin, .free = {.angular_damping = 0.4f}, .shapes = {{Ball<D>{0.1f}}}});
    test::step(world, 300);
    EXPECT_NEAR(length(world.angular_velocity(ball)), 30 * std::exp(-2), 1e-5);
}

// The middle axis is unstable: flips come 4.532094 s apart (Jacobi's elliptic period; Landau and Lifshitz,
// sect. 37).
TEST(FreeMotion, TheMiddleAxisFlipsOnTimeAndKeepsEnergyAndMomentum) {
    World<3> world(test::weightless<3>());
    const std::vector<ShapeSpec<3>> brick{{Box3::sized(0.1f, 0.2f, 0.3f)}};
    const BodyId body =
        world.add({.angular_velocity = {0.1f, 5, 0.1f}, .shapes = brick, .mass = mass_of(brick, 12)});
    const double energy = world.energy().kinetic;
    const Vec3 momentum = world.momentum().angular;
    double first = 0;
    for (int i = 1; i <= 3600; i++) {
        world.step();
        if (first == 0 && rotate_back(world.pose(body).rotation, world.angular_velocity(body)).y < 0)
            first = i / 60.0;
    }
    EXPECT_NEAR(first, 1.808, 0.02);
    EXPECT_NEAR(world.energy().kinetic / energy, 1, 0.01);
    EXPECT_LT(length(world.momentum().angular - momentum), 1e-3f * length(momentum));
}

// Spins that come to half a turn, or nearly, after some substep of a tick: nothing there is divided by zero,
// and what glides stays in touch with its floor.
TYPED_TEST(FreeMotionTest, HalfATurnWithinATick) {
    constexpr int D = TypeParam::value;
    for (int parts = 1; parts <= 8; parts++)
        for (const double share : {1 - 1e-5, 1 - 1e-7, 1.0, 1 + 1e-6}) {
            World<D> world;
            test::add_floor<D>(world, {.friction = 0});
            const BodyId ball = test::add_ball<D>(world, {0, 0.1}, 0.1f, 1, {.friction = 0});
            const auto spin = static_cast<float>(share * 3.14159265358979 * 60 * 8 / parts);
            if constexpr (D == 2) world.set_angular_velocity(ball, spin);
            else world.set_angular_velocity(ball, {0, 0, spin});
            test::step(world, 30);
            EXPECT_TRUE(world.nonfinite().empty()) << parts << ", " << share;
            EXPECT_NEAR(world.pose(ball).position.y, 0.1, 1e-4);
            EXPECT_NEAR(length(world.angular_velocity(ball)), spin, 1e-3f * spin);
        }
}

// A rod, a plate and a brick at up to 160 turns a second, their principal axes slanted in the body or not:
// over 10 s the angular momentum stays to rounding, and the energy of what is round about an axis too.
TEST(FreeMotion, AnySpinKeepsItsMomentumAndEnergy) {
    const Geometry<3> rod{Box3::sized(0.02f, 0.02f, 0.6f)},
        plate{Cylinder{{0, -0.01f, 0}, {0, 0.01f, 0}, 0.3f}}, brick{Box3::sized(0.1f, 0.2f, 0.3f)};
    for (const float spin : {1.0f, 30.0f, 100.0f, 300.0f, 1000.0f})
        for (const auto& [shape, swing] : {std::pair{rod, 0.0f}, {plate, 0.0f}, {brick, 4e-8f * spin * spin}})
            for (const bool slanted : {false, true}) {
                World<3> world(test::weightless<3>());
                ShapeSpec<3> spec{shape};
                if (slanted) spec.placement.rotation = turned(degrees(40), {1, 2, 3});
                world.add({.angular_velocity = {0.6f * spin, 0.64f * spin, 0.48f * spin}, .shapes = {spec}});
                const double energy = world.energy().kinetic;
                const Vec3 momentum = world.momentum().angular;
                double off = 0;
                for (int tick = 0; tick < 600; tick++) {
                    world.step();
                    off = std::max(off, std::fabs(world.energy().kinetic / energy - 1));
                }
                EXPECT_LT(off, 3e-6 + static_cast<double>(swing)) << spin;
                EXPECT_LT(length(world.momentum().angular - momentum), 3e-6f * length(momentum)) << spin;
            }
}

TYPED_TEST(FreeMotionTest, ForcesActForOneTickAndImpulsesAtOnce) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId ball = test::add_ball<D>(world, {}, 0.1f, 2);
    world.apply_force(ball, {6, 0});
    world.apply_force(ball, {6, 0});
    test::step(world, 10);
    EXPECT_NEAR(world.velocity(ball).x, 12.0 / 2 / 60, 1e-7);
    world.apply_impulse(ball, {0, 4});
    EXPECT_EQ(world.velocity(ball).y, 2.0f);
    // Off the centre: the torque is arm times force. I = m r^2/2 or 2/5 m r^2.
    World<D> other(test::weightless<D>());
    const BodyId spun = test::add_ball<D>(other, {}, 0.1f, 2);
    other.apply_impulse_at(spun, {0, 1}, {0.1, 0});
    EXPECT_NEAR(length(other.angular_velocity(spun)), 0.1 / (D == 2 ? 0.01 : 0.008), 1e-4);
    EXPECT_NEAR(length(other.velocity_at(spun, {0.1, 0}) - Vec<D>{0, 0.5f}),
                0.1 * 0.1 / (D == 2 ? 0.01 : 0.008), 1e-5);
}

TYPED_TEST(FreeMotionTest, FarFromTheOriginMotionIsTheSame) {
    constexpr int D = TypeParam::value;
    const auto bounce_from = [](double x) {
        World<D> world;
        test::add_floor<D>(world, {.restitution = 0.5f});
        const BodyId ball = test::add_ball<D>(world, {x, 1}, 0.1f, 1, {.restitution = 0.5f});
        test::step(world, 90);
        return world.pose(ball).position.y;
    };
    EXPECT_EQ(bounce_from(0), bounce_from(20000));
}

}
}
