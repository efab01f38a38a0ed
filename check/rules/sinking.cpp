#include "check/rules.h"

namespace astasis::checks {

const Rule sinking_rule{"sinking", "things that sink into what bears them",
                        "Contacts give way by gravity times the square of a substep for all that lies on "
                        "top. A light thing under a heavy\n"
                        "one, or the foot of a tall stack, is pressed into what is below it. Cure: more "
                        "\"substeps\" (twice as many sink a\n"
                        "quarter), a higher \"extra_work\", masses nearer to each other, lower stacks.",
                        R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "substeps": 1, "extra_work": 0,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "light", "at": [0, 0.1], "mass": 0.01, "shapes": [{"shape": "box", "size": [0.2, 0.2]}]},
  {"name": "press", "at": [0, 1.2], "mass": 100000, "shapes": [{"shape": "box", "size": [1, 2]}]}]})",
                        R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "light", "at": [0, 0.1], "mass": 10, "shapes": [{"shape": "box", "size": [0.2, 0.2]}]},
  {"name": "press", "at": [0, 1.2], "mass": 1000, "shapes": [{"shape": "box", "size": [1, 2]}]}]})"};

template<int Dim> void sinking(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr float kMuch = 0.1f; // of the thinner
    std::vector<std::string> deep;
    for (const Overlap& o : trial.sunk) {
        const std::string pair = fmt::format("{} in {}", o.first, o.second);
        const auto known = [&](const std::string& other) { return other.starts_with(pair + " by"); };
        if (o.share > kMuch && std::none_of(deep.begin(), deep.end(), known))
            deep.push_back(
                fmt::format("{} by {:.3g} m ({:.0f} % of the thinner)", pair, o.depth, 100 * o.share));
    }
    if (deep.empty()) return;
    const bool refused = trial.work_refused > trial.work_plain;
    out.push_back(
        {sinking_rule.name, false,
         fmt::format("after {:.2g} s {}: what lies on them is too much for {} substeps{}. More substeps, {} "
                     "or masses nearer to each other help.",
                     trial.seconds, some_of(deep), trial.start.settings().substeps,
                     refused ? ", and extra_work refused to be more exact" : "",
                     refused ? "a higher extra_work" : "a lower stack")});
}
ASTASIS_RULE_ENDS(sinking)

}
