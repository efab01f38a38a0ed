#include "narrow/seams.h"

#include "base/room.h"
#include "math/numbers.h"
#include "shape/convex.h"

#include <algorithm>

namespace astasis::narrow {
namespace {

constexpr float kOneWay = 0.9999f; // cosine above which two normals hold a body the same way

template<int Dim> float nearest_of(const flow::Manifold<Dim>& m) {
    float nearest = m.points[0].separation;
    for (std::size_t i = 1; i < m.count; i++) nearest = std::min(nearest, m.points[i].separation);
    return nearest;
}

// Whether it may be met anew within the tick, by the velocities of both bodies and a little more.
template<int Dim>
bool closes(const flow::Manifold<Dim>& m, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b) {
    for (std::size_t i = 0; i < m.count; i++) // what it bears on is no seam
        if (m.points[i].normal_force > 0 && m.points[i].separation <= kFlush * m.thickness) return false;
    const float closing = dot(a.drift - b.drift, m.normal);
    return closing > 0 && nearest_of(m) < 1.5f * closing + kFlush * m.thickness;
}

// Whether it turns out of the plane on which it stands within the tick; what is round does not.
template<int Dim> bool tips(const flow::Collider<Dim>& c) {
    const float out_of_round = c.reach - 0.5f * c.thickness;
    return math::magnitude(c.turn) * out_of_round > kFlush * c.thickness;
}

// Whether two shapes keep their places to each other within the tick.
template<int Dim> bool together(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, float thickness) {
    const auto turning = [](const flow::Collider<Dim>& c) {
        const float angle = math::magnitude(c.turn);
        return angle > 0 ? angle * c.reach : 0.0f;
    };
    return length(a.drift - b.drift) + (turning(a) + turning(b)) <= kFlush * thickness;
}

// A face that one shape stands on, from the other's side of the contact: points are relative to `origin`.
template<int Dim> struct Plane {
    Vec<Dim> normal{}; // towards the shape that stands on it
    float height = 0;  // along the normal
};
template<int Dim>
Plane<Dim> plane_of(const flow::Manifold<Dim>& m, bool stands_is_a, const flow::Bodies<Dim>& bodies,
                    const Point<Dim>& origin) {
    Plane<Dim> out{stands_is_a ? m.normal * -1.0f : m.normal, 0};
    const auto& pose = bodies.pose[stands_is_a ? m.body_b : m.body_a];
    for (std::size_t i = 0; i < m.count; i++) {
        const auto& p = m.points[i];
        const Vec<Dim> at = (pose.centre - origin) + rotate(pose.rotation, stands_is_a ? p.core_b : p.core_a);
        const float height = dot(at, out.normal) + (stands_is_a ? m.skin_b : m.skin_a);
        out.height = i == 0 ? height : std::max(out.height, height);
    }
    return out;
}

// How far a convex shape reaches over a plane; above 0 for what is not convex and bounded.
template<int Dim>
float height_over(const Plane<Dim>& plane, const flow::Collider<Dim>& c, const flow::Bodies<Dim>& bodies,
                  const Point<Dim>& origin) {
    shape::ConvexRoom<Dim> room;
    const shape::Convex<Dim> shape = shape::convex_of(c.spec->geometry, room);
    if (shape.corners.empty()) return 1e30f;
    const auto& pose = bodies.pose[c.body];
    const Rotation<Dim> rotation = pose.rotation * c.spec->placement.rotation;
    const Vec<Dim> arm = c.spec->placement.position - bodies.mass[c.body].centre;
    const auto put = shape::placed(shape, math::widened((pose.centre - origin) + rotate(pose.rotation, arm)),
                                   math::turn_of(rotation));
    const auto n = math::widened(plane.normal);
    return static_cast<float>(math::dot(put.support(n), n) + put.skin) - plane.height;
}

}

template<int Dim>
bool is_seam(const flow::Manifold<Dim>& m, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
             const flow::Bodies<Dim>& bodies, const OthersOf<Dim>& others_of,
             FunctionRef<const flow::Collider<Dim>&(std::uint32_t, std::uint32_t)> collider_of) {
    if (!closes(m, a, b)) return false;
    bool hidden = false;
    for (const bool stands_is_a : {true, false}) {
        const flow::Collider<Dim>&stands = stands_is_a ? a : b, &other = stands_is_a ? b : a;
        if (bodies.motion[stands.body] != Motion::Dynamic || tips(stands)) continue;
        const Point<Dim> origin = bodies.pose[stands.body].centre;
        const Vec<Dim> way = stands_is_a ? m.normal * -1.0f : m.normal; // out of the other
        others_of(stands.body, [&](const flow::Manifold<Dim>& face) {
            const bool is_a = face.key_a == stands.key;
            if (hidden || (!is_a && face.key_b != stands.key)) return;
            if (face.guide != flow::Guide::FaceOfA && face.guide != flow::Guide::FaceOfB) return;
            if (nearest_of(face) > kFlush * face.thickness) return;
            const flow::Collider<Dim>& owner =
                is_a ? collider_of(face.body_b, face.shape_b) : collider_of(face.body_a, face.shape_a);
            if (!together(owner, other, m.thickness)) return;
            const auto plane = plane_of(face, is_a, bodies, origin);
            hidden = dot(plane.normal, way) <= kOneWay &&
                     height_over(plane, other, bodies, origin) <= kFlush * m.thickness;
        });
        if (hidden) break;
    }
    return hidden;
}

template<int Dim>
void Seams<Dim>::drop(std::span<const flow::Collider<Dim>> colliders, std::span<const flow::Pair> pairs,
                      std::span<const std::uint32_t> pair_of, const flow::Bodies<Dim>& bodies,
                      std::vector<flow::Manifold<Dim>>& manifolds) {
    bool listed = false, any = false;
    for (std::uint32_t k = 0; k < manifolds.size(); k++) {
        const auto& m = manifolds[k];
        const auto &a = colliders[pairs[pair_of[k]].a], &b = colliders[pairs[pair_of[k]].b];
        if (!closes(m, a, b)) continue;
        if (!listed) {
            lists_.find(bodies, manifolds);
            base::make_room(dropped_, manifolds.size());
            dropped_.assign(manifolds.size(), 0);
        }
        listed = true;
        std::uint32_t at = 0; // the manifold that is looked at, for collider_of
        const auto others_of = [&](std::uint32_t body, FunctionRef<void(const flow::Manifold<Dim>&)> visit) {
            for (const std::uint32_t c : lists_.of(body))
                if (at = c; c != k && !dropped_[c]) visit(manifolds[c]);
        };
        const auto collider_of = [&](std::uint32_t body, std::uint32_t) -> const flow::Collider<Dim>& {
            const flow::Pair& pair = pairs[pair_of[at]];
            return colliders[pair.a].body == body ? colliders[pair.a] : colliders[pair.b];
        };
        if (is_seam<Dim>(m, a, b, bodies, others_of, collider_of)) dropped_[k] = 1, any = true;
    }
    if (!any) return;
    std::size_t kept = 0;
    for (std::size_t k = 0; k < manifolds.size(); k++)
        if (!dropped_[k]) {
            if (kept != k) manifolds[kept] = manifolds[k];
            kept++;
        }
    manifolds.resize(kept);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template class Seams<Dim>;                                                                               \
    template bool is_seam(const flow::Manifold<Dim>&, const flow::Collider<Dim>&,                            \
                          const flow::Collider<Dim>&, const flow::Bodies<Dim>&, const OthersOf<Dim>&,        \
                          FunctionRef<const flow::Collider<Dim>&(std::uint32_t, std::uint32_t)>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
