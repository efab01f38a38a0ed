// What rests on bodies that are driven: plates, platforms, lifts, turntables, flaps.
#include "support/dims.h"

#include <array>
#include <cmath>

namespace astasis {
namespace {

constexpr double kG = 9.81;

template<typename T> class DrivenTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(DrivenTest, test::Dimensions);

TYPED_TEST(DrivenTest, AKinematicPlateCarriesWhatRestsOnIt) {
    constexpr int D = TypeParam::value;
    World<D> world;
    Vec<D> plate = test::all<D>(4);
    plate.y = 0.2f;
    world.add({.motion = Motion::Kinematic, .velocity = {1, 0.5f}, .shapes = {{test::box_of(plate)}}});
    const BodyId box =
        world.add({.pose = {{0, 0.35}, {}}, .velocity = {1, 0.5f}, .shapes = {{test::cube<D>(0.5f)}}});
    test::step(world, 120);
    EXPECT_NEAR(world.pose(box).position.x, 2, 1e-3);
    EXPECT_NEAR(world.pose(box).position.y, 1.35, 1e-3);
}

// A driven slab as long as that along x and 0.2 m thick, its top at height 0, and a small box on it.
struct Carried {
    BodyId slab, box;
};
template<int D> Carried carried(World<D>& world, float length, double box_at, float friction) {
    Vec<D> sides = test::all<D>(2);
    sides.x = length, sides.y = 0.2f;
    const Material rough{.friction = friction};
    return {
        world.add(
            {.motion = Motion::Kinematic, .pose = {{0, -0.1}, {}}, .shapes = {{test::box_of(sides), rough}}}),
        world.add({.pose = {{box_at, 0.1}, {}}, .shapes = {{test::cube<D>(0.2f), rough}}})};
}

// A platform's velocity is set once a tick; in steps, it would leave its load 14 mm behind in these two
// seconds.
TYPED_TEST(DrivenTest, APlatformThatSpeedsUpTakesItsLoadAlong) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const auto [platform, load] = carried<D>(world, 40, 0, 0.5f);
    test::step(world, 10);
    double way = 0;
    for (int tick = 1; tick <= 120; tick++) {
        Vec<D> v{};
        v.x = 2 * static_cast<float>(tick) / 60;
        way += static_cast<double>(v.x) / 60;
        world.set_velocity(platform, v);
        world.step();
        EXPECT_EQ(world.velocity(platform), v);
        EXPECT_NEAR(world.pose(platform).position.x, way, 1e-9); // as far as in steps
    }
    EXPECT_NEAR(world.pose(load).position.x, way, 3e-4);
    EXPECT_NEAR(world.velocity(load).x, 4, 0.02);
}

// The load of a lift that swings by 7.1 m/s2, in each tick: where it goes up in steps the load hops.
TYPED_TEST(DrivenTest, ALiftBearsItsLoadAsItSpeedsUp) {
    constexpr int D = TypeParam::value;
    constexpr double kAmplitude = 0.5, kRate = 2 * M_PI * 0.6;
    World<D> world;
    const auto [lift, load] = carried<D>(world, 4, 0, 0.6f);
    test::step(world, 10);
    for (int tick = 1; tick <= 300; tick++) {
        const double height = kAmplitude * (1 - std::cos(kRate * tick / 60));
        world.move_to(lift, {{0, height - 0.1}, {}});
        world.step();
        double push = 0;
        for (const auto& c : world.contacts()) push += c.impulse.y;
        const double wanted = kG + kAmplitude * kRate * kRate * std::cos(kRate * (tick - 0.5) / 60);
        if (tick <= 5) continue;
        ASSERT_NEAR(std::fabs(push) * 60 / world.mass(load).mass, wanted, 0.3) << tick;
        ASSERT_NEAR(world.pose(load).position.y - height, 0.1, 2e-4) << tick;
    }
}

// At 2 rad/s the speed of what stands there turns by 4e-3 rad in a substep: what takes its place from where
// it was before goes outwards by 6 cm in these ten seconds.
TEST(Driven, ATurntableKeepsWhatStandsOnIt) {
    const Material rough{.friction = 1};
    for (const float turning : {1.0f, -2.0f})
        for (const Geometry<3>& shape : {Geometry<3>(Box3::sized(0.2f, 0.2f, 0.2f)),
                                         Geometry<3>(Cylinder{{0, -0.1f, 0}, {0, 0.1f, 0}, 0.1f})}) {
            World<3> world;
            world.add({.motion = Motion::Kinematic,
                       .angular_velocity = {0, turning, 0},
                       .shapes = {{Cylinder{{0, -0.2f, 0}, {0, 0, 0}, 2}, rough}}});
            std::array<BodyId, 2> pile;
            for (std::size_t i = 0; i < 2; i++)
                pile[i] = world.add({.pose = {{0.7, 0.1 + 0.2 * static_cast<double>(i), 0}, {}},
                                     .velocity = {0, 0, -0.7f * turning},
                                     .angular_velocity = {0, turning, 0},
                                     .shapes = {{shape, rough}}});
            test::step(world, 600);
            for (const BodyId body : pile) {
                const auto p = world.pose(body).position;
                EXPECT_NEAR(std::hypot(p.x, p.z), 0.7, 4e-3) << turning;
                EXPECT_NEAR(std::remainder(std::atan2(-p.z, p.x) - 10 * turning, 2 * M_PI), 0, 4e-3)
                    << turning;
            }
        }
}

// A flap that turns evenly about its hinge takes a box along, where it lay.
TYPED_TEST(DrivenTest, AFlapTakesAlongWhatLiesOnIt) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const auto [flap, box] = carried<D>(world, 6, 2, 1);
    if constexpr (D == 2) world.set_angular_velocity(flap, 0.2f);
    else world.set_angular_velocity(flap, {0, 0, 0.2f});
    const auto on_flap = [&world](BodyId slab, BodyId load) {
        const Pose<D> at = world.pose(slab);
        return rotate(inverse(at.rotation), world.pose(load).position - at.position);
    };
    test::step(world, 10);
    const Vec<D> before = on_flap(flap, box);
    test::step(world, 60);
    EXPECT_LT(length(on_flap(flap, box) - before), 2e-5);
}

}
}
