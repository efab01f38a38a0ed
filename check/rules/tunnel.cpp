#include "check/rules.h"

#include "check/fall.h"
#include "check/shape_kinds.h"

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

namespace {

// The thinnest thing that stands, m; infinite if there is none.
template<int Dim> double thinnest_wall(const World<Dim>& world) {
    double out = std::numeric_limits<double>::infinity();
    for (const BodyId id : world.bodies())
        if (world.motion(id) == Motion::Static)
            for (const auto& shape : world.shapes(id))
                if (!shape.is_sensor)
                    out = std::min(out, is_skin<Dim>(shape.geometry) ? 0 : double{thickness_of(shape)});
    return out;
}

}

template<int Dim> void tunnel(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    const double tick = world.settings().tick, wall = thinnest_wall(world);
    if (!std::isfinite(wall)) return;
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic || world.sweep(id) != Sweep::None || world.shapes(id).empty())
            continue;
        double width = std::numeric_limits<double>::infinity();
        for (const auto& shape : world.shapes(id)) width = std::min(width, double{thickness_of(shape)});
        const double pull =
            double{length(world.settings().gravity)} * double{world.free_motion(id).gravity_scale};
        const double begins = double{length(world.velocity(id))}, fall = pull > 0 ? fall_of(world, id) : 0;
        const double safe = (width + wall) / tick, speed = std::sqrt(begins * begins + 2 * pull * fall);
        if (speed <= safe) continue;
        out.push_back(
            {tunnel_rule.name, true,
             fmt::format("{} comes {:.3g} m in a tick{} and is not swept; it and the thinnest wall are "
                         "{:.3g} m thick together. The highest safe speed is {:.3g} m/s: let it be swept.",
                         trial.name(id), (begins > safe ? begins : speed) * tick,
                         begins > safe ? "" : " when it has fallen", width + wall, safe)});
    }
}
ASTASIS_RULE_ENDS(tunnel)

}
