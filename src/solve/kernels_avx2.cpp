// Contact kernels: avx2.
#include "solve/contact_kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <immintrin.h>
#include <utility>

#if defined(__x86_64__)
#define ASTASIS_REGISTER 8
#if defined(__clang__)
#pragma clang attribute push(__attribute__((target("avx2"))), apply_to = function)
#else
#pragma GCC push_options
#pragma GCC target("avx2")
#endif
namespace astasis::solve::avx2 {
#include "simd/lanes.h"
#include "simd/vector.h"

#include "solve/contact_axes.inl.h"
#include "solve/contact_kernels.inl.h"

extern const ContactKernels<2> kPlane = kKernels<2, Lanes<8>>;
extern const ContactKernels<3> kSpace = kKernels<3, Lanes<8>>;
}
#if defined(__clang__)
#pragma clang attribute pop
#endif
#endif
