// Boxes against half-spaces: the four lowest corners.
// Oracle: tests/narrow/.
#include "narrow/touch.h"

#include <algorithm>

namespace astasis::narrow {

Touch<3> box_half_space(const Box3& a, const Frame<3>& at_a, const HalfSpace<3>& b, const Frame<3>& at_b,
                        float margin) {
    constexpr int kCorners = 1 << 3;
    const Vec3 outward = rotate(at_b.rotation, b.outward);
    const Vec3 half = a.full_size() * 0.5f;
    std::array<TouchPoint<3>, kCorners> corners;
    for (std::uint32_t k = 0; k < kCorners; k++) {
        Vec3 local = half;
        for (int i = 0; i < 3; i++)
            if (k >> i & 1) local[i] = -local[i];
        const Vec3 corner = at_a.position + rotate(at_a.rotation, local);
        const float height = dot(corner - at_b.position, outward);
        corners[k] = {corner, corner - outward * height, height, k};
    }
    // The lowest ones; equal heights keep the order of the corners, so that a level box keeps its points.
    std::stable_sort(corners.begin(), corners.end(),
                     [](const auto& p, const auto& q) { return p.separation < q.separation; });
    Touch<3> out;
    if (!(corners[0].separation < margin)) return out;
    out.normal = -outward;
    out.guide = flow::Guide::FaceOfB;
    out.count = flow::kMostPoints<3>;
    std::copy_n(corners.begin(), out.count, out.points.begin());
    return out;
}

}
