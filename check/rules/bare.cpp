#include "check/rules.h"

namespace astasis::checks {

const Rule bare_rule{
    "bare", "moving bodies without a solid shape",
    "A body without shapes, or with sensors alone, meets nothing: it falls through every floor. Its mass was "
    "given,\n"
    "else the library refuses it. Cure: a shape; or a kinematic body, or a sensor on a static one.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "gauge", "at": [0, 2], "shapes": [{"shape": "circle", "radius": 0.1, "sensor": true}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "gauge", "at": [0, 2], "shapes": [{"shape": "circle", "radius": 0.1}]}]})"};

namespace {

bool is_solid(const auto& shapes) {
    return std::any_of(shapes.begin(), shapes.end(), [](const auto& s) { return !s.is_sensor; });
}
void tell(const std::vector<std::string>& names, std::vector<Finding>& out) {
    if (names.empty()) return;
    out.push_back(
        {bare_rule.name, true,
         fmt::format("{}: moves and has no solid shape, so it touches nothing and falls through all. Give "
                     "it a shape, or another motion.",
                     some_of(names))});
}

}

template<int Dim> void bare(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    std::vector<std::string> names;
    for (const BodyId id : world.bodies()) {
        const float pull = length(world.settings().gravity) * world.free_motion(id).gravity_scale;
        if (world.motion(id) == Motion::Dynamic && !is_solid(world.shapes(id)) && pull != 0 &&
            world.joints_of(id).empty())
            names.push_back(trial.name(id));
    }
    tell(names, out);
}
ASTASIS_RULE_ENDS(bare)

template<int Dim> std::vector<Finding> bare_entries(const scene::Scene<Dim>& scene) {
    std::vector<std::string> names;
    for (const auto& entry : scene.bodies)
        if (entry.spec.motion == Motion::Dynamic && !is_solid(entry.spec.shapes)) names.push_back(entry.name);
    std::vector<Finding> out;
    tell(names, out);
    return out;
}
template std::vector<Finding> bare_entries(const scene::Scene<2>&);
template std::vector<Finding> bare_entries(const scene::Scene<3>&);

}
