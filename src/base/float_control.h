// The state of the float unit: known while a tick runs, the caller's again afterwards.
#pragma once

#include <cstdint>

namespace astasis::base {

// Rounds to nearest and keeps denormals while it lives. Any library built with fast-math may have changed
// both for the whole program. Costs about 20 ns.
class FloatControl {
public:
    FloatControl() noexcept;
    ~FloatControl();
    FloatControl(const FloatControl&) = delete;
    FloatControl& operator=(const FloatControl&) = delete;

private:
    std::uint64_t saved_;
};

// Whether a*b+c is rounded twice in this build, as the rules of the library demand. No macro reveals
// contraction.
bool arithmetic_is_exact() noexcept;

}
