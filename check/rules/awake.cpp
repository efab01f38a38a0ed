#include "check/rules.h"

namespace astasis::checks {

const Rule awake_rule{"awake", "bodies that can never sleep, and why",
                      "What lies still for half a second sleeps and costs nothing. What rolls on level "
                      "ground rolls for ever unless\n"
                      "something resists it, as does what spins in place or slides without friction; what "
                      "may not sleep keeps awake all\n"
                      "that touches it. Cure: \"rolling_resistance\" or \"spinning_resistance\" of its "
                      "material (some tenths of a percent of\n"
                      "its radius), friction, a little damping; \"may_sleep\" where it is not needed.",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "materials": {"rubber": {"friction": 0.8}},
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "ball", "at": [0, 0.5], "velocity": [2, 0], "shapes": [{"shape": "circle", "radius": 0.5, "material": "rubber"}]}]})",
                      R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "materials": {"rubber": {"friction": 0.8, "rolling_resistance": 0.01}},
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "ball", "at": [0, 0.5], "velocity": [2, 0], "shapes": [{"shape": "circle", "radius": 0.5, "material": "rubber"}]}]})"};

template<int Dim> void awake(const Trial<Dim>& trial, std::vector<Finding>& out) {
    std::vector<std::string> rolls, spins, slides;
    for (const Restless& r : trial.restless) {
        const std::string text =
            fmt::format("{} ({:.2g} {})", r.who, r.pace, r.why == Restless::Why::Spins ? "rad/s" : "m/s");
        switch (r.why) {
        case Restless::Why::Rolls: rolls.push_back(text); break;
        case Restless::Why::Spins: spins.push_back(text); break;
        case Restless::Why::Slides: slides.push_back(text); break;
        case Restless::Why::MayNotSleep:
            out.push_back(
                {awake_rule.name, false,
                 fmt::format("{} lies still, may not sleep, and keeps awake what touches it ({:g} {}). "
                             "Leave out \"may_sleep\" if nothing needs it.",
                             r.who, r.pace, r.pace == 1 ? "body" : "bodies")});
        }
    }
    const auto tell = [&](const std::vector<std::string>& names, const char* does, const char* cure) {
        if (!names.empty())
            out.push_back({awake_rule.name, false,
                           fmt::format("{}: {} for ever and never sleeps. {}", some_of(names), does, cure)});
    };
    tell(rolls, "rolls on level ground",
         "Give its material a \"rolling_resistance\" (m), or it a little damping.");
    tell(spins, "spins in place", "Give its material a \"spinning_resistance\" (m), or it a little damping.");
    tell(slides, "slides on level ground", "Give its material friction, or it a little damping.");
}
ASTASIS_RULE_ENDS(awake)

}
