// Every pair of convex shapes in space against the slow oracle: far, near, touching, shallow, deep, aligned,
// nearly parallel, and of very different sizes.
#include "narrow/crossing.h"
#include "narrow/oracle_space.h"

namespace astasis {
namespace {

using namespace test;

struct Counts {
    int cases = 0, overlaps = 0, touching = 0, failures = 0;
};

struct PairCase {
    Solid3 a, b;
    float margin;
};

// Two shapes brought to about a chosen separation. The library's own answer moves them; what is checked is
// checked anew.
PairCase pair_case(Numbers& n, int kind_a, int kind_b, int i) {
    const double ratio = i % 7 == 0 ? 1000 : i % 7 == 1 ? 30 : 1;
    const double scale_a = i % 2 ? 1 : ratio, scale_b = i % 2 ? ratio : 1;
    const Geometry<3> a = any_solid(n, kind_a, scale_a), b = any_solid(n, kind_b, scale_b);
    const Frame<3> fa{n.vec<3>(-1, 1), n.rotation(Vec3{})};
    Frame<3> fb{n.vec<3>(-1, 1), n.rotation(Vec3{})};
    if (i % 3 == 0) fb.rotation = turned(radians(n.in(-1, 1) * 1e-4), {1, 2, -1}) * fa.rotation;
    if (i % 12 == 5) fb.rotation = fa.rotation;
    const double least = std::min(solid(a, fa).size, solid(b, fb).size);
    const double goals[] = {0.5, 0.01, 0, -1e-4, -0.01, -0.2};
    const Vec3 way = direction(n.vec<3>(-1, 1), Vec3{0, 1, 0});
    fb.position =
        fa.position + way * static_cast<float>(n.in(0, 1) * (solid(a, fa).size + solid(b, fb).size));
    for (int k = 0; k < 4; k++) {
        const Touch<3> t = narrow::touch(a, fa, b, fb, 1e9f);
        if (t.count == 0) break;
        fb.position += t.normal * static_cast<float>(goals[i % 6] * least - deepest(t));
    }
    return {solid(a, fa), solid(b, fb), static_cast<float>(0.1 * least)};
}

// The ends of the stretch that stands for where two rods, or a rod and an edge, are nearest lie beside the
// second by the slant times the stretch: by less than a twentieth of both radii, or more would bulge between.
double most_beside(const Solid3& a, const Solid3& b, const narrow::TouchPoint<3>& p) {
    const auto is_rod = [](const Solid3& s) { return s.core.size() == 2 && s.rim == 0; };
    const bool in_stretch = (is_rod(a) || is_rod(b)) && p.feature >= narrow::kStretchFeature;
    return in_stretch ? 0.05 * (a.skin + b.skin) : 0;
}

// What is wrong with the manifold of a case; empty if nothing is.
std::string fault(const PairCase& c, Numbers& n, Counts& counts) {
    const Solid3 &a = c.a, &b = c.b;
    const double tolerance = 1e-4 * std::min(a.size, b.size) + 4 * 1.2e-7 * std::max(a.size, b.size);
    const double want = signed_distance(a, b, n);
    counts.overlaps += want < -tolerance, counts.touching += std::fabs(want) < tolerance;
    const Touch<3> t = narrow::touch(a.geometry, a.at, b.geometry, b.at, c.margin);
    const Touch<3> s = narrow::touch(b.geometry, b.at, a.geometry, a.at, c.margin);
    if (t.count == 0) {
        if (want >= c.margin - tolerance) return "";
        const Touch<3> far = narrow::touch(a.geometry, a.at, b.geometry, b.at, 1e9f);
        return "no contact at " + std::to_string(want) + ", without a margin " +
               std::to_string(far.count == 0 ? 1e9f : deepest(far));
    }
    const Vec3d normal = to_eigen(t.normal);
    const double got = deepest(t), along = gap(a, b, normal.normalized());
    const auto told = [&](const char* what) {
        return std::string(what) + ": separation " + std::to_string(got) + ", oracle " +
               std::to_string(want) + ", along the normal " + std::to_string(along) + ", tolerance " +
               std::to_string(tolerance);
    };
    if (std::fabs(normal.norm() - 1) > 1e-5) return told("the normal is not of length 1");
    if (got > along + tolerance) return told("moving by the depth does not separate");
    if (got < want - tolerance) return told("too deep or too near");
    if (s.count == 0 ? got < c.margin - tolerance : std::fabs(deepest(s) - got) > 2 * tolerance)
        return told("swapped it differs");
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        const auto [on_a, on_b] = surface_points(t, i);
        if (std::fabs((on_b - on_a).dot(normal) - p.separation) > tolerance)
            return told("a point's separation is not its own");
        const bool sharp = a.skin == 0 && b.skin == 0;
        if (!sharp && p.separation > got + 1e-6 * tolerance) continue;
        const double off_a = signed_distance(point(on_a), a, n), off_b = signed_distance(point(on_b), b, n);
        if (std::max(std::fabs(off_a), std::fabs(off_b)) > 2 * tolerance + most_beside(a, b, p))
            return told("a point is off a surface") + ", point " + std::to_string(i) + " of " +
                   std::to_string(t.count) + " at " + std::to_string(p.separation) + " by " +
                   std::to_string(off_a) + " and " + std::to_string(off_b);
        for (int k = 0; k < i; k++)
            if (t.points[k].feature == p.feature) return told("two points have one feature");
    }
    return "";
}

TEST(ConvexPairs, AgreeWithTheOracle) {
    Counts all;
    for (int kind_a = 0; kind_a < kSolidKinds; kind_a++)
        for (int kind_b = kind_a; kind_b < kSolidKinds; kind_b++) {
            Numbers n(static_cast<std::uint64_t>(100 + 10 * kind_a + kind_b));
            int failures = 0;
            for (int i = 0; i < test::cases(); i++) {
                const PairCase c = i % 2 ? pair_case(n, kind_a, kind_b, i) : pair_case(n, kind_b, kind_a, i);
                const std::string what = fault(c, n, all);
                all.cases++;
                if (what.empty()) continue;
                if (failures++ < (std::getenv("ASTASIS_ALL") ? 100000 : 3))
                    ADD_FAILURE() << kSolidNames[kind_a] << " and " << kSolidNames[kind_b] << ", case " << i
                                  << ": " << what;
            }
            all.failures += failures;
        }
    std::printf("%d cases, %d overlap, %d touch, %d failures\n", all.cases, all.overlaps, all.touching,
                all.failures);
    EXPECT_GT(all.overlaps, all.cases / 4);
    EXPECT_GT(all.touching, all.cases / 20);
}

TEST(ConvexPairs, OnHalfSpaces) {
    Numbers n(5);
    for (int i = 0; i < 7 * test::cases(); i++) {
        const Solid3 a = solid(any_solid(n, i % kSolidKinds, 1), {n.vec<3>(-1, 1), n.rotation(Vec3{})});
        const Frame<3> at{n.vec<3>(-1, 1), n.rotation(Vec3{})};
        const Vec3d up = to_eigen(rotate(at.rotation, Vec3{0, 1, 0})).normalized();
        const double lowest = -a.most(-up) - up.dot(to_eigen(at.position));
        const Touch<3> t = narrow::touch(a.geometry, a.at, HalfSpace<3>{}, at, 10);
        const Touch<3> s = narrow::touch(HalfSpace<3>{}, at, a.geometry, a.at, 10);
        ASSERT_TRUE(agrees({lowest, 2e-5}, t, s, 10)) << kSolidNames[i % kSolidKinds] << " " << i;
        ASSERT_LT((to_eigen(t.normal) + up).norm(), 1e-5);
        if (HasFailure()) FAIL() << kSolidNames[i % kSolidKinds] << ", case " << i;
    }
}

// Shapes with one middle have many ways out of about one length: the one taken is kept while they shake.
TEST(ConvexPairs, DeepOverlapKeepsItsWayOut) {
    Numbers n(71);
    const auto shaken = [&](auto v) {
        for (int k = 0; k < 3; k++) v[k] += n.f(-1e-3, 1e-3);
        return v;
    };
    for (int kind_a = 2; kind_a < kSolidKinds; kind_a++)
        for (int kind_b = 2; kind_b < kSolidKinds; kind_b++) {
            const Geometry<3> shapes[] = {Box3::sized(1, 1, 1), Box3::sized(1, 1, 1).rounded(0.1f),
                                          any_hull(n, 1), any_hull(n, 1).grown(0.1f),
                                          Cylinder{{0, -0.5f, 0}, {0, 0.5f, 0}, 0.5f}};
            const Geometry<3>&a = shapes[kind_a - 2], &b = shapes[kind_b - 2];
            Vec3 before = narrow::touch(a, {}, b, {}, 0).normal;
            EXPECT_NEAR(length(before), 1, 1e-5); // defined though the middles are one
            for (int i = 0; i < 100; i++) {
                const Frame<3> at{shaken(Vec3{}), turned(radians(1e-3), n.vec<3>(-1, 1) + Vec3{0, 0, 1e-3f})};
                const Vec3 now = narrow::touch(a, {}, b, at, 0, &before).normal;
                EXPECT_GT(dot(now, before), 0.9f) << kSolidNames[kind_a] << " and " << kSolidNames[kind_b];
                before = now;
            }
            if (HasFailure()) return;
        }
    Vec2 before = narrow::touch(Box2::sized(1, 1), {}, Box2::sized(1, 1), {}, 0).normal;
    for (int i = 0; i < 100; i++) {
        const Frame<2> at{n.vec<2>(-1e-3, 1e-3), turned(radians(n.in(-1e-3, 1e-3)))};
        const Vec2 now = narrow::touch(Box2::sized(1, 1), {}, Box2::sized(1, 1), at, 0, &before).normal;
        EXPECT_GT(dot(now, before), 0.9f);
        before = now;
    }
}

// A drum on a plane: standing it has points all round, tilted one, lying two.
TEST(ConvexPairs, ADrumOnAPlane) {
    const Geometry<3> drum = Cylinder{{0, -1, 0}, {0, 1, 0}, 0.5f};
    const double wanted[] = {0.1, 1.1 - (std::cos(M_PI / 6) + 0.5 * 0.5),
                             1.1 - (0.5 + 0.5 * std::sin(M_PI / 3)), 0.6};
    const int points[] = {3, 1, 1, 2};
    for (int i = 0; i < 4; i++) {
        const Touch<3> t =
            narrow::touch(drum, {{0, 1.1f, 0}, turned(degrees(30 * i), {0, 0, 1})}, HalfSpace<3>{}, {}, 10);
        EXPECT_NEAR(deepest(t), wanted[i], 8 * 1.2e-7);
        int touching = 0;
        for (int k = 0; k < t.count; k++) touching += t.points[k].separation < deepest(t) + 0.01f;
        EXPECT_EQ(std::min(touching, 3), points[i]) << i;
    }
}

// Drums side by side and a little in each other: pushed apart square to their axes. A normal that is off by a
// part of a degree, and by another in each tick, sets off what friction just holds.
TEST(ConvexPairs, DrumsBesideEachOtherArePushedStraightApart) {
    Numbers n(73);
    for (int i = 0; i < test::cases(); i++) {
        const float ra = n.f(0.2, 1), rb = n.f(0.2, 1);
        const Geometry<3> a = Cylinder{{0, 0, -0.5f}, {0, 0, 0.5f}, ra},
                          b = Cylinder{{0, 0, -0.5f}, {0, 0, 0.5f}, rb};
        const Rotation<3> turn = n.rotation(Vec3{});
        const float round = n.f(0, 6.28), share = static_cast<float>(std::pow(10, n.in(-6, -2)));
        const Vec3 apart = Vec3{std::cos(round), std::sin(round), 0} * (ra + rb - std::min(ra, rb) * share);
        const Frame<3> fa{n.vec<3>(-1, 1), turn};
        const Frame<3> fb{fa.position + rotate(turn, apart + Vec3{0, 0, n.f(-0.5, 0.5)}), turn};
        const VecD<3> between = to_eigen(fb.position) - to_eigen(fa.position), axis = axes<3>(fa)[2];
        const VecD<3> straight = (between - axis * axis.dot(between)).normalized();
        const Touch<3> t = narrow::touch(a, fa, b, fb, 0.1f);
        ASSERT_EQ(t.count, 2) << i;
        ASSERT_LT((to_eigen(t.normal) - straight).norm(), 1e-6) << i;
    }
}

}
}
