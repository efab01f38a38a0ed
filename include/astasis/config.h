// What every header of Astasis rests on: the float rules that make all builds give the same bits.
#pragma once

#include <cfloat>

#if defined(__FAST_MATH__) || defined(__ASSOCIATIVE_MATH__) || defined(__RECIPROCAL_MATH__) ||               \
    defined(__NO_SIGNED_ZEROS__)
#error                                                                                                       \
    "Astasis needs exact float arithmetic: remove -ffast-math, -Ofast and their parts from the flags of this file"
#endif

static_assert(FLT_EVAL_METHOD == 0,
              "Astasis needs floats evaluated as floats (on x86: SSE2, not the x87 unit)");

// Inlined even in debug builds, and never emitted out of line, where the linker could pick a copy that was
// compiled with other float flags than the library's own.
#define ASTASIS_INLINE [[gnu::always_inline]] inline constexpr
