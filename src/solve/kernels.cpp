#include "solve/kernels_of.h"

namespace astasis::solve {

#if defined(__x86_64__)
#define ASTASIS_CHOOSE(which)                                                                                \
    switch (set) {                                                                                           \
    case simd::InstructionSet::Avx512: return avx512::which;                                                 \
    case simd::InstructionSet::Avx2: return avx2::which;                                                     \
    case simd::InstructionSet::Four: return four::which;                                                     \
    default: return scalar::which;                                                                           \
    }
#else
#define ASTASIS_CHOOSE(which) return set == simd::InstructionSet::Four ? four::which : scalar::which;
#endif

template<> const ContactKernels<2>& contact_kernels(simd::InstructionSet set) { ASTASIS_CHOOSE(kPlane) }
template<> const ContactKernels<3>& contact_kernels(simd::InstructionSet set) { ASTASIS_CHOOSE(kSpace) }
template<> const MotionKernels<2>& motion_kernels(simd::InstructionSet set) { ASTASIS_CHOOSE(kPlaneMotion) }
template<> const MotionKernels<3>& motion_kernels(simd::InstructionSet set) { ASTASIS_CHOOSE(kSpaceMotion) }

}
