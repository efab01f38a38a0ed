#include "check/rules.h"

namespace astasis::checks {

const Rule limits_rule{"limits", "joints that begin outside of their limits",
                       "Positions of a joint count from where its bodies are when it is added: there a hinge "
                       "or a slider is at 0, whatever\n"
                       "the bodies' own turns are. Limits that leave out the start throw its bodies to the "
                       "nearer stop at once. Cure:\n"
                       "limits as seen from the start, or bodies that begin within them.",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "hinge", "name": "flap pin", "body": "flap", "at": [0, 2],
             "limits": {"lower": "10 deg", "upper": "80 deg"}}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "flap", "at": [0.5, 2], "shapes": [{"shape": "box", "size": [1, 0.1]}]}]})",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "hinge", "name": "flap pin", "body": "flap", "at": [0, 2],
             "limits": {"lower": "-90 deg", "upper": "80 deg"}}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "flap", "at": [0.5, 2], "shapes": [{"shape": "box", "size": [1, 0.1]}]}]})"};

namespace {

constexpr double kDegrees = 57.29577951308232;

class Starts {
public:
    Starts(std::string name, std::vector<Finding>& out) : name_(std::move(name)), out_(out) {}
    void within(const Limits& limits, double position, bool turns) const {
        const double lower = double{limits.lower}, upper = double{limits.upper}, slack = turns ? 1e-3 : 1e-4;
        if (position >= lower - slack && position <= upper + slack) return;
        const double by = turns ? kDegrees : 1;
        const char* unit = turns ? "degrees" : "m";
        const bool low = position < lower;
        tell(fmt::format("{} begins at {:.3g} {} and has its {} limit at {:.3g} {}", name_,
                         std::fabs(position) < slack ? 0 : by * position, unit, low ? "lower" : "upper",
                         by * (low ? lower : upper), unit));
    }
    void in_cone(double cone, double swing) const {
        constexpr double kSlack = 1e-3;
        if (swing > cone + kSlack)
            tell(fmt::format("{} begins {:.3g} degrees from the middle of its cone of {:.3g} degrees", name_,
                             kDegrees * swing, kDegrees * cone));
    }

private:
    void tell(const std::string& what) const {
        out_.push_back({limits_rule.name, true,
                        what + ": it is thrown there in the first ticks. Positions count from the start."});
    }
    std::string name_;
    std::vector<Finding>& out_;
};

}

template<int Dim> void limits(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    for (const JointId id : world.joints()) {
        const auto& joint = world.joint(id);
        const JointState<Dim> state = world.joint_state(id);
        const Starts starts(trial.joint_name(id), out);
        const double first = double{state.axes[0].position};
        if (const auto* hinge = std::get_if<Hinge<Dim>>(&joint); hinge)
            starts.within(hinge->limits, first, true);
        if (const auto* slider = std::get_if<Slider<Dim>>(&joint); slider)
            starts.within(slider->limits, first, false);
        if (const auto* spring = std::get_if<Spring<Dim>>(&joint); spring)
            starts.within(spring->limits, first, false);
        if (const auto* wheel = std::get_if<Wheel<Dim>>(&joint); wheel)
            starts.within(wheel->travel, first, false);
        if constexpr (Dim == 3) {
            const double second = double{state.axes[1].position};
            if (const auto* ball = std::get_if<BallJoint>(&joint); ball) {
                if (ball->cone) starts.in_cone(ball->cone->in_radians(), first);
                starts.within(ball->twist, second, true);
            }
            if (const auto* shafts = std::get_if<Universal>(&joint); shafts)
                starts.within(shafts->limits_a, first, true), starts.within(shafts->limits_b, second, true);
        }
    }
}
ASTASIS_RULE_ENDS(limits)

}
