// The dispatch over pairs of shapes.
#include "narrow/touch.h"

#include "narrow/convex_space.h"

#include <utility>

namespace astasis::narrow {
namespace {

using flow::Guide;

shape::Convex<3> placed(const Geometry<3>& geometry, const Frame<3>& at, shape::ConvexRoom<3>& room) {
    return shape::placed(shape::convex_of(geometry, room), math::widened(at.position),
                         math::turn_of(at.rotation));
}

// In space: rods (spheres and capsules) and boxes have quick ways of their own; all other convex shapes share
// one.
struct Solid { // any convex shape that is neither
    const Geometry<3>* geometry;
};
struct PairsOfSpace {
    const Geometry<3>&a, &b;
    const Frame<3>&at_a, &at_b;
    float margin;
    const Vec3* before;

    Touch<3> operator()(const Rod& rod_a, const Rod& rod_b) const { return rod_rod(rod_a, rod_b, margin); }
    Touch<3> operator()(const Rod& rod, const Box3& box) const { return rod_box(rod, box, at_b, margin); }
    Touch<3> operator()(const Rod& rod, const HalfSpace<3>& half) const {
        return rod_half_space(rod, half, at_b, margin);
    }
    Touch<3> operator()(const Box3& box_a, const Box3& box_b) const {
        return box_box(box_a, at_a, box_b, at_b, margin, before);
    }
    Touch<3> operator()(const HalfSpace<3>&, const HalfSpace<3>&) const { return {}; }
    Touch<3> operator()(const Box3& box, const Rod& rod) const {
        return turned_round(rod_box(rod, box, at_a, margin));
    }

    template<typename A> Touch<3> operator()(const A&, const HalfSpace<3>& half) const {
        shape::ConvexRoom<3> room;
        return convex_half_space(placed(a, at_a, room), half, at_b, margin);
    }
    template<typename B> Touch<3> operator()(const HalfSpace<3>& half, const B& other) const {
        const Vec3 back = before ? -*before : Vec3{};
        return turned_round(PairsOfSpace{b, a, at_b, at_a, margin, before ? &back : nullptr}(other, half));
    }
    template<typename A, typename B> Touch<3> operator()(const A&, const B&) const {
        shape::ConvexRoom<3> room_a, room_b;
        const math::Wide3 hint = before ? math::widened(*before) : math::Wide3{};
        return convex_convex(placed(a, at_a, room_a), placed(b, at_b, room_b), margin,
                             before ? &hint : nullptr);
    }
};

using SpaceShape = std::variant<Solid, Rod, Box3, HalfSpace<3>>;
SpaceShape seen(const Geometry<3>& geometry, const Frame<3>& at) {
    if (const auto* s = std::get_if<Sphere>(&geometry)) return Rod{at.position, at.position, s->radius};
    if (const auto* c = std::get_if<Capsule3>(&geometry))
        return Rod{at.position + rotate(at.rotation, c->from), at.position + rotate(at.rotation, c->to),
                   c->radius};
    if (const auto* b = std::get_if<Box3>(&geometry); b != nullptr && b->rounding() == 0) return *b;
    if (const auto* h = std::get_if<HalfSpace<3>>(&geometry)) return *h;
    return Solid{&geometry};
}

}

template<int Dim> Touch<Dim> turned_round(Touch<Dim> t) {
    t.normal = -t.normal;
    std::swap(t.skin_a, t.skin_b);
    std::swap(t.rim_a, t.rim_b);
    if (t.guide == Guide::FaceOfA) t.guide = Guide::FaceOfB;
    else if (t.guide == Guide::FaceOfB) t.guide = Guide::FaceOfA;
    for (int i = 0; i < t.count; i++) std::swap(t.points[i].core_a, t.points[i].core_b);
    return t;
}
template Touch<2> turned_round(Touch<2>);
template Touch<3> turned_round(Touch<3>);

Touch<2> touch(const Geometry<2>& a, const Frame<2>& at_a, const Geometry<2>& b, const Frame<2>& at_b,
               float margin, const Vec2* before) {
    shape::CoreRoom room_a, room_b;
    const shape::Core core_a = shape::core_of(a, room_a), core_b = shape::core_of(b, room_b);
    const auto *plane_a = std::get_if<HalfPlane>(&a), *plane_b = std::get_if<HalfPlane>(&b);
    if (plane_a && plane_b) return {};
    if (plane_a) return turned_round(convex_half_plane(core_b, at_b, *plane_a, at_a, margin));
    if (plane_b) return convex_half_plane(core_a, at_a, *plane_b, at_b, margin);
    return convex_convex(core_a, at_a, core_b, at_b, margin, before);
}

Touch<3> touch(const Geometry<3>& a, const Frame<3>& at_a, const Geometry<3>& b, const Frame<3>& at_b,
               float margin, const Vec3* before) {
    return std::visit(PairsOfSpace{a, b, at_a, at_b, margin, before}, seen(a, at_a), seen(b, at_b));
}

}
