// Joints over their lives: breaking, touching, sleep, edits, state, and how they bear and swing for long.
#include "world/joints.h"

#include <cmath>

namespace astasis {
namespace {

using test::hinge;

template<typename T> class JointLife : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(JointLife, test::Dimensions);

TYPED_TEST(JointLife, BrokenJointsHoldNothing) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId a = test::add_ball<D>(world, {0, -1}, 0.1f, 1);
    const JointId rod = world.add_joint(Rod<D>{.joins = {.a = a, .at = Point<D>{}, .breaking_force = 20}});
    test::step(world, 60);
    EXPECT_FALSE(world.joint_state(rod).broken);
    world.apply_force(a, {0, -15});
    world.step();
    ASSERT_TRUE(world.joint_state(rod).broken);
    ASSERT_EQ(world.broken_joints().size(), 1u);
    EXPECT_EQ(world.broken_joints()[0], rod);
    test::step(world, 60);
    EXPECT_TRUE(world.broken_joints().empty());
    EXPECT_LT(world.pose(a).position.y, -5);
    EXPECT_EQ(length(world.joint_state(rod).force), 0);
    world.set_joint(rod, Rod<D>{.joins = {.a = a, .at = world.pose(a).position + Vec<D>{0, 1}}});
    EXPECT_FALSE(world.joint_state(rod).broken);
    test::step(world, 300);
    EXPECT_LT(world.joint_state(rod).stretch, 1e-4);
}

TYPED_TEST(JointLife, JoinedBodiesDoNotTouchUnlessTold) {
    constexpr int D = TypeParam::value;
    for (const bool collide : {false, true}) {
        World<D> world(test::weightless<D>());
        const BodyId a = test::add_ball<D>(world, {0, 0}, 0.5f), b = test::add_ball<D>(world, {1.5, 0}, 0.5f);
        world.add_joint(Rope<D>{.joins = {.a = a, .b = b, .collide = collide}});
        world.set_velocity(b, {-2, 0});
        test::step(world, 30);
        EXPECT_EQ(world.velocity(a).x < -0.1f, collide);
    }
}

TYPED_TEST(JointLife, IslandsOfJointsSleepAndWakeWhole) {
    constexpr int D = TypeParam::value;
    World<D> world;
    std::vector<BodyId> links;
    std::vector<JointId> joints;
    for (int i = 0; i < 6; i++) {
        links.push_back(test::add_joined<D>(world, {0, -0.1 - 0.2 * i}, {0.05f, 0.2f}, 0.2f));
        Joined<D> joins{.a = links.back(), .at = Point<D>{0, -0.2 * i}};
        if (i > 0) joins.b = links[links.size() - 2];
        joints.push_back(world.add_joint(hinge<D>(joins, {}, {.most = 0.02f}))); // stiff hinges
    }
    world.apply_impulse(links.back(), {0.1f, 0});
    int ticks = 0;
    while (!world.is_asleep(links[0]) && ticks++ < 6000) world.step();
    ASSERT_LT(ticks, 6000) << "a chain with friction comes to rest";
    for (const BodyId link : links) EXPECT_TRUE(world.is_asleep(link));
    EXPECT_NEAR(length(world.joint_state(joints[0]).force), 1.2 * 9.81, 0.05) << "as it was";
    const auto fingerprint = world.fingerprint();
    test::step(world, 10);
    world.set_motor(joints[3], {.most = 5, .speed = 3}); // wakes all
    for (const BodyId link : links) EXPECT_FALSE(world.is_asleep(link));
    EXPECT_NE(world.fingerprint(), fingerprint);
    // A sleeper wakes as what it hangs from moves.
    World<D> hung;
    const BodyId hook = hung.add({.motion = Motion::Kinematic, .shapes = {{Ball<D>{0.1f}}}});
    const BodyId load = test::add_ball<D>(hung, {0, -1}, 0.1f);
    hung.add_joint(Rod<D>{.joins = {.a = load, .b = hook}});
    test::step(hung, 120);
    ASSERT_TRUE(hung.is_asleep(load));
    hung.set_velocity(hook, {1, 0});
    EXPECT_FALSE(hung.is_asleep(load));
    test::step(hung, 60);
    EXPECT_GT(hung.pose(load).position.x, 0.3);
    EXPECT_LT(hung.joint_state(hung.joints()[0]).stretch, 1e-4);
}

// A world that is restored, from a snapshot or from bytes, goes on as one that was not interrupted.
TYPED_TEST(JointLife, StateIsSavedWhole) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    const BodyId post = test::add_joined<D>(world, {0, 2}, {0.3f, 0.3f}, 5);
    const JointId weld =
        world.add_joint(Weld<D>{.joins = {.a = post, .at = Point<D>{0, 2.1}, .breaking_force = 400}});
    BodyId last = post;
    for (int i = 0; i < 5; i++) {
        const BodyId link = test::add_joined<D>(world, {0.3 + 0.2 * i, 2}, {0.2f, 0.05f}, 0.3f);
        world.add_joint(hinge<D>({.a = link, .b = last, .at = Point<D>{0.2 + 0.2 * i, 2}},
                                 {.lower = -1, .upper = 1, .restitution = 0.3f},
                                 {.most = 0.05f, .speed = 1}));
        last = link;
    }
    const BodyId load = test::add_ball<D>(world, {1.5, 2}, 0.2f, 3);
    world.add_joint(
        Spring<D>{.joins = {.a = load, .b = last}, .spring = {.frequency = 4, .damping_ratio = 0.1f}});
    world.add_joint(Tow<D>{.joins = {.a = load}, .target = {1, 1}, .most = 10});
    test::step(world, 50);
    world.remove_joint(world.joints()[2]);
    test::step(world, 10);
    const auto snapshot = world.save();
    const auto bytes = world.save_bytes();
    World<D> from_bytes;
    from_bytes.restore_bytes(bytes);
    EXPECT_EQ(from_bytes.fingerprint(), world.fingerprint());
    EXPECT_EQ(from_bytes.joints().size(), world.joints().size());
    std::vector<std::uint64_t> prints;
    for (int t = 0; t < 300; t++) {
        if (t == 100) world.set_motor(world.joints()[1], {.most = 2, .target = 0.3f});
        world.step(), prints.push_back(world.fingerprint());
    }
    const auto again = [&](World<D>& other) {
        for (int t = 0; t < 300; t++) {
            if (t == 100) other.set_motor(other.joints()[1], {.most = 2, .target = 0.3f});
            other.step();
            ASSERT_EQ(other.fingerprint(), prints[static_cast<std::size_t>(t)]) << "tick " << t;
        }
    };
    again(from_bytes);
    world.restore(snapshot);
    again(world);
    EXPECT_TRUE(world.contains(weld));
}

// A weld has no position; it does not take that of a slider which is no more.
TYPED_TEST(JointLife, NothingIsLeftOfARemovedJoint) {
    constexpr int D = TypeParam::value;
    World<D> world, other;
    const BodyId a = test::add_ball<D>(world, {0, 2}, 0.2f), b = test::add_ball<D>(world, {2, 2}, 0.2f);
    world.add_joint(Weld<D>{.joins = {.a = a, .at = Point<D>{0, 2}}});
    const JointId slider =
        world.add_joint(Slider<D>{.joins = {.a = b, .at = Point<D>{2, 2}}, .axis = {0, 1}});
    world.step(), world.step();
    world.remove_joint(slider);
    other.restore_bytes(world.save_bytes());
    world.step(), other.step();
    EXPECT_EQ(world.fingerprint(), other.fingerprint());
}

TYPED_TEST(JointLife, FoolishSpecsAreRefused) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId a = test::add_ball<D>(world, {0, 0}, 0.5f), b = test::add_ball<D>(world, {3, 0}, 0.5f),
                 wall = test::add_floor<D>(world);
    const auto fingerprint = world.fingerprint();
    const auto refused = [&](const Joint<D>& joint) {
        return test::error_of([&] { world.add_joint(joint); });
    };
    EXPECT_EQ(refused(Weld<D>{.joins = {.a = a, .b = b, .on_a = Vec<D>{1, 0}, .on_b = Vec<D>{0, 0}}}).given(),
              "an anchor that is 2 m from that on the first body");
    EXPECT_EQ(refused(hinge<D>({.a = a}, {.lower = 2, .upper = 1})).given(), "2 above the upper limit 1");
    EXPECT_EQ(refused(hinge<D>({.a = a, .b = a})).field(), "b");
    EXPECT_EQ(refused(hinge<D>({.a = wall})).field(), "a");
    EXPECT_EQ(refused(hinge<D>({})).field(), "body id");
    EXPECT_EQ(refused(hinge<D>({.a = a, .on_b = Vec<D>{}})).field(), "on_b");
    EXPECT_EQ(refused(hinge<D>({.a = a, .breaking_force = -1})).field(), "breaking_force");
    EXPECT_EQ(refused(hinge<D>({.a = a}, {}, {.most = -1})).field(), "motor.most");
    EXPECT_EQ(refused(hinge<D>({.a = a}, {}, {.most = 1, .speed = NAN})).field(), "motor.speed");
    EXPECT_EQ(refused(hinge<D>({.a = a}, {.restitution = 2})).field(), "limits.restitution");
    EXPECT_EQ(refused(Rod<D>{.joins = {.a = a}}).field(), "at");
    EXPECT_EQ(refused(Rod<D>{.joins = {.a = a, .b = b}, .length = -1.0f}).field(), "length");
    EXPECT_EQ(refused(Slider<D>{.joins = {.a = a}, .axis = {}}).field(), "axis");
    EXPECT_EQ(refused(Spring<D>{.joins = {.a = a, .b = b}, .spring = {}}).field(), "spring");
    EXPECT_EQ(
        refused(Spring<D>{.joins = {.a = a, .b = b}, .spring = {.frequency = 1, .stiffness = 1}}).field(),
        "spring.stiffness");
    EXPECT_EQ(refused(Gear<D>{.joins = {.a = a, .b = b}, .ratio = 0}).field(), "ratio");
    EXPECT_EQ(refused(Tow<D>{.joins = {.a = a}}).field(), "most");
    if constexpr (D == 3) {
        EXPECT_EQ(refused(Universal{.joins = {.a = a}, .axis_a = {1, 0, 0}, .axis_b = {1, 1, 0}}).field(),
                  "axis_b");
        EXPECT_EQ(refused(BallJoint{.joins = {.a = a}, .cone = degrees(190)}).field(), "cone");
    }
    EXPECT_EQ(world.fingerprint(), fingerprint) << "nothing has changed";
    const JointId joint = world.add_joint(hinge<D>({.a = a}));
    EXPECT_EQ(test::error_of([&] { world.set_motor(joint, {}, 1); }).field(), "axis");
    EXPECT_EQ(test::error_of([&] { world.set_tow_target(joint, {}); }).field(), "joint id");
    world.remove(a);
    EXPECT_FALSE(world.contains(joint)) << "it goes with its body";
    EXPECT_EQ(test::error_of([&] { world.joint_state(joint); }).field(), "joint id");
}

// Shapes that come and go move the centre of mass, not the anchor.
TYPED_TEST(JointLife, AnchorsStayAsShapesChange) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId a = world.add({.shapes = {{Ball<D>{0.3f}}}});
    const JointId joint = world.add_joint(hinge<D>({.a = a, .at = Point<D>{0.5, 0}}));
    world.add_shape(a, {.geometry = Ball<D>{0.3f}, .placement = {Vec<D>{-1, 0}, {}}});
    const Point<D> anchor = world.joint_state(joint).anchor_a;
    EXPECT_NEAR(anchor.x, 0.5, 1e-6);
    test::step(world, 30);
    EXPECT_LT(world.joint_state(joint).stretch, 1e-6);
    EXPECT_LT(length(world.velocity(a)), 1e-5f);
}

// The pendulum of a thousand swings.
TYPED_TEST(JointLife, APendulumKeepsItsEnergyForAThousandSwings) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId bob = test::add_ball<D>(world, {std::sin(1.0), -std::cos(1.0)}, 0.05f);
    world.add_joint(Rod<D>{.joins = {.a = bob, .at = Point<D>{}}});
    const double start = world.energy().total(), swing = start + 9.81;
    test::step(world, 1000 * 130);
    EXPECT_NEAR(world.energy().total(), start, 1e-3 * swing);
}

// A chain of 50 links bears a load of a hundred of them.
TYPED_TEST(JointLife, AChainBearsAHundredLinks) {
    constexpr int D = TypeParam::value;
    World<D> world;
    constexpr int kLinks = 50;
    const auto joint = [&](Joined<D> joins) {
        if constexpr (D == 2) return world.add_joint(Hinge<2>{.joins = joins});
        else return world.add_joint(BallJoint{.joins = joins});
    };
    std::vector<BodyId> links;
    std::vector<JointId> joints;
    for (int i = 0; i < kLinks; i++) { // level, and let go
        links.push_back(test::add_joined<D>(world, {0.1 * i + 0.05, 0}, {0.1f, 0.04f}, 0.1f));
        Joined<D> joins{.a = links.back(), .at = Point<D>{0.1 * i, 0}};
        if (i > 0) joins.b = links[links.size() - 2];
        joints.push_back(joint(joins));
        world.set_free_motion(links.back(), {.linear_damping = 0.5f, .angular_damping = 0.5f});
    }
    const BodyId load = test::add_joined<D>(world, {5.25, 0}, {0.5f, 0.5f}, 10);
    world.set_free_motion(load, {.linear_damping = 0.5f, .angular_damping = 0.5f});
    joints.push_back(joint({.a = load, .b = links.back(), .at = Point<D>{5, 0}}));
    double longest = 0;
    int ticks = 0;
    while (!world.is_asleep(load) && ticks++ < 6000) {
        world.step();
        double stretch = 0;
        for (const JointId j : joints) stretch += double{world.joint_state(j).stretch};
        longest = std::max(longest, stretch);
    }
    EXPECT_LT(longest, 0.01 * 0.1 * kLinks);
    EXPECT_LT(ticks, 6000) << "it comes to rest";
    EXPECT_NEAR(length(world.joint_state(joints[0]).force), 15 * 9.81, 0.1);
}

}
}
