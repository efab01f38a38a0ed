// The kernels of free motion for each instruction set; see solve/integrate.h for what they compute. All sets
// give the same bits: tested by tests/solve/contact_kernels_test.cpp.
#pragma once

#include "simd/instruction_set.h"
#include "solve/motion_layout.h"

namespace astasis::solve {

// Rows of bodies (solve/contact_layout.h), those of inverse inertia in space only.
struct MotionRows {
    float *velocity, *gained, *moved, *inertia;
};

// No body's velocity, linear and angular, gained more.
struct MostGained {
    float linear = 0, angular = 0;
};

template<int Dim> struct MotionKernels {
    int lanes;
    // A substep of gravity, pushes and damping.
    MostGained (*advance_velocities)(double* groups, int count, const MotionRows& rows);
    // A substep of moving, by the mean of the velocities; and where the bodies are then, with their inertia.
    void (*advance_poses)(double* groups, int count, const MotionRows& rows, double seconds);
};

// `set` must be available.
template<int Dim> const MotionKernels<Dim>& motion_kernels(simd::InstructionSet set);
template<> const MotionKernels<2>& motion_kernels(simd::InstructionSet set);
template<> const MotionKernels<3>& motion_kernels(simd::InstructionSet set);

}
