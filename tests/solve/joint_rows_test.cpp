// The rows of every kind of joint: their levers are the rates of their numbers, for random bodies.
#include "solve/joint_rows.h"

#include "support/dims.h"
#include "world/make_joint.h"

#include <cmath>

namespace astasis {
namespace {

template<typename T> class JointRowsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(JointRowsTest, test::Dimensions);

const Limits kLimits{.lower = -0.4f, .upper = 0.7f};
const Motor kMotor{.most = 3, .speed = 1};

template<int D> using InDim = std::integral_constant<int, D>;
std::vector<Joint<2>> kinds(test::Numbers& n, InDim<2>) {
    const float a = n.f(-3, 3);
    return {Hinge<2>{.limits = kLimits, .motor = kMotor},
            Slider<2>{.axis = {std::cos(a), std::sin(a)}, .limits = kLimits, .motor = kMotor},
            Weld<2>{},
            Rod<2>{},
            Rope<2>{},
            Spring<2>{.limits = {.lower = 0.1f}},
            Wheel<2>{.up = {std::sin(a), std::cos(a)}, .travel = kLimits, .drive = kMotor},
            Pulley<2>{.over_a = {-3, 4}, .over_b = {3, 5}, .ratio = 1.7f},
            Gear<2>{.ratio = -2.5f},
            Tow<2>{.target = {3, 1}, .most = 5}};
}
std::vector<Joint<3>> kinds(test::Numbers& n, InDim<3>) {
    const Vec3 axis = direction(n.vec<3>(-1, 1), Vec3{0, 0, 1}),
               across = direction(cross(axis, n.vec<3>(-1, 1)), Vec3{1, 0, 0});
    return {Hinge<3>{.axis = axis, .limits = kLimits, .motor = kMotor},
            Slider<3>{.axis = axis, .limits = kLimits, .motor = kMotor},
            Weld<3>{},
            Rod<3>{},
            Rope<3>{},
            Spring<3>{.limits = {.lower = 0.1f}},
            Wheel<3>{.up = axis, .axle = across, .travel = kLimits, .drive = kMotor},
            Pulley<3>{.over_a = {-3, 4, 1}, .over_b = {3, 5, 0}, .ratio = 1.7f},
            Gear<3>{.ratio = -2.5f, .axis_a = axis, .axis_b = across},
            Tow<3>{.target = {3, 1, 2}, .most = 5},
            BallJoint{.axis = axis,
                      .cone_axis = direction(axis + across * 0.3f, axis),
                      .cone = degrees(20),
                      .twist = kLimits,
                      .friction = 1},
            Universal{.axis_a = axis,
                      .axis_b = across,
                      .limits_a = kLimits,
                      .limits_b = kLimits,
                      .motor_a = kMotor,
                      .motor_b = kMotor}};
}

// A pose after moving with a velocity for a while, in double.
template<int D>
solve::WidePose<D> moved(const solve::WidePose<D>& from, const solve::Lever<D>& v, double seconds) {
    solve::WidePose<D> out = from;
    for (int k = 0; k < D; k++) out.centre[k] += v[static_cast<std::size_t>(k)] * seconds;
    math::Turn<D> by;
    if constexpr (D == 2) {
        const double a = v[2] * seconds;
        by = {{math::Wide2{{std::cos(a), std::sin(a)}}, math::Wide2{{-std::sin(a), std::cos(a)}}}};
    } else by = math::turn_of_quaternion(1, math::Wide3{{v[3], v[4], v[5]}} * (0.5 * seconds));
    for (std::size_t k = 0; k < D; k++) out.turn.column[k] = by * from.turn.column[k];
    return out;
}
template<int D> double product(const solve::Lever<D>& p, const solve::Lever<D>& q) {
    double sum = 0;
    for (std::size_t k = 0; k < p.size(); k++) sum += p[k] * q[k];
    return sum;
}
template<int D> solve::WidePose<D> wide(const flow::CentrePose<D>& p) {
    solve::WidePose<D> out{{}, math::turn_of(p.rotation)};
    for (int k = 0; k < D; k++) out.centre[k] = p.centre[k];
    return out;
}
template<int D> solve::Lever<D> some_velocity(test::Numbers& n) {
    solve::Lever<D> v;
    for (double& x : v) x = n.in(-1, 1);
    return v;
}

// Gears that turn with their bodies about axes of the world are the one kind whose rate is exact only there.
template<int D> bool is_exact(const flow::Joint<D>& joint) {
    return D == 2 || joint.kind != flow::JointKind::Gear;
}

TYPED_TEST(JointRowsTest, LeversAreRates) {
    constexpr int D = TypeParam::value;
    test::Numbers n(D);
    int rows = 0;
    for (int k = 0; k < 1000; k++)
        for (Joint<D> spec : kinds(n, InDim<D>{})) {
            const bool second = n.in(0, 1) < 0.7 || std::holds_alternative<Pulley<D>>(spec) ||
                                std::holds_alternative<Gear<D>>(spec);
            const bool tow = std::holds_alternative<Tow<D>>(spec);
            JointBody<D> a{
                {Point<D>{n.in(-1, 1), n.in(-1, 1)}, n.rotation(Vec<D>{})}, n.vec<D>(-0.2, 0.2), 100},
                b{{Point<D>{n.in(-1, 1), n.in(-1, 1)}, n.rotation(Vec<D>{})}, n.vec<D>(-0.2, 0.2), 100};
            Joined<D>& joins = joined<D>(spec);
            const bool two_places =
                std::holds_alternative<Rod<D>>(spec) || std::holds_alternative<Rope<D>>(spec) ||
                std::holds_alternative<Spring<D>>(spec) || std::holds_alternative<Pulley<D>>(spec);
            if (two_places && second) joins.on_a = n.vec<D>(-0.5, 0.5), joins.on_b = n.vec<D>(-0.5, 0.5);
            else joins.at = Point<D>{n.in(1, 2), n.in(1, 2)};
            flow::Joint<D> joint = make_joint<D>(spec, a, second && !tow ? &b : nullptr);
            const auto centre = [](const JointBody<D>& body) {
                return flow::CentrePose<D>{body.pose.position + rotate(body.pose.rotation, body.centre),
                                           body.pose.rotation};
            };
            solve::WidePose<D> pose_a = wide(centre(a)), pose_b = wide(centre(b));
            if (!second || tow) pose_b = wide(flow::CentrePose<D>{joint.fixed, {}});
            // In every second try somewhat off the place where it was made.
            const bool is_off = k % 2 == 0;
            solve::Lever<D> va = some_velocity<D>(n), vb = some_velocity<D>(n);
            if (!second || tow) vb = {};
            if (is_off) pose_a = moved(pose_a, va, 0.2), pose_b = moved(pose_b, vb, 0.2);
            va = some_velocity<D>(n);
            if (second && !tow) vb = some_velocity<D>(n);
            constexpr double kStep = 1e-5;
            const solve::JointRows<D> here = solve::all_rows(joint, pose_a, pose_b);
            for (std::size_t i = 0; i < 3; i++) joint.axes[i].position = here.axes.position[i];
            const auto rows_after = [&](double time) {
                return solve::all_rows(joint, moved(pose_a, va, time), moved(pose_b, vb, time));
            };
            const solve::JointRows<D> before = rows_after(-kStep), after = rows_after(kStep);
            ASSERT_GT(here.count, 0u);
            ASSERT_EQ(here.count, before.count);
            for (std::size_t r = 0; r < here.count; r++) {
                const auto& row = here.row[r];
                if (joint.kind == flow::JointKind::Ball && row.asks == solve::Asks::Drive)
                    continue; // its friction
                const double measured = (after.row[r].position - before.row[r].position) / (2 * kStep),
                             told = product<D>(row.a, va) + product<D>(row.b, vb);
                if (!is_exact(joint)) continue;
                // In space angles are exact rates where the axes are held as they should be.
                const bool is_angle = row.turns && row.asks != solve::Asks::Held && D == 3;
                if (is_angle && is_off) continue;
                ASSERT_NEAR(told, measured, 2e-6)
                    << "kind " << static_cast<int>(joint.kind) << ", row " << r << ", try " << k;
                rows++;
            }
        }
    EXPECT_GT(rows, 10000);
}

// As a joint is made all that it holds is at 0, and so are its free axes but for lengths.
TYPED_TEST(JointRowsTest, BeginAtNought) {
    constexpr int D = TypeParam::value;
    test::Numbers n(10 + D);
    for (int k = 0; k < 200; k++)
        for (Joint<D> spec : kinds(n, InDim<D>{})) {
            if (std::holds_alternative<Tow<D>>(spec)) continue;
            const JointBody<D> a{{Point<D>{n.in(-1, 1), 0.3}, n.rotation(Vec<D>{})}, n.vec<D>(-0.2, 0.2), 1},
                b{{Point<D>{n.in(-1, 1), 1}, n.rotation(Vec<D>{})}, n.vec<D>(-0.2, 0.2), 1};
            const flow::Joint<D> joint = make_joint<D>(spec, a, &b);
            const auto pose = [](const JointBody<D>& body) {
                return wide(flow::CentrePose<D>{body.pose.position + rotate(body.pose.rotation, body.centre),
                                                body.pose.rotation});
            };
            const solve::JointRows<D> rows = solve::all_rows(joint, pose(a), pose(b));
            for (std::size_t r = 0; r < rows.count; r++) {
                if (rows.row[r].asks != solve::Asks::Held) continue;
                EXPECT_NEAR(rows.row[r].position, 0, 1e-5);
            }
            const bool length = joint.kind >= flow::JointKind::Rod && joint.kind <= flow::JointKind::Spring;
            if (length || joint.kind == flow::JointKind::Pulley) continue;
            const double swing = joint.kind == flow::JointKind::Ball ? std::atan(0.3) : 0;
            EXPECT_NEAR(rows.axes.position[0], swing, 1e-5) << "kind " << static_cast<int>(joint.kind);
            EXPECT_NEAR(rows.axes.position[1], 0, 1e-5); // of those that have a second
        }
}

}
}
