// What mechanics says of simple scenes, at 60 Hz with the default substeps.
#include "support/dims.h"

#include <algorithm>

namespace astasis {
namespace {

constexpr double kG = 9.81;

template<typename T> class MechanicsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(MechanicsTest, test::Dimensions);

TYPED_TEST(MechanicsTest, FreeFall) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId ball = test::add_ball<D>(world, {0, 100}, 0.1f);
    test::step(world, 120);
    EXPECT_FLOAT_EQ(world.velocity(ball).y, static_cast<float>(-kG * 2));
    EXPECT_NEAR(world.pose(ball).position.y, 100 - kG * 2, 1e-5);
}

// The largest height of the ball's lowest point after its first bounce.
template<int D> double apex_after_drop(float restitution, double* time = nullptr) {
    World<D> world;
    test::add_floor<D>(world, {.restitution = restitution});
    const BodyId ball = test::add_ball<D>(world, {0, 1.1}, 0.1f, 1, {.restitution = restitution});
    double apex = 0;
    for (int i = 0; i < 75; i++) { // the first fall takes 0.45 s, the first bounce ends before 1.36 s
        const bool falling = world.velocity(ball).y <= 0 && world.time() < 0.44;
        world.step();
        const double height = world.pose(ball).position.y - 0.1;
        if (!falling && world.time() > 0.47 && height > apex) {
            apex = height;
            if (time) *time = world.time();
        }
    }
    return apex;
}

TYPED_TEST(MechanicsTest, ABallReturnsByItsRestitution) {
    EXPECT_NEAR(apex_after_drop<TypeParam::value>(0.8f), 0.64, 0.64 * 0.02);
    EXPECT_NEAR(apex_after_drop<TypeParam::value>(1.0f), 1.0, 0.02);
    EXPECT_NEAR(apex_after_drop<TypeParam::value>(0.5f), 0.25, 0.25 * 0.02);
}

TYPED_TEST(MechanicsTest, WithoutRestitutionABallStaysDown) {
    EXPECT_LT(apex_after_drop<TypeParam::value>(0), 1e-4);
}

// Wherever in a substep it meets the floor: also just after the end of one, where its way is shorter than its
// last speed says.
TYPED_TEST(MechanicsTest, PerfectBouncesKeepTheirHeightForAMinute) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const Material perfect{.restitution = 1};
    test::add_floor<D>(world, perfect);
    const BodyId ball = test::add_ball<D>(world, {0, 1.1}, 0.1f, 1, perfect);
    const double before = world.energy().total();
    for (int i = 0; i < 3600; i++) {
        world.step();
        ASSERT_NEAR(world.energy().total() / before, 1, 3e-5) << i << ", at " << world.pose(ball).position.y;
    }
}

// Newton's law of impact: v1' = (m1 - e m2) v/(m1 + m2), v2' = (1 + e) m1 v/(m1 + m2).
TYPED_TEST(MechanicsTest, TwoBallsExchangeMomentumExactly) {
    constexpr int D = TypeParam::value;
    for (const float e : {0.0f, 0.5f, 0.9f, 1.0f}) {
        World<D> world(test::weightless<D>());
        const Material material{.friction = 0, .restitution = e};
        const BodyId light = test::add_ball<D>(world, {-3, 0}, 0.5f, 1, material);
        const BodyId heavy = test::add_ball<D>(world, {0, 0}, 0.5f, 3, material);
        world.set_velocity(light, {4, 0});
        test::step(world, 120);
        const double v1 = world.velocity(light).x, v2 = world.velocity(heavy).x;
        EXPECT_NEAR(v1 + 3 * v2, 4, 4e-5) << e;
        EXPECT_NEAR(v1, 1 - 3 * e, 1e-5) << e;
        EXPECT_NEAR(v2, 1 + e, 1e-5) << e;
        const double lost = 0.5 * 0.75 * 16 * (1 - static_cast<double>(e) * e); // reduced mass 3/4
        EXPECT_NEAR(world.energy().kinetic, 8 - lost, 1e-4) << e;
    }
}

template<int D> double slid_in_two_seconds(float friction) {
    const double angle = 25 * M_PI / 180;
    World<D> world;
    const Material material{.friction = friction};
    world.add({.motion = Motion::Static,
               .pose = {{}, test::about_z(degrees(-25), Vec<D>{})},
               .shapes = {{HalfSpace<D>{}, material}}});
    const Point<D> at{0.25 * std::sin(angle), 0.25 * std::cos(angle)};
    const BodyId box = world.add(
        {.pose = {at, test::about_z(degrees(-25), Vec<D>{})}, .shapes = {{test::cube<D>(0.5f), material}}});
    test::step(world, 120);
    const Vec<D> moved = world.pose(box).position - at;
    EXPECT_NEAR(moved.x * std::sin(angle) + moved.y * std::cos(angle), 0, 1e-3);
    return moved.x * std::cos(angle) - moved.y * std::sin(angle);
}

TYPED_TEST(MechanicsTest, ABoxOnASlopeHoldsOrSlidesAsCoulombSays) {
    constexpr int D = TypeParam::value;
    EXPECT_LT(std::fabs(slid_in_two_seconds<D>(0.5f)), 1e-4);
    const double angle = 25 * M_PI / 180, a = kG * (std::sin(angle) - 0.4 * std::cos(angle));
    EXPECT_NEAR(slid_in_two_seconds<D>(0.4f), 0.5 * a * 4, 0.02 * 0.5 * a * 4);
}

TEST(Mechanics, FrictionInSpaceIsTheSameInAllDirections) { // stopping distance v^2/(2 mu g)
    for (int degree = 0; degree <= 90; degree += 15) {
        World<3> world;
        test::add_floor<3>(world, {.friction = 0.3f});
        const BodyId box = world.add({.pose = {{0, 0.25}, turned(degrees(20), {0, 1, 0})},
                                      .velocity = rotate(turned(degrees(degree), {0, 1, 0}), Vec3{3, 0, 0}),
                                      .shapes = {{Box3::sized(0.5f, 0.5f, 0.5f), {.friction = 0.3f}}}});
        const Vec3 along = direction(world.velocity(box), Vec3{});
        test::step(world, 90);
        const Vec3 moved = world.pose(box).position - Point3{0, 0.25, 0};
        EXPECT_NEAR(length(moved), 9 / (2 * 0.3 * kG), 0.02 * 1.529) << degree;
        EXPECT_GT(dot(moved, along) / length(moved), std::cos(M_PI / 180)) << degree;
        EXPECT_LT(length(world.velocity(box)), 1e-3f);
    }
}

// What spins flat on a floor and bears evenly is slowed by mu g r over its radius of gyration squared, r the
// mean distance from the middle of its face.
TEST(Mechanics, WhatSpinsOnItsFaceStopsAsIfItBoreEvenly) {
    const float mu = 0.3f, spin = 6;
    struct Case {
        Geometry<3> shape;
        double mean_distance, gyration_squared, tolerance;
    };
    const auto plank = [](float length, double mean, double tolerance) {
        return Case{Box3::sized(length, 0.2f, 1), mean, (length * length + 1) / 12, tolerance};
    };
    // Means of rectangles by quadrature.
    const Case cases[]{plank(1, 0.3826, 0.03),
                       plank(2, 0.5931, 0.03),
                       plank(4, 1.0614, 0.06),
                       {Cylinder{{0, -0.1f, 0}, {0, 0.1f, 0}, 0.5f}, 1.0 / 3, 0.125, 0.03}};
    for (const Case& c : cases) {
        World<3> world;
        test::add_floor<3>(world, {.friction = mu});
        const BodyId body =
            world.add({.pose = {{0, 0.1, 0}, {}}, .shapes = {{c.shape, Material{.friction = mu}}}});
        test::step(world, 30);
        world.set_angular_velocity(body, {0, spin, 0});
        const double time = spin * c.gyration_squared / (mu * kG * c.mean_distance);
        test::step(world, static_cast<int>(time / 2 * 60));
        const double slowed = spin - world.angular_velocity(body).y, passed = std::floor(time / 2 * 60) / 60;
        EXPECT_NEAR(slowed / spin, passed / time, c.tolerance * passed / time);
        EXPECT_LT(length(world.velocity(body)), 1e-3f);
    }
}

TYPED_TEST(MechanicsTest, AStackOfTenStandsForHalfAMinute) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    std::vector<BodyId> boxes;
    for (int i = 0; i < 10; i++)
        boxes.push_back(world.add({.pose = {{0, 0.25 + 0.5 * i}, {}}, .shapes = {{test::cube<D>(0.5f)}}}));
    test::step(world, 60);
    std::vector<Point<D>> at;
    for (const BodyId b : boxes) at.push_back(world.pose(b).position);
    float most = 0;
    for (int i = 0; i < 29 * 60; i++) {
        world.step();
        for (std::size_t k = 0; k < boxes.size(); k++)
            most = std::max(most, length(world.pose(boxes[k]).position - at[k]));
    }
    EXPECT_LT(most, 1e-3f);
    for (const auto& c : world.contacts()) EXPECT_GT(c.separation, -2e-3f);
}

// It was pressed together by its weight, and is not to spring apart: with a single pass to take back what
// parts it, by 7 mm.
TYPED_TEST(MechanicsTest, AColumnThatLosesItsFloorFallsAsOne) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor =
        world.add({.motion = Motion::Static, .pose = {{0, -0.5}, {}}, .shapes = {{test::cube<D>(1)}}});
    std::vector<BodyId> cubes;
    for (int i = 0; i < 5; i++)
        cubes.push_back(world.add({.pose = {{0, 0.25 + 0.5 * i}, {}}, .shapes = {{test::cube<D>(0.5f)}}}));
    test::step(world, 120);
    world.remove(floor);
    test::step(world, 30);
    for (std::size_t i = 0; i + 1 < cubes.size(); i++)
        EXPECT_NEAR(world.pose(cubes[i + 1]).position.y - world.pose(cubes[i]).position.y, 0.5, 1.2e-3) << i;
}

// The floor carries the weight of all, the k-th face that of those above it.
TYPED_TEST(MechanicsTest, ContactForcesCarryTheWeight) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    const std::vector<ShapeSpec<D>> shapes{{test::cube<D>(0.5f)}};
    for (int i = 0; i < 5; i++)
        world.add({.pose = {{0, 0.25 + 0.5 * i}, {}}, .shapes = shapes, .mass = mass_of(shapes, 10)});
    test::step(world, 120);
    double on_floor = 0;
    for (const auto& c : world.contacts()) {
        EXPECT_NEAR(length(c.normal), 1, 1e-5);
        if (c.body_a == floor) on_floor += c.impulse.y * 60;
    }
    EXPECT_NEAR(on_floor, 5 * 10 * kG, 0.5);
}

TYPED_TEST(MechanicsTest, AFlatBoxBouncesWithoutTurning) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    test::add_floor<D>(world, {.restitution = 0.5f});
    Vec<D> size = test::all<D>(1);
    size.y = 0.4f;
    const BodyId box = world.add({.pose = {{0, 0.25}, {}},
                                  .velocity = {0, -3},
                                  .shapes = {{test::box_of(size), {.restitution = 0.5f}}}});
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(box).y, 1.5, 1e-3);
    EXPECT_LT(length(world.angular_velocity(box)), 0.01f);
}

// Backspin at a bounce: grip stops the contact point, slip is mu (1 + e) v (Routh; I = m r^2/2 or 2/5 m r^2).
TYPED_TEST(MechanicsTest, ASpinningBallGripsOrSlips) {
    constexpr int D = TypeParam::value;
    const double k = D == 2 ? 0.5 : 0.4; // I/(m r^2)
    for (const float mu : {0.5f, 0.05f}) {
        World<D> world(test::weightless<D>());
        test::add_floor<D>(world, {.friction = mu, .restitution = 1});
        const BodyId ball = test::add_ball<D>(world, {0, 0.11}, 0.1f, 1, {.friction = mu, .restitution = 1});
        world.set_velocity(ball, {0, -3});
        Axial<D> spin{};
        if constexpr (D == 2) spin = 20;
        else spin = {0, 0, 20};
        world.set_angular_velocity(ball, spin);
        test::step(world, 30);
        const double impulse = mu > 0.1f ? 2 / (1 + 1 / k) : mu * 2 * 3;
        EXPECT_NEAR(world.velocity(ball).y, 3, 1e-3);
        EXPECT_NEAR(std::fabs(world.velocity(ball).x), impulse, 0.01) << mu;
        EXPECT_NEAR(length(world.angular_velocity(ball)), 20 - impulse / (k * 0.1), 0.1) << mu;
    }
}

TYPED_TEST(MechanicsTest, ADropGainsNoEnergy) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world, {.restitution = 0.3f});
    test::Numbers n(21);
    for (int i = 0; i < 30; i++) {
        Point<D> at{n.in(-1, 1), 0.5 + 0.55 * i}; // none overlaps
        world.add(
            {.pose = {at, n.rotation(Vec<D>{})}, .shapes = {{test::cube<D>(0.3f), {.restitution = 0.3f}}}});
    }
    const double start = world.energy().total();
    double before = start;
    for (int i = 0; i < 600; i++) {
        world.step();
        const double now = world.energy().total();
        ASSERT_LT(now, before + 0.001 * start) << i;
        before = now;
    }
    EXPECT_LT(world.energy().total(), 0.5 * start);
}

// A cloud that falls in on itself: linear momentum to rounding, angular momentum to a thousandth of what
// turns.
TYPED_TEST(MechanicsTest, ContactsKeepMomentum) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    test::Numbers n(22);
    const int layers = D == 2 ? 1 : 4;
    for (int i = 0; i < 16 * layers; i++) {
        Vec<D> at{0.7f * static_cast<float>(i % 4) - 1, 0.7f * static_cast<float>(i / 4 % 4) - 1};
        if constexpr (D == 3) at.z = 0.7f * static_cast<float>(i / 16) - 1;
        world.add({.pose = {Point<D>{} + at, n.rotation(Vec<D>{})},
                   .velocity = at * -1.5f + n.template vec<D>(-1, 1),
                   .shapes = {{test::cube<D>(0.35f), {.restitution = 0.3f}}}});
    }
    const auto before = world.momentum();
    double linear = 0, angular = 0;
    for (const BodyId b : world.bodies()) {
        const Vec<D> p = world.velocity(b) * world.mass(b).mass;
        linear += length(p);
        angular += length(cross(world.centre_of_mass(b) - Point<D>{}, p));
    }
    test::step(world, 120);
    EXPECT_LT(length(world.momentum().linear - before.linear), 1e-5 * linear);
    EXPECT_LT(length(world.momentum().angular - before.angular), 1e-2 * angular);
}

// A box between a wall and one that is heavier and comes on: both meet with their faces, as often as central
// impacts say, and leave as these say, without turning.
struct Speeds {
    double light, heavy;
};
Speeds after_all_impacts(double ratio) {
    double light = 0, heavy = -1;
    while (heavy < light || light < 0) {
        const double both = (light + ratio * heavy) / (1 + ratio), closing = light - heavy;
        if (closing > 0)
            light = both - ratio / (1 + ratio) * closing, heavy = both + 1 / (1 + ratio) * closing;
        else light = -light;
    }
    return {light, heavy};
}

TYPED_TEST(MechanicsTest, FacesThatBounceStayLevel) {
    constexpr int D = TypeParam::value;
    for (const float ratio : D == 2 ? std::vector<float>{1, 16, 100, 1000} : std::vector<float>{1, 16, 100}) {
        World<D> world(test::weightless<D>());
        const Material hard{.friction = 0, .restitution = 1};
        world.add({.motion = Motion::Static, .pose = {{-0.5, 0}, {}}, .shapes = {{test::cube<D>(1), hard}}});
        const std::vector<ShapeSpec<D>> box{{test::cube<D>(0.2f), hard}};
        const BodyId light = world.add({.pose = {{1, 0}, {}}, .shapes = box, .mass = mass_of(box, 1)}),
                     heavy = world.add({.pose = {{2, 0}, {}},
                                        .velocity = {-1, 0},
                                        .shapes = box,
                                        .mass = mass_of(box, ratio)});
        test::step(world, 600);
        const Speeds wanted = after_all_impacts(ratio);
        EXPECT_NEAR(world.velocity(light).x, wanted.light, 1e-4) << ratio;
        EXPECT_NEAR(world.velocity(heavy).x, wanted.heavy, 1e-5) << ratio;
        EXPECT_LT(length(world.angular_velocity(light)) * 0.1f, 0.01f) << ratio;
    }
}

// All legs of a table come down at once, though each is a shape of its own.
TYPED_TEST(MechanicsTest, ATableBouncesLevel) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const Material hard{.friction = 0.5f, .restitution = 1};
    test::add_floor<D>(world, hard);
    Vec<D> leg{0.1f, 0.8f}, top{1, 0.05f};
    if constexpr (D == 3) leg.z = 0.1f, top.z = 0.8f;
    std::vector<ShapeSpec<D>> shapes{{test::box_of(top), hard}};
    for (const float x : {-0.4f, 0.4f})
        for (const float z : {-0.3f, 0.3f}) {
            Vec<D> at{x, -0.4f};
            if constexpr (D == 3) at.z = z;
            else if (z > 0) continue;
            shapes.push_back({.geometry = test::box_of(leg), .material = hard, .placement = {at, {}}});
        }
    const BodyId table = world.add({.pose = {{0, 2}, {}}, .shapes = shapes});
    const double before = world.energy().total();
    for (int i = 0; i < 300; i++) {
        world.step();
        ASSERT_LT(length(world.angular_velocity(table)) * 0.5f, 1e-3f) << i;
    }
    EXPECT_NEAR(world.energy().total(), before, 1e-3 * before);
}

// What rolls or slides through a bowl made of pieces gains no energy at the valleys between them.
Geometry<2> bowl(int pieces, Vec2) {
    std::vector<Vec2> corners;
    for (int i = 0; i <= pieces; i++) { // from right to left, solid below
        const double angle = 1 - 2.0 * i / pieces;
        corners.push_back(
            {static_cast<float>(2 * std::sin(angle)), static_cast<float>(-2 * std::cos(angle))});
    }
    return Polyline::open(corners);
}
Geometry<3> bowl(int pieces, Vec3) {
    HeightField field{pieces + 1, 3, 3.2f / static_cast<float>(pieces), {}};
    for (int i = 0; i < 3 * (pieces + 1); i++) {
        const double x = (i % (pieces + 1)) * field.pitch - 1.6;
        field.heights.push_back(static_cast<float>(-std::sqrt(4 - x * x)));
    }
    return field;
}
TYPED_TEST(MechanicsTest, ABowlOfPiecesGivesNoEnergy) {
    constexpr int D = TypeParam::value;
    for (const int pieces : {20, 76, 300}) {
        World<D> world;
        Point<D> corner{};
        if constexpr (D == 3) corner = {-1.6, 0, -1.6f / static_cast<float>(pieces)};
        world.add({.motion = Motion::Static,
                   .pose = {corner, {}},
                   .shapes = {{bowl(pieces, Vec<D>{}), {.friction = 0}}}});
        const double way = 1.897, start = 0.2; // clear of the chords, which are nearer than the arc
        const BodyId ball = test::add_ball<D>(world, {way * std::sin(start), -way * std::cos(start)}, 0.1f, 1,
                                              {.friction = 0});
        const auto energy = [&] {
            const Vec<D> v = world.velocity(ball);
            return kG * (world.pose(ball).position.y + 1.9) + 0.5 * dot(v, v);
        };
        const double before = energy();
        double most = 0;
        for (int i = 0; i < 600; i++) world.step(), most = std::max(most, energy());
        EXPECT_LT(most, 1.01 * before) << pieces;
        EXPECT_GT(energy(), 0.4 * before) << pieces;
    }
}

// A drum set down on its edge totters round, ever lower: nothing feeds it, with coarse substeps or fine.
TEST(MechanicsSpace, ADrumThatTottersGainsNoEnergy) {
    for (const int substeps : {8, 32})
        for (const double tilt : {5.0, 15.0, 30.0}) {
            World<3> world;
            world.set_substeps(substeps);
            test::add_floor<3>(world);
            const double angle = tilt * 3.14159265358979 / 180;
            const BodyId drum = world.add({.pose = {{0, 0.3 * (std::cos(angle) + std::sin(angle)), 0},
                                                    turned(radians(angle), Vec3{1, 0, 0})},
                                           .angular_velocity = {0, 2, 0},
                                           .shapes = {{Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, 0.3f}}}});
            double least = world.energy(drum).total();
            for (int tick = 0; tick < 900; tick++) {
                world.step();
                const double now = world.energy(drum).total();
                ASSERT_LT(now, least + 1) << tilt << " degrees, " << substeps << " substeps, tick " << tick;
                least = std::min(least, now);
            }
        }
}

}
}
