#include "shape/convex.h"

#include "shape/core_plane.h"

#include <algorithm>

namespace astasis::shape {

using math::Wide;

template<int Dim> std::size_t Convex<Dim>::farthest(const Wide<Dim>& d) const {
    const Wide<Dim> local = turned_back(turn, d);
    std::size_t best = 0;
    double most = dot(math::widened(corners[0]), local);
    for (std::size_t i = 1; i < corners.size(); i++)
        if (const double s = dot(math::widened(corners[i]), local); s > most) most = s, best = i;
    return best;
}

template<int Dim> Wide<Dim> Convex<Dim>::support(const Wide<Dim>& d, std::size_t i) const {
    return rim > 0 ? corner(i) + rim_towards(d) : corner(i);
}

template<int Dim> Wide<Dim> Convex<Dim>::rim_towards(const Wide<Dim>& d) const {
    if (!(rim > 0)) return {};
    const Wide<Dim> a = axis(), across = d - a * dot(d, a);
    const double n = norm(across);
    if (!(n > 1e-10 * norm(d))) return {};
    // Close to the axis rounding has left some of it: taken off once more, or the point would stand out of
    // the cap.
    const Wide<Dim> u = across * (1 / n);
    return (u - a * dot(u, a)) * rim;
}

template<int Dim> Wide<Dim> Convex<Dim>::axis() const {
    return unit(turn * (math::widened(corners[1]) - math::widened(corners[0])), Wide<Dim>{});
}

template<int Dim> Wide<Dim> Convex<Dim>::middle() const {
    Wide<Dim> sum{};
    for (const Vec<Dim> c : corners) sum = sum + math::widened(c);
    return position + turn * (sum * (1.0 / static_cast<double>(corners.size())));
}

template<int Dim> double Convex<Dim>::size() const {
    double most = 0;
    for (const Vec<Dim> c : corners)
        most = std::max(most, squared(math::widened(c) - math::widened(corners[0])));
    return std::sqrt(most) + 2 * (rim + skin);
}

Convex<2> convex_of(const Geometry<2>& geometry, ConvexRoom<2>& room) {
    const Core core = core_of(geometry, room);
    return {.corners = core.corners, .skin = core.radius, .turn = math::turn_of(Rotation<2>{})};
}

Convex<3> convex_of(const Geometry<3>& geometry, ConvexRoom<3>& room) {
    Convex<3> out;
    out.turn = math::turn_of(Rotation<3>{});
    if (const auto* ball = std::get_if<Sphere>(&geometry)) {
        room[0] = {};
        out.corners = {room.data(), 1}, out.skin = ball->radius;
    } else if (const auto* capsule = std::get_if<Capsule3>(&geometry)) {
        room[0] = capsule->from, room[1] = capsule->to;
        out.corners = {room.data(), 2}, out.skin = capsule->radius;
    } else if (const auto* drum = std::get_if<Cylinder>(&geometry)) {
        room[0] = drum->from, room[1] = drum->to;
        out.corners = {room.data(), 2}, out.rim = drum->radius;
    } else if (const auto* hull = std::get_if<Hull>(&geometry)) {
        out.corners = hull->corners(), out.skin = hull->rounding(), out.facets = &hull->facets();
    } else if (const auto* box = std::get_if<Box3>(&geometry)) {
        const float r = box->rounding();
        const Vec3 half = box->full_size() * 0.5f - Vec3{r, r, r};
        out.facets = &box_facets(), out.skin = r;
        for (std::size_t k = 0; k < 8; k++) {
            const Vec3 sign = out.facets->corners[k];
            room[k] = {half.x * sign.x, half.y * sign.y, half.z * sign.z};
        }
        out.corners = {room.data(), 8};
    }
    return out;
}

template struct Convex<2>;
template struct Convex<3>;

}
