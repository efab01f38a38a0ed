#include "check/rules.h"

#include "check/fall.h"

namespace astasis::checks {

const Rule terminal_rule{
    "terminal", "damping that is a brake",
    "Damping of c a second bounds the speed of a fall to gravity / c, and halves any speed in 0.7 / c "
    "seconds. Values\n"
    "that are copied from elsewhere are often shares a tick, or meant for another unit. Cure: 0 unless\n"
    "the thing is to float; air is \"drag\".",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 5], "velocity": [0, -30], "linear_damping": 5, "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 5], "velocity": [0, -3], "linear_damping": 0.5, "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

template<int Dim> void terminal(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kShare = 0.4; // of the speed that is asked for
    const World<Dim>& world = trial.start;
    const double gravity = double{length(world.settings().gravity)};
    for (const BodyId id : world.bodies()) {
        const FreeMotion<Dim> free = world.free_motion(id);
        const double damping = double{free.linear_damping}, pull = gravity * double{free.gravity_scale};
        const double begins = double{length(world.velocity(id))};
        if (!(damping > 0) || world.motion(id) != Motion::Dynamic) continue;
        std::string text;
        if (!(pull > 0)) {
            double width = 0;
            for (const auto& shape : world.shapes(id)) width = std::max(width, double{thickness_of(shape)});
            if (begins > 0 && begins / damping < width)
                text = fmt::format(
                    "{} begins with {:.3g} m/s and comes no farther than {:.2g} m: its damping is "
                    "{:.3g} a second",
                    trial.name(id), begins, begins / damping, damping);
        } else {
            const double most = pull / damping, falls = std::sqrt(2 * pull * fall_of(world, id));
            const bool is_brake = most < kShare * begins;
            if (is_brake || most < kShare * falls)
                text = fmt::format(
                    "{} {} {:.3g} m/s, but its damping of {:.3g} a second lets it fall at no more "
                    "than {:.3g} m/s",
                    trial.name(id), is_brake ? "begins with" : "would come down with",
                    is_brake ? begins : falls, damping, most);
        }
        if (!text.empty())
            out.push_back(
                {terminal_rule.name, false, text + ". Lower \"linear_damping\" if it is not to float."});
    }
}
ASTASIS_RULE_ENDS(terminal)

}
