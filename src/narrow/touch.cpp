// The dispatch over pairs of shapes.
#include "narrow/touch.h"

#include <utility>

namespace astasis::narrow {
namespace {

using flow::Guide;

template<int Dim> Touch<Dim> turned_round(Touch<Dim> t) {
    t.normal = -t.normal;
    std::swap(t.skin_a, t.skin_b);
    if (t.guide == Guide::FaceOfA) t.guide = Guide::FaceOfB;
    else if (t.guide == Guide::FaceOfB) t.guide = Guide::FaceOfA;
    for (int i = 0; i < t.count; i++) std::swap(t.points[i].core_a, t.points[i].core_b);
    return t;
}

// In space: rods (spheres and capsules), boxes and half-spaces. An overload a pair; the last one serves the
// mirror images.
struct PairsOfSpace {
    const Frame<3>&at_a, &at_b;
    float margin;

    Touch<3> operator()(const Rod& a, const Rod& b) const { return rod_rod(a, b, margin); }
    Touch<3> operator()(const Rod& a, const Box3& b) const { return rod_box(a, b, at_b, margin); }
    Touch<3> operator()(const Rod& a, const HalfSpace<3>& b) const {
        return rod_half_space(a, b, at_b, margin);
    }
    Touch<3> operator()(const Box3& a, const Box3& b) const { return box_box(a, at_a, b, at_b, margin); }
    Touch<3> operator()(const Box3& a, const HalfSpace<3>& b) const {
        return box_half_space(a, at_a, b, at_b, margin);
    }
    Touch<3> operator()(const HalfSpace<3>&, const HalfSpace<3>&) const { return {}; }

    template<typename A, typename B> Touch<3> operator()(const A& a, const B& b) const {
        return turned_round(PairsOfSpace{at_b, at_a, margin}(b, a));
    }
};

using SpaceShape = std::variant<Rod, Box3, HalfSpace<3>>;
SpaceShape as_rod(const Geometry<3>& geometry, const Frame<3>& at) {
    if (const auto* s = std::get_if<Sphere>(&geometry)) return Rod{at.position, at.position, s->radius};
    if (const auto* c = std::get_if<Capsule3>(&geometry))
        return Rod{at.position + rotate(at.rotation, c->from), at.position + rotate(at.rotation, c->to),
                   c->radius};
    if (const auto* b = std::get_if<Box3>(&geometry)) return *b;
    return std::get<HalfSpace<3>>(geometry);
}

}

Touch<2> touch(const Geometry<2>& a, const Frame<2>& at_a, const Geometry<2>& b, const Frame<2>& at_b,
               float margin) {
    shape::CoreRoom room_a, room_b;
    const shape::Core core_a = shape::core_of(a, room_a), core_b = shape::core_of(b, room_b);
    const auto *plane_a = std::get_if<HalfPlane>(&a), *plane_b = std::get_if<HalfPlane>(&b);
    if (plane_a && plane_b) return {};
    if (plane_a) return turned_round(convex_half_plane(core_b, at_b, *plane_a, at_a, margin));
    if (plane_b) return convex_half_plane(core_a, at_a, *plane_b, at_b, margin);
    return convex_convex(core_a, at_a, core_b, at_b, margin);
}

Touch<3> touch(const Geometry<3>& a, const Frame<3>& at_a, const Geometry<3>& b, const Frame<3>& at_b,
               float margin) {
    return std::visit(PairsOfSpace{at_a, at_b, margin}, as_rod(a, at_a), as_rod(b, at_b));
}

}
