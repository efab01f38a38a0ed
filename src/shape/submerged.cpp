#include "shape/submerged.h"

#include "math/trig.h"
#include "shape/measure.h"

#include <algorithm>
#include <cmath>

namespace astasis::shape {
namespace {

using math::Wide;
using math::Wide2;
using math::Wide3;

constexpr double kPi = 3.141592653589793;
// Of a round shape's reach: how far its sides may be from it.
constexpr float kFineness = 0.02f;
// A level above all.
constexpr double kAbove = 1e15;

// A polygon's part with y <= level, into `out`.
template<int Dim>
void clip(const std::vector<Wide<Dim>>& corners, double level, std::vector<Wide<Dim>>& out) {
    out.clear();
    for (std::size_t i = 0; i < corners.size(); i++) {
        const Wide<Dim>&p = corners[i], &q = corners[(i + 1) % corners.size()];
        const bool under = p[1] <= level;
        if (under) out.push_back(p);
        if (under != (q[1] <= level)) out.push_back(p + (q - p) * ((level - p[1]) / (q[1] - p[1])));
    }
}

// Sums up the cones from an origin over clipped sides: triangles over lines, tetrahedra over triangles.
void add_side(const std::vector<Wide2>& side, const Wide2& origin, Submerged<2>& sum) {
    for (std::size_t i = 0; i < side.size(); i++) {
        const Wide2 p = side[i] - origin, q = side[(i + 1) % side.size()] - origin;
        const double area = 0.5 * cross(p, q);
        sum.content += area;
        sum.centre = sum.centre + (p + q) * (area / 3);
    }
}
void add_side(const std::vector<Wide3>& side, const Wide3& origin, Submerged<3>& sum) {
    for (std::size_t i = 1; i + 1 < side.size(); i++) {
        const Wide3 p = side[0] - origin, q = side[i] - origin, r = side[i + 1] - origin;
        const double volume = dot(p, cross(q, r)) / 6;
        sum.content += volume;
        sum.centre = sum.centre + ((p + q) + r) * (volume / 4);
    }
}

// Of a disc or a ball of radius r whose centre is at `depth` below the level: content, and how far its middle
// is below the centre.
struct Cap {
    double content, below;
};
Cap cap(double r, double depth, std::integral_constant<int, 2>) {
    const double d = std::clamp(depth / r, -1.0, 1.0), chord = std::sqrt(std::max(0.0, 1 - d * d));
    const double area = r * r * (kPi / 2 + math::arc_tangent(d, chord) + d * chord);
    const double moment = 2.0 / 3 * r * r * r * chord * chord * chord;
    return {area, area > 0 ? moment / area : 0};
}
Cap cap(double r, double depth, std::integral_constant<int, 3>) {
    const double h = std::clamp(r + depth, 0.0, 2 * r), volume = kPi * h * h * (r - h / 3);
    const double gap = 2 * r - h, moment = kPi / 4 * h * h * gap * gap;
    return {volume, volume > 0 ? moment / volume : 0};
}

}

template<int Dim> Hulk<Dim>::Hulk(const ShapeSpec<Dim>& spec) {
    const auto into_body = [&](const Vec<Dim>& v) {
        return math::turn_of(spec.placement.rotation) * math::widened(v) +
               math::widened(spec.placement.position);
    };
    if (const auto* ball = std::get_if<Ball<Dim>>(&spec.geometry)) {
        radius_ = ball->radius;
        corners_.push_back(into_body({}));
        return;
    }
    Outline<Dim> lines;
    if (!is_unbounded(spec.geometry)) outline(spec.geometry, kFineness * reach(spec.geometry), lines);
    for (const auto& area : lines.areas) {
        for (std::size_t i = area.begin; i < area.end; i++) corners_.push_back(into_body(lines.corners[i]));
        ends_.push_back(static_cast<std::uint32_t>(corners_.size()));
    }
    Room room;
    const double whole = cut(math::turn_of(Rotation<Dim>{}), {}, kAbove, room).content;
    if (whole > 0) scale_ = double{measure(spec.geometry).content} / whole;
}

template<int Dim>
Submerged<Dim> Hulk<Dim>::cut(const math::Turn<Dim>& turn, const Wide<Dim>& place, double level,
                              Room& room) const {
    Submerged<Dim> sum;
    Wide<Dim> origin = place;
    if (level < kAbove) origin[1] = level;
    auto &side = room.side, &part = room.part;
    std::uint32_t begin = 0;
    for (const std::uint32_t end : ends_) {
        side.clear();
        for (std::uint32_t i = begin; i < end; i++) side.push_back(turn * corners_[i] + place);
        clip<Dim>(side, level, part);
        add_side(part, origin, sum);
        begin = end;
    }
    if (sum.content > 0) sum.centre = sum.centre * (1 / sum.content) + origin;
    return sum;
}

template<int Dim>
Submerged<Dim> Hulk<Dim>::below(const math::Turn<Dim>& turn, const Wide<Dim>& place, double level,
                                Room& room) const {
    if (radius_ > 0) {
        Submerged<Dim> out;
        out.centre = turn * corners_[0] + place;
        const Cap c = cap(radius_, level - out.centre[1], std::integral_constant<int, Dim>{});
        out.content = c.content, out.centre[1] -= c.below;
        return out;
    }
    Submerged<Dim> out = cut(turn, place, level, room);
    out.content *= scale_;
    return out;
}

template class Hulk<2>;
template class Hulk<3>;

}
