#include "check/trial.h"

#include "check/watcher.h"

#include <algorithm>
#include <chrono>

namespace astasis::checks {

template<int Dim>
void try_out(Trial<Dim>& trial, const World<Dim>& copy, double seconds, const StepCopy& step) {
    using Clock = std::chrono::steady_clock;
    const double tick = copy.settings().tick;
    const std::uint64_t ticks = std::max<std::uint64_t>(scene::ticks_in(seconds, tick), 1);
    Watcher<Dim> watcher(copy, trial, ticks);
    std::vector<double> times;
    for (std::uint64_t n = 0; n < ticks; n++) {
        const auto begin = Clock::now();
        step();
        times.push_back(std::chrono::duration<double>(Clock::now() - begin).count());
        watcher.tick(n);
    }
    trial.seconds = static_cast<double>(ticks) * tick;
    const auto middle = times.begin() + static_cast<std::ptrdiff_t>(times.size() / 2);
    std::nth_element(times.begin(), middle, times.end());
    trial.median_tick = *middle;
    watcher.finish();
}

template void try_out(Trial<2>&, const World<2>&, double, const StepCopy&);
template void try_out(Trial<3>&, const World<3>&, double, const StepCopy&);

}
