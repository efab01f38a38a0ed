#include "check/rules.h"

namespace astasis::checks {

const Rule slope_rule{
    "slope", "friction that cannot hold what stands on a slope",
    "A block stands on a slope as long as the tangent of its angle is below the coefficient of friction: 0.5 "
    "holds up to\n"
    "26.6 degrees, 1 up to 45. The coefficient of a pair is mixed from both materials, by their geometric "
    "mean unless\n"
    "they say otherwise. Cure: more friction on both, or a gentler slope; none, if it is to slide.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "materials": {"board": {"friction": 0.3}},
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "ramp", "motion": "static", "at": [0, 2], "turn": "30 deg",
   "shapes": [{"shape": "box", "size": [8, 0.4], "material": "board"}]},
  {"name": "crate", "at": [-0.35, 2.6062], "turn": "30 deg",
   "shapes": [{"shape": "box", "size": [1, 1], "material": "board"}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "materials": {"board": {"friction": 0.8}},
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "ramp", "motion": "static", "at": [0, 2], "turn": "30 deg",
   "shapes": [{"shape": "box", "size": [8, 0.4], "material": "board"}]},
  {"name": "crate", "at": [-0.35, 2.6062], "turn": "30 deg",
   "shapes": [{"shape": "box", "size": [1, 1], "material": "board"}]}]})"};

template<int Dim> void slope(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kDegrees = 57.29577951308232;
    for (const Slipping& s : trial.slipping)
        out.push_back(
            {slope_rule.name, false,
             fmt::format("{} stands on {}, a slope of {:.3g} degrees, and slides: friction of {:.2g} holds "
                         "up to {:.3g} degrees. To stand there it wants {:.2g} or more.",
                         s.who, s.on, kDegrees * s.slope, s.friction, kDegrees * std::atan(s.friction),
                         std::tan(s.slope))});
}
ASTASIS_RULE_ENDS(slope)

}
