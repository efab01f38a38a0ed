// Which points of a polygon a manifold keeps.
#include "narrow/widest.h"

#include "math/turn.h"
#include "support/dims.h"
#include "support/scenes.h"

namespace astasis {
namespace {

using narrow::Touch;
using narrow::TouchPoint;
using Polygon = std::vector<TouchPoint<3>>;

constexpr Vec3 kUp{0, 1, 0};

// A convex polygon in a plane of height 0, in order, about a metre wide.
Polygon polygon(test::Numbers& n, int corners) {
    std::vector<double> angles;
    for (int i = 0; i < corners; i++) angles.push_back((i + n.in(0.2, 0.8)) * 2 * 3.14159265 / corners);
    Polygon out;
    const double wide = n.in(0.3, 0.7), deep = n.in(0.3, 0.7);
    for (int i = 0; i < corners; i++) {
        const Vec3 at{static_cast<float>(wide * std::cos(angles[static_cast<std::size_t>(i)])), 0,
                      static_cast<float>(deep * std::sin(angles[static_cast<std::size_t>(i)]))};
        out.push_back({at, at, 0, static_cast<std::uint32_t>(i)});
    }
    return out;
}

std::vector<std::uint32_t> names(const Touch<3>& t) {
    std::vector<std::uint32_t> out;
    for (int i = 0; i < t.count; i++) out.push_back(t.points[static_cast<std::size_t>(i)].feature);
    std::sort(out.begin(), out.end());
    return out;
}

std::vector<std::uint32_t> kept(Polygon points) {
    Touch<3> out;
    narrow::keep_widest(std::span(points), kUp, out);
    return names(out);
}

// Twice the area of the polygon of those with these names.
double area(const Polygon& points, const std::vector<std::uint32_t>& which) {
    double out = 0;
    for (std::size_t i = 0; i < which.size(); i++) {
        const Vec3 p = points[which[i]].core_b, q = points[which[(i + 1) % which.size()]].core_b;
        out += static_cast<double>(p.x) * q.z - static_cast<double>(p.z) * q.x;
    }
    return std::fabs(out);
}

// A box that trembles on its points by less than contacts give must not stand on others in each tick.
TEST(KeepWidest, TheSamePointsWhateverTheyGive) {
    test::Numbers n(3);
    for (int trial = 0; trial < 2000; trial++) {
        Polygon points = polygon(n, 5 + trial % 4);
        const auto first = kept(points);
        for (int tick = 0; tick < 5; tick++) {
            for (auto& p : points) p.separation = n.f(-5e-5, 0);
            ASSERT_EQ(kept(points), first) << "trial " << trial;
        }
    }
}

// Of points that are as deep, four that span more than half of what all span (of nine that stand in a ring, a
// square spans 0.69).
TEST(KeepWidest, SpansMostOfThePolygon) {
    test::Numbers n(4);
    for (int trial = 0; trial < 5000; trial++) {
        const Polygon points = polygon(n, 5 + trial % 5);
        std::vector<std::uint32_t> all(points.size());
        for (std::uint32_t i = 0; i < all.size(); i++) all[i] = i;
        const auto some = kept(points);
        ASSERT_EQ(some.size(), 4u) << "trial " << trial;
        ASSERT_GT(area(points, some), 0.55 * area(points, all)) << "trial " << trial;
    }
}

// What stands on one side, and hangs over by a millimetre on the other, is held on both sides.
TEST(KeepWidest, OnBothSidesOfWhatBears) {
    test::Numbers n(5);
    for (int trial = 0; trial < 5000; trial++) {
        Polygon points = polygon(n, 5 + trial % 4);
        const float tilt = n.f(-5e-3, 5e-3), other = n.f(-5e-3, 5e-3);
        float deepest = 1e9f;
        for (auto& p : points)
            p.separation = tilt * p.core_b.x + other * p.core_b.z, deepest = std::min(deepest, p.separation);
        const auto some = kept(points);
        ASSERT_EQ(some.size(), 4u) << "trial " << trial;
        // The deepest is there, or one that is as deep to within 0.01 % of the width.
        float found = 1e9f;
        for (const std::uint32_t i : some) found = std::min(found, points[i].separation);
        ASSERT_LT(found, deepest + 1.5e-4f) << "trial " << trial;
        // The middle of the polygon is over the four, or next to them.
        const auto beside = [&](std::size_t i) {
            const Vec3 p = points[some[i]].core_b, q = points[some[(i + 1) % 4]].core_b;
            return cross(q - p, Vec3{} - p).y > 0.05f * length(q - p);
        };
        ASSERT_FALSE(beside(0) || beside(1) || beside(2) || beside(3)) << "trial " << trial;
    }
}

// The crossing of two edges is a corner of the clipped face as well.
TEST(KeepWidest, OneForEachPlace) {
    test::Numbers n(6);
    for (int trial = 0; trial < 2000; trial++) {
        Polygon points = polygon(n, 3 + trial % 6);
        const auto alone = kept(points);
        const auto twice = static_cast<std::size_t>(n.in(0, static_cast<double>(points.size()) - 0.001));
        TouchPoint<3> again = points[twice];
        again.core_b = again.core_b + n.vec<3>(-1e-3, 1e-3), again.feature = 99;
        points.push_back(again);
        ASSERT_EQ(kept(points), alone) << "trial " << trial;
    }
}

}
}
