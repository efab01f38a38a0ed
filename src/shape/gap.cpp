#include "shape/gap.h"

#include <algorithm>

namespace astasis::shape {
namespace {

using math::Wide;

// The least way out of two cores in the plane: along the normal of a side of either (their difference has no
// others).
WayOut<2> way_out_of(const Convex<2>& a, const Convex<2>& b, const Nearest<2>&) {
    WayOut<2> best;
    best.depth = 1e300;
    const auto look = [&](const Convex<2>& c, double sign) {
        for (std::size_t i = 0; c.corners.size() > 1 && i < c.corners.size(); i++) {
            const Wide<2> d = c.corner((i + 1) % c.corners.size()) - c.corner(i);
            const Wide<2> n = unit(Wide<2>{{d[1], -d[0]}}, Wide<2>{{0, 1}}) * sign;
            if (const double depth = overlap_along(a, b, n); depth < best.depth)
                best.depth = depth, best.normal = n;
        }
    };
    look(a, 1);
    look(b, -1);
    if (best.depth == 1e300) best.depth = 0, best.normal = Wide<2>{{0, 1}};
    best.depth = std::max(best.depth, 0.0);
    // Of parallel sides the nearest points are not one; the corner of the smaller core is on both.
    if (a.corners.size() > 1 && a.size() > b.size()) {
        best.on_b = b.support(-best.normal);
        best.on_a = best.on_b + best.normal * best.depth;
    } else {
        best.on_a = a.support(best.normal);
        best.on_b = best.on_a - best.normal * best.depth;
    }
    return best;
}
WayOut<3> way_out_of(const Convex<3>& a, const Convex<3>& b, const Nearest<3>& touching) {
    return way_out(a, b, touching);
}

// Of how many different corners of one core the nearest point is made.
template<int Dim, typename Of> int different(const Simplex<Dim>& s, const Of& of) {
    int count = 0;
    for (int i = 0; i < s.count; i++) {
        bool is_new = s.corner[static_cast<std::size_t>(i)].share > 0;
        for (int k = 0; k < i; k++)
            is_new = is_new && squared(of(s.corner[static_cast<std::size_t>(i)]) -
                                       of(s.corner[static_cast<std::size_t>(k)])) > 0;
        count += is_new;
    }
    return std::max(count, 1);
}

void set_half_space(const Geometry<2>& g, Wide<2>& outward) {
    outward = math::widened(std::get<HalfPlane>(g).outward);
}
void set_half_space(const Geometry<3>& g, Wide<3>& outward) {
    outward = math::widened(std::get<HalfSpace<3>>(g).outward);
}

}

template<int Dim>
Parts<Dim>::Parts(const Geometry<Dim>& g, const Wide<Dim>& at, const math::Turn<Dim>& turned)
    : geometry(g), position(at), turn(turned), half_space(std::holds_alternative<HalfSpace<Dim>>(g)),
      surface(is_surface(g)) {
    if (half_space) set_half_space(g, outward);
    else if (!surface) convex = placed(convex_of(g, room), at, turned);
}

template<int Dim> Gap<Dim> gap_of(const Convex<Dim>& a, const Convex<Dim>& b, bool depth) {
    const Nearest<Dim> near = nearest(a, b);
    Gap<Dim> out;
    double cores = near.distance;
    out.apart = near.apart;
    if (near.apart) {
        out.normal = near.normal, out.on_a = near.on_a, out.on_b = near.on_b;
        out.corners_a = different(near.simplex, [](const auto& c) { return c.on_a; });
        out.corners_b = different(near.simplex, [](const auto& c) { return c.on_b; });
    } else if (depth) {
        const WayOut<Dim> way = way_out_of(a, b, near);
        out.normal = way.normal, out.on_a = way.on_a, out.on_b = way.on_b;
        out.corners_a = out.corners_b = Dim;
        cores = -way.depth;
    }
    out.separation = cores - (a.skin + b.skin);
    out.on_a = out.on_a + out.normal * a.skin, out.on_b = out.on_b - out.normal * b.skin;
    return out;
}

template<int Dim>
Gap<Dim> gap_to_plane(const Convex<Dim>& a, const Wide<Dim>& on_plane, const Wide<Dim>& outward) {
    Gap<Dim> out;
    out.normal = -outward;
    out.on_a = a.support(-outward) - outward * a.skin;
    out.separation = dot(out.on_a - on_plane, outward);
    out.apart = out.separation > 0;
    out.on_b = out.on_a - outward * out.separation;
    out.corners_b = Dim;
    return out;
}

template struct Parts<2>;
template struct Parts<3>;
template Gap<2> gap_of(const Convex<2>&, const Convex<2>&, bool);
template Gap<3> gap_of(const Convex<3>&, const Convex<3>&, bool);
template Gap<2> gap_to_plane(const Convex<2>&, const Wide<2>&, const Wide<2>&);
template Gap<3> gap_to_plane(const Convex<3>&, const Wide<3>&, const Wide<3>&);

}
