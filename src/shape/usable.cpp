#include "shape/usable.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/trig.h"
#include "math/turn.h"
#include "shape/surface.h"

#include <cmath>

namespace astasis::shape {
namespace {

using math::Wide2;
using math::Wide3;

bool is_large(const Geometry<2>& g, const char* field) {
    if (const auto* grid = std::get_if<TileGrid>(&g)) check_size(*grid, field);
    return is_surface(g);
}
bool is_large(const Geometry<3>& g, const char* field) {
    if (const auto* ground = std::get_if<HeightField>(&g)) check_size(*ground, field);
    return is_surface(g) || std::holds_alternative<Hull>(g);
}

}

template<int Dim> Usable<Dim>::Usable(const Geometry<Dim>& given, const char* field) : given_(given) {
    if (!is_large(given, field)) checked_ = checked_geometry(given, field);
}

template<int Dim> void check_pose(const Pose<Dim>& pose, const std::string& field) {
    const std::string prefix = field.empty() ? field : field + ".";
    if (!math::is_finite(pose.position))
        throw Error(prefix + "position", base::text_of(pose.position), "finite numbers (m)");
    const float norm = math::norm_squared(pose.rotation);
    if (!math::is_finite(norm) || !(norm > 0))
        throw Error(prefix + "rotation", base::number(norm) + " as its squared length",
                    "a rotation, made by turned(angle)");
}

template<int Dim> void refuse_two_surfaces(const Geometry<Dim>& a, const Geometry<Dim>& b) {
    if ((is_surface(a) || is_unbounded(a)) && (is_surface(b) || is_unbounded(b)))
        throw Error("b", "a surface or half-space, and a is one too", "at least one bounded convex shape");
}

bool surface_holds(const Geometry<2>& surface, const Wide2& p) {
    if (const auto* grid = std::get_if<TileGrid>(&surface)) {
        const double limit = 1e6;
        const double column = std::floor(p[0] / grid->cell), row = std::floor(p[1] / grid->cell);
        return std::fabs(column) < limit && std::fabs(row) < limit &&
               grid->is_solid(static_cast<int>(column), static_cast<int>(row));
    }
    const auto& line = std::get<Polyline>(surface);
    if (!line.is_closed()) return false;
    double turns = 0;
    for (const auto& piece : line.surface().pieces) {
        const Wide2 a = math::widened(piece.corner[0]) - p, b = math::widened(piece.corner[1]) - p;
        turns += math::arc_tangent(cross(a, b), dot(a, b));
    }
    return std::fabs(turns) > 3;
}

// The solid angle of each triangle (Van Oosterom and Strackee 1983), whose sum is 4 pi inside of a closed
// mesh.
bool surface_holds(const Geometry<3>& surface, const Wide3& p) {
    if (const auto* mesh = std::get_if<TriangleMesh>(&surface)) {
        double angle = 0;
        for (const auto& piece : mesh->surface().pieces) {
            const Wide3 a = math::widened(piece.corner[0]) - p, b = math::widened(piece.corner[1]) - p,
                        c = math::widened(piece.corner[2]) - p;
            const double la = norm(a), lb = norm(b), lc = norm(c);
            angle += 2 * math::arc_tangent(dot(a, cross(b, c)),
                                           la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb);
        }
        return std::fabs(angle) > 6.283185307179586;
    }
    thread_local std::vector<Piece<3>> pieces; // keeps its room
    pieces.clear();
    const Vec3 at = math::narrowed(p);
    pieces_in(surface, {{at.x, -INFINITY, at.z}, {at.x, INFINITY, at.z}}, pieces);
    for (const auto& piece : pieces) {
        bool over = true;
        for (std::size_t k = 0; k < 3; k++) {
            const Wide3 from = math::widened(piece.corner[k]),
                        d = math::widened(piece.corner[(k + 1) % 3]) - from;
            over = over && d[2] * (p[0] - from[0]) - d[0] * (p[2] - from[2]) >= 0; // seen from above
        }
        if (over && dot(math::widened(piece.normal), p - math::widened(piece.corner[0])) <= 0) return true;
    }
    return false;
}

template class Usable<2>;
template class Usable<3>;
template void check_pose(const Pose<2>&, const std::string&);
template void check_pose(const Pose<3>&, const std::string&);
template void refuse_two_surfaces<2>(const Geometry<2>&, const Geometry<2>&);
template void refuse_two_surfaces<3>(const Geometry<3>&, const Geometry<3>&);

}
