// Kernels: sse2.
#include "math/trig.h"
#include "solve/kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <immintrin.h>
#include <utility>

#if defined(__x86_64__)
#define ASTASIS_REGISTER 4
#define ASTASIS_FLOATS Lanes<8>
#define ASTASIS_DOUBLES Lanes<4, double>
namespace astasis::solve::sse2 {
#include "solve/kernels.inl.h"
}
#endif
