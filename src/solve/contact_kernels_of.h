// What each file of kernels gives.
#pragma once

#include "solve/contact_kernels.h"

namespace astasis::solve {

namespace scalar {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
}
namespace sse2 {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
}
namespace avx2 {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
}
namespace avx512 {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
}

}
