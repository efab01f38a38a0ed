// Shapes that come and go live, and surfaces that are changed.
#include "support/dims.h"

namespace astasis {
namespace {

using namespace test;

template<typename T> class LiveShapes : public BothDimensions<T> {};
TYPED_TEST_SUITE(LiveShapes, Dimensions);

TYPED_TEST(LiveShapes, MassFollowsTheShapes) {
    constexpr int D = TypeParam::value;
    World<D> world(weightless<D>());
    const ShapeSpec<D> near{.geometry = cube<D>(1), .density = 2};
    ShapeSpec<D> far = near;
    far.placement.position = {3, 0};
    const BodyId id = world.add({.pose = {{5, 1}, {}}, .shapes = {near}});
    EXPECT_EQ(world.add_shape(id, far), 1u);
    EXPECT_EQ(world.shapes(id).size(), 2u);
    EXPECT_NEAR(world.mass(id).mass, 4, 1e-5);
    EXPECT_NEAR(world.centre_of_mass(id).x, 6.5, 1e-6);
    EXPECT_NEAR(world.pose(id).position.x, 5, 1e-6); // the body's own origin has not moved
    EXPECT_EQ(world.mass(id), (mass_of<D>({near, far})));
    world.remove_shape(id, 0);
    EXPECT_NEAR(world.mass(id).mass, 2, 1e-5);
    EXPECT_NEAR(world.centre_of_mass(id).x, 8, 1e-6);
    EXPECT_EQ(error_of([&] { world.remove_shape(id, 1); }).given(), "the last one");
    EXPECT_EQ(error_of([&] { world.remove_shape(id, 7); }).field(), "shape");
    EXPECT_NE(error_of([&] { world.add_shape(id, {HalfSpace<D>{}}); }).given().find("dynamic"),
              std::string::npos);
    EXPECT_EQ(world.shapes(id).size(), 1u);

    const BodyId fixed_mass = world.add({.shapes = {near}, .mass = mass_of<D>({near}, 7)});
    world.add_shape(fixed_mass, far);
    EXPECT_EQ(world.mass(fixed_mass).mass, 7);
    world.remove_shape(fixed_mass, 1);
    world.remove_shape(fixed_mass, 0); // its mass was given
    EXPECT_EQ(world.mass(fixed_mass).mass, 7);
}

// A number stays with its shape, whatever goes and comes.
TYPED_TEST(LiveShapes, NumbersStay) {
    constexpr int D = TypeParam::value;
    World<D> world(weightless<D>());
    const auto at = [](double x) {
        ShapeSpec<D> out{.geometry = cube<D>(1)};
        out.placement.position = {static_cast<float>(x), 0};
        return out;
    };
    const BodyId id = world.add({.shapes = {at(0), at(2), at(4)}});
    world.set_tag(id, 2, 7), world.set_user_data(id, 2, 70), world.set_user_data(id, 3);
    world.remove_shape(id, 1);
    EXPECT_EQ(world.add_shape(id, at(6)), 3u);
    const auto numbers = world.shape_numbers(id);
    EXPECT_EQ(std::vector<std::uint32_t>(numbers.begin(), numbers.end()),
              (std::vector<std::uint32_t>{0, 2, 3}));
    EXPECT_EQ(world.shape(id, 2).tag, 7u);
    EXPECT_EQ(world.shape(id, 2).user_data, 70u);
    EXPECT_EQ(world.user_data(id), 3u);
    EXPECT_EQ(error_of([&] { world.shape(id, 1); }).given(), "1");
    const Ray<D> ray{{6, 5}, {0, -10}};
    EXPECT_EQ(first_hit(world, ray)->shape, 3u);
    add_ball<D>(world, {4, 0.55}, 0.1f);
    world.set_gravity({0, -1});
    world.step();
    ASSERT_FALSE(world.contacts().empty());
    EXPECT_EQ(world.contacts()[0].shape_a, 2u);
    EXPECT_EQ(world.contacts_of(id).size(), world.contacts().size());
    World<D> other;
    other.restore_bytes(world.save_bytes());
    other.remove_shape(id, 3);
    EXPECT_EQ(other.add_shape(id, at(8)), 4u);
}

TYPED_TEST(LiveShapes, WhatRestsOnAShapeFallsWhenItGoes) {
    constexpr int D = TypeParam::value;
    World<D> world{WorldSpec<D>{}};
    ShapeSpec<D> shelf{cube<D>(1)};
    const BodyId rack = world.add({.motion = Motion::Static, .shapes = {shelf}});
    const BodyId ball = add_ball<D>(world, {0, 0.75}, 0.25f);
    step(world, 60);
    EXPECT_NEAR(world.pose(ball).position.y, 0.75, 2e-3);
    const auto before = world.fingerprint();
    world.remove_shape(rack, 0);
    EXPECT_NE(world.fingerprint(), before);
    EXPECT_TRUE(world.contacts().empty());
    step(world, 30);
    EXPECT_LT(world.pose(ball).position.y, 0);
    shelf.placement.position = {0, -5};
    world.add_shape(rack, shelf);
    step(world, 120);
    EXPECT_NEAR(world.pose(ball).position.y, -4.25, 2e-3);
}

TEST(LiveSurfaces, CellsAndHeights) {
    World2 plane{WorldSpec<2>{}};
    const BodyId floor = plane.add(
        {.motion = Motion::Static, .shapes = {{TileGrid{5, 2, 1, std::vector<std::uint8_t>(10, 1)}}}});
    const BodyId ball = add_ball<2>(plane, {2.5, 2.25}, 0.25f);
    step(plane, 30);
    EXPECT_NEAR(plane.pose(ball).position.y, 2.25, 2e-3);
    set_cell(plane, floor, 0, 2, 1, false); // a pit opens
    step(plane, 60);
    EXPECT_NEAR(plane.pose(ball).position.y, 1.25, 2e-3);
    set_cell(plane, floor, 0, 2, 1, true); // and closes over it: it comes out
    step(plane, 120);
    EXPECT_GT(plane.pose(ball).position.y, 2.2);
    EXPECT_EQ(error_of([&] { set_cell(plane, floor, 0, 5, 0, true); }).field(), "cell");
    EXPECT_EQ(error_of([&] { set_cell(plane, ball, 0, 0, 0, true); }).field(), "shape");

    World3 space{WorldSpec<3>{}};
    const BodyId ground = space.add(
        {.motion = Motion::Static, .shapes = {{HeightField{4, 4, 1, std::vector<float>(16, 0.0f)}}}});
    const BodyId drum =
        space.add({.pose = {{1.5, 0.5, 1.5}, {}}, .shapes = {{Cylinder{{0, -0.5f, 0}, {0, 0.5f, 0}, 0.3f}}}});
    step(space, 30);
    EXPECT_NEAR(space.pose(drum).position.y, 0.5, 2e-3);
    for (int column = 1; column <= 2; column++)
        for (int row = 1; row <= 2; row++) set_height(space, ground, 0, column, row, 0.2f);
    step(space, 60);
    EXPECT_NEAR(space.pose(drum).position.y, 0.7, 5e-3); // lifted with the ground
    EXPECT_EQ(error_of([&] { set_height(space, ground, 0, 0, 4, 1); }).field(), "node");
    EXPECT_EQ(error_of([&] { set_height(space, ground, 0, 0, 0, INFINITY); }).field(), "height");
}

TEST(Cutting, CoversTheOutlineWithConvexPieces) {
    Numbers n(21);
    const auto area = [](const std::vector<Vec2>& c) {
        double sum = 0;
        for (std::size_t i = 0; i < c.size(); i++)
            sum += 0.5 * static_cast<double>(cross(c[i], c[(i + 1) % c.size()]));
        return std::fabs(sum);
    };
    for (int i = 0; i < 2000; i++) {
        std::vector<Vec2> star;
        const int count = static_cast<int>(n.in(3, 40));
        for (int k = 0; k < count; k++) {
            const double r = n.in(0.2, 1), a = 2 * M_PI * (k + n.in(0, 0.7)) / count;
            star.push_back({static_cast<float>(r * std::cos(a)), static_cast<float>(r * std::sin(a))});
        }
        if (i % 2) std::reverse(star.begin(), star.end());
        double sum = 0;
        for (const Polygon& p : cut_into_convex(star)) {
            EXPECT_NO_THROW((void)mass_of<2>({{.geometry = p}})); // convex and not degenerate
            sum += area(p.corners);
        }
        EXPECT_NEAR(sum, area(star), 1e-5) << i;
        if (HasFailure()) return;
    }
    const std::vector<Vec2> eight{{0, 0}, {1, 1}, {1, 0}, {0, 1}}, line{{0, 0}, {1, 0}, {2, 0}},
        box{{0, 0}, {1, 0}, {1, 1}, {0, 1}};
    EXPECT_EQ(cut_into_convex(box).size(), 1u);
    EXPECT_NE(error_of([&] { cut_into_convex(eight); }).given().find("that meet"), std::string::npos);
    EXPECT_EQ(error_of([&] { cut_into_convex(line); }).field(), "outline");
    World2 world{WorldSpec<2>{}}; // a concave outline is refused, and the refusal says what to do
    const Polygon concave{{{0, 0}, {2, 0}, {0.5f, 0.5f}, {0, 2}}};
    EXPECT_NE(error_of([&] { world.add({.shapes = {{concave}}}); }).accepted().find("cut_into_convex"),
              std::string::npos);
}

}
}
