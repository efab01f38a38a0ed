#include "support/dims.h"

#include <random>
#include <unordered_map>

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

// A ball between two walls that it meets several times a tick: it is drawn on its way, never behind a wall,
// and never faster than it flies.
TYPED_TEST(PacerTest, BlendedPosesFollowASweptBodyFromImpactToImpact) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const Material hard{.friction = 0, .restitution = 1};
    for (const double x : {-0.5, 0.5})
        world.add({.motion = Motion::Static,
                   .pose = {{x + (x > 0 ? 0.1 : -0.1), 0}, {}},
                   .shapes = {{test::box_of(test::all<D>(0.2f)), hard}}});
    const BodyId ball = test::add_ball<D>(world, {0.03, 0}, 0.05f, 1, hard);
    world.set_velocity(ball, {150, 0});
    Pacer<D> pacer(world);
    pacer.advance(1.0 / 60);
    const double frame = 1.0 / 60 / 40;
    Point<D> last = pacer.blended_pose(ball).position;
    double highest = 0, fastest = 0, slowest = 1e9;
    for (int i = 0; i < 400; i++) {
        pacer.advance(frame);
        const Point<D> now = pacer.blended_pose(ball).position;
        highest = std::max(highest, std::fabs(now.x));
        const bool turned = std::fabs(std::fabs(now.x) - 0.45) < 0.07; // its way there is shorter
        if (!turned) fastest = std::max<double>(fastest, length(now - last) / frame);
        if (!turned) slowest = std::min<double>(slowest, length(now - last) / frame);
        last = now;
    }
    EXPECT_LT(highest, 0.4501);
    EXPECT_GT(highest, 0.42);
    EXPECT_NEAR(fastest, 150, 0.5);
    EXPECT_NEAR(slowest, 150, 0.5);
}

// A hammer, whose origin is the end of its handle, thrown: its centre of mass goes straight.
TYPED_TEST(PacerTest, WhatTurnsIsDrawnTurningAboutItsCentreOfMass) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId id = world.add({.shapes = {{.geometry = test::cube<D>(0.3f), .placement = {{1, 0}, {}}}}});
    Axial<D> spin{};
    if constexpr (D == 2) spin = 60;
    else spin = {0, 0, 60};
    world.set_velocity(id, {0, 6});
    world.set_angular_velocity(id, spin);
    Pacer<D> pacer(world);
    pacer.advance(1.0 / 60);
    for (int i = 0; i < 60; i++) {
        const Vec<D> local = world.mass(id).centre;
        for (const Pose<D> drawn : {pacer.blended_pose(id), pacer.predicted_pose(id)}) {
            const Point<D> centre = to_world(drawn, local);
            EXPECT_NEAR(centre.x, 1, 1e-5);
        }
        EXPECT_NEAR(to_world(pacer.blended_pose(id), local).y, 6 * (i * 0.003), 1e-4);
        EXPECT_NEAR(to_world(pacer.predicted_pose(id), local).y, 6 * (i * 0.003 + 1.0 / 60), 1e-4);
        pacer.advance(0.003);
    }
}

// Whatever a game does between ticks: what was put somewhere is drawn there, and nothing is drawn to go
// farther within a frame than it went in that part of its tick.
TYPED_TEST(PacerTest, PosesStayRightAcrossSpawnsTeleportsSweepsAndSleep) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.collect_events({.strikes = true, .least_speed = 0});
    test::Numbers numbers(5);
    test::add_floor<D>(world);
    Pacer<D> pacer(world);
    std::vector<BodyId> bodies;
    std::unordered_map<BodyId, Point<D>> drawn;
    std::unordered_map<BodyId, double> fastest, earlier; // in the last tick, in the one before
    const auto somewhere = [&] {
        Point<D> at{};
        for (int k = 0; k < D; k++) at[k] = k == 1 ? numbers.in(0.2, 4) : numbers.in(-4, 4);
        return at;
    };
    std::size_t swept = 0, slept = 0;
    for (int frame = 0; frame < 1600; frame++) {
        if (frame % 40 == 0 && bodies.size() < 24) {
            BodySpec<D> spec{.pose = {somewhere(), {}},
                             .velocity = numbers.vec<D>(-120, 120),
                             .shapes = {{test::cube<D>(0.2f)}}};
            if (bodies.size() % 2) spec.velocity = {};
            bodies.push_back(world.add(spec));
            drawn[bodies.back()] = spec.pose.position;
            EXPECT_EQ(pacer.blended_pose(bodies.back()), spec.pose);
        }
        if (frame % 90 == 50) {
            const BodyId id = bodies[static_cast<std::size_t>(frame) % bodies.size()];
            const Pose<D> there{somewhere(), {}};
            world.set_pose(id, there);
            EXPECT_EQ(pacer.blended_pose(id), there);
            drawn[id] = there.position;
        }
        std::unordered_map<BodyId, double> before;
        for (const BodyId id : bodies) before[id] = length(world.velocity(id));
        const bool ticked = pacer.advance(1.0 / 240).ticks > 0; // then the frame ends the tick before
        if (ticked) {
            earlier = fastest;
            for (const BodyId id : bodies)
                fastest[id] =
                    std::max({double(before[id]), double(length(world.velocity(id))),
                              60.0 * length(world.pose(id).position - world.previous_pose(id).position)});
            for (const auto& strike : world.events().strikes)
                for (const BodyId id : {strike.body_a, strike.body_b})
                    if (fastest.contains(id)) fastest[id] += length(strike.impulse) / world.mass(id).mass;
        }
        swept += test::turns(world);
        for (const BodyId id : bodies) {
            const Pose<D> now = pacer.blended_pose(id);
            if (world.is_asleep(id)) {
                slept++;
                EXPECT_EQ(now, world.pose(id));
                EXPECT_EQ(pacer.predicted_pose(id), world.pose(id));
            }
            EXPECT_LE(length(now.position - drawn[id]),
                      (std::max(fastest[id], ticked ? earlier[id] : 0) + 0.5) / 240)
                << "frame " << frame << ", body " << id.index << ", blend " << pacer.blend();
            drawn[id] = now.position;
        }
    }
    EXPECT_GT(swept, 20u);
    EXPECT_GT(slept, 20u);
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
    const BodyId ball = test::add_ball<TypeParam::value>(world, {}, 1);
    EXPECT_EQ(error_of([&] { world.pose_within_tick(ball, 1.5); }).field(), "share");
    EXPECT_EQ(error_of([&] { world.pose_within_tick(ball, NAN); }).field(), "share");
}

}
}
