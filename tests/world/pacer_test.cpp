#include "support/dims.h"

#include <random>

namespace astasis {
namespace {

using test::error_of;

template<typename T> class PacerTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(PacerTest, test::Dimensions);

template<int D> World<D> tumbling_world() {
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 0; i < 6; i++)
        world.add({.pose = {{0.1 * i, 0.6 + 0.7 * i}, test::about_z(degrees(20.0 * i), Vec<D>{})},
                   .shapes = {{test::cube<D>(0.5f)}}});
    return world;
}

// Ten seconds handed over in frames of the given lengths; the game pushes one body every tick.
template<int D, typename Frames> std::uint64_t print_after(const Frames& next_frame, const PacerSpec& spec) {
    World<D> world = tumbling_world<D>();
    Pacer<D> pacer(world, spec);
    const BodyId pushed = world.bodies()[3];
    double passed = 0;
    while (passed < 10 - 1e-9) {
        const double frame = std::min(next_frame(), 10 - passed);
        pacer.advance(frame, [&](World<D>& w) {
            w.apply_force(pushed, {static_cast<float>(100 + w.ticks()), 0});
        });
        passed += frame;
    }
    EXPECT_EQ(world.ticks(), 600u);
    return world.fingerprint();
}

TYPED_TEST(PacerTest, AnyPatternOfFrameTimesGivesTheSameMotion) {
    constexpr int D = TypeParam::value;
    std::mt19937 bits(3);
    int frames = 0;
    const auto steady = print_after<D>([] { return 1.0 / 144; }, {});
    const auto jittery = print_after<D>([&] { return (0.4 + 1.2 * (bits() % 1000) / 1000.0) / 30; },
                                        {.most_ticks_a_frame = 0});
    const auto stalled =
        print_after<D>([&] { return ++frames == 100 ? 3.0 : 1.0 / 60; }, {.most_ticks_a_frame = 0});
    EXPECT_EQ(steady, jittery);
    EXPECT_EQ(steady, stalled);
}

TYPED_TEST(PacerTest, AStallIsCutShortAndReported) {
    World<TypeParam::value> world;
    Pacer<TypeParam::value> pacer(world, {.most_ticks_a_frame = 5});
    const FrameReport report = pacer.advance(3.01);
    EXPECT_EQ(report.ticks, 5);
    EXPECT_NEAR(report.dropped_seconds, 175 / 60.0, 1e-9); // of 180 due ticks
    EXPECT_NEAR(pacer.blend(), 0.6, 1e-6);                 // a hundredth of a second waits
    EXPECT_EQ(pacer.advance(0.0).ticks, 0);
    EXPECT_EQ(pacer.advance(0.02).dropped_seconds, 0.0);
}

TYPED_TEST(PacerTest, PauseSingleTickAndSlowMotion) {
    World<TypeParam::value> world;
    Pacer<TypeParam::value> pacer(world);
    pacer.pause();
    EXPECT_EQ(pacer.advance(0.05).ticks, 0);
    int calls = 0;
    pacer.tick_once([&](auto&) { calls++; });
    EXPECT_EQ(calls, 1);
    EXPECT_EQ(world.ticks(), 1u);
    pacer.resume();
    pacer.set_rate(0.25);
    for (int i = 0; i < 60; i++) pacer.advance(1.0 / 60);
    EXPECT_EQ(world.ticks(), 16u);
    pacer.set_rate(0);
    EXPECT_EQ(pacer.advance(5).ticks, 0);
}

TYPED_TEST(PacerTest, BlendedPosesLieOnThePathOneTickBehind) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId id = test::add_ball<D>(world, {}, 0.1f);
    world.set_velocity(id, {6, 0});
    Axial<D> spin{};
    if constexpr (D == 2) spin = 3;
    else spin = {0, 0, 3};
    world.set_angular_velocity(id, spin);
    Pacer<D> pacer(world);
    double time = 0;
    for (int i = 0; i < 200; i++) {
        pacer.advance(0.007);
        time += 0.007;
        if (time < 1.0 / 60) continue;
        const Pose<D> pose = pacer.blended_pose(id);
        ASSERT_NEAR(pose.position.x, 6 * (time - 1.0 / 60), 1e-4);
        ASSERT_NEAR(angle_of(pose.rotation).in_radians(),
                    std::fabs(std::remainder(3 * (time - 1.0 / 60), 2 * M_PI)) *
                        (D == 3 || std::remainder(3 * (time - 1.0 / 60), 2 * M_PI) > 0 ? 1 : -1),
                    1e-4);
    }
    world.set_pose(id, {{100, 0}, {}});
    EXPECT_EQ(pacer.blended_pose(id).position.x, 100.0);
}

TYPED_TEST(PacerTest, BadTimesAreRefused) {
    World<TypeParam::value> world;
    Pacer<TypeParam::value> pacer(world);
    EXPECT_EQ(error_of([&] { pacer.advance(-0.1); }).field(), "frame_seconds");
    EXPECT_EQ(error_of([&] { pacer.advance(NAN); }).field(), "frame_seconds");
    EXPECT_EQ(error_of([&] { pacer.set_rate(-1); }).field(), "rate");
    EXPECT_EQ(error_of([&] { Pacer<TypeParam::value> p(world, {.most_ticks_a_frame = -1}); }).field(),
              "most_ticks_a_frame");
    EXPECT_EQ(world.ticks(), 0u);
}

}
}
