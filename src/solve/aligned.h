// Floats that kernels load without asking where they stand.
#pragma once

#include <cstddef>
#include <vector>

namespace astasis::solve {

inline constexpr std::size_t kAlignment = 64;

// What they hold after a resize is not defined.
class Floats {
public:
    void resize(std::size_t count) {
        constexpr std::size_t kLine = kAlignment / sizeof(float);
        lines_.resize((count + kLine - 1) / kLine);
    }
    float* data() { return reinterpret_cast<float*>(lines_.data()); }
    const float* data() const { return reinterpret_cast<const float*>(lines_.data()); }

private:
    struct alignas(kAlignment) Line {
        float f[kAlignment / sizeof(float)];
    };
    std::vector<Line> lines_;
};

}
