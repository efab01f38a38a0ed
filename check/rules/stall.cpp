#include "check/rules.h"

namespace astasis::check {

const Rule stall_rule{"stall", "motors that are too weak",
                      "A motor at its \"most\" that hardly moves is too weak for what it is asked, or "
                      "something is in its way.\n"
                      "Cure: a higher \"most\", a lighter load, or a look at what blocks it."};

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
