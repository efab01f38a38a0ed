#include "check/rules.h"

#include <limits>

namespace astasis::checks {

const Rule tunnel_rule{"tunnel", "bodies that may pass through what is thin",
                       "A body with \"sweep\": \"none\" is looked at only where it is when a tick begins. If "
                       "it comes farther in a tick\n"
                       "than it and a wall are thick together, it may be on the other side. Cure: \"sweep\": "
                       "\"everything\" (the\n"
                       "default), thicker walls, more ticks a second, or a lower speed.",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "shot", "at": [0, 3], "velocity": [300, 0], "sweep": "none", "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "gate", "motion": "static", "at": [40, 3], "shapes": [{"shape": "box", "size": [0.1, 2]}]}]})",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "shot", "at": [0, 3], "velocity": [300, 0], "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "gate", "motion": "static", "at": [40, 3], "shapes": [{"shape": "box", "size": [0.1, 2]}]}]})"};

template<int Dim> void tunnel(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    double thinnest = std::numeric_limits<double>::infinity();
    for (const BodyId id : world.bodies())
        if (world.motion(id) == Motion::Static)
            for (const auto& shape : world.shapes(id))
                if (!shape.is_sensor) thinnest = std::min(thinnest, double{thickness_of(shape)});
    if (!std::isfinite(thinnest)) return;
    const double tick = world.settings().tick;
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic || world.sweep(id) != Sweep::None || world.shapes(id).empty())
            continue;
        double width = std::numeric_limits<double>::infinity();
        for (const auto& shape : world.shapes(id)) width = std::min(width, double{thickness_of(shape)});
        const double safe = (width + thinnest) / tick, speed = double{length(world.velocity(id))};
        if (speed <= safe) continue;
        out.push_back(
            {tunnel_rule.name, true,
             fmt::format(
                 "{} comes {:.3g} m in a tick and is not swept; it and the thinnest wall are {:.3g} m thick "
                 "together. The highest safe speed is {:.3g} m/s: let it be swept.",
                 trial.name(id), speed * tick, width + thinnest, safe)});
    }
}
ASTASIS_RULE_ENDS(tunnel)

}
