#include "check/rules.h"

#include "astasis/world_queries.h"

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

namespace {

// The way that a body can fall before its centre meets what is below; 0 if nothing is.
template<int Dim> double fall_of(const World<Dim>& world, BodyId id) {
    constexpr float kFar = 1000;
    const Vec<Dim> gravity = world.settings().gravity;
    const Vec<Dim> down = (kFar / length(gravity)) * gravity;
    const auto hit = first_hit(world, Ray<Dim>{world.centre_of_mass(id), down}, {.except = id});
    return hit ? hit->fraction * double{kFar} : 0;
}

}

template<int Dim> void terminal(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kShare = 0.4; // of the speed that is asked for
    const World<Dim>& world = trial.start;
    const double gravity = double{length(world.settings().gravity)};
    if (!(gravity > 0)) return;
    for (const BodyId id : world.bodies()) {
        const FreeMotion<Dim> free = world.free_motion(id);
        const double damping = double{free.linear_damping}, pull = gravity * double{free.gravity_scale};
        if (!(damping > 0) || world.motion(id) != Motion::Dynamic || !(pull > 0)) continue;
        const double most = pull / damping, begins = double{length(world.velocity(id))};
        const double falls = std::sqrt(2 * pull * fall_of(world, id));
        std::string asked;
        if (most < kShare * begins) asked = fmt::format("begins with {:.3g} m/s", begins);
        else if (most < kShare * falls) asked = fmt::format("would come down with {:.3g} m/s", falls);
        else continue;
        out.push_back({terminal_rule.name, false,
                       fmt::format("{} {}, but its damping of {:.3g} a second lets it fall at no more than "
                                   "{:.3g} m/s. Lower \"linear_damping\" if it is not to float down.",
                                   trial.name(id), asked, damping, most)});
    }
}
ASTASIS_RULE_ENDS(terminal)

}
