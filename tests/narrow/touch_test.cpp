// Manifolds of every pair against slow oracles in double precision.
#include "narrow/touch.h"

#include "support/dims.h"

#include <Eigen/Dense>

#include <algorithm>
#include <optional>

namespace astasis {
namespace {

using narrow::Frame;
using narrow::Touch;
using test::Numbers;

template<int D> using VecD = Eigen::Matrix<double, D, 1>;
template<int D> VecD<D> to_eigen(Vec<D> v) {
    VecD<D> out;
    for (int i = 0; i < D; i++) out[i] = v[i];
    return out;
}

template<int D> std::vector<VecD<D>> corners(const Box<D>& box, const Frame<D>& at) {
    std::vector<VecD<D>> out;
    for (int k = 0; k < 1 << D; k++) {
        Vec<D> local = box.full_size() * 0.5f;
        for (int i = 0; i < D; i++)
            if (k >> i & 1) local[i] = -local[i];
        out.push_back(to_eigen(at.position) + to_eigen(rotate(at.rotation, local)));
    }
    return out;
}
template<int D> std::vector<VecD<D>> axes(const Frame<D>& at) {
    std::vector<VecD<D>> out;
    for (int i = 0; i < D; i++) {
        Vec<D> e{};
        e[i] = 1;
        out.push_back(to_eigen(rotate(at.rotation, e)).normalized());
    }
    return out;
}
void add_crossed(std::vector<VecD<2>>&, const std::vector<VecD<2>>&, const std::vector<VecD<2>>&) {}
void add_crossed(std::vector<VecD<3>>& out, const std::vector<VecD<3>>& a, const std::vector<VecD<3>>& b) {
    for (const auto& u : a)
        for (const auto& v : b)
            if (u.cross(v).norm() > 1e-6) out.push_back(u.cross(v).normalized());
}

// The largest gap along any normal of the Minkowski difference: exact in overlap, a lower bound of the
// distance apart.
template<int D>
double separation(const std::vector<VecD<D>>& a, const std::vector<VecD<D>>& b,
                  const std::vector<VecD<D>>& normals) {
    double best = -1e300;
    for (const auto& n : normals)
        for (const double sign : {1.0, -1.0}) {
            double high = -1e300, low = 1e300;
            for (const auto& p : a) high = std::max(high, sign * n.dot(p));
            for (const auto& p : b) low = std::min(low, sign * n.dot(p));
            best = std::max(best, low - high);
        }
    return best;
}

template<int D>
double box_separation(const Box<D>& a, const Frame<D>& fa, const Box<D>& b, const Frame<D>& fb) {
    auto normals = axes(fa), of_b = axes(fb);
    std::vector<VecD<D>> crossed;
    add_crossed(crossed, normals, of_b);
    normals.insert(normals.end(), of_b.begin(), of_b.end());
    normals.insert(normals.end(), crossed.begin(), crossed.end());
    return separation<D>(corners(a, fa), corners(b, fb), normals);
}

template<int D> float deepest(const Touch<D>& t) {
    float least = 1e9f;
    for (int i = 0; i < t.count; i++) least = std::min(least, t.points[i].separation);
    return least;
}

template<int D> Box<D> any_box(Numbers& n) {
    Vec<D> s{};
    for (int i = 0; i < D; i++) s[i] = n.f(0.2, 2);
    return test::box_of(s);
}
template<int D> Frame<D> any_frame(Numbers& n, double range) {
    return {n.template vec<D>(-range, range), n.rotation(Vec<D>{})};
}

// Common to all pairs: unit normal, points that fit their separation, and the mirrored answer for swapped
// shapes.
template<int D>
void check_form(const Geometry<D>& a, const Frame<D>& fa, const Geometry<D>& b, const Frame<D>& fb,
                const Touch<D>& t, float margin) {
    const Touch<D> s = narrow::touch(b, fb, a, fa, margin);
    ASSERT_EQ(s.count > 0, t.count > 0);
    if (t.count == 0) return;
    ASSERT_NEAR(length(t.normal), 1, 1e-5);
    ASSERT_NEAR(deepest(s), deepest(t), D == 2 ? 1e-4 : 4e-3);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        ASSERT_NEAR(dot(p.core_b - p.core_a, t.normal) - t.skin_a - t.skin_b, p.separation, 2e-5);
        for (int k = 0; k < i; k++) ASSERT_NE(t.points[k].feature, p.feature);
    }
}

template<typename T> class TouchTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(TouchTest, test::Dimensions);

TYPED_TEST(TouchTest, BoxesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(11);
    int overlaps = 0;
    for (int i = 0; i < 20000; i++) {
        const Box<D> a = any_box<D>(n), b = any_box<D>(n);
        const Frame<D> fa = any_frame<D>(n, 0.5);
        Frame<D> fb = any_frame<D>(n, 1.2);
        if (i % 4 == 0) fb.rotation = fa.rotation; // parallel
        const double want = box_separation(a, fa, b, fb);
        const Touch<D> t = narrow::touch(a, fa, b, fb, 0.05f);
        check_form<D>(a, fa, b, fb, t, 0.05f);
        if (want > 0.051) {
            ASSERT_EQ(t.count, 0);
        }
        if (want > -1e-5) continue;
        overlaps++;
        ASSERT_GT(t.count, 0);
        // In space a face is preferred to an edge that is better by up to a hundredth of half the thinnest
        // side.
        ASSERT_NEAR(deepest(t), want, D == 2 ? 1e-4 : 0.011);
        ASSERT_LE(deepest(t), want + 2e-5);
        Frame<D> away = fb;
        away.position += t.normal * (-deepest(t) + 1e-4f);
        ASSERT_GT(box_separation(a, fa, b, away), -2e-5);
    }
    EXPECT_GT(overlaps, 5000);
}

TYPED_TEST(TouchTest, ABoxOnABoxHasTheWholeFace) {
    constexpr int D = TypeParam::value;
    Frame<D> above;
    above.position.y = 1.0f - 0.01f;
    above.position.x = 0.25f;
    const Touch<D> t = narrow::touch(test::cube<D>(1), {}, test::cube<D>(1), above, 0.02f);
    ASSERT_EQ(t.count, flow::kMostPoints<D>);
    EXPECT_NEAR(t.normal.y, 1, 1e-6);
    float left = 1, right = -1;
    for (int i = 0; i < t.count; i++) {
        EXPECT_NEAR(t.points[i].separation, -0.01, 1e-6);
        left = std::min(left, t.points[i].core_b.x), right = std::max(right, t.points[i].core_b.x);
    }
    EXPECT_NEAR(left, -0.25, 1e-5);
    EXPECT_NEAR(right, 0.5, 1e-5);
}

TYPED_TEST(TouchTest, BallsAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(12);
    for (int i = 0; i < 20000; i++) {
        const Ball<D> a{n.f(0.001, 1)}, b{n.f(0.001, 1)};
        const Frame<D> fa = any_frame<D>(n, 1), fb = any_frame<D>(n, 1);
        const double want = (to_eigen(fb.position) - to_eigen(fa.position)).norm() - a.radius - b.radius;
        const Touch<D> t = narrow::touch(a, fa, b, fb, 10);
        check_form<D>(a, fa, b, fb, t, 10);
        ASSERT_NEAR(deepest(t), want, 1e-6);
    }
    const Touch<D> same = narrow::touch(Ball<D>{1}, {}, Ball<D>{1}, {}, 0);
    EXPECT_EQ(same.normal.y, 1.0f);
    EXPECT_EQ(deepest(same), -2.0f);
}

// Oracle: the nearest point of a box by clamping in double; inside, the least way out.
template<int D>
double ball_box_separation(const Frame<D>& ball, double radius, const Box<D>& box, const Frame<D>& at) {
    const auto a = axes(at);
    const VecD<D> d = to_eigen(ball.position) - to_eigen(at.position);
    double outside = 0, way_out = 1e300;
    for (std::size_t i = 0; i < D; i++) {
        const double past = std::fabs(a[i].dot(d)) - 0.5 * box.full_size()[static_cast<int>(i)];
        outside += past > 0 ? past * past : 0;
        way_out = std::min(way_out, -past);
    }
    return (outside > 0 ? std::sqrt(outside) : -way_out) - radius;
}

TYPED_TEST(TouchTest, BallsAndBoxesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(13);
    int inside = 0;
    for (int i = 0; i < 20000; i++) {
        const Ball<D> a{n.f(0.01, 0.5)};
        const Box<D> b = any_box<D>(n);
        const Frame<D> fa = any_frame<D>(n, 1), fb = any_frame<D>(n, 0.3);
        const double want = ball_box_separation<D>(fa, a.radius, b, fb);
        const Touch<D> t = narrow::touch(a, fa, b, fb, 10);
        check_form<D>(a, fa, b, fb, t, 10);
        ASSERT_NEAR(deepest(t), want, 3e-6);
        inside += want < -a.radius;
        Frame<D> away = fa;
        away.position -= t.normal * (-deepest(t) + 1e-5f);
        ASSERT_GT(ball_box_separation<D>(away, a.radius, b, fb), -5e-6);
    }
    EXPECT_GT(inside, 1000);
}

TYPED_TEST(TouchTest, HalfSpacesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(14);
    for (int i = 0; i < 20000; i++) {
        const HalfSpace<D> plane{direction(n.template vec<D>(-1, 1), Vec<D>{1, 0})};
        const Frame<D> fp = any_frame<D>(n, 0.5), fb = any_frame<D>(n, 1);
        const VecD<D> out = to_eigen(rotate(fp.rotation, plane.outward)).normalized();
        const Box<D> box = any_box<D>(n);
        double lowest = 1e300;
        for (const auto& c : corners(box, fb)) lowest = std::min(lowest, out.dot(c - to_eigen(fp.position)));
        const Touch<D> t = narrow::touch(box, fb, plane, fp, 10);
        check_form<D>(box, fb, plane, fp, t, 10);
        ASSERT_EQ(t.count, flow::kMostPoints<D>);
        ASSERT_NEAR(deepest(t), lowest, 3e-6);
        ASSERT_LT((to_eigen(t.normal) + out).norm(), 1e-5);

        const Ball<D> ball{n.f(0.01, 1)};
        const double height = out.dot(to_eigen(fb.position) - to_eigen(fp.position)) - ball.radius;
        ASSERT_NEAR(deepest(narrow::touch(ball, fb, plane, fp, 10)), height, 3e-6);
    }
    EXPECT_EQ(narrow::touch(HalfSpace<D>{}, {}, HalfSpace<D>{}, {}, 1).count, 0);
}

// While a box slides by a hair, the points keep their names and move by a hair.
TYPED_TEST(TouchTest, FeaturesStayWhileTheShapesSlide) {
    constexpr int D = TypeParam::value;
    Touch<D> before;
    for (int i = 0; i < 200; i++) {
        Frame<D> above;
        above.position.y = 0.999f;
        above.position.x = 0.1f + 0.001f * static_cast<float>(i);
        above.rotation = test::about_z(radians(1e-5 * std::sin(i)), Vec<D>{});
        const Touch<D> t = narrow::touch(test::cube<D>(1), {}, test::cube<D>(1), above, 0.02f);
        ASSERT_EQ(t.count, flow::kMostPoints<D>);
        for (int k = 0; i > 0 && k < t.count; k++) {
            const auto& p = t.points[k];
            const auto same = std::find_if(before.points.begin(), before.points.end(),
                                           [&](const auto& q) { return q.feature == p.feature; });
            ASSERT_NE(same, before.points.end());
            ASSERT_LT(length(same->core_b - p.core_b), 0.003f);
        }
        before = t;
    }
}

// --- Every pair of the plane's bounded shapes
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
    const double want = plane_separation(a.core, a.radius, b.core, b.radius);
    const double tolerance = 1e-4 * std::min(a.size, b.size) + 4 * 6e-8 * std::max(a.size, b.size);
    const Touch<2> t = narrow::touch(a.geometry, a.at, b.geometry, b.at, margin);
    if (want > margin + tolerance) {
        ASSERT_EQ(t.count, 0);
        return;
    }
    if (want > margin - tolerance) return;
    ASSERT_GT(t.count, 0);
    ASSERT_NEAR(length(t.normal), 1, 1e-5);
    ASSERT_NEAR(deepest(t), want, tolerance);
    const Touch<2> s = narrow::touch(b.geometry, b.at, a.geometry, a.at, margin);
    ASSERT_NEAR(deepest(s), deepest(t), 2 * tolerance);
    // Moving by the reported depth separates.
    Corners moved = b.core;
    for (auto& c : moved) c += to_eigen(t.normal) * (tolerance - deepest(t));
    ASSERT_GT(plane_separation(a.core, a.radius, moved, b.radius), -tolerance);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        ASSERT_NEAR(dot(p.core_b - p.core_a, t.normal) - t.skin_a - t.skin_b, p.separation, tolerance);
        ASSERT_LT(corners_to_outline({to_eigen(p.core_a)}, a.core), tolerance);
        ASSERT_LT(corners_to_outline({to_eigen(p.core_b)}, b.core), tolerance);
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
                if (HasFatalFailure()) FAIL() << "kinds " << kind_a << " and " << kind_b << ", case " << i;
            }
    EXPECT_GT(overlaps, 8000);
    EXPECT_GT(touches, 4000);
}

// Battery NG02 and its like: known signed distances of turned boxes and of capsules.
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

// --- Spheres and capsules in space against all
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
    for (int i = 0; i < 120; i++) {
        const double third = (high - low) / 3;
        (from(low + third) > from(high - third) ? low : high) =
            from(low + third) > from(high - third) ? low + third : high - third;
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
    const double want = space_separation(a, b);
    const double tolerance = 1e-4 * std::min(a.size, b.size) + 4 * 6e-8 * std::max(a.size, b.size);
    const Touch<3> t = narrow::touch(a.geometry, a.at, b.geometry, b.at, margin);
    if (want > margin + tolerance) {
        ASSERT_EQ(t.count, 0);
        return;
    }
    if (want > margin - tolerance) return;
    ASSERT_GT(t.count, 0);
    ASSERT_NEAR(length(t.normal), 1, 1e-5);
    ASSERT_NEAR(deepest(t), want, tolerance);
    const Touch<3> s = narrow::touch(b.geometry, b.at, a.geometry, a.at, margin);
    ASSERT_NEAR(deepest(s), deepest(t), 2 * tolerance);
    Frame<3> away = a.at;
    away.position -= t.normal * static_cast<float>(tolerance - deepest(t));
    ASSERT_GT(space_separation(placed(a.geometry, away), b), -2 * tolerance);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        ASSERT_NEAR(dot(p.core_b - p.core_a, t.normal) - t.skin_a - t.skin_b, p.separation, tolerance);
        if (!is_box(b) && p.feature >= 32) continue; // where slanting rods would meet next: on no surface yet
        ASSERT_LT(point_to_rod(to_eigen(p.core_a), a), tolerance);
        ASSERT_LT(is_box(b) ? point_to_box(to_eigen(p.core_b), b) : point_to_rod(to_eigen(p.core_b), b),
                  tolerance);
    }
}

TEST(TouchSpace, RodsAgreeWithTheOracle) {
    Numbers n(16);
    int overlaps = 0, deep = 0;
    for (int kind_a = 0; kind_a < 2; kind_a++)
        for (int kind_b = kind_a; kind_b < 3; kind_b++)
            for (int i = 0; i < 3000; i++) {
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
                if (HasFatalFailure()) FAIL() << "kinds " << kind_a << " and " << kind_b << ", case " << i;
            }
    EXPECT_GT(overlaps, 4000);
    EXPECT_GT(deep, 200);
}

// Battery NG06: skew, at an end, parallel.
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
