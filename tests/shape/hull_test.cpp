// Hulls: every point inside, every corner a point, closed, and faces joined where they lie in one plane.
#include "astasis/astasis.h"

#include "support/dims.h"

#include <map>
#include <set>

namespace astasis {
namespace {

using test::error_of;
using test::Numbers;

// What must hold of any hull; returns the largest height of a point above a face.
double check(const Hull& hull, const std::vector<Vec3>& points) {
    double highest = -1e9;
    std::map<std::pair<int, int>, int> edges;
    std::set<int> used;
    for (int f = 0; f < hull.face_count(); f++) {
        const auto loop = hull.face(f);
        EXPECT_GE(loop.size(), 3u);
        EXPECT_NEAR(length(hull.normal(f)), 1, 1e-6);
        for (std::size_t i = 0; i < loop.size(); i++) {
            edges[{loop[i], loop[(i + 1) % loop.size()]}]++;
            used.insert(loop[i]);
        }
        for (const Vec3 p : points) {
            const Vec3 n = hull.normal(f), o = hull.corners()[loop[0]];
            highest = std::max(highest, double{n.x} * (p.x - o.x) + double{n.y} * (p.y - o.y) +
                                            double{n.z} * (p.z - o.z));
        }
    }
    for (const auto& [edge, times] : edges) {
        EXPECT_EQ(times, 1);
        EXPECT_EQ(edges.count({edge.second, edge.first}), 1u);
    }
    EXPECT_EQ(used.size(), hull.corners().size());
    EXPECT_EQ(static_cast<int>(used.size() + static_cast<std::size_t>(hull.face_count()) - edges.size() / 2),
              2); // Euler
    for (const Vec3 c : hull.corners()) EXPECT_NE(std::find(points.begin(), points.end(), c), points.end());
    return highest;
}

TEST(Hull, HoldsItsPointsWhateverTheyAre) {
    Numbers n(3);
    for (int i = 0; i < 4000; i++) {
        std::vector<Vec3> points;
        const int count = static_cast<int>(n.in(4, 60)), kind = i % 5;
        const float scale = i % 7 == 0 ? 1e-3f : i % 7 == 1 ? 1e4f : 1;
        const Rotation<3> turn = n.rotation(Vec3{});
        for (int k = 0; k < count; k++) {
            Vec3 p = n.vec<3>(-1, 1);
            if (kind == 1) p = direction(p, Vec3{1, 0, 0}); // all on a ball
            if (kind == 2)
                p = {std::round(2 * p.x), std::round(2 * p.y), std::round(2 * p.z)}; // coplanar, repeated
            if (kind == 3) p.y *= 1e-3f;                                             // nearly flat
            if (kind == 4)
                p = rotate(turn, Vec3{std::round(2 * p.x), std::round(2 * p.y), p.z > 0 ? 1.0f : -1.0f});
            points.push_back(p * scale);
        }
        for (const Vec3 p : {Vec3{2, 0, 0}, {0, 1, 0}, {0, 0, 2}, {-1, -1, -1}}) points.push_back(p * scale);
        EXPECT_LT(check(Hull::around(points), points), 4e-6 * 4 * static_cast<double>(scale));
        if (HasFailure()) FAIL() << "case " << i;
    }
}

TEST(Hull, JoinsWhatLiesInOnePlane) {
    std::vector<Vec3> points; // a die of 5 x 5 x 5 points, twice
    for (int i = 0; i < 250; i++)
        points.push_back(
            {static_cast<float>(i % 5), static_cast<float>(i / 5 % 5), static_cast<float>(i / 25 % 5)});
    const Hull die = Hull::around(points);
    EXPECT_EQ(die.face_count(), 6);
    EXPECT_EQ(die.corners().size(), 8u);
    check(die, points);

    points.clear(); // a drum of 32 sides, turned
    const Rotation<3> turn = turned(degrees(33), {1, 2, 3});
    for (int i = 0; i < 64; i++) {
        const double a = 2 * M_PI * i / 32;
        points.push_back(rotate(turn, Vec3{static_cast<float>(std::cos(a)), i < 32 ? 1.0f : -1.0f,
                                           static_cast<float>(std::sin(a))}));
    }
    EXPECT_EQ(Hull::around(points).face_count(), 34);
}

TEST(Hull, RefusesWhatHasNoVolume) {
    const std::vector<Vec3> flat{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}, {0.5f, 0.5f, 1e-7f}};
    EXPECT_NE(error_of([&] { Hull::around(flat); }).given().find("of one plane"), std::string::npos);
    const std::vector<Vec3> line{{0, 0, 0}, {1, 1, 1}, {2, 2, 2}, {3, 3, 3}}, same(10, Vec3{1, 2, 3});
    EXPECT_EQ(error_of([&] { Hull::around(line); }).field(), "points");
    EXPECT_EQ(error_of([&] { Hull::around(same); }).field(), "points");
    EXPECT_EQ(error_of([&] {
                  Hull::around(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}});
              }).given(),
              "3 points");
    EXPECT_EQ(error_of([&] {
                  Hull::around(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, NAN, 1}});
              }).field(),
              "points[3]");
    const std::vector<Vec3> good{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    EXPECT_EQ(error_of([&] { (void)Hull::around(good).grown(-1); }).field(), "rounding");
}

}
}
