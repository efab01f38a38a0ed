// A restored world goes on as if it had never been interrupted.
#include "support/cases.h"
#include "support/demo_scenes.h"
#include "support/dims.h"

namespace astasis {
namespace {

using test::Numbers;

template<int D> void expect_restores(World<D>& world, int ticks) {
    for (int i = 0; i < ticks; i++) {
        const Snapshot<D> saved = world.save();
        EXPECT_EQ(saved.ticks(), world.ticks());
        World<D> other;
        other.restore(saved);
        ASSERT_EQ(other.fingerprint(), world.fingerprint());
        world.step();
        other.step();
        ASSERT_EQ(other.fingerprint(), world.fingerprint()) << "tick " << i;
        const auto after = world.fingerprint();
        world.restore(saved); // and back, and on again
        world.step();
        ASSERT_EQ(world.fingerprint(), after);
    }
}

class Snapshots : public ::testing::TestWithParam<std::string> {};

// All of a scene's ticks in the soak.
TEST_P(Snapshots, RestoreThenContinueIsTheSameAtEveryTick) {
    const auto file = test::demo_scene(GetParam());
    std::visit(
        [&](const auto& s) {
            auto made = scene::make_world(s, file.document);
            const auto all = static_cast<int>(s.duration / made.world.settings().tick);
            const int some = made.world.bodies().size() > 1000 ? 2 : 90;
            expect_restores(made.world, test::is_soak() ? all : some);
        },
        file.scene);
}
INSTANTIATE_TEST_SUITE_P(Demo, Snapshots, ::testing::ValuesIn(test::demo_scenes()));

template<typename T> class SnapshotTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SnapshotTest, test::Dimensions);

// Edits after the snapshot do not reach into it, nor the other way round.
TYPED_TEST(SnapshotTest, EditsAfterwardsLeaveItAlone) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    std::vector<BodyId> ids;
    for (int i = 0; i < 5; i++)
        ids.push_back(world.add({.pose = {{0.2 * i, 1 + 1.1 * i}, {}}, .shapes = {{test::cube<D>(1)}}}));
    test::step(world, 40);
    world.set_thrust(ids[4], {.force = {100, 0}});
    world.apply_force(ids[3], {50, 0});
    const Snapshot<D> saved = world.save();
    World<D> twin;
    twin.restore(saved);
    world.remove(ids[1]);
    world.set_layers(floor, 0, 2, 0);
    world.add({.pose = {{0, 9}, {}}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 30);
    EXPECT_FALSE(world.contains(ids[1]));
    world.restore(saved);
    EXPECT_TRUE(world.contains(ids[1]));
    for (int i = 0; i < 60; i++) {
        world.step();
        twin.step();
        ASSERT_EQ(world.fingerprint(), twin.fingerprint());
    }
    EXPECT_EQ(first_hit(world, Ray<D>{{0, 20}, {0, -40}})->body,
              first_hit(twin, Ray<D>{{0, 20}, {0, -40}})->body);
}

}
}
