// Contact kernels: avx512.
#include "solve/contact_kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <immintrin.h>
#include <utility>

#if defined(__x86_64__)
#define ASTASIS_REGISTER 16
#if defined(__clang__)
#pragma clang attribute push(__attribute__((target("avx512f"))), apply_to = function)
#else
#pragma GCC push_options
#pragma GCC target("avx512f")
#endif
namespace astasis::solve::avx512 {
#include "simd/lanes.h"
#include "simd/vector.h"

#include "solve/contact_axes.inl.h"
#include "solve/contact_kernels.inl.h"

extern const ContactKernels<2> kPlane = kKernels<2, Lanes<16>>;
extern const ContactKernels<3> kSpace = kKernels<3, Lanes<16>>;
}
#if defined(__clang__)
#pragma clang attribute pop
#endif
#endif
