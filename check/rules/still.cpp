#include "check/rules.h"

namespace astasis::checks {

const Rule still_rule{"still", "scenes in which nothing moves",
                      "Every body is static, asleep, or stands without gravity and speed. Cure: \"motion\": "
                      "\"dynamic\" (the default),\n"
                      "a velocity, a gravity, or a time line.",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]}]})",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void still(const Trial<Dim>& trial, std::vector<Finding>& out) {
    if (trial.moved || trial.start.bodies().empty() || !trial.timeline().empty() || trial.seconds == 0)
        return;
    out.push_back(
        {still_rule.name, false, fmt::format("nothing moves in the first {:.2g} s.", trial.seconds)});
}
ASTASIS_RULE_ENDS(still)

}
