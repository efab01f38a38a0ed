#include "check/rules.h"

namespace astasis::checks {

const Rule slow_rule{"slow", "ticks that take longer than they simulate",
                     "A tick that takes longer than its own length cannot keep up with the clock. Cure: "
                     "fewer bodies awake, fewer\n"
                     "ticks a second, a lower extra_work; `astasis time` tells where the time goes.",
                     R"({"astasis_scene": 1, "dimension": 2, "duration": 0.0005,
 "ticks_per_second": 100000,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}],
   "repeat": {"count": [10, 20], "pitch": [1.5, 1.5]}}]})",
                     R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void slow(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const double tick = trial.start.settings().tick;
    if (!(trial.median_tick > tick)) return;
    out.push_back({slow_rule.name, false,
                   fmt::format("a tick takes {:.3g} ms here and simulates {:.3g} ms: see astasis time.",
                               1e3 * trial.median_tick, 1e3 * tick)});
}
ASTASIS_RULE_ENDS(slow)

}
