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

TEST(Mass, CapsulesInSpace) { // closed forms
    const auto upright =
        mass_of<3>({{.geometry = Capsule3{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}, .density = 1}});
    EXPECT_NEAR(upright.mass, 1.466077, 1e-6);
    EXPECT_NEAR(upright.moments.y, 0.1701696, 1e-6);
    EXPECT_NEAR(upright.moments.x, 0.5306674, 1e-6);
    EXPECT_NEAR(upright.moments.z, 0.5306674, 1e-6);
    // The same one lying askew, by turning the upright one.
    const Rotation<3> turn = turned(degrees(50), {1, 2, 3});
    const auto askew = mass_of<3>(
        {{.geometry = Capsule3{rotate(turn, Vec3{0, -0.6f, 0}), rotate(turn, Vec3{0, 0.6f, 0}), 0.5f},
          .density = 1}});
    const auto placed = mass_of<3>(
        {{.geometry = Capsule3{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}, .density = 1, .placement = {{}, turn}}});
    EXPECT_LT(length(askew.moments - placed.moments) + length(askew.products - placed.products), 1e-6f);
}

TEST(Mass, DrumsAndHulls) { // closed forms
    const auto drum = mass_of<3>({{.geometry = Cylinder{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}, .density = 1}});
    EXPECT_NEAR(drum.mass, 0.9424777960769379, 8 * 1.2e-7);
    EXPECT_NEAR(drum.moments.y, 0.11780972450961724, 8 * 1.2e-7);
    EXPECT_NEAR(drum.moments.x, 0.17200219778404116, 8 * 1.2e-7);

    // A box as the hull of its corners, turned and moved, is the box turned and moved.
    const Rotation<3> turn = turned(degrees(50), {1, 2, 3});
    const Vec3 half{0.5f, 1, 1.5f}, to{4, -1, 2};
    std::vector<Vec3> corners;
    for (int k = 0; k < 8; k++)
        corners.push_back(to + rotate(turn, Vec3{k & 1 ? -half.x : half.x, k & 2 ? -half.y : half.y,
                                                 k & 4 ? -half.z : half.z}));
    for (const float r : {0.0f, 0.25f}) {
        const float d = 2 * r;
        const auto hull = mass_of<3>({{.geometry = Hull::around(corners).grown(r), .density = 1}});
        const auto box = mass_of<3>({{.geometry = Box3::sized(1 + d, 2 + d, 3 + d).rounded(r),
                                      .density = 1,
                                      .placement = {to, turn}}});
        EXPECT_NEAR(hull.mass, box.mass, 1e-5);
        EXPECT_LT(length(hull.centre - box.centre), 2e-6f);
        EXPECT_LT(length(hull.moments - box.moments) + length(hull.products - box.products), 1e-4f);
    }
    const auto corner =
        mass_of<3>({{.geometry = Hull::around(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}),
                     .density = 1}});
    EXPECT_NEAR(corner.mass, 1.0 / 6, 1e-7);
    EXPECT_NEAR(corner.centre.x, 0.25, 1e-7);
    EXPECT_NEAR(corner.moments.x, 2.0 / 60 - 2.0 / 96, 1e-7); // integrals of y^2 + z^2, less the shift
    EXPECT_NEAR(corner.products.x, -(1.0 / 120 - 1.0 / 96), 1e-7);
}

// A rounded box in slices: each is a rounded rectangle, whose area and inertia the plane's masses give.
TEST(Mass, RoundedBoxesInSlices) {
    const double hx = 0.3, hy = 0.2, hz = 0.5, r = 0.15;
    double mass = 0, xx_and_yy = 0, zz = 0;
    const int slices = 20000;
    for (int i = 0; i < slices; i++) {
        const double z = -hz - r + (i + 0.5) * 2 * (hz + r) / slices, past = std::max(std::fabs(z) - hz, 0.0);
        const double rho = std::sqrt(r * r - past * past), dz = 2 * (hz + r) / slices;
        const auto slice = mass_of<2>(
            {{.geometry = Box2::sized(static_cast<float>(2 * (hx + rho)), static_cast<float>(2 * (hy + rho)))
                              .rounded(static_cast<float>(rho)),
              .density = 1}});
        mass += slice.mass * dz, xx_and_yy += slice.inertia * dz, zz += slice.mass * z * z * dz;
    }
    const auto box = mass_of<3>({{.geometry = Box3::sized(0.9f, 0.7f, 1.3f).rounded(0.15f), .density = 1}});
    EXPECT_NEAR(box.mass, mass, 1e-5 * mass);
    EXPECT_NEAR(box.moments.z, xx_and_yy, 1e-5);
    EXPECT_NEAR(box.moments.x + box.moments.y, xx_and_yy + 2 * zz, 1e-5);
    EXPECT_LT(length(box.products) + length(box.centre), 1e-6f);
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

// Green's theorem for the outlines, strips and sectors for the skins (values by fine integration in double).
TEST(Mass, PolygonsAndCapsules) {
    const auto mass = [](const Geometry<2>& g) { return mass_of<2>({{.geometry = g, .density = 1}}); };
    const auto pentagon = mass(Polygon{{{0, 0}, {2, 0}, {2.5f, 1.2f}, {1.1f, 2.4f}, {-0.4f, 1}}});
    EXPECT_NEAR(pentagon.mass, 4.57, 1e-6);
    EXPECT_NEAR(pentagon.centre.x, 1.060904, 1e-6);
    EXPECT_NEAR(pentagon.centre.y, 0.9749088, 1e-6);
    EXPECT_NEAR(pentagon.inertia, 3.496054, 3e-6);
    Polygon hexagon;
    for (int i = 0; i < 6; i++)
        hexagon.corners.push_back(
            {static_cast<float>(std::cos(i * M_PI / 3)), static_cast<float>(std::sin(i * M_PI / 3))});
    EXPECT_NEAR(mass(hexagon).mass, 2.598076, 1e-6);
    EXPECT_NEAR(mass(hexagon).inertia, 1.082532, 1e-6);
    const auto capsule = mass(Capsule2{{0, -0.6f}, {0, 0.6f}, 0.5f});
    EXPECT_NEAR(capsule.mass, 1.985398, 1e-6);
    EXPECT_NEAR(capsule.inertia, 0.8249181, 1e-6);
    EXPECT_NEAR(mass(Capsule2{{3, 1}, {3, 2.2f}, 0.5f}).centre.y, 1.6, 1e-6);
    // A box rounded so far that a circle is nearly left: pi r^2 and m r^2/2.
    const auto round = mass(Box2::sized(1, 1).rounded(0.4999f));
    EXPECT_NEAR(round.mass, M_PI / 4, 1e-3);
    EXPECT_NEAR(round.inertia, M_PI / 32, 1e-3);
}

// Oracle: area, centroid and inertia of rounded polygons by counting points of a fine grid.
TEST(Mass, RoundedPolygonsAgreeWithAGrid) {
    Numbers n(7);
    for (int round = 0; round < 6; round++) {
        Polygon polygon;
        polygon.rounding = n.f(0.05, 0.3);
        for (int i = 0; i < 5; i++) {
            const double angle = (i + n.in(0, 0.7)) * 2 * M_PI / 5;
            polygon.corners.push_back({n.f(-0.1, 0.1) + static_cast<float>(0.7 * std::cos(angle)),
                                       static_cast<float>(0.5 * std::sin(angle))});
        }
        const auto inside = [&](double x, double y) {
            bool in = true;
            double nearest = 1e300;
            for (std::size_t i = 0; i < 5; i++) {
                const Vec2 a = polygon.corners[i], b = polygon.corners[(i + 1) % 5];
                const double dx = b.x - a.x, dy = b.y - a.y, px = x - a.x, py = y - a.y;
                in = in && dx * py - dy * px >= 0;
                const double t = std::clamp((px * dx + py * dy) / (dx * dx + dy * dy), 0.0, 1.0);
                nearest = std::min(nearest, std::hypot(px - t * dx, py - t * dy));
            }
            return in || nearest <= polygon.rounding;
        };
        const double h = 1.0 / 256;
        double area = 0, sx = 0, sy = 0, second = 0;
        for (double x = -1.2; x < 1.2; x += h)
            for (double y = -1.2; y < 1.2; y += h)
                if (inside(x, y))
                    area += h * h, sx += h * h * x, sy += h * h * y, second += h * h * (x * x + y * y);
        const auto got = mass_of<2>({{.geometry = polygon, .density = 1}});
        EXPECT_NEAR(got.mass, area, 0.005 * area);
        EXPECT_NEAR(got.centre.x, sx / area, 0.003);
        EXPECT_NEAR(got.centre.y, sy / area, 0.003);
        EXPECT_NEAR(got.inertia, second - (sx * sx + sy * sy) / area, 0.01 * second);
    }
}

TEST(Shapes, PolygonsAreRepairedOrRefused) {
    const auto shape_of = [](std::vector<Vec2> corners, float rounding = 0) {
        World2 world;
        const BodyId id = world.add({.shapes = {{Polygon{std::move(corners), rounding}}}});
        return std::get<Polygon>(world.shapes(id)[0].geometry);
    };
    const std::vector<Vec2> square{{0, 0}, {1, 0}, {1, 1}, {0, 1}};
    EXPECT_EQ(shape_of(square).corners, square);
    EXPECT_EQ(shape_of({{0, 1}, {1, 1}, {1, 0}, {0, 0}}).corners,
              (std::vector<Vec2>{{0, 0}, {1, 0}, {1, 1}, {0, 1}})); // clockwise
    EXPECT_EQ(shape_of({{0, 0}, {0.5f, 0}, {1, 0}, {1, 0}, {1, 1}, {0, 1}}).corners,
              square); // straight, repeated
    const auto refused = [&](std::vector<Vec2> corners, float rounding, const char* field, const char* says) {
        const Error e = test::error_of([&] { shape_of(std::move(corners), rounding); });
        EXPECT_EQ(e.field(), std::string("shapes[0].geometry.") + field);
        EXPECT_NE(std::string(e.what()).find(says), std::string::npos) << e.what();
    };
    refused({}, 0, "corners", "at least 3 corners");
    refused({{0, 0}, {1, 1}}, 0, "corners", "at least 3 corners");
    refused({{0, 0}, {1, 1}, {2, 2}, {3, 3}}, 0, "corners", "of which 2 remain");
    refused({{0, 0}, {2, 0}, {1, 0.5f}, {1, 2}}, 0, "corners", "turns inwards at (1, 0.5)");
    refused({{0, 2}, {1.2f, -1.6f}, {-1.9f, 0.6f}, {1.9f, 0.6f}, {-1.2f, -1.6f}}, 0, "corners",
            "crosses itself"); // a star
    refused({{0, 0}, {1, NAN}, {0, 1}}, 0, "corners[1]", "finite");
    refused(square, -0.1f, "rounding", "0 or more");
    World2 world;
    EXPECT_EQ(test::error_of([&] { world.add({.shapes = {{Box2::sized(1, 2).rounded(0.5f)}}}); }).field(),
              "shapes[0].geometry.rounding");
    EXPECT_EQ(test::error_of([&] {
                  world.add({.shapes = {{Capsule2{{1, 1}, {1, 1}, 0.1f}}}});
              }).field(),
              "shapes[0].geometry.to");
}

TEST(Shapes, ThicknessIsTheSmallestWidth) {
    EXPECT_NEAR(thickness_of<2>({Capsule2{{0, 0}, {3, 4}, 0.5f}}), 1, 1e-6);
    EXPECT_NEAR(thickness_of<2>({Polygon{{{0, 0}, {4, 0}, {0, 3}}, 0.1f}}), 2.4 + 0.2, 1e-6);
    EXPECT_NEAR(thickness_of<2>({Box2::sized(2, 0.5f).rounded(0.1f)}), 0.5, 1e-6);
    EXPECT_NEAR(thickness_of<3>({Box3::sized(2, 0.5f, 1)}), 0.5, 1e-6);
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
        const auto bounds = shape::bounds(Geometry<D>(test::box_of(size)), pose.position, pose.rotation);
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
