// Stage times and counts of each tick of a run, as a table, and as a trace for viewers.
#pragma once

#include "astasis/world.h"

#include <string>
#include <vector>

namespace astasis::record {

struct TickTimes {
    double time = 0; // s, of the world at its end
    double all = 0;  // s of wall time, from outside
    StageTimes stages;
    TickCounts counts;
    WorkOfTick work;
};

// Steps a world that is timed, and notes the tick.
template<int Dim> TickTimes timed_step(World<Dim>& world);

struct Stage {
    const char* name;
    double StageTimes::*seconds;
};
inline constexpr Stage kStages[] = {{"pairs", &StageTimes::pairs},     {"manifolds", &StageTimes::manifolds},
                                    {"solving", &StageTimes::solving}, {"events", &StageTimes::events},
                                    {"sleep", &StageTimes::sleep},     {"rest", &StageTimes::rest}};

// The value below which a share of the values lies, 0 to 1; 0 of none.
double quantile(std::vector<double> values, double share);

// Stages: median, 99th percentile, worst tick; counts and work at the median and in the worst tick; `tick` is
// the length of one, s.
std::string times_table(const std::vector<TickTimes>& ticks, double tick);

// The ratio of two worlds' ticks that were taken in turn: median, and between which values half of them lie;
// and of all of them together, in which long ticks count most.
struct Ratio {
    double median = 1, low = 1, high = 1, all = 1;
};
Ratio ratio_of(const std::vector<TickTimes>& ticks, const std::vector<TickTimes>& others);

// Trace Event Format, JSON: a complete event for each tick and each of its stages, counters beside them.
std::string trace_json(const std::vector<TickTimes>& ticks);

extern template TickTimes timed_step(World<2>&);
extern template TickTimes timed_step(World<3>&);

}
