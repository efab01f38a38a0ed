// Contact kernels: sse2.
#include "solve/contact_kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <immintrin.h>
#include <utility>

#if defined(__x86_64__)
#define ASTASIS_REGISTER 4
namespace astasis::solve::sse2 {
#include "simd/lanes.h"
#include "simd/vector.h"

#include "solve/contact_axes.inl.h"
#include "solve/contact_kernels.inl.h"

extern const ContactKernels<2> kPlane = kKernels<2, Lanes<8>>;
extern const ContactKernels<3> kSpace = kKernels<3, Lanes<8>>;
}
#endif
