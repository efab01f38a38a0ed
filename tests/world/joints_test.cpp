// Joints in a world: what each kind holds and leaves free, stops, motors and springs.
#include "world/joints.h"

#include <cmath>
#include <functional>

namespace astasis {
namespace {

using test::about_z;
using test::hinge;
using test::kPi;
using test::z_of;

template<typename T> class JointsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(JointsTest, test::Dimensions);

// A kind with two bodies side by side, at x = 0 and x = 1, the first of which it holds.
template<int D> struct Case {
    std::string name;
    std::function<Joint<D>(BodyId, BodyId)> make;
    int free_ways;          // of the relative motion: linear and angular together
    bool is_length = false; // its first axis is, and it holds that
};
template<int D> Joined<D> both(BodyId a, BodyId b) { return {.a = a, .b = b, .at = Point<D>{0.5, 0}}; }
template<int D> Joined<D> ends(BodyId a, BodyId b) { return {.a = a, .b = b}; }
template<int D> std::vector<Case<D>> common_cases() {
    return {{"hinge", [](BodyId a, BodyId b) { return hinge<D>(both<D>(a, b)); }, 1},
            {"slider",
             [](BodyId a, BodyId b) {
                 return Slider<D>{.joins = both<D>(a, b), .axis = {0, 1}};
             },
             1},
            {"weld", [](BodyId a, BodyId b) { return Weld<D>{.joins = both<D>(a, b)}; }, 0},
            {"rod", [](BodyId a, BodyId b) { return Rod<D>{.joins = ends<D>(a, b)}; }, D == 2 ? 2 : 5, true}};
}
template<int D> std::vector<Case<D>> cases();
template<> std::vector<Case<2>> cases() { return common_cases<2>(); }
template<> std::vector<Case<3>> cases() {
    auto out = common_cases<3>();
    out.push_back({"ball joint",
                   [](BodyId a, BodyId b) {
                       return BallJoint{.joins = both<3>(a, b), .axis = {1, 0, 0}};
                   },
                   3});
    out.push_back({"universal",
                   [](BodyId a, BodyId b) {
                       return Universal{.joins = both<3>(a, b), .axis_a = {1, 0, 0}, .axis_b = {0, 1, 0}};
                   },
                   2});
    return out;
}

// All 12 (6 in the plane) velocities of two bodies, and what remains of random ones after a tick without
// gravity: as many combinations as the joint leaves free, with all momentum kept.
template<int D> std::vector<double> velocities(const World<D>& world, BodyId a, BodyId b) {
    std::vector<double> out;
    for (const BodyId i : {a, b}) {
        for (int k = 0; k < D; k++) out.push_back(world.velocity(i)[k]);
        const Axial<D> w = world.angular_velocity(i);
        if constexpr (D == 2) out.push_back(w);
        else
            for (int k = 0; k < 3; k++) out.push_back(w[k]);
    }
    return out;
}

TYPED_TEST(JointsTest, HoldWhatTheyHoldAndLeaveTheRest) {
    constexpr int D = TypeParam::value;
    for (const Case<D>& c : cases<D>()) {
        test::Numbers n(3);
        double furthest = 0, stretch = 0, turned = 0, drift = 0;
        for (int k = 0; k < 20; k++) {
            World<D> world(test::weightless<D>());
            const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.2f}),
                         b = test::add_joined<D>(world, {1, 0}, {0.3f, 0.3f}, 2);
            const JointId joint = world.add_joint(c.make(a, b));
            world.set_velocity(a, n.vec<D>(-1, 1)), world.set_velocity(b, n.vec<D>(-1, 1));
            if constexpr (D == 2)
                world.set_angular_velocity(a, n.f(-2, 2)), world.set_angular_velocity(b, n.f(-2, 2));
            else
                world.set_angular_velocity(a, n.vec<3>(-2, 2)),
                    world.set_angular_velocity(b, n.vec<3>(-2, 2));
            const Momentum<D> start = world.momentum();
            for (int t = 0; t < 240; t++) {
                world.step();
                const JointState<D> s = world.joint_state(joint);
                stretch = std::max(stretch, double{s.stretch}), turned = std::max(turned, double{s.turned});
                if (s.axis_count > 0) furthest = std::max(furthest, std::fabs(double{s.axes[0].speed}));
            }
            const Momentum<D> end = world.momentum();
            drift = std::max(drift, double{length(end.linear - start.linear)});
            drift = std::max(drift, double{length(end.angular - start.angular)});
        }
        EXPECT_LT(stretch, 1e-3) << c.name;
        EXPECT_LT(turned, 1e-3) << c.name;
        EXPECT_LT(drift, 5e-3) << c.name << ": momentum, kg m/s and kg m2/s";
        const bool has_axis = c.free_ways > 0 && !c.is_length;
        EXPECT_EQ(furthest > 0.3, has_axis) << c.name << " leaves its axis free";
    }
}

TYPED_TEST(JointsTest, AMotorReachesItsSpeedAndItsTarget) {
    constexpr int D = TypeParam::value;
    for (const bool turns : {true, false}) {
        World<D> world(test::weightless<D>());
        const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.2f});
        const Joined<D> joins{.a = a, .at = Point<D>{}};
        const Motor to_speed{.most = 10, .speed = 2};
        const JointId joint = turns ? world.add_joint(hinge<D>(joins, {}, to_speed))
                                    : world.add_joint(Slider<D>{.joins = joins, .motor = to_speed});
        test::step(world, 30);
        EXPECT_NEAR(world.joint_state(joint).axes[0].speed, 2, 1e-5);
        world.set_motor(joint, {.most = 10, .speed = 1, .target = -0.5f});
        test::step(world, 300);
        EXPECT_NEAR(world.joint_state(joint).axes[0].position, -0.5, 1e-4);
        EXPECT_NEAR(world.joint_state(joint).axes[0].speed, 0, 1e-4);
        EXPECT_NEAR(world.joint_state(joint).axes[0].motor, 0, 1e-3);
        world.set_motor(joint, {.most = 100, .target = 1.0f, .spring = {.frequency = 2, .damping_ratio = 1}});
        test::step(world, 300);
        EXPECT_NEAR(world.joint_state(joint).axes[0].position, 1, 1e-3);
    }
}

// A motor whose limit is touched leaves it when it is to go the other way, presses on it with all its force
// when it is not, and brakes in time for its target however the arm hangs on its pin: it overshoots by no
// more than a twentieth of the way.
TYPED_TEST(JointsTest, AMotorAtAStopLeavesItAndBrakesInTime) {
    constexpr int D = TypeParam::value;
    for (const float fastest : {0.0f, 3.0f}) {
        World<D> world(test::weightless<D>());
        const BodyId arm = test::add_joined<D>(world, {0.75f, 0}, {1.5f, 0.1f});
        const JointId joint = world.add_joint(hinge<D>({.a = arm, .at = Point<D>{}}, {.lower = 0, .upper = 2},
                                                       {.most = 40, .speed = fastest, .target = 0.8f}));
        float farthest = 0;
        for (int tick = 0; tick < 240; tick++) {
            test::step(world, 1);
            farthest = std::max(farthest, world.joint_state(joint).axes[0].position);
        }
        EXPECT_NEAR(world.joint_state(joint).axes[0].position, 0.8, 1e-3) << fastest;
        EXPECT_LT(farthest, 0.84) << fastest;
        world.set_motor(joint, {.most = 40, .speed = -5});
        test::step(world, 240);
        EXPECT_NEAR(world.joint_state(joint).axes[0].position, 0, 1e-5);
        EXPECT_NEAR(world.joint_state(joint).axes[0].motor, -40, 0.1);
        EXPECT_NEAR(world.joint_state(joint).axes[0].stop, 40, 0.1);
        world.set_motor(joint, {.most = kUnlimited, .speed = -5});
        test::step(world, 10);
        EXPECT_NEAR(world.joint_state(joint).axes[0].position, 0, 1e-5);
        world.set_motor(joint, {.most = kUnlimited, .speed = 5});
        test::step(world, 10);
        EXPECT_NEAR(world.joint_state(joint).axes[0].speed, 5, 1e-3);
    }
}

// A motor that is too weak stalls, and tells that it does by its torque.
TYPED_TEST(JointsTest, AWeakMotorStalls) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId arm = test::add_joined<D>(world, {0.5, 0}, {1, 0.1f});
    const JointId joint =
        world.add_joint(hinge<D>({.a = arm, .at = Point<D>{}}, {.lower = -0.2f}, {.most = 4, .speed = 1}));
    test::step(world, 600);
    const JointAxisState axis = world.joint_state(joint).axes[0];
    EXPECT_NEAR(axis.position, -0.2, 1e-3) << "it lies on its stop";
    EXPECT_NEAR(axis.motor, 4, 1e-3);
    EXPECT_NEAR(axis.stop, 9.81 * 0.5 * std::cos(0.2) - 4, 5e-3) << "which bears what the motor does not";
}

TYPED_TEST(JointsTest, StopsHoldAndRebound) {
    constexpr int D = TypeParam::value;
    for (const float e : {0.0f, 0.5f, 1.0f}) {
        World<D> world(test::weightless<D>());
        const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.2f});
        const JointId joint =
            world.add_joint(Slider<D>{.joins = {.a = a, .at = Point<D>{}},
                                      .limits = {.lower = -0.5f, .upper = 0.5f, .restitution = e}});
        world.set_velocity(a, {3, 0});
        float farthest = 0;
        for (int t = 0; t < 20; t++) {
            world.step();
            farthest = std::max(farthest, world.joint_state(joint).axes[0].position);
        }
        EXPECT_LE(farthest, 0.5f + 1e-4f);
        EXPECT_NEAR(world.velocity(a).x, -3 * e, 1e-4);
    }
    // Soft stops spring back.
    World<D> world(test::weightless<D>());
    const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.2f});
    world.add_joint(Slider<D>{.joins = {.a = a, .at = Point<D>{}},
                              .limits = {.upper = 0.1f, .spring = {.frequency = 5}}});
    world.set_velocity(a, {3, 0});
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(a).x, -3, 0.1);
}

TYPED_TEST(JointsTest, RopesGoSlackAndHold) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId a = test::add_ball<D>(world, {0, -0.5}, 0.1f);
    const JointId rope = world.add_joint(Rope<D>{.joins = {.a = a, .at = Point<D>{}}, .length = 1.0f});
    test::step(world, 6);
    EXPECT_EQ(length(world.joint_state(rope).force), 0) << "slack";
    double longest = 0;
    for (int t = 0; t < 300; t++) {
        world.step();
        longest = std::max(longest, double{world.joint_state(rope).axes[0].position});
    }
    EXPECT_NEAR(longest, 1, 1e-4);
    EXPECT_NEAR(world.pose(a).position.y, -1, 1e-4);
    EXPECT_NEAR(length(world.joint_state(rope).force), 9.81, 1e-3);
}

TYPED_TEST(JointsTest, PulleysBalance) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId light = test::add_ball<D>(world, {-1, 0}, 0.1f, 1),
                 heavy = test::add_ball<D>(world, {1, 0}, 0.1f, 3);
    const JointId pulley = world.add_joint(
        Pulley<D>{.joins = {.a = light, .b = heavy}, .over_a = {-1, 5}, .over_b = {1, 5}, .ratio = 2});
    // Atwood's machine with one side doubled: lengths a + 2 b stay; the rope pulls the heavy side by 2 T.
    test::step(world, 30);
    const double t = 0.5, tension = 3 * 9.81 / (1 + 4.0 / 3), up = tension - 9.81;
    EXPECT_NEAR(world.velocity(light).y, up * t, 5e-3);
    EXPECT_NEAR(world.velocity(heavy).y, -up / 2 * t, 5e-3);
    EXPECT_NEAR(length(world.joint_state(pulley).force), tension, 1e-2);
}

TYPED_TEST(JointsTest, GearsTurnTogether) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.4f}),
                 b = test::add_joined<D>(world, {2, 0}, {0.8f, 0.8f}, 3);
    for (const auto& [body, x] : {std::pair{a, 0.0}, {b, 2.0}})
        world.add_joint(hinge<D>({.a = body, .at = Point<D>{x, 0}}));
    world.add_joint(Gear<D>{.joins = {.a = a, .b = b}, .ratio = 2});
    world.set_angular_velocity(a, about_z<D>(12));
    test::step(world, 600);
    EXPECT_NEAR(z_of<D>(world.angular_velocity(a)), -2 * z_of<D>(world.angular_velocity(b)), 1e-4);
    EXPECT_GT(std::fabs(z_of<D>(world.angular_velocity(a))), 0.5);
}

TYPED_TEST(JointsTest, WheelsTravelOnTheirSpring) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId wheel = test::add_ball<D>(world, {0, 0.3}, 0.3f, 5),
                 body = test::add_joined<D>(world, {0, 1}, {1, 0.3f}, 50);
    if constexpr (D == 3)
        world.set_free_motion(body, {.locks = {.turn_x = true, .turn_y = true, .turn_z = true}});
    else world.set_free_motion(body, {.locks = {.turn = true}});
    Wheel<D> spec;
    spec.joins = {.a = wheel, .b = body, .at = Point<D>{0, 0.3}};
    spec.suspension = {.stiffness = 50 * 9.81f / 0.05f, .damping = 800};
    spec.drive = {.most = 30, .speed = -2};
    const JointId joint = world.add_joint(spec);
    test::step(world, 600);
    EXPECT_NEAR(world.joint_state(joint).axes[0].position, 0.05, 2e-3) << "5 cm under 50 kg";
    EXPECT_NEAR(world.velocity(body).x, 0.6, 0.02) << "driven along the floor";
    EXPECT_LT(world.joint_state(joint).stretch, 1e-4);
}

TYPED_TEST(JointsTest, TowsPullWithABoundedForce) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId a = test::add_joined<D>(world, {0, 0}, {0.4f, 0.2f});
    const JointId tow = world.add_joint(Tow<D>{.joins = {.a = a}, .target = {0, 0}, .most = 30});
    test::step(world, 120);
    EXPECT_NEAR(world.pose(a).position.y, 0, 0.02) << "held against gravity";
    world.set_tow_target(tow, {3, 4});
    float strongest = 0;
    for (int t = 0; t < 300; t++) {
        world.step();
        strongest = std::max(strongest, length(world.joint_state(tow).force));
    }
    EXPECT_LT(strongest, 30 * 1.1f);
    EXPECT_LT(length(world.pose(a).position - Point<D>{3, 4}), 0.05f);
    World<D> weak;
    const BodyId b = test::add_joined<D>(weak, {0, 0}, {0.4f, 0.2f});
    weak.add_joint(Tow<D>{.joins = {.a = b}, .target = {0, 1}, .most = 9});
    test::step(weak, 60);
    EXPECT_LT(weak.pose(b).position.y, 0) << "too weak to lift it";
}

}
}
