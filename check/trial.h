// A scene as it is made, and what happened to a copy in its first seconds.
#pragma once

#include "scene/scene.h"

#include <map>
#include <vector>

namespace astasis::check {

struct Overlap { // of two shapes as the scene has them
    std::string first, second;
    float depth = 0, share = 0; // m, and of the thinner shape
};

struct Loaded { // a heavier body that leans on a lighter one, or is joined to it
    std::string heavy, light;
    double ratio = 0;
    bool joined = false;
};

template<int Dim> struct Trial {
    const scene::Scene<Dim>& scene;
    const scene::Made<Dim>& made;                               // before the first tick
    double seconds = 0;                                         // that were stepped
    std::vector<std::pair<std::string, std::string>> twins{};   // alike and at one place
    std::vector<Overlap> overlaps{};                            // at the start, deepest first, without twins
    std::vector<Loaded> loaded{};                               // the highest ratio of each pair
    double energy_start = 0, energy_most = 0, kinetic_most = 0; // J, without what was given by others
    double median_tick = 0;                                     // s of wall time
    std::vector<std::string> stalled{}; // joints whose motor was at its most and fell short
    bool moved = false;                 // whether anything did
};

// Both outlive it.
template<int Dim>
Trial<Dim> try_out(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made, scene::Made<Dim>& copy);

extern template Trial<2> try_out(const scene::Scene<2>&, const scene::Made<2>&, scene::Made<2>&);
extern template Trial<3> try_out(const scene::Scene<3>&, const scene::Made<3>&, scene::Made<3>&);

}
