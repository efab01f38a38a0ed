#include "check/rules.h"

namespace astasis::checks {

const Rule stall_rule{"stall", "motors that are too weak",
                      "A motor at its \"most\" that hardly moves is too weak for what it is asked, or "
                      "something is in its way.\n"
                      "Cure: a higher \"most\", a lighter load, or a look at what blocks it.",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "hinge", "name": "crank", "body": "arm", "at": [0, 0.1],
             "motor": {"most": 5, "speed": "90 deg/s"}}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "arm", "at": [1, 0.1], "shapes": [{"shape": "box", "size": [2, 0.2]}]}]})",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "hinge", "name": "crank", "body": "arm", "at": [0, 0.1],
             "motor": {"most": 50000, "speed": "90 deg/s"}}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "arm", "at": [1, 0.1], "shapes": [{"shape": "box", "size": [2, 0.2]}]}]})"};

template<int Dim> void stall(const Trial<Dim>& trial, std::vector<Finding>& out) {
    for (const std::string& name : trial.stalled)
        out.push_back(
            {stall_rule.name, false,
             fmt::format(
                 "the motor of {} is at its most after {:.2g} s and stands: raise \"most\", or free its way.",
                 name, trial.seconds)});
}
ASTASIS_RULE_ENDS(stall)

}
