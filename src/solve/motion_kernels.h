// The kernels of free motion for each instruction set; see solve/integrate.h for what they compute. All sets
// give the same bits: tested by tests/solve/contact_kernels_test.cpp.
#pragma once

#include "simd/instruction_set.h"
#include "solve/motion_layout.h"

#include <cstdint>

namespace astasis::solve {

// Rows of bodies (solve/contact_layout.h), those of inverse inertia in space only.
struct MotionRows {
    float *velocity, *gained, *moved, *inertia;
};

// No body's velocity, linear and angular, gained more.
struct MostGained {
    float linear = 0, angular = 0;
};

// The path on which a body was expected, by its row, and how far it may go: in the plane the third numbers of
// vectors, and all but the first of the spin, mean nothing.
struct alignas(16) Path {
    float place[3]{}, time = 0;              // displacement in the tick at that time, s since its start
    float velocity[3]{}, room = 0;           // then; how far the body may come off
    float acceleration[3]{}, swept_from = 0; // a longer way in a substep is swept
    float spin[3]{}, reach = 0;
};

// Bodies among which some went off their paths, or are swept: rows from `first` on, by bit.
struct Watched {
    std::uint32_t first;
    std::uint32_t off, swept;
};

template<int Dim> struct MotionKernels {
    int lanes;
    // A substep of gravity, pushes and damping.
    MostGained (*advance_velocities)(double* groups, int count, const MotionRows& rows);
    // A substep of moving, by the mean of the velocities; and where the bodies are then, with their inertia.
    void (*advance_poses)(double* groups, int count, const MotionRows& rows, double seconds);
    // Finds bodies that may be off their paths when the substep ends that begins at `time`, s since the start
    // of the tick, or that may be swept in it. The test is a bound, and never misses one. Groups without such
    // bodies are left out; returns the number of others.
    int (*watch)(const Path* paths, int count, const MotionRows& rows, float time, float seconds,
                 Watched* out);
};

// `set` must be available.
template<int Dim> const MotionKernels<Dim>& motion_kernels(simd::InstructionSet set);
template<> const MotionKernels<2>& motion_kernels(simd::InstructionSet set);
template<> const MotionKernels<3>& motion_kernels(simd::InstructionSet set);

}
