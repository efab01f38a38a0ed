// Every pair of the plane's bounded shapes against a slow oracle in double precision.
#include "narrow/oracle_plane.h"

namespace astasis {
namespace {

using narrow::Frame;
using narrow::Touch;
using namespace test;

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
    for (int kind_a = 0; kind_a < kPlaneKinds; kind_a++)
        for (int kind_b = 0; kind_b < kPlaneKinds; kind_b++)
            for (int i = 0; i < test::cases(); i++) {
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
    EXPECT_GT(overlaps, 5 * test::cases());
    EXPECT_GT(touches, 3 * test::cases());
}

TEST(TouchPlane, HalfPlanesAgreeWithTheOracle) {
    Numbers n(17);
    for (int i = 0; i < 8000; i++) {
        const PlaneShape a =
            placed(any_plane_shape(n, i % kPlaneKinds, 1), {n.vec<2>(-1, 1), n.rotation(Vec2{})});
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

// Lying on a box as wide as itself, wherever one's end comes beside the other's and whichever way it tilts: a
// point that comes and goes would rock what lies there.
TEST(TouchPlane, ALyingCapsuleKeepsItsTwoPoints) {
    for (int tilt = -40; tilt <= 40; tilt++)
        for (int offset = -40; offset <= 40; offset++) {
            const Frame<2> at{{5e-4f * static_cast<float>(offset), 0.499f},
                              turned(radians(1e-4 * static_cast<double>(tilt)))};
            const Touch<2> t =
                narrow::touch(Box2::sized(0.6f, 0.6f), {}, Capsule2{{-0.3f, 0}, {0.3f, 0}, 0.2f}, at, 0.05f);
            ASSERT_EQ(t.count, 2) << tilt << " " << offset;
            EXPECT_LT(std::fabs(t.normal.x), 0.0041f) << tilt << " " << offset;
            EXPECT_GT(std::fabs(t.points[0].core_a.x - t.points[1].core_a.x), 0.57f);
        }
}

}
}
