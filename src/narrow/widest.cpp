#include "narrow/widest.h"

#include <algorithm>

namespace astasis::narrow {
namespace {

template<int Dim, typename Score>
std::size_t most(std::span<const TouchPoint<Dim>> points, const Score& score) {
    std::size_t best = 0;
    float high = score(points[0]);
    for (std::size_t i = 1; i < points.size(); i++)
        if (const float s = score(points[i]); s > high) high = s, best = i;
    return best;
}

template<int Dim> bool all_fit(std::span<const TouchPoint<Dim>> points, Touch<Dim>& out) {
    if (points.size() > static_cast<std::size_t>(flow::kMostPoints<Dim>)) return false;
    std::copy(points.begin(), points.end(), out.points.begin());
    out.count = static_cast<int>(points.size());
    return true;
}

template<int Dim>
void keep(std::span<const TouchPoint<Dim>> points, std::array<std::size_t, flow::kMostPoints<Dim>> chosen,
          Touch<Dim>& out) {
    std::sort(chosen.begin(), chosen.end());
    const auto end = std::unique(chosen.begin(), chosen.end());
    out.count = 0;
    for (auto i = chosen.begin(); i != end; ++i)
        out.points[static_cast<std::size_t>(out.count++)] = points[*i];
}

// Points come in the order of the polygon. Opposite corners next to each other, so that the first two that
// take up a load take it up about its middle.
void pair_opposite(Touch<3>& out) {
    if (out.count == 4) std::swap(out.points[1], out.points[2]);
}

}

void keep_widest(std::span<const TouchPoint<2>> points, Vec2 normal, Touch<2>& out) {
    if (all_fit(points, out)) return;
    const std::size_t first = most(points, [](const auto& p) { return -p.separation; });
    const Vec2 origin = points[first].core_b;
    const std::size_t second =
        most(points, [&](const auto& p) { return std::fabs(cross(normal, p.core_b - origin)); });
    keep(points, {first, second}, out);
}

void keep_widest(std::span<const TouchPoint<3>> points, Vec3 normal, Touch<3>& out) {
    if (all_fit(points, out)) return pair_opposite(out);
    const std::size_t first = most(points, [](const auto& p) { return -p.separation; });
    const Vec3 origin = points[first].core_b;
    const std::size_t second = most(points, [&](const auto& p) { return length_squared(p.core_b - origin); });
    const Vec3 line = points[second].core_b - origin;
    const auto area = [&](const TouchPoint<3>& p) { return dot(cross(line, p.core_b - origin), normal); };
    keep(points, {first, second, most(points, area), most(points, [&](const auto& p) { return -area(p); })},
         out);
    pair_opposite(out);
}

}
