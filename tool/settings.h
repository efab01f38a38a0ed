// Options that change what a scene file sets: the same for every command that steps a scene.
#pragma once

#include "scene/scene.h"
#include "tool/checks.h"

#include <optional>

namespace astasis::tool {

struct Settings { // what is not set is as the scene has it
    std::optional<double> duration, ticks_per_second;
    std::optional<int> substeps;
    std::optional<std::uint64_t> seed;
};

inline void add_settings(CLI::App& command, Settings& settings) {
    command.add_option("--duration", settings.duration, "Seconds to simulate, instead of the scene's")
        ->check(number_between(0, 1e6, "seconds, from 0 to 1000000"))
        ->type_name("SECONDS");
    command
        .add_option("--ticks-per-second", settings.ticks_per_second, "Ticks a second, instead of the scene's")
        ->check(number_between(1, 1e5, "a number from 1 to 100000"))
        ->type_name("N");
    command.add_option("--substeps", settings.substeps, "Parts into which a tick is cut to solve contacts")
        ->check(whole_between(1, 64, "a whole number from 1 to 64"))
        ->type_name("N");
    command.add_option("--seed", settings.seed, "Seed of the scene's random spread")
        ->check(whole_between(0, ~std::uint64_t{0}, "a whole number, 0 to 18446744073709551615"))
        ->type_name("N");
}

template<int Dim> void override_settings(scene::Scene<Dim>& scene, const Settings& settings) {
    if (settings.duration) scene.duration = *settings.duration;
    if (settings.ticks_per_second) scene.world.tick = 1.0 / *settings.ticks_per_second;
    if (settings.substeps) scene.world.substeps = *settings.substeps;
    if (settings.seed) scene.seed = *settings.seed;
}

}
