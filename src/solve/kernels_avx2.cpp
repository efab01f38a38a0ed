// Kernels: avx2.
#include "math/trig.h"
#include "solve/kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <utility>

#if defined(__x86_64__)
#include <immintrin.h>

#define ASTASIS_REGISTER 8
#define ASTASIS_FLOATS Lanes<8>
#define ASTASIS_DOUBLES Lanes<4, double>
#if defined(__clang__)
#pragma clang attribute push(__attribute__((target("avx2"))), apply_to = function)
#else
#pragma GCC push_options
#pragma GCC target("avx2")
#endif
namespace astasis::solve::avx2 {
#include "solve/kernels.inl.h"
}
#if defined(__clang__)
#pragma clang attribute pop
#endif
#endif
