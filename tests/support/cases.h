// How much is tried: so many random cases in a test, a part of them under sanitizers, ASTASIS_CASES in the
// soak.
#pragma once

#include <cstdlib>

namespace astasis::test {

inline bool is_soak() { return std::getenv("ASTASIS_CASES") != nullptr; }
inline int cases() { return is_soak() ? std::atoi(std::getenv("ASTASIS_CASES")) : ASTASIS_DEFAULT_CASES; }

}
