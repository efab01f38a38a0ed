#include "check/rules.h"

namespace astasis::check {

const Rule terminal_rule{
    "terminal", "damping that is a brake",
    "Damping of c a second bounds the speed of a fall to gravity / c, and halves any speed in 0.7 / c "
    "seconds. Values\n"
    "that are copied from elsewhere are often shares a tick, or meant for another unit. Cure: 0 unless\n"
    "the thing is to float; air is \"drag\"."};

template<int Dim> void terminal(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.made.world;
    const double gravity = double{length(world.settings().gravity)};
    for (const auto& entry : trial.scene.bodies) {
        const FreeMotion<Dim>& free = entry.spec.free;
        if (!(free.linear_damping > 0) || entry.spec.motion != Motion::Dynamic) continue;
        const double most = gravity * std::fabs(double{free.gravity_scale}) / double{free.linear_damping};
        const double asked = double{length(entry.spec.velocity)};
        if (gravity > 0 && asked > 2 * most)
            out.push_back({terminal_rule.name, false,
                           fmt::format("{} begins with {:.3g} m/s, but its damping of {:.3g} a second lets "
                                       "it fall at no more than "
                                       "{:.3g} m/s and brakes it at once.",
                                       entry.name, asked, double{free.linear_damping}, most)});
    }
}
ASTASIS_RULE_ENDS(terminal)

}
