// Every kind of joint, in each dimension it exists in, with all that it can have: stops and motors, breaking,
// sleep, save and restore.
#include "support/dims.h"

#include <cmath>

namespace astasis {
namespace {

template<typename T> class JointKinds : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(JointKinds, test::Dimensions);

template<int D> BodyId add_box(World<D>& world, Point<D> at) {
    return world.add({.pose = {at, {}},
                      .free = {.linear_damping = 3, .angular_damping = 3},
                      .shapes = {{test::cube<D>(0.4f)}},
                      .mass = mass_of<D>({{test::cube<D>(0.4f)}}, 2)});
}

constexpr Springing kSoft{.frequency = 3, .damping_ratio = 0.7f};

// A joint between a, at (0.6, 3), and b, at (0, 3), of each kind.
template<int D> std::vector<Joint<D>> common_kinds(BodyId a, BodyId b) {
    const Joined<D> at_b{.a = a, .b = b, .at = Point<D>{0, 3}}, ends{.a = a, .b = b};
    const Limits narrow{.lower = -0.3f, .upper = 0.2f};
    Hinge<D> hinge;
    hinge.joins = at_b, hinge.limits = narrow, hinge.motor = {.most = 1, .speed = 0.5f};
    Wheel<D> wheel;
    wheel.joins = at_b, wheel.joins.at = Point<D>{0.6, 3};
    wheel.suspension = kSoft, wheel.travel = narrow, wheel.drive = {.most = 0.1f};
    Gear<D> gear;
    gear.joins = ends, gear.ratio = -2;
    return {
        hinge,
        Slider<D>{.joins = at_b, .axis = {1, -1}, .limits = narrow, .motor = {.most = 5, .target = 0.1f}},
        Weld<D>{.joins = at_b},
        Rod<D>{.joins = ends},
        Rope<D>{.joins = ends, .length = 0.7f, .spring = kSoft},
        Spring<D>{.joins = ends, .length = 0.5f, .spring = kSoft, .limits = {.lower = 0.3f, .upper = 0.8f}},
        wheel,
        Pulley<D>{.joins = ends, .over_a = {0.6, 5}, .over_b = {0, 5}, .ratio = 2},
        gear,
        Tow<D>{.joins = {.a = a}, .target = {0.5, 3.5}, .most = 60}};
}
std::vector<Joint<2>> kinds(BodyId a, BodyId b, std::integral_constant<int, 2>) {
    return common_kinds<2>(a, b);
}
std::vector<Joint<3>> kinds(BodyId a, BodyId b, std::integral_constant<int, 3>) {
    auto out = common_kinds<3>(a, b);
    const Joined<3> at_b{.a = a, .b = b, .at = Point<3>{0, 3, 0}};
    out.push_back(BallJoint{.joins = at_b,
                            .axis = {1, 0, 0},
                            .cone = degrees(40),
                            .twist = between(degrees(-10), degrees(10)),
                            .friction = 0.1f});
    out.push_back(Universal{.joins = at_b,
                            .axis_a = {1, 0, 0},
                            .axis_b = {0, 1, 0},
                            .limits_b = between(degrees(-20), degrees(20)),
                            .motor_a = {.most = 1, .target = 0.3f, .spring = kSoft}});
    return out;
}

template<int D> struct Machine {
    World<D> world;
    BodyId a, b;
    JointId joint;
};
// One kind on a post that stands still; a gear's bodies turn on pins of their own.
template<int D> Machine<D> machine(std::size_t kind, float breaking_force = kUnlimited) {
    Machine<D> m;
    m.a = add_box<D>(m.world, {0.6, 3}), m.b = add_box<D>(m.world, {0, 3});
    Joint<D> joint = kinds(m.a, m.b, std::integral_constant<int, D>{})[kind];
    const bool is_gear = std::holds_alternative<Gear<D>>(joint);
    if (is_gear)
        for (const BodyId id : {m.a, m.b}) {
            Hinge<D> pin;
            pin.joins = {.a = id, .at = m.world.pose(id).position};
            m.world.add_joint(pin);
        }
    else m.world.add_joint(Weld<D>{.joins = {.a = m.b, .at = Point<D>{0, 3}}});
    std::visit([&](auto& j) { j.joins.breaking_force = breaking_force; }, joint);
    m.joint = m.world.add_joint(joint);
    m.world.set_velocity(m.a, {is_gear ? 0 : 0.5f, 0});
    return m;
}
template<int D> std::size_t kind_count() {
    return kinds(BodyId{}, BodyId{}, std::integral_constant<int, D>{}).size();
}

// A moving joint keeps its held axes, and its free axes between their stops.
TYPED_TEST(JointKinds, HoldBetweenTheirStops) {
    constexpr int D = TypeParam::value;
    for (std::size_t kind = 0; kind < kind_count<D>(); kind++) {
        auto m = machine<D>(kind);
        for (int tick = 0; tick < 120; tick++) {
            test::step(m.world, 1);
            const auto state = m.world.joint_state(m.joint);
            ASSERT_LT(state.stretch, 1e-4f) << "kind " << kind << ", tick " << tick;
            ASSERT_LT(state.turned, 1e-3f) << "kind " << kind << ", tick " << tick;
            for (int k = 0; k < state.axis_count; k++)
                ASSERT_TRUE(std::isfinite(state.axes[static_cast<std::size_t>(k)].position));
            if (kind <= 1) {
                ASSERT_GT(state.axes[0].position, -0.302f) << kind;
                ASSERT_LT(state.axes[0].position, 0.202f) << kind;
            }
        }
    }
}

// A machine comes to rest, sleeps with all its bodies, and wakes as its joint is changed.
TYPED_TEST(JointKinds, SleepAndWake) {
    constexpr int D = TypeParam::value;
    for (std::size_t kind = 0; kind < kind_count<D>(); kind++) {
        auto m = machine<D>(kind);
        int ticks = 0;
        while (!m.world.is_asleep(m.a) && ticks++ < 3000) m.world.step();
        EXPECT_LT(ticks, 3000) << "kind " << kind;
        EXPECT_TRUE(m.world.is_asleep(m.b) || std::holds_alternative<Tow<D>>(m.world.joint(m.joint))) << kind;
        const auto state = m.world.joint_state(m.joint);
        test::step(m.world, 10);
        EXPECT_EQ(m.world.joint_state(m.joint).anchor_a, state.anchor_a) << kind;
        m.world.set_joint(m.joint, m.world.joint(m.joint));
        EXPECT_FALSE(m.world.is_asleep(m.a)) << kind;
    }
}

// A restored machine goes on as one that was not interrupted.
TYPED_TEST(JointKinds, AreSavedAndRestored) {
    constexpr int D = TypeParam::value;
    for (std::size_t kind = 0; kind < kind_count<D>(); kind++) {
        auto m = machine<D>(kind);
        test::step(m.world, 20);
        World<D> other;
        other.restore_bytes(m.world.save_bytes());
        const auto snapshot = m.world.save();
        ASSERT_EQ(other.fingerprint(), m.world.fingerprint()) << kind;
        test::step(m.world, 100), test::step(other, 100);
        EXPECT_EQ(other.fingerprint(), m.world.fingerprint()) << kind;
        const auto end = m.world.fingerprint();
        m.world.restore(snapshot);
        test::step(m.world, 100);
        EXPECT_EQ(m.world.fingerprint(), end) << kind;
    }
}

// Above its breaking load a joint lets go, says so once, and holds nothing; what it held falls freely.
TYPED_TEST(JointKinds, Break) {
    constexpr int D = TypeParam::value;
    for (std::size_t kind = 0; kind < kind_count<D>(); kind++) {
        auto m = machine<D>(kind, 1);
        if (std::holds_alternative<Gear<D>>(m.world.joint(m.joint))) continue; // it bears torques alone
        std::size_t said = 0;
        for (int tick = 0; tick < 90; tick++) {
            m.world.step();
            for (const JointId id : m.world.broken_joints()) said += id == m.joint;
        }
        EXPECT_EQ(said, 1u) << kind;
        EXPECT_TRUE(m.world.joint_state(m.joint).broken) << kind;
        EXPECT_LT(m.world.pose(m.a).position.y, 2.0) << kind;
    }
}

}
}
