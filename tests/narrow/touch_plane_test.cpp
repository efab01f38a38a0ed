// Every pair of the plane's bounded shapes against a slow oracle in double precision.
#include "narrow/touch_support.h"

namespace astasis {
namespace {

using narrow::Frame;
using narrow::Touch;
using namespace test;

// -----------------------------------------------------------------------

using Corners = std::vector<VecD<2>>;

struct PlaneShape {
    Geometry<2> geometry;
    Frame<2> at;
    Corners core; // in the world, in double
    double radius = 0, size = 0;
};

PlaneShape placed(Geometry<2> geometry, const Frame<2>& at) {
    PlaneShape out{std::move(geometry), at, {}, 0, 0};
    shape::CoreRoom room;
    const shape::Core core = shape::core_of(out.geometry, room);
    out.radius = core.radius;
    for (const Vec2 c : core.corners) {
        out.core.push_back(to_eigen(at.position) + to_eigen(rotate(at.rotation, c)));
        out.size = std::max(out.size, (out.core.back() - out.core[0]).norm());
    }
    out.size += 2 * out.radius;
    return out;
}

Geometry<2> any_plane_shape(Numbers& n, int kind, double scale) {
    const auto f = [&](double low, double high) { return static_cast<float>(scale * n.in(low, high)); };
    if (kind == 0) return Circle{f(0.1, 1)};
    if (kind == 1) return Capsule2{{f(-1, 0), f(-1, 1)}, {f(0.1, 1), f(-1, 1)}, f(0.02, 0.5)};
    if (kind == 2) return Box2::sized(f(0.5, 2), f(0.5, 2)).rounded(n.in(0, 1) < 0.5 ? 0 : f(0.01, 0.24));
    Polygon polygon;
    polygon.rounding = n.in(0, 1) < 0.5 ? 0 : f(0.01, 0.3);
    const int count = static_cast<int>(n.in(3, 11));
    for (int i = 0; i < count; i++) {
        const double angle = (i + n.in(0, 0.8)) * 2 * M_PI / count;
        polygon.corners.push_back(
            {static_cast<float>(scale * std::cos(angle)), static_cast<float>(0.6 * scale * std::sin(angle))});
    }
    return shape::checked_polygon(polygon, "polygon");
}

double segment_distance(const VecD<2>& p, const VecD<2>& a, const VecD<2>& b) {
    const VecD<2> d = b - a;
    const double t = d.squaredNorm() > 0 ? std::clamp((p - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
    return (p - a - t * d).norm();
}
double corners_to_outline(const Corners& a, const Corners& b) {
    double least = 1e300;
    for (const auto& p : a)
        for (std::size_t i = 0; i < b.size(); i++)
            least = std::min(least, segment_distance(p, b[i], b[(i + 1) % b.size()]));
    return least;
}

// Signed distance of two shapes: the overlap of the cores by their Minkowski difference, else their distance.
double plane_separation(const Corners& a, double ra, const Corners& b, double rb) {
    std::vector<VecD<2>> normals;
    for (const Corners* c : {&a, &b})
        for (std::size_t i = 0; c->size() > 1 && i < c->size(); i++) {
            const VecD<2> d = (*c)[(i + 1) % c->size()] - (*c)[i];
            normals.push_back(VecD<2>(d.y(), -d.x()).normalized());
        }
    const double overlap = normals.empty() ? 1 : separation<2>(a, b, normals);
    const double cores = overlap < 0 ? overlap : std::min(corners_to_outline(a, b), corners_to_outline(b, a));
    return cores - ra - rb;
}

void check_plane_pair(const PlaneShape& a, const PlaneShape& b, float margin) {
    const Wanted want{plane_separation(a.core, a.radius, b.core, b.radius),
                      1e-4 * std::min(a.size, b.size) + 4 * 6e-8 * std::max(a.size, b.size)};
    const Touch<2> t = narrow::touch(a.geometry, a.at, b.geometry, b.at, margin);
    if (!agrees(want, t, narrow::touch(b.geometry, b.at, a.geometry, a.at, margin), margin)) return;
    // Moving by the reported depth separates, and the points lie on both cores.
    Corners moved = b.core;
    for (auto& c : moved) c += to_eigen(t.normal) * (want.tolerance - deepest(t));
    EXPECT_GT(plane_separation(a.core, a.radius, moved, b.radius), -want.tolerance);
    for (int i = 0; i < t.count; i++) {
        EXPECT_LT(corners_to_outline({to_eigen(t.points[i].core_a)}, a.core), want.tolerance);
        EXPECT_LT(corners_to_outline({to_eigen(t.points[i].core_b)}, b.core), want.tolerance);
    }
}

TEST(TouchPlane, EveryPairAgreesWithTheOracle) {
    Numbers n(15);
    int overlaps = 0, touches = 0;
    for (int kind_a = 0; kind_a < 4; kind_a++)
        for (int kind_b = 0; kind_b < 4; kind_b++)
            for (int i = 0; i < 2000; i++) {
                const double ratio = i % 5 == 0 ? 1000 : i % 5 == 1 ? 30 : 1; // of the sizes
                const double scale_a = i % 2 ? 1 : ratio, scale_b = i % 2 ? ratio : 1;
                const Frame<2> fa{n.vec<2>(-1, 1), n.rotation(Vec2{})};
                Frame<2> fb{n.vec<2>(-1, 1), n.rotation(Vec2{})};
                if (i % 3 == 0)
                    fb.rotation = turned(radians(n.in(-1, 1) * 1e-4)) * fa.rotation; // nearly parallel
                PlaneShape a = placed(any_plane_shape(n, kind_a, scale_a), fa);
                PlaneShape b = placed(any_plane_shape(n, kind_b, scale_b), fb);
                // Bring b to a chosen separation along a random way: far, near, touching, shallow, deep.
                const double least = std::min(a.size, b.size), angle = n.in(0, 2 * M_PI);
                const double goals[] = {0.5, 0.01, 0, -0.01, -0.3};
                const VecD<2> way(std::cos(angle), std::sin(angle));
                double low = 0, high = 2 * (a.size + b.size);
                const auto at = [&](double d) {
                    Frame<2> f = fb;
                    f.position =
                        fa.position + Vec2{static_cast<float>(d * way.x()), static_cast<float>(d * way.y())};
                    return f;
                };
                for (int k = 0; k < 40; k++) {
                    const double middle = 0.5 * (low + high);
                    const PlaneShape trial = placed(b.geometry, at(middle));
                    (plane_separation(a.core, a.radius, trial.core, trial.radius) < goals[i % 5] * least
                         ? low
                         : high) = middle;
                }
                b = placed(b.geometry, at(high));
                const double separation = plane_separation(a.core, a.radius, b.core, b.radius);
                overlaps += separation < -1e-3 * least;
                touches += std::fabs(separation) < 1e-3 * least;
                check_plane_pair(a, b, static_cast<float>(0.1 * least));
                if (HasFailure()) FAIL() << "kinds " << kind_a << " and " << kind_b << ", case " << i;
            }
    EXPECT_GT(overlaps, 8000);
    EXPECT_GT(touches, 4000);
}

TEST(TouchPlane, HalfPlanesAgreeWithTheOracle) {
    Numbers n(17);
    for (int i = 0; i < 8000; i++) {
        const PlaneShape a = placed(any_plane_shape(n, i % 4, 1), {n.vec<2>(-1, 1), n.rotation(Vec2{})});
        const Frame<2> at{n.vec<2>(-1, 1), n.rotation(Vec2{})};
        const VecD<2> up = to_eigen(rotate(at.rotation, Vec2{0, 1}));
        double lowest = 1e300;
        for (const auto& c : a.core) lowest = std::min(lowest, up.dot(c - to_eigen(at.position)) - a.radius);
        const Touch<2> t = narrow::touch(a.geometry, a.at, HalfPlane{}, at, 10);
        const Touch<2> s = narrow::touch(HalfPlane{}, at, a.geometry, a.at, 10);
        ASSERT_TRUE(agrees({lowest, 3e-6}, t, s, 10)) << i;
        ASSERT_LT((to_eigen(t.normal) + up).norm(), 1e-5);
        if (HasFailure()) FAIL() << "case " << i;
    }
}

// By hand: signed distances of turned boxes and of capsules.
TEST(TouchPlane, KnownDistances) {
    const auto distance = [](const Geometry<2>& a, const Geometry<2>& b, const Frame<2>& at) {
        return deepest(narrow::touch(a, {}, b, at, 10));
    };
    const Geometry<2> unit = Box2::sized(1, 1);
    EXPECT_NEAR(distance(unit, unit, {{1.5f, 0.25f}, {}}), 0.5, 1e-6);
    EXPECT_NEAR(distance(unit, unit, {{1 + 3.0f, 1 + 4.0f}, {}}), 5, 1e-6); // corner to corner
    EXPECT_NEAR(distance(unit, unit, {{0, 1 + 0.2071068f}, turned(degrees(45))}), 0, 1e-6);
    EXPECT_NEAR(distance(Capsule2{{-1, 0}, {1, 0}, 0.25f}, Capsule2{{0, -1}, {0, 1}, 0.25f}, {{0, 1.6f}, {}}),
                0.1, 1e-6);
    EXPECT_NEAR(distance(Circle{0.5f}, Box2::sized(2, 2).rounded(0.25f), {{1.6f, 0}, {}}), 0.1, 1e-6);
}

TEST(TouchPlane, ALyingCapsuleHasTwoPoints) {
    const Touch<2> t = narrow::touch(Box2::sized(4, 1), {}, Capsule2{{-0.5f, 0}, {0.5f, 0}, 0.2f},
                                     {{0.3f, 0.69f}, turned(degrees(0.01))}, 0.05f);
    ASSERT_EQ(t.count, 2);
    EXPECT_NEAR(t.points[0].separation, -0.01, 2e-4);
    EXPECT_NEAR(t.points[1].separation, -0.01, 2e-4);
    EXPECT_NEAR(std::fabs(t.points[0].core_b.x - t.points[1].core_b.x), 1, 1e-3);
}

}
}
