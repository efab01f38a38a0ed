#include "record/measures.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace astasis::record {

template<int Dim> std::string measures_head() {
    std::string out = "tick,time_s,kinetic_J,potential_J,total_J,momentum_x_kg_m_s,momentum_y_kg_m_s";
    out += Dim == 2 ? ",angular_momentum_kg_m2_s"
                    : ",momentum_z_kg_m_s,angular_momentum_x_kg_m2_s,angular_momentum_y_kg_m2_s,"
                      "angular_momentum_z_kg_m2_s";
    return out + ",deepest_overlap_m,typical_overlap_m,contacts,overlapping,awake,asleep,fastest_m_s,mean_"
                 "speed_m_s,"
                 "tick_time_ms\n";
}

template<int Dim>
void append_measures(std::string& out, const scene::Made<Dim>& made, std::uint64_t tick, double wall) {
    const World<Dim>& world = made.world;
    const Energy energy = world.energy();
    const Momentum<Dim> momentum = world.momentum();
    const Penetration overlap = world.penetration();
    auto to = std::back_inserter(out);
    fmt::format_to(to, "{},{},{},{},{}", tick, world.time(), energy.kinetic, energy.potential + 0.0,
                   energy.total() + 0.0);
    for (int k = 0; k < Dim; k++) fmt::format_to(to, ",{}", momentum.linear[k] + 0.0f);
    if constexpr (Dim == 2) fmt::format_to(to, ",{}", momentum.angular + 0.0f);
    else
        for (int k = 0; k < 3; k++) fmt::format_to(to, ",{}", momentum.angular[k] + 0.0f);
    std::size_t awake = 0, asleep = 0;
    double fastest = 0, sum = 0;
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic) continue;
        (world.is_asleep(id) ? asleep : awake)++;
        const double speed = double{length(world.velocity(id))};
        fastest = std::max(fastest, speed), sum += speed;
    }
    const double mean = awake + asleep > 0 ? sum / static_cast<double>(awake + asleep) : 0;
    fmt::format_to(to, ",{},{},{},{},{},{},{},{},{:.4f}\n", overlap.deepest, overlap.typical,
                   overlap.contacts, overlap.overlapping, awake, asleep, fastest, mean, 1e3 * wall);
}

template std::string measures_head<2>();
template std::string measures_head<3>();
template void append_measures(std::string&, const scene::Made<2>&, std::uint64_t, double);
template void append_measures(std::string&, const scene::Made<3>&, std::uint64_t, double);

}
