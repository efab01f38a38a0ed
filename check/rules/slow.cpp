#include "check/rules.h"

namespace astasis::check {

const Rule slow_rule{"slow", "ticks that take longer than they simulate",
                     "A tick that takes longer than its own length cannot keep up with the clock. Cure: "
                     "fewer bodies awake, fewer\n"
                     "ticks a second, a lower extra_work; `astasis time` tells where the time goes."};

template<int Dim> void slow(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const double tick = trial.made.world.settings().tick;
    if (!(trial.median_tick > tick)) return;
    out.push_back({slow_rule.name, false,
                   fmt::format("a tick takes {:.3g} ms here and simulates {:.3g} ms: see astasis time.",
                               1e3 * trial.median_tick, 1e3 * tick)});
}
ASTASIS_RULE_ENDS(slow)

}
