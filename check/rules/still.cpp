#include "check/rules.h"

namespace astasis::check {

const Rule still_rule{"still", "scenes in which nothing moves",
                      "Every body is static, asleep, or stands without gravity and speed. Cure: \"motion\": "
                      "\"dynamic\" (the default),\n"
                      "a velocity, a gravity, or a time line."};

template<int Dim> void still(const Trial<Dim>& trial, std::vector<Finding>& out) {
    if (trial.moved || trial.made.world.bodies().empty() || !trial.scene.timeline.empty() ||
        trial.seconds == 0)
        return;
    out.push_back(
        {still_rule.name, false, fmt::format("nothing moves in the first {:.2g} s.", trial.seconds)});
}
ASTASIS_RULE_ENDS(still)

}
