#include "shape/measure.h"

#include "support/dims.h"

namespace astasis {
namespace {

using test::Numbers;

TEST(Mass, RoundShapes) { // closed forms: pi r^2, m r^2/2; 4/3 pi r^3, 2/5 m r^2
    const auto disc = mass_of<2>({{.geometry = Circle{0.5f}, .density = 1}});
    EXPECT_NEAR(disc.mass, M_PI / 4, 1e-6);
    EXPECT_NEAR(disc.inertia, M_PI / 32, 1e-7);
    const auto sphere = mass_of<3>({{.geometry = Sphere{0.5f}, .density = 1}});
    EXPECT_NEAR(sphere.mass, 0.5235988, 1e-6);
    EXPECT_NEAR(sphere.moments.y, 0.05235988, 1e-7);
}

TEST(Mass, TwoBoxesMakeAnL) { // 3x1 at the foot, 1x3 above its left end
    const auto l =
        mass_of<2>({{.geometry = Box2::sized(3, 1), .density = 1, .placement = {{1.5f, 0.5f}, {}}},
                    {.geometry = Box2::sized(1, 3), .density = 1, .placement = {{0.5f, 2.5f}, {}}}});
    EXPECT_NEAR(l.mass, 6, 1e-5);
    EXPECT_NEAR(l.centre.x, 1, 1e-6);
    EXPECT_NEAR(l.centre.y, 1.5, 1e-6);
    EXPECT_NEAR(l.inertia, 12.5, 1e-4);
}

TEST(Mass, GivenTheMassTheInertiaFollows) {
    const auto box = mass_of<3>({{.geometry = Box3::sized(0.1f, 0.2f, 0.3f)}}, 12);
    EXPECT_NEAR(box.moments.x, 0.13, 1e-6);
    EXPECT_NEAR(box.moments.y, 0.10, 1e-6);
    EXPECT_NEAR(box.moments.z, 0.05, 1e-6);
    EXPECT_EQ(box.products, Vec3{});
}

bool inside(const Geometry<3>& g, Vec3 p) {
    if (const auto* ball = std::get_if<Sphere>(&g)) return length(p) <= ball->radius;
    const Vec3 half = std::get<Box3>(g).full_size() * 0.5f;
    return std::fabs(p.x) <= half.x && std::fabs(p.y) <= half.y && std::fabs(p.z) <= half.z;
}

// Oracle: mass, centre and tensor of turned and shifted shapes by sums over random points.
TEST(Mass, CompoundsAgreeWithSampling) {
    const std::vector<ShapeSpec<3>> shapes{
        {.geometry = Box3::sized(0.8f, 0.3f, 0.5f),
         .density = 2,
         .placement = {{0.5f, 0, 0.2f}, turned(degrees(35), {1, 2, 0.5f})}},
        {.geometry = Sphere{0.3f}, .density = 5, .placement = {{-0.6f, 0.4f, 0}, {}}}};
    const auto got = mass_of(shapes);
    Numbers n(5);
    const int points = 400000;
    const double volume = 8; // of the cube of side 2 that is sampled
    double mass = 0, sum[3] = {}, product[3][3] = {};
    for (int i = 0; i < points; i++) {
        const Vec3 p = n.vec<3>(-1, 1);
        double density = 0;
        for (const auto& s : shapes)
            if (inside(s.geometry, rotate_back(s.placement.rotation, p - s.placement.position)))
                density += s.density;
        mass += density;
        for (int k = 0; k < 3; k++) {
            sum[k] += density * p[k];
            for (int l = 0; l < 3; l++) product[k][l] += density * p[k] * p[l];
        }
    }
    const double scale = volume / points, m = mass * scale;
    EXPECT_NEAR(got.mass, m, 0.02 * m);
    double second[3][3];
    for (int k = 0; k < 3; k++) {
        EXPECT_NEAR(got.centre[k], sum[k] / mass, 0.01);
        for (int l = 0; l < 3; l++)
            second[k][l] = product[k][l] * scale - m * (sum[k] / mass) * (sum[l] / mass);
    }
    EXPECT_NEAR(got.moments.x, second[1][1] + second[2][2], 0.01);
    EXPECT_NEAR(got.moments.y, second[0][0] + second[2][2], 0.01);
    EXPECT_NEAR(got.moments.z, second[0][0] + second[1][1], 0.01);
    EXPECT_NEAR(got.products.x, -second[0][1], 0.01);
    EXPECT_NEAR(got.products.y, -second[0][2], 0.01);
    EXPECT_NEAR(got.products.z, -second[1][2], 0.01);
}

template<typename T> class BoundsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(BoundsTest, test::Dimensions);

TYPED_TEST(BoundsTest, HoldEveryCornerAndTouchOne) {
    constexpr int D = TypeParam::value;
    Numbers n(6);
    for (int i = 0; i < 10000; i++) {
        Vec<D> size{};
        for (int k = 0; k < D; k++) size[k] = n.f(0.01, 3);
        const Pose<D> pose{Point<D>{} + n.template vec<D>(-5, 5), n.rotation(Vec<D>{})};
        const auto bounds = shape::bounds<D>(test::box_of(size), pose.position, pose.rotation);
        Vec<D> nearest = test::all<D>(1e9f);
        for (int corner = 0; corner < 1 << D; corner++) {
            Vec<D> local = size * 0.5f;
            for (int k = 0; k < D; k++)
                if (corner >> k & 1) local[k] = -local[k];
            const Point<D> at = to_world(pose, local);
            for (int k = 0; k < D; k++) {
                ASSERT_LE(at[k], bounds.high[k] + 1e-6);
                ASSERT_GE(at[k], bounds.low[k] - 1e-6);
                nearest[k] = std::min<float>(nearest[k], static_cast<float>(bounds.high[k] - at[k]));
            }
        }
        for (int k = 0; k < D; k++) ASSERT_NEAR(nearest[k], 0, 2e-6);
    }
}

}
}
