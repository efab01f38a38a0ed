#include "check/rules.h"

namespace astasis::check {

const Rule late_rule{"late", "actions of the time line after the end",
                     "An action that is due after the scene's duration never happens. Cure: an earlier time, "
                     "or a longer duration."};

template<int Dim> void late(const Trial<Dim>& trial, std::vector<Finding>& out) {
    for (const auto& action : trial.scene.timeline)
        if (action.from >= trial.scene.duration)
            out.push_back(
                {late_rule.name, true,
                 fmt::format("{} is due from {:g} s on, but the scene ends at {:g} s: it never happens.",
                             action.path, action.from, trial.scene.duration)});
}
ASTASIS_RULE_ENDS(late)

}
