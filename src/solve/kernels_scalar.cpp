// Contact kernels: one float after another.
#include "solve/contact_kernels_of.h"

#include <bit>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <utility>

#define ASTASIS_REGISTER 1
namespace astasis::solve::scalar {
#include "simd/lanes.h"
#include "simd/vector.h"

#include "solve/contact_axes.inl.h"
#include "solve/contact_kernels.inl.h"

extern const ContactKernels<2> kPlane = kKernels<2, float>;
extern const ContactKernels<3> kSpace = kKernels<3, float>;
}
