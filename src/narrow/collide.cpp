// The stand-alone manifold of two shapes.
#include "astasis/queries.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/turn.h"
#include "narrow/touch.h"
#include "shape/usable.h"

namespace astasis {

template<int Dim>
std::vector<Patch<Dim>> collide(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                                const Pose<Dim>& at_b, float margin) {
    const shape::Usable<Dim> good_a(a, "a"), good_b(b, "b");
    shape::check_pose(at_a, "at_a"), shape::check_pose(at_b, "at_b");
    shape::refuse_two_surfaces<Dim>(a, b);
    if (!(margin >= 0)) throw Error("margin", base::number(margin), "0 or more (m)");
    // Relative to the smaller shape, where floats are finest.
    const Point<Dim> origin =
        shape::reach(good_a.get()) <= shape::reach(good_b.get()) ? at_a.position : at_b.position;
    const auto frame = [&](const Pose<Dim>& at) {
        return narrow::Frame<Dim>{at.position - origin, math::normalized(at.rotation)};
    };
    narrow::Toucher<Dim> toucher;
    std::vector<Patch<Dim>> out;
    // What touches exactly belongs to it even without a margin.
    for (const auto& t :
         toucher.touch(good_a.get(), frame(at_a), good_b.get(), frame(at_b), margin + 1e-30f)) {
        Patch<Dim> patch;
        patch.normal = t.normal;
        const auto from_rim = [&](const flow::Rim<Dim>& rim) {
            return direction(t.normal - rim.axis * dot(t.normal, rim.axis), Vec<Dim>{}) * rim.radius;
        };
        for (int i = 0; i < t.count; i++) {
            const auto& p = t.points[static_cast<std::size_t>(i)];
            if (p.separation > margin) continue;
            const Vec<Dim> on_a = p.core_a + t.normal * t.skin_a + from_rim(t.rim_a);
            const Vec<Dim> on_b = p.core_b - t.normal * t.skin_b - from_rim(t.rim_b);
            patch.spots[static_cast<std::size_t>(patch.count++)] = {origin + (on_a + on_b) * 0.5f,
                                                                    p.separation, p.feature};
        }
        if (patch.count > 0) out.push_back(patch);
    }
    return out;
}

template std::vector<Patch<2>> collide(const Geometry<2>&, const Pose<2>&, const Geometry<2>&, const Pose<2>&,
                                       float);
template std::vector<Patch<3>> collide(const Geometry<3>&, const Pose<3>&, const Geometry<3>&, const Pose<3>&,
                                       float);

}
