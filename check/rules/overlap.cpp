#include "check/rules.h"

namespace astasis::checks {

const Rule overlap_rule{
    "overlap", "shapes that are in each other at the start",
    "What overlaps is pushed apart, which looks like a jump, a burst or a slow creep. Frequent causes: half\n"
    "extents given as sizes, a place meant for the bottom given for the middle, a pitch below the size.\n"
    "Cure: move one by the depth; or put them on layers that do not meet, if they are to overlap.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void overlap(const Trial<Dim>& trial, std::vector<Finding>& out) {
    std::vector<std::string> names;
    for (const auto& o : trial.overlaps) {
        const std::string text = fmt::format("{} and {} by {:.3g} m ({:.0f} % of the thinner)", o.first,
                                             o.second, o.depth, 100 * o.share);
        const std::string pair = text.substr(0, text.find(" by "));
        if (o.share > kDeepShare && std::none_of(names.begin(), names.end(),
                                                 [&](const auto& n) { return n.starts_with(pair + " by"); }))
            names.push_back(text);
    }
    if (names.empty()) return;
    out.push_back(
        {overlap_rule.name, true,
         fmt::format("at the start overlap {}. They will be pushed apart: move one of two by so much.",
                     some_of(names))});
}
ASTASIS_RULE_ENDS(overlap)

}
