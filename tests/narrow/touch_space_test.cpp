// Spheres and capsules in space against all bounded shapes, by a slow oracle in double precision.
#include "narrow/crossing.h"
#include "narrow/touch_support.h"

namespace astasis {
namespace {

using narrow::Frame;
using narrow::Touch;
using namespace test;

// -----------------------------------------------------------------------

struct SpaceShape {
    Geometry<3> geometry;
    Frame<3> at;
    std::vector<VecD<3>> core;  // ends of a rod, corners of a box
    std::vector<VecD<3>> edges; // directions of edges
    double radius = 0, size = 0;
};

SpaceShape placed(const Geometry<3>& geometry, const Frame<3>& at) {
    SpaceShape out{geometry, at, {}, {}, 0, 0};
    const auto world = [&](Vec3 p) {
        return VecD<3>(to_eigen(at.position) + to_eigen(rotate(at.rotation, p)));
    };
    if (const auto* s = std::get_if<Sphere>(&geometry)) out.core = {world({})}, out.radius = s->radius;
    if (const auto* c = std::get_if<Capsule3>(&geometry)) {
        out.core = {world(c->from), world(c->to)}, out.radius = c->radius;
        out.edges = {(out.core[1] - out.core[0]).normalized()};
    }
    if (const auto* b = std::get_if<Box3>(&geometry)) out.core = corners(*b, at), out.edges = axes(at);
    for (const auto& p : out.core) out.size = std::max(out.size, (p - out.core[0]).norm());
    out.size += 2 * out.radius;
    return out;
}

bool is_box(const SpaceShape& s) { return s.core.size() == 8; }

double point_to_box(const VecD<3>& p, const SpaceShape& box) {
    const Vec3 half = std::get<Box3>(box.geometry).full_size() * 0.5f;
    double squared = 0;
    for (int i = 0; i < 3; i++) {
        const double past =
            std::fabs(box.edges[static_cast<std::size_t>(i)].dot(p - to_eigen(box.at.position))) - half[i];
        squared += past > 0 ? past * past : 0;
    }
    return std::sqrt(squared);
}
double point_to_rod(const VecD<3>& p, const SpaceShape& rod) {
    const VecD<3> a = rod.core.front(), d = rod.core.back() - a;
    const double t = d.squaredNorm() > 0 ? std::clamp((p - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
    return (p - a - t * d).norm();
}

// The distance of a rod's core from another core: convex along the rod, so by thirds.
double core_distance(const SpaceShape& rod, const SpaceShape& other) {
    const VecD<3> a = rod.core.front(), d = rod.core.back() - a;
    const auto from = [&](double t) {
        return is_box(other) ? point_to_box(a + t * d, other) : point_to_rod(a + t * d, other);
    };
    double low = 0, high = 1;
    for (int i = 0; i < 60; i++) {
        const double third = (high - low) / 3;
        if (from(low + third) > from(high - third)) low += third;
        else high -= third;
    }
    return from(0.5 * (low + high));
}

double space_separation(const SpaceShape& rod, const SpaceShape& other) {
    const double apart = core_distance(rod, other);
    if (apart > 1e-9 || !is_box(other)) return apart - rod.radius - other.radius;
    std::vector<VecD<3>> normals = other.edges;
    add_crossed(normals, rod.edges, other.edges);
    return std::min(separation<3>(rod.core, other.core, normals), 0.0) - rod.radius;
}

Geometry<3> any_space_shape(Numbers& n, int kind, double scale) {
    const auto f = [&](double low, double high) { return static_cast<float>(scale * n.in(low, high)); };
    if (kind == 0) return Sphere{f(0.1, 1)};
    if (kind == 1)
        return Capsule3{{f(-1, 0), f(-1, 1), f(-1, 1)}, {f(0.1, 1), f(-1, 1), f(-1, 1)}, f(0.02, 0.5)};
    return Box3::sized(f(0.4, 2), f(0.4, 2), f(0.4, 2));
}

void check_space_pair(const SpaceShape& a, const SpaceShape& b, float margin) {
    const Wanted want{space_separation(a, b),
                      1e-4 * std::min(a.size, b.size) + 4 * 6e-8 * std::max(a.size, b.size)};
    const Touch<3> t = narrow::touch(a.geometry, a.at, b.geometry, b.at, margin);
    if (!agrees(want, t, narrow::touch(b.geometry, b.at, a.geometry, a.at, margin), margin)) return;
    Frame<3> away = a.at;
    away.position -= t.normal * static_cast<float>(want.tolerance - deepest(t));
    EXPECT_GT(space_separation(placed(a.geometry, away), b), -2 * want.tolerance);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        const bool in_stretch = p.feature >= narrow::kStretchFeature;
        // Where slanting rods would meet next: on no surface yet.
        if (!is_box(b) && p.feature >= 32 && !in_stretch) continue;
        EXPECT_LT(point_to_rod(to_eigen(p.core_a), a), want.tolerance);
        EXPECT_LT(is_box(b) ? point_to_box(to_eigen(p.core_b), b) : point_to_rod(to_eigen(p.core_b), b),
                  want.tolerance + (in_stretch ? 0.05 * (a.radius + b.radius) : 0));
    }
}

TEST(TouchSpace, RodsAgreeWithTheOracle) {
    Numbers n(16);
    int overlaps = 0, deep = 0;
    const int each = 3 * test::cases();
    for (int kind_a = 0; kind_a < 2; kind_a++)
        for (int kind_b = kind_a; kind_b < 3; kind_b++)
            for (int i = 0; i < each; i++) {
                const double ratio = i % 5 == 0 ? 1000 : i % 5 == 1 ? 30 : 1;
                const Frame<3> fa{n.vec<3>(-1, 1), n.rotation(Vec3{})};
                Frame<3> fb{{}, n.rotation(Vec3{})};
                if (i % 3 == 0)
                    fb.rotation =
                        turned(radians(n.in(-1, 1) * 1e-4), {1, 2, 3}) * fa.rotation; // nearly parallel
                const SpaceShape a = placed(any_space_shape(n, kind_a, i % 2 ? 1 : ratio), fa);
                SpaceShape b = placed(any_space_shape(n, kind_b, i % 2 ? ratio : 1), fb);
                const double least = std::min(a.size, b.size), goals[] = {0.5, 0.01, 0, -0.01, -0.3};
                const Vec3 way = direction(n.vec<3>(-1, 1), Vec3{1, 0, 0});
                double low = 0, high = 2 * (a.size + b.size);
                for (int k = 0; k < 40; k++) {
                    const double middle = 0.5 * (low + high);
                    fb.position = fa.position + way * static_cast<float>(middle);
                    (space_separation(a, placed(b.geometry, fb)) < goals[i % 5] * least ? low : high) =
                        middle;
                }
                fb.position = fa.position + way * static_cast<float>(high);
                b = placed(b.geometry, fb);
                const double separation = space_separation(a, b);
                overlaps += separation < -1e-3 * least;
                deep += separation < -a.radius - b.radius - 1e-3 * least;
                check_space_pair(a, b, static_cast<float>(0.1 * least));
                if (HasFailure()) FAIL() << "kinds " << kind_a << " and " << kind_b << ", case " << i;
            }
    EXPECT_GT(overlaps, each + each / 3);
    EXPECT_GT(deep, each / 15);
}

TEST(TouchSpace, HalfSpacesAgreeWithTheOracle) {
    Numbers n(18);
    for (int i = 0; i < 8000; i++) {
        const SpaceShape a = placed(any_space_shape(n, i % 3, 1), {n.vec<3>(-1, 1), n.rotation(Vec3{})});
        const Frame<3> at{n.vec<3>(-1, 1), n.rotation(Vec3{})};
        const VecD<3> up = to_eigen(rotate(at.rotation, Vec3{0, 1, 0}));
        double lowest = 1e300;
        for (const auto& c : a.core) lowest = std::min(lowest, up.dot(c - to_eigen(at.position)) - a.radius);
        const Touch<3> t = narrow::touch(a.geometry, a.at, HalfSpace<3>{}, at, 10);
        const Touch<3> s = narrow::touch(HalfSpace<3>{}, at, a.geometry, a.at, 10);
        ASSERT_TRUE(agrees({lowest, 3e-6}, t, s, 10)) << i;
        ASSERT_LT((to_eigen(t.normal) + up).norm(), 1e-5);
        if (HasFailure()) FAIL() << "case " << i;
    }
}

// By hand: skew, at an end, parallel.
TEST(TouchSpace, KnownDistancesOfCapsules) {
    const Geometry<3> first = Capsule3{{0, 0, -1}, {0, 0, 1}, 0.3f};
    const auto distance = [&](Vec3 from, Vec3 to) {
        return deepest(narrow::touch(first, {}, Capsule3{from, to, 0.25f}, {}, 10));
    };
    EXPECT_NEAR(distance({0.7f, -1, 0.2f}, {0.7f, 1.2f, 0.6f}), 0.15, 1e-6);
    EXPECT_NEAR(distance({0.3f, 0.2f, 1.4f}, {0.9f, 0.1f, 2.5f}), -0.01148352, 1e-6);
    EXPECT_NEAR(distance({0.5f, 0, -0.4f}, {0.5f, 0, 2}), -0.05, 1e-6);
    EXPECT_EQ(narrow::touch(first, {}, Capsule3{{0.5f, 0, -0.4f}, {0.5f, 0, 2}, 0.25f}, {}, 10).count, 2);
}

}
}
