#include "check/rules.h"

namespace astasis::checks {

const Rule energy_rule{
    "energy", "energy that comes from nowhere",
    "Without motors, belts, thrusts and fields the sum of all energy can only fall. If it grows in the first "
    "seconds,\n"
    "things were put into each other, or a restitution that is set for two materials is too high for what\n"
    "meets. Cure: see what overlaps at the start; lower the restitution.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.36], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void energy(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kShare = 0.01; // of the highest kinetic energy
    const World<Dim>& world = trial.start;
    if (!trial.twins.empty() || (!trial.overlaps.empty() && trial.overlaps[0].share > kDeepShare)) return;
    bool closed = world.joints().empty() && world.fields().empty() && trial.timeline().empty();
    for (const BodyId id : world.bodies()) closed = closed && world.motion(id) != Motion::Kinematic;
    const double gained = trial.energy_most - trial.energy_start;
    if (!closed || !(gained > kShare * trial.kinetic_most) || !(gained > 1e-9)) return;
    out.push_back({energy_rule.name, true,
                   fmt::format("{:.4g} J appear in the first {:.2g} s, {:.3g} % of the highest kinetic "
                               "energy: look for what overlaps a "
                               "little at the start, and for a restitution that is too high.",
                               gained, trial.seconds,
                               std::min(100 * gained / std::max(trial.kinetic_most, 1e-9), 1e6))});
}
ASTASIS_RULE_ENDS(energy)

}
