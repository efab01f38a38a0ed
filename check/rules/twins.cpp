#include "check/rules.h"

namespace astasis::checks {

const Rule twins_rule{
    "twins", "bodies that were put in twice",
    "Two bodies of one size at one place: most often an entry that was copied and not moved, or a grid\n"
    "with a pitch of 0 along an axis with a count. They burst apart in the first ticks.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "copy", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "copy", "at": [2, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void twins(const Trial<Dim>& trial, std::vector<Finding>& out) {
    std::vector<std::string> pairs;
    for (const auto& [first, second] : trial.twins) pairs.push_back(fmt::format("{} and {}", first, second));
    if (pairs.empty()) return;
    out.push_back(
        {twins_rule.name, true,
         fmt::format("{}: alike, and at the same place. One of them is too much, or was to be moved.",
                     some_of(pairs))});
}
ASTASIS_RULE_ENDS(twins)

}
