// Which instructions kernels may use on this processor.
#pragma once

#include <cstdint>

namespace astasis::simd {

// In rising order. All give the same bits.
enum class InstructionSet : std::uint8_t {
    Scalar, // one float after another: any processor
    Four,   // four floats side by side: SSE2 of all x86-64, NEON of all aarch64
    Avx2,
    Avx512,
};

bool is_available(InstructionSet set) noexcept;
// The best that this processor has.
InstructionSet best() noexcept;

}
