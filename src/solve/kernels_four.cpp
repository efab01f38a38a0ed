// Kernels: registers of four floats, which every x86-64 and aarch64 has.
#include "math/trig.h"
#include "solve/kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <utility>

#if defined(__x86_64__)
#include <immintrin.h>
#elif defined(__aarch64__)
#include <arm_neon.h>
#endif

#define ASTASIS_REGISTER 4
#define ASTASIS_FLOATS Lanes<8>
#define ASTASIS_DOUBLES Lanes<4, double>
namespace astasis::solve::four {
#include "solve/kernels.inl.h"
}
