// Numbers that kernels load without asking where they stand.
#pragma once

#include "base/room.h"

#include <cstddef>
#include <vector>

namespace astasis::solve {

inline constexpr std::size_t kAlignment = 64;

// Their values after a resize are not defined.
template<typename Number> class Aligned {
public:
    void resize(std::size_t count) { lines_.resize((count + kLine - 1) / kLine); }
    void make_room(std::size_t count) { base::make_room(lines_, (count + kLine - 1) / kLine); }
    Number* data() { return reinterpret_cast<Number*>(lines_.data()); }
    const Number* data() const { return reinterpret_cast<const Number*>(lines_.data()); }

private:
    static constexpr std::size_t kLine = kAlignment / sizeof(Number);
    struct alignas(kAlignment) Line {
        Number n[kLine];
    };
    std::vector<Line> lines_;
};
using Floats = Aligned<float>;
using Doubles = Aligned<double>;

}
