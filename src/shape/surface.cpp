// Polylines and meshes: neighbours found once.
#include "shape/surface.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/wide.h"

#include <algorithm>
#include <map>

namespace astasis::shape {
namespace {

using math::Wide3;

template<int Dim> void check_finite(std::span<const Vec<Dim>> corners) {
    for (std::size_t i = 0; i < corners.size(); i++)
        if (!math::is_finite(corners[i]))
            throw Error("corners[" + std::to_string(i) + "]", base::text_of(corners[i]),
                        "finite numbers (m)");
}

template<int Dim> void plant(Surface<Dim>& s) {
    std::vector<typename PieceTree<Dim>::Box> boxes;
    boxes.reserve(s.pieces.size());
    for (const auto& p : s.pieces) {
        typename PieceTree<Dim>::Box box{p.corner[0], p.corner[0]};
        for (const auto& c : p.corner)
            for (int k = 0; k < Dim; k++)
                box.low[k] = std::min(box.low[k], c[k]), box.high[k] = std::max(box.high[k], c[k]);
        boxes.push_back(box);
    }
    s.tree = PieceTree<Dim>(boxes);
}

// From an edge towards a point beside it: unit, square to the edge.
Vec3 into(Vec3 from, Vec3 to, Vec3 apex) {
    const Wide3 a = math::widened(from), along = math::widened(to) - a, arm = math::widened(apex) - a;
    return math::narrowed(unit(arm - along * (dot(arm, along) / squared(along)), Wide3{}));
}

// Corners at one place get one number.
std::vector<std::uint32_t> joined(std::span<const Vec3> corners) {
    std::vector<std::uint32_t> order;
    order.reserve(corners.size());
    for (std::uint32_t i = 0; i < corners.size(); i++) order.push_back(i);
    std::vector<std::uint32_t> first = order;
    const auto key = [&](std::uint32_t i) {
        return std::array<float, 3>{corners[i].x, corners[i].y, corners[i].z};
    };
    std::stable_sort(order.begin(), order.end(), [&](auto i, auto j) { return key(i) < key(j); });
    for (std::size_t i = 0; i < order.size(); i++)
        first[order[i]] =
            i > 0 && corners[order[i]] == corners[order[i - 1]] ? first[order[i - 1]] : order[i];
    return first;
}

}

Surface<2> surface_of(std::span<const Vec2> corners, bool closed) {
    const std::size_t least = closed ? 3 : 2, n = corners.size();
    if (n < least)
        throw Error("corners", std::to_string(n) + " corners",
                    closed ? "3 or more corners of a closed line" : "2 or more corners");
    check_finite(corners);
    Surface<2> out;
    const std::size_t count = closed ? n : n - 1;
    for (std::size_t i = 0; i < count; i++) {
        const Vec2 from = corners[i], to = corners[(i + 1) % n];
        const Vec2 along = direction(to - from, Vec2{});
        if (along == Vec2{})
            throw Error("corners[" + std::to_string((i + 1) % n) + "]", base::text_of(to),
                        "a place other than that of the corner before it");
        Piece<2> p;
        p.corner = {from, to};
        p.normal = {along.y, -along.x};
        p.id = static_cast<std::uint32_t>(i);
        out.pieces.push_back(p);
    }
    for (std::size_t i = 0; i < count; i++) {
        if (!closed && i + 1 == count) break;
        Piece<2>&p = out.pieces[i], &q = out.pieces[(i + 1) % count];
        p.beyond[1] = direction(q.corner[1] - q.corner[0], Vec2{});
        q.beyond[0] = direction(p.corner[0] - p.corner[1], Vec2{});
        if (dot(p.beyond[1], q.beyond[0]) > 1 - 1e-6f)
            throw Error("corners[" + std::to_string((i + 1) % n) + "]", base::text_of(p.corner[1]),
                        "a corner at which the line does not turn back on itself");
    }
    plant(out);
    return out;
}

Surface<3> surface_of(std::span<const Vec3> corners, std::span<const TriangleMesh::Triangle> triangles) {
    check_finite(corners);
    const std::vector<std::uint32_t> first = joined(corners);
    Surface<3> out;
    std::vector<TriangleMesh::Triangle> kept;
    for (std::size_t i = 0; i < triangles.size(); i++) {
        TriangleMesh::Triangle t = triangles[i];
        for (auto& c : t) {
            if (c >= corners.size())
                throw Error("triangles[" + std::to_string(i) + "]", "corner " + std::to_string(c),
                            "corners numbered from 0 to " + std::to_string(corners.size()) + " - 1");
            c = first[c];
        }
        Piece<3> p;
        p.corner = {corners[t[0]], corners[t[1]], corners[t[2]]};
        const Wide3 o = math::widened(p.corner[0]), u = math::widened(p.corner[1]) - o,
                    v = math::widened(p.corner[2]) - o;
        const Wide3 crossed = cross(u, v);
        const double longest = std::max({squared(u), squared(v), squared(v - u)});
        if (!(norm(crossed) > 1e-7 * longest)) continue;
        p.normal = math::narrowed(unit(crossed, Wide3{}));
        p.id = static_cast<std::uint32_t>(kept.size());
        kept.push_back(t);
        out.pieces.push_back(p);
    }
    if (kept.empty())
        throw Error("triangles", std::to_string(triangles.size()) + " triangles, none of which has an area",
                    "at least one triangle with an area");
    // The neighbour across an edge runs along it the other way; of several the first.
    std::map<std::array<std::uint32_t, 2>, std::uint32_t> by_edge;
    for (std::uint32_t i = 0; i < kept.size(); i++)
        for (std::size_t k = 0; k < 3; k++)
            by_edge.try_emplace({kept[i][k], kept[i][(k + 1) % 3]}, i * 4 + static_cast<std::uint32_t>(k));
    for (std::size_t i = 0; i < kept.size(); i++)
        for (std::size_t k = 0; k < 3; k++) {
            const auto found = by_edge.find({kept[i][(k + 1) % 3], kept[i][k]});
            if (found == by_edge.end()) continue;
            const std::size_t apex = (found->second % 4 + 2) % 3;
            out.pieces[i].beyond[k] = into(out.pieces[i].corner[k], out.pieces[i].corner[(k + 1) % 3],
                                           out.pieces[found->second / 4].corner[apex]);
        }
    plant(out);
    return out;
}

}

namespace astasis {

Polyline Polyline::open(std::span<const Vec2> corners) {
    return {std::make_shared<const shape::Surface<2>>(shape::surface_of(corners, false)), false};
}
Polyline Polyline::closed(std::span<const Vec2> corners) {
    return {std::make_shared<const shape::Surface<2>>(shape::surface_of(corners, true)), true};
}
Polyline Polyline::two_sided() const {
    Polyline out = *this;
    out.two_sided_ = true;
    return out;
}
std::vector<Vec2> Polyline::corners() const {
    std::vector<Vec2> out;
    out.reserve(surface_->pieces.size() + 1);
    for (const auto& p : surface_->pieces) out.push_back(p.corner[0]);
    if (!closed_) out.push_back(surface_->pieces.back().corner[1]);
    return out;
}

TriangleMesh TriangleMesh::of(std::span<const Vec3> corners, std::span<const Triangle> triangles) {
    return TriangleMesh(std::make_shared<const shape::Surface<3>>(shape::surface_of(corners, triangles)));
}
TriangleMesh TriangleMesh::two_sided() const {
    TriangleMesh out = *this;
    out.two_sided_ = true;
    return out;
}
int TriangleMesh::triangle_count() const { return static_cast<int>(surface_->pieces.size()); }
std::array<Vec3, 3> TriangleMesh::triangle(int i) const {
    return surface_->pieces[static_cast<std::size_t>(i)].corner;
}

}
