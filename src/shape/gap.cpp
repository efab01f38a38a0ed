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
    const auto look = [&](const Convex<2>& c, bool of_a) {
        for (std::size_t i = 0; c.corners.size() > 1 && i < c.corners.size(); i++) {
            const Wide<2> d = c.corner((i + 1) % c.corners.size()) - c.corner(i);
            const Wide<2> n = unit(Wide<2>{{d[1], -d[0]}}, Wide<2>{{0, 1}}) * (of_a ? 1.0 : -1.0);
            const double depth = overlap_along(a, b, n);
            if (!(depth < best.depth)) continue;
            best.depth = depth, best.normal = n;
            // The corner of the other core lies over the side.
            best.on_a = of_a ? b.support(-n) + n * depth : a.support(n);
            best.on_b = of_a ? b.support(-n) : a.support(n) - n * depth;
        }
    };
    look(a, true);
    look(b, false);
    if (best.depth == 1e300) { // two corners at one place
        best.depth = 0, best.normal = Wide<2>{{0, 1}};
        best.on_a = a.support(best.normal), best.on_b = b.support(-best.normal);
    }
    best.depth = std::max(best.depth, 0.0);
    return best;
}
WayOut<3> way_out_of(const Convex<3>& a, const Convex<3>& b, const Nearest<3>& touching) {
    return way_out(a, b, touching);
}

// How many corners of a core lie farthest along n: 1 at a corner, 2 at an edge, more at a face.
template<int Dim> int farthest_corners(const Convex<Dim>& c, const Wide<Dim>& n) {
    const double most = dot(c.corner(c.farthest(n)), n), slack = 1e-6 * c.size();
    int count = 0;
    for (std::size_t i = 0; i < c.corners.size(); i++) count += dot(c.corner(i), n) > most - slack;
    return count;
}

// Vectors that past queries of this thread have filled.
template<int Dim> std::vector<std::vector<Piece<Dim>>>& spare_pieces() {
    thread_local std::vector<std::vector<Piece<Dim>>> spare;
    return spare;
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
    if (half_space) {
        set_half_space(g, outward);
    } else if (!surface) {
        convex = placed(convex_of(g, room), at, turned);
    } else if (auto& spare = spare_pieces<Dim>(); !spare.empty()) {
        pieces.swap(spare.back());
        spare.pop_back();
    }
}
template<int Dim> Parts<Dim>::~Parts() {
    if (surface) spare_pieces<Dim>().push_back(std::move(pieces));
}

template<int Dim> Gap<Dim> gap_of(const Convex<Dim>& a, const Convex<Dim>& b, bool depth) {
    const Nearest<Dim> near = nearest(a, b);
    Gap<Dim> out;
    double cores = near.distance;
    out.apart = near.apart;
    if (near.apart) {
        out.normal = near.normal, out.on_a = near.on_a, out.on_b = near.on_b;
    } else if (depth) {
        const WayOut<Dim> way = way_out_of(a, b, near);
        out.normal = way.normal, out.on_a = way.on_a, out.on_b = way.on_b;
        cores = -way.depth;
    }
    out.corners_a = farthest_corners(a, out.normal), out.corners_b = farthest_corners(b, -out.normal);
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
