#include "narrow/manifolds.h"

#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

using flow::Guide;

constexpr float kSamePlace = 0.1f; // of the thinner shape's thickness

// The frame of a shape relative to `origin`.
template<int Dim>
Frame<Dim> frame_of(const flow::Collider<Dim>& c, const flow::Bodies<Dim>& bodies, const Point<Dim>& origin) {
    const auto& pose = bodies.pose[c.body];
    const Vec<Dim> arm = c.spec->placement.position - bodies.mass[c.body].centre;
    return {(pose.centre - origin) + rotate(pose.rotation, arm), pose.rotation * c.spec->placement.rotation};
}

template<int Dim>
flow::Manifold<Dim> manifold_of(const Touch<Dim>& t, const flow::Collider<Dim>& a,
                                const flow::Collider<Dim>& b, const flow::Bodies<Dim>& bodies,
                                const Point<Dim>& origin) {
    const auto &pose_a = bodies.pose[a.body], &pose_b = bodies.pose[b.body];
    const Vec<Dim> centre_a = pose_a.centre - origin, centre_b = pose_b.centre - origin;
    const Material &ma = a.spec->material, &mb = b.spec->material;
    flow::Manifold<Dim> out;
    out.key_a = a.key, out.key_b = b.key;
    out.shape_a = a.shape, out.shape_b = b.shape;
    out.body_a = a.body, out.body_b = b.body;
    out.guide = t.guide;
    out.count = static_cast<std::uint8_t>(t.count);
    out.normal = t.normal;
    out.local_normal = rotate_back(t.guide == Guide::FaceOfB ? pose_b.rotation : pose_a.rotation, t.normal);
    out.skin_a = t.skin_a, out.skin_b = t.skin_b;
    out.friction = std::sqrt(ma.friction * mb.friction);
    out.restitution = std::max(ma.restitution, mb.restitution);
    out.thickness = std::min(a.thickness, b.thickness);
    for (int i = 0; i < t.count; i++) {
        auto& p = out.points[i];
        p.core_a = rotate_back(pose_a.rotation, t.points[i].core_a - centre_a);
        p.core_b = rotate_back(pose_b.rotation, t.points[i].core_b - centre_b);
        p.separation = t.points[i].separation;
        p.feature = t.points[i].feature;
    }
    return out;
}

// A point takes the impulses of the point with its feature; failing that, of one left over that was nearly at
// the same place on both bodies: where shapes touch almost flat, features come and go while the load stays.
template<int Dim> void carry_over(const flow::Manifold<Dim>& before, flow::Manifold<Dim>& after) {
    std::array<bool, flow::kMostPoints<Dim>> used{}, found{};
    const auto take = [&](int i, int k) {
        after.points[i].normal_impulse = before.points[k].normal_impulse;
        after.points[i].friction_impulse = before.points[k].friction_impulse;
        used[static_cast<std::size_t>(k)] = found[static_cast<std::size_t>(i)] = true;
    };
    for (int i = 0; i < after.count; i++)
        for (int k = 0; k < before.count; k++)
            if (after.points[i].feature == before.points[k].feature) take(i, k);
    for (int i = 0; i < after.count; i++)
        for (int k = 0; k < before.count; k++) {
            if (found[static_cast<std::size_t>(i)] || used[static_cast<std::size_t>(k)]) continue;
            const float apart = length(after.points[i].core_a - before.points[k].core_a) +
                                length(after.points[i].core_b - before.points[k].core_b);
            if (apart < kSamePlace * after.thickness) take(i, k);
        }
}

}

template<int Dim>
void find_manifolds(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
                    const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> before,
                    std::vector<flow::Manifold<Dim>>& after) {
    after.clear();
    auto old = before.begin();
    for (const flow::Pair& pair : pairs) {
        const auto &a = colliders[pair.a], &b = colliders[pair.b];
        // Relative to the smaller shape's body, where floats are finest.
        const Point<Dim> origin = bodies.pose[a.reach <= b.reach ? a.body : b.body].centre;
        const Touch<Dim> t = touch(a.spec->geometry, frame_of(a, bodies, origin), b.spec->geometry,
                                   frame_of(b, bodies, origin), a.travel + b.travel);
        if (t.count == 0) continue;
        after.push_back(manifold_of(t, a, b, bodies, origin));
        while (old != before.end() && (old->key_a < a.key || (old->key_a == a.key && old->key_b < b.key)))
            ++old;
        if (old != before.end() && old->key_a == a.key && old->key_b == b.key) carry_over(*old, after.back());
    }
}

template void find_manifolds(std::span<const flow::Collider<2>>, std::span<const flow::Pair>,
                             const flow::Bodies<2>&, std::span<const flow::Manifold<2>>,
                             std::vector<flow::Manifold<2>>&);
template void find_manifolds(std::span<const flow::Collider<3>>, std::span<const flow::Pair>,
                             const flow::Bodies<3>&, std::span<const flow::Manifold<3>>,
                             std::vector<flow::Manifold<3>>&);

}
