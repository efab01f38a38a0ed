#include "tool/settings.h"

namespace astasis::tool {

void add_settings(Options& options, Settings& settings) {
    options.number("--duration", settings.duration, {0, 1e6, "seconds, from 0 to 1000000"},
                   {"SECONDS", "Seconds to simulate, instead of the scene's"});
    options.number("--ticks-per-second", settings.ticks_per_second, {1, 1e5, "a number from 1 to 100000"},
                   {"N", "Ticks a second, instead of the scene's"});
    options.whole("--substeps", settings.substeps, {1, 64, "a whole number from 1 to 64"},
                  {"N", "Parts into which a tick is cut to solve contacts"});
    options.whole("--seed", settings.seed,
                  {0, ~std::uint64_t{0}, "a whole number, 0 to 18446744073709551615"},
                  {"N", "Seed of the scene's random spread"});
}

}
