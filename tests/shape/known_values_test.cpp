// Distances, masses, rays and times of impact whose exact values are known by hand.
#include "support/dims.h"

namespace astasis {
namespace {

using namespace test;

constexpr double kEps = 8 * 1.2e-7;

template<int D> Pose<D> at(Point<D> p, Rotation<D> r = {}) { return {p, r}; }

TEST(KnownValues, CircleAndBox) {
    const Geometry<2> box = Box2::sized(2, 1), circle = Circle{0.3f};
    const Point2 centres[] = {{1.5, 1.2}, {0.2, 1.1}, {0.6, 0.5}, {1.0, 1.4}};
    const double wanted[] = {0.5990381056766578, 0.05262794416288269, -0.5303847577293368,
                             0.30457723008140863};
    const double nx[] = {0.8660254037844387, -0.5, 0.8660254037844387, 0.6351125664521928};
    const double ny[] = {0.5, 0.8660254037844386, 0.5, 0.7724195931839826};
    for (int i = 0; i < 4; i++) {
        const auto near = distance<2>(box, at<2>({}, turned(degrees(30))), circle, at<2>(centres[i]));
        EXPECT_NEAR(near.separation, wanted[i], kEps);
        EXPECT_NEAR(near.normal.x, nx[i], kEps);
        EXPECT_NEAR(near.normal.y, ny[i], kEps);
        const auto patches = collide<2>(box, at<2>({}, turned(degrees(30))), circle, at<2>(centres[i]), 10);
        ASSERT_EQ(patches.size(), 1u);
        EXPECT_NEAR(patches[0].spots[0].separation, wanted[i], 2 * kEps);
    }
}

TEST(KnownValues, BoxAndBoxInThePlane) {
    const Geometry<2> a = Box2::sized(2, 2), b = Box2::sized(1, 1);
    const Pose<2> poses[] = {at<2>({1.6, 0}, turned(degrees(45))), at<2>({2, 0}, turned(degrees(45))),
                             at<2>({2, 2}, turned(degrees(45))), at<2>({1.3, 0.9}, turned(degrees(10)))};
    const double wanted[] = {-0.10710678118654737, 0.29289321881345254, 0.9142135623730951,
                             -0.2219224918630306};
    for (int i = 0; i < 4; i++) {
        EXPECT_NEAR(distance<2>(a, {}, b, poses[i]).separation, wanted[i], kEps);
        const auto patches = collide<2>(a, {}, b, poses[i], 10);
        ASSERT_EQ(patches.size(), 1u);
        float least = 1e9f;
        for (int k = 0; k < patches[0].count; k++)
            least = std::min(least, patches[0].spots[static_cast<std::size_t>(k)].separation);
        EXPECT_NEAR(least, wanted[i], 2 * kEps);
    }
    const auto first = collide<2>(a, {}, b, poses[0]);
    EXPECT_NEAR(first[0].normal.x, 1, kEps);
    EXPECT_NEAR(first[0].spots[0].position.x, 0.5 * (1 + 0.8928932188134525),
                kEps); // midway between the surfaces
}

TEST(KnownValues, CapsulesAndASegment) {
    const Geometry<2> lying = Capsule2{{-1, 0}, {1, 0}, 0.2f};
    const Capsule2 others[] = {{{0.5f, 0.8f}, {2, 1.6f}, 0.15f},
                               {{-0.3f, 0.25f}, {0.9f, 0.25f}, 0.15f},
                               {{1.5f, -1}, {1.2f, 1.3f}, 0.15f}};
    const double wanted[] = {0.45, -0.1, 0.0164610215253429};
    for (int i = 0; i < 3; i++)
        EXPECT_NEAR(distance<2>(lying, {}, others[i], {}).separation, wanted[i], kEps);
    EXPECT_EQ(collide<2>(lying, {}, others[1], {})[0].count, 2);
    const Geometry<2> segment = Segment{{-1, -0.2f}, {1.3f, 0.5f}};
    EXPECT_NEAR(distance<2>(segment, {}, Circle{0.3f}, at<2>({0.4, 0.9})).separation, 0.3447150063759698,
                kEps);
    EXPECT_NEAR(distance<2>(segment, {}, Circle{0.3f}, at<2>({1.9, 0.9})).separation, 0.4211102550927979,
                kEps);

    const Geometry<3> upright = Capsule3{{0, 0, -1}, {0, 0, 1}, 0.3f};
    const Capsule3 askew[] = {{{0.7f, -1, 0.2f}, {0.7f, 1.2f, 0.6f}, 0.25f},
                              {{0.3f, 0.2f, 1.4f}, {0.9f, 0.1f, 2.5f}, 0.25f},
                              {{0.5f, 0, -0.4f}, {0.5f, 0, 2}, 0.25f}};
    const double in_space[] = {0.15, -0.01148351928654967, -0.05};
    for (int i = 0; i < 3; i++)
        EXPECT_NEAR(distance<3>(upright, {}, askew[i], {}).separation, in_space[i], kEps);
}

TEST(KnownValues, SphereAndBox) {
    const Point3 centres[] = {{0.2, 1.0, 0.1}, {1.4, 0.8, 0}, {1.3, 0.9, 1.0}, {0.9, 0.1, 0.3}, {0, 0.45, 0}};
    const double wanted[] = {0.1, 0.1, 0.15901699437494743, -0.5, -0.45};
    for (int i = 0; i < 5; i++) {
        EXPECT_NEAR(distance<3>(Box3::sized(2, 1, 1.5f), {}, Sphere{0.4f}, at<3>(centres[i])).separation,
                    wanted[i], kEps);
        EXPECT_NEAR(collide<3>(Box3::sized(2, 1, 1.5f), {}, Sphere{0.4f}, at<3>(centres[i]), 10)[0]
                        .spots[0]
                        .separation,
                    wanted[i], kEps);
    }
}

TEST(KnownValues, DrumOnAPlane) {
    const double wanted[] = {0.1, -0.016025403784438508, 0.16698729810778068, 0.6};
    const int spots[] = {4, 1, 1, 2};
    for (int i = 0; i < 4; i++) {
        const Pose<3> pose{{0, 1.1, 0}, turned(degrees(30 * i), {0, 0, 1})};
        const Geometry<3> drum = Cylinder{{0, -1, 0}, {0, 1, 0}, 0.5f};
        EXPECT_NEAR(distance<3>(drum, pose, HalfSpace<3>{}, {}).separation, wanted[i], 2 * kEps);
        const auto patches =
            collide<3>(drum, pose, HalfSpace<3>{}, {}, std::max(static_cast<float>(wanted[i]), 0.0f) + 0.01f);
        ASSERT_EQ(patches.size(), 1u);
        EXPECT_EQ(patches[0].count, spots[i]) << i;
    }
}

TEST(KnownValues, RaysInSpace) { // from (-5, 0, 0) along (1, 0.2, -0.1)
    const double length_of_way = 20, n = std::sqrt(1.05);
    const Vec3 way{static_cast<float>(length_of_way / n), static_cast<float>(0.2 * length_of_way / n),
                   static_cast<float>(-0.1 * length_of_way / n)};
    const Pose<3> up = at<3>({0, 1, 0});
    const std::pair<Geometry<3>, Pose<3>> shapes[] = {{Sphere{1}, up},
                                                      {Box3::sized(2, 1, 1.5f), up},
                                                      {Capsule3{{0, 0.4f, -1}, {0.3f, 1.5f, 1}, 0.4f}, {}},
                                                      {Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, 0.6f}, up}};
    const double wanted[] = {4.207281421308469, 4.098780306383839, 4.8849404370753025, 4.730798035139051};
    for (int i = 0; i < 4; i++) {
        const auto hit = ray_cast<3>(shapes[i].first, shapes[i].second, {-5, 0, 0}, way);
        ASSERT_TRUE(hit);
        EXPECT_NEAR(hit->fraction * length_of_way, wanted[i], 5 * kEps) << i; // of a scale of 5 m
    }
}

TEST(KnownValues, TimesOfImpact) {
    const auto plane = time_of_impact<2>(Circle{0.5f}, {.velocity = {10, 0}}, Circle{0.25f},
                                         {.from = at<2>({5, 0.3}), .velocity = {-20, 2}}, 1);
    ASSERT_TRUE(plane);
    EXPECT_NEAR(plane->time, 0.15183079889215584, kEps);
    EXPECT_NEAR(10 * plane->time, 1.5183079889215585, 5 * kEps);
    const auto space = time_of_impact<3>(Sphere{0.4f}, {.velocity = {20, 0, 0}}, Sphere{0.2f},
                                         {.from = at<3>({4, 1, -1}), .velocity = {-20, -9, 11}}, 1);
    ASSERT_TRUE(space);
    EXPECT_NEAR(space->time, 0.08615250742858853, kEps);
}

TEST(KnownValues, MassesOfPolygonsAndRoundShapes) {
    const auto mass = [](const Geometry<2>& g) { return mass_of<2>({{.geometry = g, .density = 1}}); };
    const auto pentagon = mass(Polygon{{{0, 0}, {2, 0}, {2.5f, 1.2f}, {1.1f, 2.4f}, {-0.4f, 1}}});
    EXPECT_NEAR(pentagon.mass, 4.57, 5 * kEps);
    EXPECT_NEAR(pentagon.centre.x, 1.060904449307075, kEps);
    EXPECT_NEAR(pentagon.centre.y, 0.9749088256746898, kEps);
    EXPECT_NEAR(pentagon.inertia, 3.49605447362023, 4 * kEps);
    Polygon hexagon;
    for (int i = 0; i < 6; i++)
        hexagon.corners.push_back(
            {static_cast<float>(std::cos(M_PI * i / 3)), static_cast<float>(std::sin(M_PI * i / 3))});
    EXPECT_NEAR(mass(hexagon).mass, 2.598076211353316, 3 * kEps);
    EXPECT_NEAR(mass(hexagon).inertia, 1.0825317547305482, kEps);
    const std::vector<Vec2> l{{0, 0}, {3, 0}, {3, 1}, {1, 1}, {1, 4}, {0, 4}};
    const auto cut = cut_into_convex(l);
    EXPECT_EQ(cut.size(), 2u);
    std::vector<ShapeSpec<2>> shapes;
    for (const Polygon& p : cut) shapes.push_back({.geometry = p, .density = 1});
    const auto whole = mass_of<2>(shapes);
    EXPECT_NEAR(whole.mass, 6, 6 * kEps);
    EXPECT_NEAR(whole.centre.x, 1, 4 * kEps);
    EXPECT_NEAR(whole.centre.y, 1.5, 4 * kEps);
    EXPECT_NEAR(whole.inertia, 12.5, 12.5 * kEps);
    const auto capsule =
        mass_of<3>({{.geometry = Capsule3{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}, .density = 1}});
    EXPECT_NEAR(capsule.mass, 1.4660765716752366, 1.5 * kEps);
    EXPECT_NEAR(capsule.moments.y, 0.17016960206944712, kEps);
    EXPECT_NEAR(capsule.moments.x, 0.5306673590688759, kEps);
    EXPECT_NEAR(mass(Capsule2{{0, -0.6f}, {0, 0.6f}, 0.5f}).inertia, 0.8249181092477624, kEps);
}

}
}
