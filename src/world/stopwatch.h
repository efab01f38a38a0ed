// Seconds since the last lap; 0 if it does not run.
#pragma once

#include <chrono>

namespace astasis {

class Stopwatch {
public:
    explicit Stopwatch(bool runs) : runs_(runs) {
        if (runs_) last_ = Clock::now();
    }
    double lap() {
        if (!runs_) return 0;
        const auto now = Clock::now();
        const double seconds = std::chrono::duration<double>(now - last_).count();
        last_ = now;
        return seconds;
    }

private:
    using Clock = std::chrono::steady_clock;
    bool runs_;
    Clock::time_point last_{};
};

}
