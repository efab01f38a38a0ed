// Rays, casts, times of impact and nearest points against slow oracles in double.
#include "narrow/oracle_plane.h"
#include "narrow/oracle_space.h"

namespace astasis {
namespace {

using namespace test;

Point<2> point_of(const VecD<2>& p) { return {p.x(), p.y()}; }
Point<3> point_of(const VecD<3>& p) { return {p.x(), p.y(), p.z()}; }
template<int D> VecD<D> eigen_of(const Point<D>& p) {
    VecD<D> out;
    for (int i = 0; i < D; i++) out[i] = p[i];
    return out;
}
template<int D> Pose<D> pose_of(const Frame<D>& f) {
    Pose<D> out;
    out.rotation = f.rotation;
    for (int i = 0; i < D; i++) out.position[i] = f.position[i];
    return out;
}

// The oracles by one name: a shape somewhere, moved and turned in double; signed distance.
PlaneShape make(const Geometry<2>& g, const Frame<2>& f) { return placed(g, f); }
Solid3 make(const Geometry<3>& g, const Frame<3>& f) { return solid(g, f); }
double apart(const PlaneShape& a, const PlaneShape& b, Numbers&) {
    return plane_separation(a.core, a.radius, b.core, b.radius);
}
double apart(const Solid3& a, const Solid3& b, Numbers& n) { return signed_distance(a, b, n); }
double along(const PlaneShape&, const PlaneShape&, Vec2) { return -1e300; } // the plane's oracle is exact
double along(const Solid3& a, const Solid3& b, Vec3 n) { return gap(a, b, to_eigen(n).normalized()); }
double to_point(const PlaneShape& a, const VecD<2>& p, Numbers&) {
    return plane_separation(a.core, a.radius, {p}, 0);
}
double to_point(const Solid3& a, const VecD<3>& p, Numbers& n) { return signed_distance(a, point(p), n); }
PlaneShape moved(PlaneShape s, const VecD<2>& pivot, const VecD<2>& v, float w, double t) {
    const Eigen::Rotation2Dd turn(w * t);
    for (auto& c : s.core) c = pivot + v * t + turn * (c - pivot);
    return s;
}
Solid3 moved(Solid3 s, const VecD<3>& pivot, const VecD<3>& v, Vec3 w, double t) {
    const Vec3d spin = to_eigen(w);
    const double rate = spin.norm();
    const Eigen::Matrix3d turn =
        rate > 0 ? Eigen::AngleAxisd(rate * t, spin / rate).toRotationMatrix() : Eigen::Matrix3d::Identity();
    for (auto& c : s.core) c = pivot + v * t + turn * (c - pivot);
    for (auto& [p, u] : s.lines) p = pivot + v * t + turn * (p - pivot), u = turn * u;
    for (auto& n : s.normals) n = turn * n;
    s.axis = turn * s.axis;
    return s;
}

Geometry<2> any_shape(Numbers& n, int kind, double scale, Vec2) { return any_plane_shape(n, kind, scale); }
Geometry<3> any_shape(Numbers& n, int kind, double scale, Vec3) { return any_solid(n, kind, scale); }
template<int D> constexpr int kKinds = D == 2 ? kPlaneKinds : kSolidKinds;
float any_spin(Numbers& n, double most, Vec2) { return n.f(-most, most); }
Vec3 any_spin(Numbers& n, double most, Vec3) { return n.vec<3>(-most, most); }

Rotation<2> spun(Rotation<2> r, float w, double t) { return turned(radians(w * t)) * r; }
Rotation<3> spun(Rotation<3> r, Vec3 w, double t) {
    const double rate = length(w);
    return rate > 0 ? turned(radians(rate * t), w) * r : r;
}
template<int D> Pose<D> pose_at(const Moving<D>& m, double t) {
    Pose<D> out{m.from.position, spun(m.from.rotation, m.angular_velocity, t)};
    for (int k = 0; k < D; k++) out.position[k] += static_cast<double>(m.velocity[k]) * t;
    return out;
}

template<typename T> class Queries : public BothDimensions<T> {};
TYPED_TEST_SUITE(Queries, Dimensions);

TYPED_TEST(Queries, RaysEnterWhereTheOracleSays) {
    constexpr int D = TypeParam::value;
    Numbers n(31);
    int hits = 0;
    const int kinds = D == 2 ? kPlaneKinds - 1 : kSolidKinds; // all that have an inside
    const int cases = D == 2 ? kinds * test::cases() : kinds * std::max(test::cases() / 10, 4);
    for (int i = 0; i < cases; i++) {
        const Geometry<D> g = any_shape(n, i % kinds, 1, Vec<D>{});
        const Frame<D> f{n.vec<D>(-1, 1), n.rotation(Vec<D>{})};
        const auto shape = make(g, f);
        const Vec<D> start = n.vec<D>(-4, 4), float_way = ((f.position - start) + n.vec<D>(-1, 1)) * 1.5f;
        const VecD<D> from = to_eigen(start), way = to_eigen(float_way);
        const auto hit = ray_cast<D>(g, pose_of(f), point_of(from), float_way);
        // Along the way the distance is convex: its least by thirds, then the entry by halves.
        const auto off = [&](double t) { return to_point(shape, from + t * way, n); };
        double low = 0, high = 1;
        for (int k = 0; k < 25; k++)
            (off(low + (high - low) / 3) < off(high - (high - low) / 3) ? high : low) =
                off(low + (high - low) / 3) < off(high - (high - low) / 3) ? high - (high - low) / 3
                                                                           : low + (high - low) / 3;
        const double nearest = low, depth = off(nearest);
        if (std::fabs(depth) < 1e-4) continue; // too close to call
        EXPECT_EQ(hit.has_value(), depth < 0) << depth;
        EXPECT_EQ(contains<D>(g, pose_of(f), point_of(VecD<D>(from + nearest * way))), depth < 0);
        if (!hit) continue;
        hits++;
        double out = 0, in = nearest;
        for (int k = 0; k < 25; k++) (off(0.5 * (out + in)) > 0 ? out : in) = 0.5 * (out + in);
        if (off(0) < 0) in = 0;
        const double grazing = std::max(1.0, std::fabs(1 / std::max(1e-3, -depth)));
        EXPECT_NEAR(hit->fraction * way.norm(), in * way.norm(), 1e-5 * grazing);
        EXPECT_NEAR((eigen_of(hit->position) - (from + hit->fraction * way)).norm(), 0, 1e-9);
        EXPECT_NEAR(length(hit->normal), 1, 1e-5);
        EXPECT_LT(to_eigen(hit->normal).dot(way), 1e-6);
        if (this->HasFailure()) FAIL() << "kind " << i % kinds << ", case " << i;
    }
    EXPECT_GT(hits, cases / 3);
}

TYPED_TEST(Queries, NearestPointsLieOnBothSurfaces) {
    constexpr int D = TypeParam::value;
    Numbers n(32);
    for (int i = 0; i < kKinds<D> * kKinds<D> * std::max(test::cases() / 10, 10); i++) {
        const Geometry<D> a = any_shape(n, i % kKinds<D>, 1, Vec<D>{}),
                          b = any_shape(n, i / kKinds<D> % kKinds<D>, 1, Vec<D>{});
        const Frame<D> fa{n.vec<D>(-2, 2), n.rotation(Vec<D>{})}, fb{n.vec<D>(-2, 2), n.rotation(Vec<D>{})};
        const auto sa = make(a, fa), sb = make(b, fb);
        const auto near = distance<D>(a, pose_of(fa), b, pose_of(fb));
        // The oracle may fall short; the gap along the normal found is a bound of its own.
        EXPECT_NEAR(near.separation, std::max(apart(sa, sb, n), along(sa, sb, near.normal)), 1e-4);
        EXPECT_NEAR((eigen_of(near.on_b) - eigen_of(near.on_a)).dot(to_eigen(near.normal)), near.separation,
                    1e-4);
        if (near.separation > 0) {
            EXPECT_NEAR((eigen_of(near.on_b) - eigen_of(near.on_a)).norm(), near.separation, 1e-6);
        }
        EXPECT_NEAR(to_point(sa, eigen_of(near.on_a), n), 0, 1e-4);
        EXPECT_NEAR(to_point(sb, eigen_of(near.on_b), n), 0, 1e-4);
        const auto place = near.on_b;
        const auto closest = closest_point<D>(a, pose_of(fa), place);
        EXPECT_NEAR((eigen_of(closest) - eigen_of(place)).norm(),
                    std::max(0.0, to_point(sa, eigen_of(place), n)), 1e-5);
        if (this->HasFailure()) FAIL() << "case " << i;
    }
}

// Never late, never early: apart before, touching then, and no miss of an overlap.
TYPED_TEST(Queries, TimesOfImpactAgreeWithBisection) {
    constexpr int D = TypeParam::value;
    Numbers n(33);
    int hits = 0, cases = 0, failures = 0;
    const int each = test::cases();
    for (int kind_a = 0; kind_a < kKinds<D>; kind_a++)
        for (int kind_b = kind_a; kind_b < kKinds<D>; kind_b++)
            for (int i = 0; i < each; i++) {
                const double scale = i % 5 == 0 ? 20 : 1;
                const Geometry<D> a = any_shape(n, kind_a, 1, Vec<D>{}),
                                  b = any_shape(n, kind_b, scale, Vec<D>{});
                const Frame<D> fa{n.vec<D>(-1, 1), n.rotation(Vec<D>{})};
                Frame<D> fb{n.vec<D>(-1, 1), n.rotation(Vec<D>{})};
                const auto sa = make(a, fa);
                fb.position +=
                    direction(n.vec<D>(-1, 1), Vec<D>{0, 1}) * static_cast<float>(sa.size + make(b, fb).size);
                const auto sb = make(b, fb);
                const Moving<D> ma{.from = pose_of(fa),
                                   .velocity = n.vec<D>(-3, 3),
                                   .angular_velocity = i % 3 ? any_spin(n, 5, Vec<D>{}) : Axial<D>{}};
                const Vec<D> towards = (fa.position - fb.position) * n.f(0.2, 1.5);
                const Moving<D> mb{.from = pose_of(fb),
                                   .velocity = towards + n.vec<D>(-0.5, 0.5),
                                   .angular_velocity =
                                       i % 3 == 2 ? any_spin(n, 5 / scale, Vec<D>{}) : Axial<D>{}};
                const auto hit = time_of_impact<D>(a, ma, b, mb, 1);
                // The oracle may fall short, and takes long: the gap along any normal is a bound of its own.
                const auto at = [&](double t, double enough) {
                    const auto now_a =
                        moved(sa, to_eigen(fa.position), to_eigen(ma.velocity), ma.angular_velocity, t);
                    const auto now_b =
                        moved(sb, to_eigen(fb.position), to_eigen(mb.velocity), mb.angular_velocity, t);
                    const Vec<D> between = distance<D>(a, pose_at(ma, t), b, pose_at(mb, t)).normal;
                    const double bound = std::max(along(now_a, now_b, between),
                                                  hit ? along(now_a, now_b, hit->normal) : -1e300);
                    return bound >= enough ? bound : std::max(apart(now_a, now_b, n), bound);
                };
                const double tolerance = 1e-4 * std::min(sa.size, sb.size), until = hit ? hit->time : 1;
                cases++, hits += hit.has_value();
                std::string what;
                if (hit && std::fabs(at(until, 1e300)) > tolerance && until > 0)
                    what = "apart by " + std::to_string(at(until, 1e300)) + " at the impact";
                const int samples = D == 2 ? 200 : 24;
                for (int k = 0; k < samples && what.empty() && until > 0; k++) {
                    const double t = until * (k + n.in(0, 1)) / samples;
                    if (const double s = at(t, -tolerance); s < -tolerance)
                        what = "overlap of " + std::to_string(-s) + " at " + std::to_string(t) + ", before " +
                               std::to_string(until);
                }
                if (what.empty()) continue;
                if (failures++ < 3)
                    ADD_FAILURE() << "kinds " << kind_a << " and " << kind_b << ", case " << i << ": "
                                  << what;
            }
    std::printf("%d cases, %d hits, %d failures\n", cases, hits, failures);
    EXPECT_GT(hits, cases / 4);
}

TYPED_TEST(Queries, CastsAreImpactsWithoutTurning) {
    constexpr int D = TypeParam::value;
    const Geometry<D> ball = Ball<D>{0.25f}, box = cube<D>(1);
    const auto hit = shape_cast<D>(ball, {{-3, 0}, {}}, {4, 0}, box, {});
    ASSERT_TRUE(hit);
    EXPECT_NEAR(hit->time, (3 - 0.75) / 4, 1e-6);
    EXPECT_NEAR(hit->normal.x, 1, 1e-6); // from the first to the second
    EXPECT_NEAR(hit->position.x, -0.5, 1e-6);
    EXPECT_FALSE(shape_cast<D>(ball, {{-3, 0}, {}}, {2, 0}, box, {}));
    EXPECT_FALSE(shape_cast<D>(ball, {{-3, 0.76}, {}}, {9, 0}, box, {}));
    EXPECT_EQ(shape_cast<D>(ball, {{-0.6, 0}, {}}, {1, 0}, box, {})->time, 0);
    const auto down = shape_cast<D>(box, {{0, 2}, {}}, {0, -3}, HalfSpace<D>{}, {});
    ASSERT_TRUE(down);
    EXPECT_NEAR(down->time, 0.5, 1e-6);
    const auto up = shape_cast<D>(HalfSpace<D>{}, {}, {0, 3}, box, {{0, 2}, {}});
    ASSERT_TRUE(up);
    EXPECT_NEAR(up->time, 0.5, 1e-6);
    EXPECT_NEAR(up->normal.y, 1, 1e-6);
}

TYPED_TEST(Queries, StartsInsideAndWaysOfNoLength) {
    constexpr int D = TypeParam::value;
    const Geometry<D> box = cube<D>(2);
    const auto inside = ray_cast<D>(box, {}, {0.5, 0}, {4, 0});
    ASSERT_TRUE(inside);
    EXPECT_EQ(inside->fraction, 0);
    EXPECT_NEAR(inside->normal.x, -1, 1e-6);
    EXPECT_TRUE(ray_cast<D>(box, {}, {0.5, 0}, {}));
    EXPECT_FALSE(ray_cast<D>(box, {}, {1.5, 0}, {}));
    EXPECT_FALSE(ray_cast<D>(box, {}, {1.5, 0}, {1, 0}));
    EXPECT_TRUE(ray_cast<D>(HalfSpace<D>{}, {}, {0, 1}, {0, -2}));
    EXPECT_EQ(ray_cast<D>(HalfSpace<D>{}, {}, {0, -1}, {0, 2})->fraction, 0);
    // Far out in the world nothing is lost.
    const Pose<D> far{{1e6 + 0.25, 1e6}, {}};
    EXPECT_NEAR(ray_cast<D>(box, far, {1e6 - 3.75, 1e6}, {6, 0})->fraction, 0.5, 1e-6);
    EXPECT_EQ(error_of([&] { ray_cast<D>(box, {}, {NAN, 0}, {1, 0}); }).field(), "from");
    EXPECT_EQ(error_of([&] { distance<D>(HalfSpace<D>{}, {}, HalfSpace<D>{}, {}); }).field(), "b");
    EXPECT_EQ(error_of([&] { collide<D>(box, {}, box, {}, -1); }).field(), "margin");
    EXPECT_EQ(error_of([&] { time_of_impact<D>(box, {}, box, {}, NAN); }).field(), "seconds");
    EXPECT_EQ(error_of([&] { contains<D>(Ball<D>{-1}, {}, {}); }).given(), "-1");
}

TEST(QueriesOfSurfaces, RaysNameTheirPiece) {
    const std::vector<Vec3> corners{{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}};
    const std::vector<TriangleMesh::Triangle> triangles{{0, 2, 1}, {0, 3, 2}};
    const TriangleMesh mesh = TriangleMesh::of(corners, triangles);
    EXPECT_EQ(ray_cast<3>(mesh, {}, {0.8, 1, 0.2}, {0, -2, 0})->piece, 0u);
    EXPECT_EQ(ray_cast<3>(mesh, {}, {0.2, 1, 0.8}, {0, -2, 0})->piece, 1u);
    EXPECT_NEAR(ray_cast<3>(mesh, {}, {0.2, 1, 0.8}, {0, -2, 0})->normal.y, 1, 1e-6);
    EXPECT_FALSE(ray_cast<3>(mesh, {}, {0.2, -1, 0.8}, {0, 2, 0})); // from behind
    EXPECT_TRUE(ray_cast<3>(mesh.two_sided(), {}, {0.2, -1, 0.8}, {0, 2, 0}));
    const HeightField field{3, 3, 1, {0, 0, 0, 0, 1, 0, 0, 0, 0}};
    EXPECT_NEAR(ray_cast<3>(field, {}, {1, 5, 1}, {0, -10, 0})->fraction, 0.4, 1e-6);
    EXPECT_TRUE(contains<3>(field, {}, {1, 0.9, 1}));
    EXPECT_FALSE(contains<3>(field, {}, {0.2, 0.9, 0.2}));
    const TileGrid grid{3, 2, 1, {1, 1, 1, 1, 0, 1}};
    EXPECT_NEAR(ray_cast<2>(grid, {}, {1.5, 5}, {0, -5})->fraction, 0.8, 1e-6); // into the pit
    // Cells count row by row from the lower left.
    EXPECT_EQ(ray_cast<2>(grid, {}, {1.5, 5}, {0, -5})->piece, 1u);
    EXPECT_EQ(ray_cast<2>(grid, {}, {0.5, 5}, {0, -5})->piece, 3u);
    EXPECT_EQ(ray_cast<2>(grid, {}, {1.5, 1.7}, {5, 0})->piece, 5u);
    EXPECT_EQ(ray_cast<2>(grid, {{10, 0}, turned(degrees(90))}, {8.5, -4}, {0, 9})->piece, 3u);
    EXPECT_EQ(distance<2>(grid, {}, Circle{0.1f}, {{2.5, -1}, {}}).piece, 2u);
    EXPECT_FALSE(contains<2>(grid, {}, {1.5, 1.5}));
    EXPECT_TRUE(contains<2>(grid, {}, {0.5, 1.5}));
    const std::vector<Vec2> ring{{0, 0}, {2, 0}, {2, 2}, {0, 2}};
    EXPECT_TRUE(contains<2>(Polyline::closed(ring), {}, {1, 1}));
    EXPECT_FALSE(contains<2>(Polyline::open(ring), {}, {1, 1}));
    EXPECT_NEAR(distance<2>(Polyline::closed(ring), {}, Circle{0.5f}, {{1, 3}, {}}).separation, 0.5, 1e-6);
    EXPECT_EQ(distance<2>(Polyline::closed(ring), {}, Circle{0.5f}, {{1, 3}, {}}).piece, 2u);
    EXPECT_NEAR(bounds_of<3>(field, {}).high.y, 1, 1e-6);
    EXPECT_EQ(distance<3>(Box3::sized(1, 1, 1), {}, Sphere{0.1f}, {{2, 0, 0}, {}}).feature_a, Feature::Face);
    EXPECT_EQ(distance<3>(Box3::sized(1, 1, 1), {}, Sphere{0.1f}, {{2, 2, 0}, {}}).feature_a, Feature::Edge);
    EXPECT_EQ(distance<3>(Box3::sized(1, 1, 1), {}, Sphere{0.1f}, {{2, 2, 2}, {}}).feature_a,
              Feature::Corner);
}

}
}
