#include "astasis/force_watch.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis {

template<int Dim> void ForceWatch<Dim>::before_tick(const World<Dim>& world) {
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic || world.is_asleep(id)) continue;
        const Vec<Dim> force = world.applied_force(id);
        const auto at = seen_.find(id);
        if (at == seen_.end() && force == Vec<Dim>{}) continue;
        Seen& seen = seen_[id];
        const Point<Dim> now = world.centre_of_mass(id);
        if (seen.ticks++ > 0) {
            const Vec<Dim> way = now - seen.at, change = force - seen.force;
            seen.ways += double{dot(way, way)}, seen.pulls -= double{dot(change, way)};
            seen.forces += double{dot(change, change)};
        }
        seen.at = now, seen.force = force;
    }
}

template<int Dim>
std::vector<checks::Finding> ForceWatch<Dim>::findings(const World<Dim>& world,
                                                       const std::function<std::string(BodyId)>& name) const {
    constexpr std::size_t kTicks = 20; // too few tell nothing
    constexpr double kAlong = 0.9;     // the share of the force's change that follows the way
    constexpr double kGrowth = 0.05;   // a second
    std::vector<checks::Finding> out;
    const auto& bodies = world.bodies();
    for (std::size_t k = 0; k < bodies.size(); k++) {
        const auto at = seen_.find(bodies[k]);
        if (at == seen_.end()) continue;
        const Seen& seen = at->second;
        const bool follows = seen.pulls > 0 && seen.pulls * seen.pulls > kAlong * seen.ways * seen.forces;
        if (seen.ticks < kTicks || !follows) continue;
        const double stiffness = seen.pulls / seen.ways, mass = double{world.mass(bodies[k]).mass};
        const double growth = std::expm1(stiffness / (4 * mass) * world.settings().tick);
        if (growth < kGrowth) continue;
        out.push_back(
            {"stiff", growth > 1,
             fmt::format("the force on {} follows its place like a spring of {:.3g} N/m; applied for "
                         "a tick of {:.3g} ms it adds {:.0f} % to each swing in a second. Make it a "
                         "Spring joint, or a field.",
                         name ? name(bodies[k]) : fmt::format("body {}", k), stiffness,
                         1e3 * world.settings().tick, 100 * std::min(growth, 1e6))});
    }
    return out;
}

template class ForceWatch<2>;
template class ForceWatch<3>;

}
