#include "tool/progress.h"

#include <fmt/core.h>

#include <cstdio>
#include <unistd.h>

namespace astasis::tool {

Progress::Progress(std::uint64_t ticks)
    : ticks_(ticks), terminal_(isatty(STDERR_FILENO) == 1), last_(Clock::now()) {}

Progress::~Progress() {
    if (shown_) fmt::print(stderr, "\r\x1b[K");
}

void Progress::at(std::uint64_t tick) {
    if (!terminal_ || Clock::now() - last_ < std::chrono::milliseconds(200)) return;
    last_ = Clock::now();
    shown_ = true;
    fmt::print(stderr, "\rtick {} of {}\x1b[K", tick, ticks_);
    std::fflush(stderr);
}

}
