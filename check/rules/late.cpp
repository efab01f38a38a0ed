#include "check/rules.h"

namespace astasis::checks {

const Rule late_rule{"late", "actions of the time line after the end",
                     "An action that is due after the scene's duration never happens. Cure: an earlier time, "
                     "or a longer duration.",
                     R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "timeline": [{"action": "kick", "time": 3, "body": "crate", "impulse": [1, 0]}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
                     R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "timeline": [{"action": "kick", "time": 1, "body": "crate", "impulse": [1, 0]}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void late(const Trial<Dim>& trial, std::vector<Finding>& out) {
    for (const auto& action : trial.timeline())
        if (action.from >= trial.scene->duration)
            out.push_back(
                {late_rule.name, true,
                 fmt::format("{} is due from {:g} s on, but the scene ends at {:g} s: it never happens.",
                             action.path, action.from, trial.scene->duration)});
}
ASTASIS_RULE_ENDS(late)

}
