#include "check/rules.h"

namespace astasis::checks {

const Rule mass_ratio_rule{
    "mass_ratio", "heavy on light",
    "A heavy body that leans on a light one, or hangs from it, makes contacts and joints soft: piles sink, "
    "chains\n"
    "stretch. Up to 100 to 1 nothing is seen; islands of up to a few dozen bodies bear more by smaller "
    "substeps.\n"
    "Cure: masses nearer to each other (a hollow box instead of a full one), or the heavy one below.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "light", "at": [0, 0.5], "mass": 1, "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "press", "at": [0, 1.5], "mass": 5000, "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "light", "at": [0, 0.5], "mass": 1, "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "press", "at": [0, 1.5], "mass": 50, "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void mass_ratio(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kMuch = 100, kTooMuch = 1000;
    std::vector<std::string> much, too_much;
    for (const Loaded& l : trial.loaded) {
        const std::string text = fmt::format("{} {} {} ({:.0f} to 1)", l.heavy,
                                             l.joined ? "is joined to" : "leans on", l.light, l.ratio);
        if (l.ratio > kTooMuch) too_much.push_back(text);
        else if (l.ratio > kMuch) much.push_back(text);
    }
    const auto tell = [&](const std::vector<std::string>& of, bool is_error) {
        if (!of.empty())
            out.push_back({mass_ratio_rule.name, is_error,
                           fmt::format("{}: such masses make contacts soft. Bring them nearer to each other.",
                                       some_of(of))});
    };
    tell(too_much, true), tell(much, false);
}
ASTASIS_RULE_ENDS(mass_ratio)

}
