// The functions that each file of kernels gives.
#pragma once

#include "solve/contact_kernels.h"
#include "solve/motion_kernels.h"

namespace astasis::solve {

namespace scalar {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
extern const MotionKernels<2> kPlaneMotion;
extern const MotionKernels<3> kSpaceMotion;
}
namespace four {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
extern const MotionKernels<2> kPlaneMotion;
extern const MotionKernels<3> kSpaceMotion;
}
namespace avx2 {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
extern const MotionKernels<2> kPlaneMotion;
extern const MotionKernels<3> kSpaceMotion;
}
namespace avx512 {
extern const ContactKernels<2> kPlane;
extern const ContactKernels<3> kSpace;
extern const MotionKernels<2> kPlaneMotion;
extern const MotionKernels<3> kSpaceMotion;
}

}
