// Kernels: avx512.
#include "math/trig.h"
#include "solve/kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <utility>

#if defined(__x86_64__)
#include <immintrin.h>

#define ASTASIS_REGISTER 16
#define ASTASIS_FLOATS Lanes<16>
#define ASTASIS_DOUBLES Lanes<8, double>
#if defined(__clang__)
#pragma clang attribute push(__attribute__((target("avx512f"))), apply_to = function)
#else
#pragma GCC push_options
#pragma GCC target("avx512f")
#endif
namespace astasis::solve::avx512 {
#include "solve/kernels.inl.h"
}
#if defined(__clang__)
#pragma clang attribute pop
#endif
#endif
