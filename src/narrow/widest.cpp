#include "narrow/widest.h"

#include "math/turn.h"

#include <algorithm>
#include <cmath>

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

namespace {

// Shares of the widest distance. What differs in depth by less than the first is as deep. What is nearer to
// another than the second stands for the same place, and would make it twice as hard.
constexpr float kAsDeep = 1e-4f, kSamePlace = 1e-2f;
constexpr float kLevel = 1e-4f; // a share of that distance

float widest(std::span<const TouchPoint<3>> points) {
    float out = 0;
    for (const auto& p : points) out = std::max(out, length_squared(p.core_b - points[0].core_b));
    return std::sqrt(out);
}

// Drops those that stand where a deeper one, or one before, does; what is level keeps the name it came by
// first.
std::span<TouchPoint<3>> without_doubles(std::span<TouchPoint<3>> points, float near) {
    std::size_t count = 0;
    for (const auto& p : points) {
        const auto kept = points.first(count);
        const auto same = std::find_if(kept.begin(), kept.end(), [&](const auto& q) {
            return length_squared(p.core_b - q.core_b) < near * near;
        });
        if (same == kept.end()) points[count++] = p;
        else if (p.separation < same->separation - kLevel * near) *same = p;
    }
    return points.first(count);
}

}

// By where they are, not by how deep: were it the deepest, one that is left out would sink and take the place
// of another in the next tick, for ever.
void keep_widest(std::span<TouchPoint<3>> found, Vec3 normal, Touch<3>& out) {
    const float width = widest(found);
    const std::span<const TouchPoint<3>> points = without_doubles(found, kSamePlace * width);
    if (all_fit(points, out)) return pair_opposite(out);
    const std::size_t deepest = most(points, [](const auto& p) { return -p.separation; });
    const float slack = kAsDeep * width, touching = std::max(points[deepest].separation, 0.0f);
    const auto weight = [&](const TouchPoint<3>& p) { // 1 of what touches, or is as near as the nearest
        return slack / std::max(slack, p.separation - touching);
    };
    const Vec3 across = math::tangents(normal)[0];
    const std::size_t first =
        most(points, [&](const auto& p) { return weight(p) == 1 ? dot(p.core_b, across) : -1e30f; });
    const auto away = [&](std::size_t i, const TouchPoint<3>& p) {
        return length_squared(p.core_b - points[i].core_b);
    };
    const std::size_t second =
        most(points, [&](const auto& p) { return away(first, p) * weight(p) * weight(p); });
    // Left of the way from i to k.
    const auto area = [&](std::size_t i, std::size_t k, const TouchPoint<3>& p) {
        return dot(cross(points[k].core_b - points[i].core_b, p.core_b - points[i].core_b), normal);
    };
    const std::size_t third = most(points, [&](const auto& p) { return std::fabs(area(first, second, p)); });
    const bool is_left = area(first, second, points[third]) > 0;
    const std::size_t a = is_left ? first : second, b = is_left ? second : first; // a, b, third turn left
    const std::size_t fourth = most(points, [&](const auto& p) {
        return std::max({area(b, a, p), area(third, b, p), area(a, third, p)});
    });
    std::array<std::size_t, 4> chosen{first, second, third, fourth};
    std::size_t& next_to_deepest = *std::min_element(chosen.begin(), chosen.end(), [&](auto i, auto k) {
        return away(deepest, points[i]) < away(deepest, points[k]);
    });
    if (points[deepest].separation < points[next_to_deepest].separation - slack) next_to_deepest = deepest;
    keep(points, chosen, out);
    pair_opposite(out);
}

}
