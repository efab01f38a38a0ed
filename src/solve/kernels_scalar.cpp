// Kernels: one float after another.
#include "math/trig.h"
#include "solve/kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <utility>

#define ASTASIS_REGISTER 1
#define ASTASIS_FLOATS float
#define ASTASIS_DOUBLES double
namespace astasis::solve::scalar {
#include "solve/kernels.inl.h"
}
