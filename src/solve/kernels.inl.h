// All kernels, over the number types that ASTASIS_FLOATS and ASTASIS_DOUBLES name. Included once in each file
// of kernels, within a namespace and a target region of one instruction set. Each of these stands on those
// before it.
#pragma once

#include "simd/lanes.h"

#include "simd/lane_rows.h"

#include "simd/vector.h"

#include "solve/contact_axes.inl.h"

#include "solve/contact_rows.inl.h"

#include "solve/contact_approach.inl.h"

#include "solve/contact_geometry.inl.h"

#include "solve/contact_solve.inl.h"

#include "solve/contact_kernels.inl.h"

#include "solve/motion_kernels.inl.h"

extern const ContactKernels<2> kPlane = kKernels<2, ASTASIS_FLOATS>;
extern const ContactKernels<3> kSpace = kKernels<3, ASTASIS_FLOATS>;
extern const MotionKernels<2> kPlaneMotion = kMotion<2, ASTASIS_DOUBLES>;
extern const MotionKernels<3> kSpaceMotion = kMotion<3, ASTASIS_DOUBLES>;
