#include "tool/progress.h"

#include "tool/command.h"

#include <fmt/format.h>

#include <cstdio>
#include <unistd.h>

namespace astasis::tool {
namespace {

std::string duration(double seconds) {
    if (seconds < 90) return fmt::format("{:.0f} s", seconds);
    if (seconds < 90 * 60) return fmt::format("{:.0f} min", seconds / 60);
    return fmt::format("{:.1f} h", seconds / 3600);
}

}

Progress::Progress(std::uint64_t ticks)
    : ticks_(ticks), terminal_(isatty(STDERR_FILENO) == 1), first_(Clock::now()), last_(first_) {}

Progress::~Progress() {
    if (shown_ && terminal_) complain("\r\x1b[K");
}

void Progress::at(std::uint64_t tick) {
    constexpr std::chrono::milliseconds kBetweenBars{200}, kBetweenLines{10000};
    const auto now = Clock::now();
    if (now - last_ < (terminal_ ? kBetweenBars : kBetweenLines) || tick == 0 || tick >= ticks_) return;
    last_ = now;
    shown_ = true;
    const double share = static_cast<double>(tick) / static_cast<double>(ticks_);
    const double left = std::chrono::duration<double>(now - first_).count() * (1 / share - 1);
    const std::string text =
        fmt::format("{:.0f} %, tick {} of {}, about {} left", 100 * share, tick, ticks_, duration(left));
    if (terminal_) {
        constexpr std::size_t kWidth = 24;
        const auto full = static_cast<std::size_t>(share * kWidth);
        complain("\r[{}{}] {}\x1b[K", std::string(full, '#'), std::string(kWidth - full, ' '), text);
        std::fflush(stderr);
    } else {
        complain("astasis: {}\n", text);
    }
}

}
