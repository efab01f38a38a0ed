// Symmetric 1x1 and 2x2 matrices: the friction of one contact point, which has one tangent in the plane, two
// in space.
#pragma once

#include "astasis/config.h"

#include <array>
#include <cmath>

namespace astasis::math {

template<int N> struct SmallSym;

template<> struct SmallSym<1> { float xx = 0; };
template<> struct SmallSym<2> { float xx = 0, xy = 0, yy = 0; };

template<int N> using Row = std::array<float, N>;

// The larger eigenvalue.
ASTASIS_INLINE float stiffest(const SmallSym<1>& m) { return m.xx; }
[[gnu::always_inline]] inline float stiffest(const SmallSym<2>& m) {
    const float apart = m.xx - m.yy;
    return 0.5f * ((m.xx + m.yy) + std::sqrt(apart * apart + 4 * m.xy * m.xy));
}

// Fills a symmetric matrix from its entries (i <= j).
template<typename Entry> [[gnu::always_inline]] inline void fill(SmallSym<1>& m, const Entry& entry) {
    m.xx = entry(0, 0);
}
template<typename Entry> [[gnu::always_inline]] inline void fill(SmallSym<2>& m, const Entry& entry) {
    m = {entry(0, 0), entry(0, 1), entry(1, 1)};
}

}
