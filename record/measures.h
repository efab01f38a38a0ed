// Measures of a whole world after a tick, as rows of CSV: energy, momentum, overlaps, counts, speeds.
#pragma once

#include "astasis/scene/scene.h"

#include <string>

namespace astasis::record {

// "tick,time_s,kinetic_J,..." and a line for a tick. `wall` is what the tick took, s of wall time; the one
// column that differs from run to run.
template<int Dim> std::string measures_head();
template<int Dim>
void append_measures(std::string& out, const scene::Made<Dim>& made, std::uint64_t tick, double wall);

}
