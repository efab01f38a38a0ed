#include "check/rules.h"

namespace astasis::checks {

const Rule degrees_rule{
    "degrees", "degrees where radians are, and the reverse",
    "In code angles are radians unless they are made by degrees(); in scene files each has its unit. 90 "
    "radians are\n"
    "14 turns and a third, 1.57 degrees are nearly nothing: such numbers are most often meant in the other "
    "unit.\n"
    "Signs: round numbers of degrees above a whole turn, or shares of pi. Cure: the other unit.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "turn": "45 rad", "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "turn": "45 deg", "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

namespace {

constexpr double kTurn = 6.283185307179586;

// Angles of more than a turn in round degrees, and speeds in parts of the full circle.
bool is_degrees(double radians) {
    const double size = std::fabs(radians);
    return size > kTurn && std::fabs(size - 5 * std::round(size / 5)) < 1e-4 * size;
}
bool is_degrees_a_second(double radians) {
    const double size = std::fabs(radians);
    return size >= 45 && size <= 3600 && std::fabs(size - 45 * std::round(size / 45)) < 1e-4 * size;
}
// A share of pi that was taken for degrees.
bool is_radians(double radians) {
    const double size = std::fabs(radians) * 360 / kTurn;
    for (const double eighths : {1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0})
        if (std::fabs(size - eighths * kTurn / 16) < 0.003) return true;
    return false;
}

class Suspicions {
public:
    explicit Suspicions(std::vector<Finding>& out) : out_(out) {}
    void angle(const std::string& what, double radians) {
        if (is_degrees(radians)) tell(what, fmt::format("{:.6g} rad", radians), "deg", radians);
        else if (is_radians(radians))
            tell(what, fmt::format("{:.4g} deg", radians * 360 / kTurn), "rad", radians * 360 / kTurn);
    }
    void speed(const std::string& what, double radians) {
        if (is_degrees_a_second(radians)) tell(what, fmt::format("{:.6g} rad/s", radians), "deg/s", radians);
    }

private:
    void tell(const std::string& what, const std::string& is, const char* meant, double value) {
        out_.push_back({degrees_rule.name, false,
                        fmt::format("{} is {}: was {:.4g} {} meant?", what, is, value, meant)});
    }
    std::vector<Finding>& out_;
};

void look_at(Suspicions& out, const std::string& joint, const Limits& limits) {
    if (std::isfinite(limits.lower)) out.angle("the lower limit of " + joint, double{limits.lower});
    if (std::isfinite(limits.upper)) out.angle("the upper limit of " + joint, double{limits.upper});
}
void look_at(Suspicions& out, const std::string& joint, const Motor& motor) {
    if (!(motor.most > 0)) return;
    out.speed("the motor speed of " + joint, double{motor.speed});
    if (motor.target) out.angle("the motor target of " + joint, double{*motor.target});
}

}

template<int Dim> void degrees(const Trial<Dim>& trial, std::vector<Finding>& found) {
    Suspicions out(found);
    const World<Dim>& world = trial.start;
    if (trial.scene)
        for (const auto& body : trial.scene->bodies) {
            if constexpr (Dim == 2) out.angle("the turn of " + body.name, double{body.turn});
            else out.angle("the turn of " + body.name, double{length(body.turn)});
        }
    for (const BodyId id : world.bodies()) {
        const auto spin = world.angular_velocity(id);
        if constexpr (Dim == 2) out.speed("the spin of " + trial.name(id), double{spin});
        else out.speed("the spin of " + trial.name(id), double{length(spin)});
    }
    for (const JointId id : world.joints()) {
        const auto& joint = world.joint(id);
        const std::string name = trial.joint_name(id);
        if (const auto* hinge = std::get_if<Hinge<Dim>>(&joint); hinge)
            look_at(out, name, hinge->limits), look_at(out, name, hinge->motor);
        if (const auto* wheel = std::get_if<Wheel<Dim>>(&joint); wheel) look_at(out, name, wheel->drive);
        if constexpr (Dim == 3) {
            if (const auto* wheel = std::get_if<Wheel<Dim>>(&joint); wheel)
                look_at(out, name, wheel->steering);
            if (const auto* ball = std::get_if<BallJoint>(&joint); ball) look_at(out, name, ball->twist);
            if (const auto* shafts = std::get_if<Universal>(&joint); shafts) {
                look_at(out, name, shafts->limits_a), look_at(out, name, shafts->limits_b);
                look_at(out, name, shafts->motor_a), look_at(out, name, shafts->motor_b);
            }
        }
    }
}
ASTASIS_RULE_ENDS(degrees)

}
