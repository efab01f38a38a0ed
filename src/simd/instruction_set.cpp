#include "simd/instruction_set.h"

#include <initializer_list>

namespace astasis::simd {

#if defined(__x86_64__)

bool is_available(InstructionSet set) noexcept {
    switch (set) {
    case InstructionSet::Avx512: return __builtin_cpu_supports("avx512f") != 0;
    case InstructionSet::Avx2: return __builtin_cpu_supports("avx2") != 0;
    default: return true;
    }
}

#else

bool is_available(InstructionSet set) noexcept { return set <= InstructionSet::Four; }

#endif

InstructionSet best() noexcept {
    for (const auto set : {InstructionSet::Avx512, InstructionSet::Avx2, InstructionSet::Four})
        if (is_available(set)) return set;
    return InstructionSet::Scalar;
}

}
