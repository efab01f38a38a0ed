// The dispatch over pairs of shapes.
#include "narrow/touch.h"

#include <utility>

namespace astasis::narrow {
namespace {

using flow::Guide;

template<int Dim> Touch<Dim> turned_round(Touch<Dim> t) {
    t.normal = -t.normal;
    std::swap(t.skin_a, t.skin_b);
    if (t.guide != Guide::Centres) t.guide = t.guide == Guide::FaceOfA ? Guide::FaceOfB : Guide::FaceOfA;
    for (int i = 0; i < t.count; i++) std::swap(t.points[i].core_a, t.points[i].core_b);
    return t;
}

// An overload a pair; the last one serves the mirror images.
template<int Dim> struct Pairs {
    const Frame<Dim>&at_a, &at_b;
    float margin;

    Touch<Dim> operator()(const Ball<Dim>& a, const Ball<Dim>& b) const {
        return ball_ball(a, at_a, b, at_b, margin);
    }
    Touch<Dim> operator()(const Ball<Dim>& a, const Box<Dim>& b) const {
        return ball_box(a, at_a, b, at_b, margin);
    }
    Touch<Dim> operator()(const Ball<Dim>& a, const HalfSpace<Dim>& b) const {
        return ball_half_space(a, at_a, b, at_b, margin);
    }
    Touch<Dim> operator()(const Box<Dim>& a, const Box<Dim>& b) const {
        return box_box(a, at_a, b, at_b, margin);
    }
    Touch<Dim> operator()(const Box<Dim>& a, const HalfSpace<Dim>& b) const {
        return box_half_space(a, at_a, b, at_b, margin);
    }
    Touch<Dim> operator()(const HalfSpace<Dim>&, const HalfSpace<Dim>&) const { return {}; }

    template<typename A, typename B> Touch<Dim> operator()(const A& a, const B& b) const {
        return turned_round(Pairs{at_b, at_a, margin}(b, a));
    }
};

}

template<int Dim>
Touch<Dim> touch(const Geometry<Dim>& a, const Frame<Dim>& at_a, const Geometry<Dim>& b,
                 const Frame<Dim>& at_b, float margin) {
    return std::visit(Pairs<Dim>{at_a, at_b, margin}, a, b);
}

template Touch<2> touch(const Geometry<2>&, const Frame<2>&, const Geometry<2>&, const Frame<2>&, float);
template Touch<3> touch(const Geometry<3>&, const Frame<3>&, const Geometry<3>&, const Frame<3>&, float);

}
