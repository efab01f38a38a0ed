// How far a long run is, on standard error: a bar on a terminal, else a line every ten seconds.
#pragma once

#include <chrono>
#include <cstdint>

namespace astasis::tool {

class Progress {
public:
    explicit Progress(std::uint64_t ticks);
    ~Progress(); // wipes the bar
    Progress(const Progress&) = delete;
    Progress& operator=(const Progress&) = delete;
    void at(std::uint64_t tick);

private:
    using Clock = std::chrono::steady_clock;
    std::uint64_t ticks_;
    bool terminal_, shown_ = false;
    Clock::time_point first_, last_;
};

}
