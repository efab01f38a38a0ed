// What a world measures of itself: work, penetration, how a quantity is spread.
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class MeasuresTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(MeasuresTest, test::Dimensions);

TYPED_TEST(MeasuresTest, ALiftGivesItsLoadTheHeight) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.add({.motion = Motion::Kinematic, .velocity = {0, 0.5f}, .shapes = {{test::cube<D>(1)}}});
    const BodyId load =
        world.add({.pose = {{0, 1}, {}}, .velocity = {0, 0.5f}, .shapes = {{test::cube<D>(1)}}});
    const double before = world.energy().total();
    test::step(world, 120);
    const double gained = world.energy().total() - before;
    EXPECT_NEAR(gained, world.mass(load).mass * 9.81, 0.01 * gained);
    EXPECT_NEAR(world.work().kinematic, gained, 0.01 * gained);
    EXPECT_EQ(world.work().surfaces, 0);
    EXPECT_EQ(world.work().thrusts, 0);
}

// Half of what a belt gives becomes motion, half is lost in slip.
TYPED_TEST(MeasuresTest, ABeltPaysForSlipToo) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.add(
        {.motion = Motion::Static, .shapes = {{.geometry = HalfSpace<D>{}, .surface_velocity = {2, 0}}}});
    const BodyId parcel = world.add({.pose = {{0, 0.25}, {}}, .shapes = {{test::cube<D>(0.5f)}}});
    test::step(world, 120);
    const double kinetic = 0.5 * world.mass(parcel).mass * 4;
    EXPECT_NEAR(world.energy().kinetic, kinetic, 0.01 * kinetic);
    EXPECT_NEAR(world.work().surfaces, 2 * kinetic, 0.02 * kinetic);
}

TYPED_TEST(MeasuresTest, AThrustGivesForceTimesWay) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId cart = world.add({.shapes = {{test::cube<D>(0.5f)}}});
    world.set_thrust(cart, {.force = {20, 0}, .at = Vec<D>{0, 0.1f}});
    test::step(world, 90);
    EXPECT_NEAR(world.work().thrusts, world.energy().kinetic, 0.02 * world.energy().kinetic);
    EXPECT_GT(length(world.angular_velocity(cart)), 0.2);
}

// A hoist lifts, a tow drags: the work of their motors is in the energy.
TYPED_TEST(MeasuresTest, MotorsGiveForceTimesWay) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId load = world.add({.shapes = {{test::cube<D>(0.5f)}}});
    Slider<D> hoist{.joins = {.a = load}, .axis = {0, 1}};
    hoist.motor = {.most = kUnlimited, .speed = 0.5f};
    const JointId joint = world.add_joint(hoist);
    const double before = world.energy().total();
    test::step(world, 120);
    EXPECT_NEAR(world.centre_of_mass(load).y, 1, 2e-3);
    EXPECT_NEAR(world.work().motors, world.energy().total() - before, 0.01 * world.work().motors);
    world.remove_joint(joint);
    world.set_gravity({});
    world.set_velocity(load, {});
    const double lifted = world.work().motors;
    world.add_joint(Tow<D>{.joins = {.a = load}, .target = Point<D>{3, 1}, .most = 50});
    test::step(world, 60);
    EXPECT_GT(world.energy().kinetic, 1);
    EXPECT_NEAR(world.work().motors - lifted, world.energy().kinetic, 0.02 * world.energy().kinetic);
    EXPECT_EQ(world.work().fields, 0);
}

// A body that falls towards an attractor gains the field's work; wind takes of it.
TYPED_TEST(MeasuresTest, FieldsGiveForceTimesWay) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId slug = world.add({.pose = {{3, 0}, {}}, .shapes = {{test::cube<D>(0.2f)}}});
    const FieldId pull = world.add_field({.kind = Attraction<D>{.strength = 10}});
    test::step(world, 60);
    const double gained = world.energy().kinetic;
    EXPECT_GT(gained, 0);
    EXPECT_NEAR(world.work().fields, gained, 0.03 * gained);
    world.remove_field(pull);
    world.add_field({.kind = Wind<D>{.damping = 1}});
    const double given = world.work().fields;
    test::step(world, 60);
    const double lost = gained - world.energy(slug).kinetic;
    EXPECT_GT(lost, 0.5 * gained);
    EXPECT_NEAR(given - world.work().fields, lost, 0.03 * lost);
    EXPECT_EQ(world.work().motors, 0);
}

TYPED_TEST(MeasuresTest, PenetrationOfWhatWasPutInto) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    test::add_floor<D>(world);
    EXPECT_EQ(world.penetration().contacts, 0u);
    test::add_ball<D>(world, {0, 0.9}, 1);
    test::add_ball<D>(world, {5, 0.8}, 1);
    world.step();
    const Penetration p = world.penetration();
    EXPECT_EQ(p.contacts, 2u);
    EXPECT_EQ(p.overlapping, 2u);
    float deepest = 0, squares = 0;
    for (const auto& c : world.contacts())
        deepest = std::max(deepest, -c.separation), squares += c.separation * c.separation;
    EXPECT_EQ(p.deepest, deepest);
    EXPECT_NEAR(p.typical, std::sqrt(squares / 2), 1e-6);
    EXPECT_GT(p.deepest, p.typical);
}

TEST(Histograms, CountEachValueOnce) {
    const std::vector<double> values{0, 0.5, 1, 1.5, 2, 2.5, 3, -1, 7};
    const Histogram h = histogram_of(values, 0, 3, 3);
    EXPECT_EQ(h.counts, (std::vector<std::size_t>{2, 2, 3}));
    EXPECT_EQ(h.below, 1u);
    EXPECT_EQ(h.above, 1u);
    EXPECT_EQ(h.total(), 9u);
    EXPECT_DOUBLE_EQ(h.density(2), 3.0 / 9);
    EXPECT_EQ(test::error_of([&] { histogram_of(values, 0, 3, 0); }).field(), "bins");
    EXPECT_EQ(test::error_of([&] { histogram_of(values, 3, 3, 2); }).field(), "high");
    EXPECT_EQ(test::error_of([&] { histogram_of(std::vector<double>{NAN}, 0, 3, 2); }).field(), "values");
}

TYPED_TEST(MeasuresTest, AQuantityOfAllDynamicBodies) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 1; i <= 3; i++) world.set_velocity(test::add_ball<D>(world, {3.0 * i, 5}, 1), {i * 1.0f, 0});
    EXPECT_EQ(values_of<D>(world, [&](BodyId id) { return length(world.velocity(id)); }),
              (std::vector<double>{1, 2, 3}));
}

}
}
