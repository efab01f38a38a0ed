// Spheres against spheres, boxes and half-spaces: one point each. Oracle: tests/narrow/touch_test.cpp.
#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {

using flow::Guide;

namespace {

Touch<3> one_point(Vec3 normal, Guide guide, Vec3 core_a, Vec3 core_b, float skin_a, float skin_b,
                   std::uint32_t feature, float margin) {
    Touch<3> out;
    const float separation = dot(core_b - core_a, normal) - (skin_a + skin_b);
    if (!(separation < margin)) return out;
    out.normal = normal;
    out.guide = guide;
    out.skin_a = skin_a;
    out.skin_b = skin_b;
    out.count = 1;
    out.points[0] = {core_a, core_b, separation, feature};
    return out;
}

}

Touch<3> sphere_sphere(const Sphere& a, const Frame<3>& at_a, const Sphere& b, const Frame<3>& at_b,
                       float margin) {
    // Identical centres have no direction of their own: up, which is defined and lets gravity break the tie.
    const Vec3 normal = direction(at_b.position - at_a.position, Vec3{0, 1});
    return one_point(normal, Guide::Centres, at_a.position, at_b.position, a.radius, b.radius, 0, margin);
}

Touch<3> sphere_box(const Sphere& a, const Frame<3>& at_a, const Box3& b, const Frame<3>& at_b,
                    float margin) {
    const Vec3 centre = rotate_back(at_b.rotation, at_a.position - at_b.position); // in the box's frame
    const Vec3 half = b.full_size() * 0.5f;
    Vec3 nearest = centre, out_of_box{};
    int outside = 0, shallow = 0;
    float least = -1;
    std::uint32_t feature = 0;
    for (int i = 0; i < 3; i++) {
        nearest[i] = std::clamp(centre[i], -half[i], half[i]);
        const float way_out = half[i] - std::fabs(centre[i]);
        feature = feature * 3 + (centre[i] > half[i] ? 2 : centre[i] < -half[i] ? 0 : 1);
        if (way_out < 0) outside++;
        if (least < 0 || way_out < least) least = std::max(way_out, 0.0f), shallow = i;
    }
    Guide guide = Guide::FaceOfB;
    if (outside == 0) { // the centre is inside: the least way out
        out_of_box[shallow] = centre[shallow] < 0 ? -1.0f : 1.0f;
        nearest[shallow] = out_of_box[shallow] * half[shallow];
        feature = 100 + 2 * static_cast<std::uint32_t>(shallow) + (centre[shallow] < 0 ? 0 : 1);
    } else {
        Vec3 up{};
        up[shallow] = centre[shallow] < 0 ? -1.0f : 1.0f;
        out_of_box = direction(centre - nearest, up);
        if (outside == 3) guide = Guide::Centres; // a corner: round about it
    }
    const Vec3 normal = -rotate(at_b.rotation, out_of_box);
    const Vec3 core_b = at_b.position + rotate(at_b.rotation, nearest);
    return one_point(normal, guide, at_a.position, core_b, a.radius, 0.0f, feature, margin);
}

Touch<3> sphere_half_space(const Sphere& a, const Frame<3>& at_a, const HalfSpace<3>& b, const Frame<3>& at_b,
                           float margin) {
    const Vec3 outward = rotate(at_b.rotation, b.outward);
    const float height = dot(at_a.position - at_b.position, outward);
    return one_point(-outward, Guide::FaceOfB, at_a.position, at_a.position - outward * height, a.radius,
                     0.0f, 0, margin);
}

}
