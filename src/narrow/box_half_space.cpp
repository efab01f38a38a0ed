// Boxes against half-spaces: the lowest corners, two in the plane and four in space.
// Oracle: tests/narrow/touch_test.cpp.
#include "narrow/touch.h"

#include <algorithm>

namespace astasis::narrow {

template<int Dim>
Touch<Dim> box_half_space(const Box<Dim>& a, const Frame<Dim>& at_a, const HalfSpace<Dim>& b,
                          const Frame<Dim>& at_b, float margin) {
    constexpr int kCorners = 1 << Dim;
    const Vec<Dim> outward = rotate(at_b.rotation, b.outward);
    const Vec<Dim> half = a.full_size() * 0.5f;
    std::array<TouchPoint<Dim>, kCorners> corners;
    for (std::uint32_t k = 0; k < kCorners; k++) {
        Vec<Dim> local = half;
        for (int i = 0; i < Dim; i++)
            if (k >> i & 1) local[i] = -local[i];
        const Vec<Dim> corner = at_a.position + rotate(at_a.rotation, local);
        const float height = dot(corner - at_b.position, outward);
        corners[k] = {corner, corner - outward * height, height, k};
    }
    // The lowest ones; equal heights keep the order of the corners, so that a level box keeps its points.
    std::stable_sort(corners.begin(), corners.end(),
                     [](const auto& p, const auto& q) { return p.separation < q.separation; });
    Touch<Dim> out;
    if (!(corners[0].separation < margin)) return out;
    out.normal = -outward;
    out.guide = flow::Guide::FaceOfB;
    out.count = flow::kMostPoints<Dim>;
    std::copy_n(corners.begin(), out.count, out.points.begin());
    return out;
}

template Touch<2> box_half_space(const Box<2>&, const Frame<2>&, const HalfSpace<2>&, const Frame<2>&, float);
template Touch<3> box_half_space(const Box<3>&, const Frame<3>&, const HalfSpace<3>&, const Frame<3>&, float);

}
