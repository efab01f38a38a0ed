#include "check/rules.h"

namespace astasis::checks {

const Rule ghost_rule{
    "ghost", "moving bodies that nothing can touch",
    "A body meets others by its solid shapes, where layers and groups of both let them. One whose shapes "
    "meet\n"
    "no other of the scene falls through every floor. Cure: a layer that the others collide with, and\n"
    "theirs in its \"collides_with\".",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1], "collides_with": ["goods"]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1], "collides_with": ["common"]}]}]})"};

template<int Dim> void ghost(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    // One shape of each filter that some body has, with the number of such bodies.
    struct Kind {
        ShapeSpec<Dim> shape;
        std::size_t bodies = 0;
    };
    std::vector<Kind> kinds;
    const auto is_of = [](const ShapeSpec<Dim>& a, const ShapeSpec<Dim>& b) {
        return a.layers == b.layers && a.collides_with == b.collides_with && a.group == b.group;
    };
    const auto each_kind = [&](BodyId id, const auto& visit) {
        std::vector<const ShapeSpec<Dim>*> seen;
        for (const auto& shape : world.shapes(id)) {
            const auto known = [&](const auto* other) { return is_of(*other, shape); };
            if (shape.is_sensor || std::any_of(seen.begin(), seen.end(), known)) continue;
            seen.push_back(&shape);
            visit(shape);
        }
    };
    for (const BodyId id : world.bodies())
        each_kind(id, [&](const ShapeSpec<Dim>& shape) {
            auto at = std::find_if(kinds.begin(), kinds.end(),
                                   [&](const Kind& k) { return is_of(k.shape, shape); });
            if (at == kinds.end()) at = kinds.insert(at, {shape, 0});
            at->bodies++;
        });
    for (const auto& action : trial.timeline())
        if (const auto* spawn = std::get_if<scene::Spawn<Dim>>(&action.kind); spawn)
            for (const auto& shape : spawn->body.spec.shapes)
                if (!shape.is_sensor) kinds.push_back({shape, 2});
    std::vector<std::string> names;
    for (const BodyId id : world.bodies()) {
        const bool falls =
            world.motion(id) == Motion::Dynamic && world.joints_of(id).empty() &&
            double{length(world.settings().gravity) * world.free_motion(id).gravity_scale} != 0;
        if (!falls || world.bodies().size() < 2) continue;
        bool meets = false, is_solid = false;
        each_kind(id, [&](const ShapeSpec<Dim>& own) {
            is_solid = true;
            for (const Kind& kind : kinds)
                meets =
                    meets || (may_touch(own, kind.shape) && kind.bodies > (is_of(own, kind.shape) ? 1u : 0u));
        });
        if (is_solid && !meets) names.push_back(trial.name(id));
    }
    if (names.empty()) return;
    out.push_back(
        {ghost_rule.name, true,
         fmt::format(
             "{}: can touch nothing in the scene, by layers or groups, and will fall through everything.",
             some_of(names))});
}
ASTASIS_RULE_ENDS(ghost)

}
