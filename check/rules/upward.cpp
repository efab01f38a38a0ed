#include "check/rules.h"

namespace astasis::checks {

const Rule upward_rule{"upward", "gravity that points up",
                       "y is up, in the plane and in space, and gravity is a vector: [0, -9.81] pulls down. "
                       "In a picture whose y runs\n"
                       "down, as on a screen, it is easy to give it as [0, 9.81]; all then falls off the "
                       "top. Cure: a minus before it,\n"
                       "and y turned round where you draw.",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "gravity": [0, 9.81],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "gravity": [0, -9.81],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void upward(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const Vec<Dim> gravity = trial.start.settings().gravity;
    if (!(gravity[1] > 0) || gravity[1] < 0.9f * length(gravity)) return;
    out.push_back(
        {upward_rule.name, false,
         fmt::format("gravity is {:+.4g} m/s2 along y, which points up: things fall upwards. Give {:.4g} "
                     "if they are to fall down.",
                     gravity[1], -gravity[1])});
}
ASTASIS_RULE_ENDS(upward)

}
