// A world as bytes: goes on as if it had never been away, and refuses what is not whole.
#include "support/demo_scenes.h"
#include "support/dims.h"

namespace astasis {
namespace {

class Bytes : public ::testing::TestWithParam<std::string> {};

TEST_P(Bytes, RestoreThenContinueIsTheSame) {
    const auto file = test::demo_scene(GetParam());
    std::visit(
        [&](const auto& s) {
            auto made = scene::make_world(s, file.document);
            auto& world = made.world;
            const bool large = world.bodies().size() > 1000;
            for (int round = 0; round < (large ? 1 : 6); round++) {
                test::step(world, large ? 2 : 15);
                const auto bytes = world.save_bytes();
                std::remove_reference_t<decltype(world)> other;
                other.restore_bytes(bytes);
                ASSERT_EQ(other.fingerprint(), world.fingerprint());
                ASSERT_EQ(other.save_bytes(), bytes);
                for (int i = 0; i < (large ? 2 : 15); i++) {
                    world.step(), other.step();
                    ASSERT_EQ(other.fingerprint(), world.fingerprint())
                        << "round " << round << ", tick " << i;
                }
            }
        },
        file.scene);
}
INSTANTIATE_TEST_SUITE_P(Demo, Bytes, ::testing::ValuesIn(test::demo_scenes()));

template<typename T> class BytesTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(BytesTest, test::Dimensions);

template<int D> World<D> a_world() {
    World<D> world;
    const MaterialId board = world.add_material({.friction = 0.3f}), other = world.add_material({});
    world.set_between(board, other, {.friction = 0.7f});
    world.add({.motion = Motion::Static, .shapes = {{.geometry = HalfSpace<D>{}, .shared = board}}});
    for (int i = 0; i < 4; i++)
        world.add({.pose = {{0.1 * i, 0.6 + 1.1 * i}, {}},
                   .shapes = {{.geometry = test::cube<D>(1), .shared = other}}});
    world.remove(world.bodies()[2]);
    world.set_thrust(world.bodies()[1], {.force = {30, 0}, .at = Vec<D>{0.1f, 0}});
    test::step(world, 40);
    return world;
}

TYPED_TEST(BytesTest, EditsAfterwardsAreTheSameToo) {
    constexpr int D = TypeParam::value;
    World<D> world = a_world<D>(), other;
    other.restore_bytes(world.save_bytes());
    for (World<D>* w : {&world, &other}) {
        test::step(*w, 5);
        w->remove(w->bodies()[1]);
        w->add({.pose = {{0, 9}, {}}, .shapes = {{test::cube<D>(1)}}});
        test::step(*w, 60);
    }
    EXPECT_EQ(world.fingerprint(), other.fingerprint());
    EXPECT_EQ(world.save_bytes(), other.save_bytes());
    EXPECT_EQ(world.work().thrusts, other.work().thrusts);
}

TYPED_TEST(BytesTest, WhatIsNotWholeIsRefused) {
    constexpr int D = TypeParam::value;
    const World<D> world = a_world<D>();
    const auto bytes = world.save_bytes();
    World<D> other = a_world<D>();
    const auto before = other.fingerprint();
    const auto refuses = [&](std::span<const std::byte> b) {
        return test::error_of([&] { other.restore_bytes(b); });
    };
    for (std::size_t n = 0; n < bytes.size(); n += 7)
        EXPECT_EQ(refuses(std::span(bytes).first(n)).field(), "bytes") << n;
    for (std::size_t i = 0; i < bytes.size(); i += 11) {
        auto altered = bytes;
        altered[i] ^= std::byte{0x10};
        EXPECT_EQ(refuses(altered).field(), "bytes") << i;
    }
    auto newer = bytes;
    newer[8] = std::byte{99};
    EXPECT_NE(refuses(newer).given().find("version 99"), std::string::npos);
    auto longer = bytes;
    longer.push_back({});
    refuses(longer);
    World<5 - D> of_other_dimension;
    EXPECT_NE(test::error_of([&] { of_other_dimension.restore_bytes(bytes); }).given().find("dimensions"),
              std::string::npos);
    EXPECT_EQ(other.fingerprint(), before) << "nothing has changed";
}

}
}
