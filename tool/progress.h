// A line on the terminal that tells how far a long run is; nothing in a pipe.
#pragma once

#include <chrono>
#include <cstdint>

namespace astasis::tool {

class Progress {
public:
    explicit Progress(std::uint64_t ticks);
    ~Progress(); // wipes the line
    Progress(const Progress&) = delete;
    Progress& operator=(const Progress&) = delete;
    void at(std::uint64_t tick);

private:
    using Clock = std::chrono::steady_clock;
    std::uint64_t ticks_;
    bool terminal_, shown_ = false;
    Clock::time_point last_;
};

}
