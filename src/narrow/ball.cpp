// Balls against balls, boxes and half-spaces: one point each. Oracle: tests/narrow/touch_test.cpp.
#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {

using flow::Guide;

namespace {

template<int Dim>
Touch<Dim> one_point(Vec<Dim> normal, Guide guide, Vec<Dim> core_a, Vec<Dim> core_b, float skin_a,
                     float skin_b, std::uint32_t feature, float margin) {
    Touch<Dim> out;
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

template<int Dim>
Touch<Dim> ball_ball(const Ball<Dim>& a, const Frame<Dim>& at_a, const Ball<Dim>& b, const Frame<Dim>& at_b,
                     float margin) {
    // Identical centres have no direction of their own: up, which is defined and lets gravity break the tie.
    const Vec<Dim> normal = direction(at_b.position - at_a.position, Vec<Dim>{0, 1});
    return one_point(normal, Guide::Centres, at_a.position, at_b.position, a.radius, b.radius, 0, margin);
}

template<int Dim>
Touch<Dim> ball_box(const Ball<Dim>& a, const Frame<Dim>& at_a, const Box<Dim>& b, const Frame<Dim>& at_b,
                    float margin) {
    const Vec<Dim> centre = rotate_back(at_b.rotation, at_a.position - at_b.position); // in the box's frame
    const Vec<Dim> half = b.full_size() * 0.5f;
    Vec<Dim> nearest = centre, out_of_box{};
    int outside = 0, shallow = 0;
    float least = -1;
    std::uint32_t feature = 0;
    for (int i = 0; i < Dim; i++) {
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
        Vec<Dim> up{};
        up[shallow] = centre[shallow] < 0 ? -1.0f : 1.0f;
        out_of_box = direction(centre - nearest, up);
        if (outside == Dim) guide = Guide::Centres; // a corner: round about it
    }
    const Vec<Dim> normal = -rotate(at_b.rotation, out_of_box);
    const Vec<Dim> core_b = at_b.position + rotate(at_b.rotation, nearest);
    return one_point(normal, guide, at_a.position, core_b, a.radius, 0.0f, feature, margin);
}

template<int Dim>
Touch<Dim> ball_half_space(const Ball<Dim>& a, const Frame<Dim>& at_a, const HalfSpace<Dim>& b,
                           const Frame<Dim>& at_b, float margin) {
    const Vec<Dim> outward = rotate(at_b.rotation, b.outward);
    const float height = dot(at_a.position - at_b.position, outward);
    return one_point(-outward, Guide::FaceOfB, at_a.position, at_a.position - outward * height, a.radius,
                     0.0f, 0, margin);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Touch<Dim> ball_ball(const Ball<Dim>&, const Frame<Dim>&, const Ball<Dim>&, const Frame<Dim>&,  \
                                  float);                                                                    \
    template Touch<Dim> ball_box(const Ball<Dim>&, const Frame<Dim>&, const Box<Dim>&, const Frame<Dim>&,    \
                                 float);                                                                     \
    template Touch<Dim> ball_half_space(const Ball<Dim>&, const Frame<Dim>&, const HalfSpace<Dim>&,          \
                                        const Frame<Dim>&, float);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
