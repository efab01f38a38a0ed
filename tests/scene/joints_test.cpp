#include "astasis/scene/scene.h"

#include "support/dims.h"
#include "support/scene_faults.h"

#include <cmath>

namespace astasis::scene {
namespace {

using test::fault_of;

std::string scene_with(int dimension, const std::string& joints, const std::string& fields = "") {
    const bool plane = dimension == 2;
    const std::string size = plane ? "[0.4, 0.2]" : "[0.4, 0.2, 0.2]";
    const auto body = [&](const std::string& name, const std::string& at) {
        return "{\"name\": \"" + name + "\", \"at\": [" + at + (plane ? "]" : ", 0]") +
               ", \"shapes\": [{\"shape\": \"box\", \"size\": " + size + "}]}";
    };
    return "{\"astasis_scene\": 1, \"dimension\": " + std::to_string(dimension) + ",\n\"bodies\": [" +
           body("arm", "0, 0") + ", " + body("post", "1, 0") + "]" +
           (joints.empty() ? "" : ",\n\"joints\": [" + joints + "]") +
           (fields.empty() ? "" : ",\n\"fields\": [" + fields + "]") + "}";
}

template<int Dim> Made<Dim> made_of(const std::string& joints, const std::string& fields = "") {
    const SceneFile file = read_scene_text("depot.json", scene_with(Dim, joints, fields));
    return make_world(std::get<Scene<Dim>>(file.scene), file.document);
}

constexpr float kDegree = 0.017453292519943295f;

TEST(SceneJoints, AHingeIsReadInFull) {
    const auto made =
        made_of<2>(R"({"joint": "hinge", "name": "pin", "body": "arm", "to": "post", "at": [0.5, 0],
        "limits": {"lower": "-30 deg", "upper": "0.5 rad", "restitution": 0.2, "spring": {"stiffness": 7, "damping": 2}},
        "motor": {"most": 9, "speed": "90 deg/s", "target": "10 deg"},
        "collide": true, "breaking_force": 100, "breaking_torque": 50})");
    ASSERT_EQ(made.world.joints().size(), 1u);
    ASSERT_EQ(made.joint_names.size(), 1u);
    EXPECT_EQ(made.joint_names[0], "pin");
    const auto& hinge = std::get<Hinge<2>>(made.world.joint(made.world.joints()[0]));
    EXPECT_EQ(hinge.joins.a, *made.find("arm"));
    EXPECT_EQ(hinge.joins.b, made.find("post"));
    EXPECT_FLOAT_EQ(hinge.limits.lower, -30 * kDegree);
    EXPECT_FLOAT_EQ(hinge.limits.upper, 0.5f);
    EXPECT_EQ(hinge.limits.restitution, 0.2f);
    EXPECT_EQ(hinge.limits.spring, (Springing{.stiffness = 7, .damping = 2}));
    EXPECT_EQ(hinge.motor.most, 9);
    EXPECT_FLOAT_EQ(hinge.motor.speed, 90 * kDegree);
    ASSERT_TRUE(hinge.motor.target);
    EXPECT_FLOAT_EQ(*hinge.motor.target, 10 * kDegree);
    EXPECT_TRUE(hinge.joins.collide);
    EXPECT_EQ(hinge.joins.breaking_force, 100);
    EXPECT_EQ(hinge.joins.breaking_torque, 50);
    const auto state = made.world.joint_state(made.world.joints()[0]);
    EXPECT_EQ(state.anchor_a, (Point2{0.5, 0}));
}

TEST(SceneJoints, EveryKindOfThePlaneIsMade) {
    const auto made = made_of<2>(R"(
        {"joint": "slider", "body": "arm", "axis": [0, 1], "limits": {"lower": -0.1, "upper": 0.3}, "motor": {"most": 5, "speed": 2}},
        {"joint": "weld", "body": "arm", "to": "post"},
        {"joint": "rod", "body": "arm", "to": "post", "at_body": [0.1, 0], "at_to": [-0.1, 0]},
        {"joint": "rope", "body": "arm", "to": "post", "length": 3, "spring": {"frequency": 4}},
        {"joint": "spring", "body": "arm", "at": [0, 2], "length": 1.5, "spring": {"frequency": 2, "damping_ratio": 0.5}, "limits": {"upper": 3}},
        {"joint": "wheel", "body": "arm", "to": "post", "up": [0, 1], "suspension": {"frequency": 3}, "drive": {"most": 1, "speed": "3 rad/s"}},
        {"joint": "pulley", "body": "arm", "to": "post", "over": [0, 3], "over_to": [1, 3], "ratio": 2},
        {"joint": "gear", "body": "arm", "to": "post", "ratio": -2},
        {"joint": "tow", "body": "arm", "target": [0, 1], "most": 20})");
    const auto joints = made.world.joints();
    ASSERT_EQ(joints.size(), 9u);
    const auto& slider = std::get<Slider<2>>(made.world.joint(joints[0]));
    EXPECT_EQ(slider.axis, (Vec2{0, 1}));
    EXPECT_EQ(slider.limits.upper, 0.3f);
    EXPECT_EQ(slider.motor.speed, 2);
    EXPECT_TRUE(std::holds_alternative<Weld<2>>(made.world.joint(joints[1])));
    const auto& rod = std::get<Rod<2>>(made.world.joint(joints[2]));
    EXPECT_EQ(*rod.joins.on_b, (Vec2{-0.1f, 0}));
    EXPECT_EQ(*std::get<Rope<2>>(made.world.joint(joints[3])).length, 3);
    const auto& spring = std::get<Spring<2>>(made.world.joint(joints[4]));
    EXPECT_EQ(spring.spring.damping_ratio, 0.5f);
    EXPECT_EQ(spring.limits.upper, 3);
    EXPECT_EQ(std::get<Wheel<2>>(made.world.joint(joints[5])).drive.speed, 3);
    EXPECT_EQ(std::get<Pulley<2>>(made.world.joint(joints[6])).ratio, 2);
    EXPECT_EQ(std::get<Gear<2>>(made.world.joint(joints[7])).ratio, -2);
    EXPECT_EQ(std::get<Tow<2>>(made.world.joint(joints[8])).most, 20);
}

TEST(SceneJoints, KindsOfSpaceAreMade) {
    const auto made = made_of<3>(R"(
        {"joint": "ball", "body": "arm", "to": "post", "at": [0.5, 0, 0], "axis": [-1, 0, 0], "cone_axis": [-1, 0.2, 0],
         "cone": "70 deg", "twist": {"lower": "-20 deg", "upper": "20 deg"}, "friction": 3},
        {"joint": "universal", "body": "arm", "to": "post", "axis": [1, 0, 0], "axis_to": [0, 1, 0], "motor_to": {"most": 2}},
        {"joint": "wheel", "body": "arm", "to": "post", "axle": [0, 0, 1], "steering": {"most": 200, "target": "5 deg"}})");
    const auto joints = made.world.joints();
    ASSERT_EQ(joints.size(), 3u);
    const auto& ball = std::get<BallJoint>(made.world.joint(joints[0]));
    EXPECT_NEAR(ball.cone->in_degrees(), 70, 1e-4);
    EXPECT_FLOAT_EQ(ball.twist.lower, -20 * kDegree);
    EXPECT_EQ(ball.friction, 3);
    EXPECT_EQ(std::get<Universal>(made.world.joint(joints[1])).motor_b.most, 2);
    EXPECT_FLOAT_EQ(*std::get<Wheel<3>>(made.world.joint(joints[2])).steering.target, 5 * kDegree);
}

TEST(SceneJoints, ARowJoinsAGridToAChain) {
    const SceneFile file = read_scene_text("depot.json", R"({"astasis_scene": 1, "dimension": 2, "bodies": [
        {"name": "link", "shapes": [{"shape": "box", "size": [0.2, 0.05]}], "repeat": {"count": [4, 1], "pitch": [0.2, 1]}}],
        "joints": [{"joint": "hinge", "body": "link", "row": true, "at_body": [-0.1, 0]}]})");
    const auto made = make_world(std::get<Scene<2>>(file.scene), file.document);
    ASSERT_EQ(made.world.joints().size(), 3u);
    for (std::size_t k = 0; k < 3; k++) {
        const auto& hinge = std::get<Hinge<2>>(made.world.joint(made.world.joints()[k]));
        EXPECT_EQ(hinge.joins.a, *made.find("link." + std::to_string(k + 2)));
        EXPECT_EQ(hinge.joins.b, made.find("link." + std::to_string(k + 1)));
    }
}

TEST(SceneFields, EveryKindIsMade) {
    const auto made = made_of<2>("", R"(
        {"field": "uniform", "acceleration": [1, 0], "within": {"from": [-1, -1], "to": [2, 2]}},
        {"field": "attraction", "body": "post", "strength": 4, "softening": 0.5, "pulls_back": true},
        {"field": "attraction", "at": [0, 9], "strength": -1},
        {"field": "mutual attraction", "constant": 2},
        {"field": "wind", "velocity": [3, 0], "drag": 0.4, "damping": 0.1},
        {"field": "buoyancy", "level": 1.5, "density": 900, "flow": [0.5, 0]})");
    const auto fields = made.world.fields();
    ASSERT_EQ(fields.size(), 6u);
    const auto field = [&](std::size_t k) -> const Field<2>& { return made.world.field(fields[k]); };
    EXPECT_EQ(std::get<UniformField<2>>(field(0).kind).acceleration, (Vec2{1, 0}));
    ASSERT_TRUE(field(0).within);
    EXPECT_EQ(field(0).within->high, (Point2{2, 2}));
    const auto& attraction = std::get<Attraction<2>>(field(1).kind);
    EXPECT_EQ(attraction.body, made.find("post"));
    EXPECT_EQ(attraction.strength, 4);
    EXPECT_TRUE(attraction.pulls_back);
    EXPECT_EQ(std::get<Attraction<2>>(field(2).kind).centre, (Point2{0, 9}));
    EXPECT_EQ(std::get<MutualAttraction<2>>(field(3).kind).constant, 2);
    EXPECT_EQ(std::get<Wind<2>>(field(4).kind).drag, 0.4f);
    EXPECT_EQ(std::get<Buoyancy<2>>(field(5).kind).level, 1.5);
}

struct Fault {
    const char *joint, *field;
    const char* says;
};
class JointFaults : public ::testing::TestWithParam<Fault> {};

TEST_P(JointFaults, SayWhatIsWrongAndWhere) {
    const Fault& f = GetParam();
    const std::string fault = fault_of(scene_with(2, f.joint, f.field));
    EXPECT_EQ(fault.rfind("depot.json:3:", 0), 0u) << fault;
    EXPECT_NE(fault.find(f.says), std::string::npos) << fault;
}

INSTANTIATE_TEST_SUITE_P(
    All, JointFaults,
    ::testing::Values(
        Fault{R"({"joint": "glue", "body": "arm"})", "",
              "$.joints[0].joint: given \"glue\", accepted: one of hinge"},
        Fault{R"({"joint": "weld", "body": "leg"})", "",
              "$.joints[0]: body: given \"leg\", accepted: the name of a body"},
        Fault{R"({"joint": "weld", "body": "arm", "to": "leg"})", "",
              "$.joints[0]: to: given \"leg\", accepted: the name of a body"},
        Fault{R"({"joint": "weld"})", "", "$.joints[0]: the key \"body\" is missing"},
        Fault{R"({"joint": "weld", "body": "arm", "motor": {"most": 1}})", "",
              "$.joints[0].motor: weld has no motor"},
        Fault{R"({"joint": "ball", "body": "arm"})", "", "$.joints[0].joint: given \"ball\""},
        Fault{R"({"joint": "hinge", "body": "arm", "limits": {"lower": -1}})", "",
              "limits.lower: given -1, accepted: an angle"},
        Fault{R"({"joint": "slider", "body": "arm", "limits": {"lower": 2, "upper": 1}})", "", "limits"},
        Fault{R"({"joint": "slider", "body": "arm", "axis": [0, 0]})", "",
              "axis: given a list of 2, accepted: numbers that are not all 0"},
        Fault{R"({"joint": "hinge", "body": "arm", "motor": {"most": -1}})", "",
              "motor.most: given -1, accepted: a number, 0 or more"},
        Fault{R"({"joint": "weld", "body": "arm", "to": "post", "at_body": [0, 0], "at_to": [0, 0]})", "",
              "at_to: given an anchor that is 1 m from"},
        Fault{R"({"joint": "weld", "body": "arm", "to": "arm"})", "", "$.joints[0]"},
        Fault{R"({"joint": "hinge", "body": "arm", "to": "post", "row": true})", "",
              "a row joins each body of a grid"},
        Fault{"", R"({"field": "gale"})", "$.fields[0].field: given \"gale\", accepted: one of uniform"},
        Fault{"", R"({"field": "wind", "level": 2})", "$.fields[0].level: wind has no level"},
        Fault{"", R"({"field": "attraction", "strength": 2})",
              "one of \"at\" and \"body\" says what attracts"},
        Fault{"", R"({"field": "attraction", "body": "sun", "strength": 2})",
              "$.fields[0]: body: given \"sun\", accepted: the name of a body"},
        Fault{"", R"({"field": "attraction", "at": [0, 0], "strength": 2, "softening": 0})",
              "softening: given 0"},
        Fault{"", R"({"field": "uniform", "acceleration": [1, 0], "within": {"from": [1, 0], "to": [0, 1]}})",
              "within"}));

}
}
