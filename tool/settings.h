// Options that change what a scene file sets: the same for every command that steps a scene.
#pragma once

#include "astasis/scene/scene.h"
#include "tool/options.h"

#include <optional>

namespace astasis::tool {

struct Settings { // what is not set is as the scene has it
    std::optional<double> duration, ticks_per_second;
    std::optional<std::uint64_t> substeps, seed;
};

void add_settings(Options& options, Settings& settings);

template<int Dim> void override_settings(scene::Scene<Dim>& scene, const Settings& settings) {
    if (settings.duration) scene.duration = *settings.duration;
    if (settings.ticks_per_second) scene.world.tick = 1.0 / *settings.ticks_per_second;
    if (settings.substeps) scene.world.substeps = static_cast<int>(*settings.substeps);
    if (settings.seed) scene.seed = *settings.seed;
}

}
