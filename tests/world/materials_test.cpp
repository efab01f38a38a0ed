// Materials that shapes share, how two become one, and what restitution does along a surface.
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class MaterialsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(MaterialsTest, test::Dimensions);

// How far a block of 1 m/s slides on a floor: v^2 / (2 mu g).
template<int D> double sliding_way(World<D>& world, const ShapeSpec<D>& block) {
    const BodyId id = world.add({.pose = {{0, 0.25}, {}}, .velocity = {1, 0}, .shapes = {block}});
    test::step(world, 180);
    const double way = world.pose(id).position.x;
    world.remove(id);
    return way;
}
double way_at(double friction) { return 1 / (2 * friction * 9.81); }

TYPED_TEST(MaterialsTest, EditingASharedOneChangesAllItsShapes) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world, {.friction = 1});
    const MaterialId slick = world.add_material({.friction = 0.04f});
    std::vector<BodyId> blocks;
    for (int i = 0; i < 3; i++)
        blocks.push_back(world.add({.pose = {{2.0 * i, 0.25}, {}},
                                    .velocity = {1, 0},
                                    .shapes = {{.geometry = test::cube<D>(0.5f), .shared = slick}}}));
    test::step(world, 15);
    for (const BodyId id : blocks) EXPECT_NEAR(world.velocity(id).x, 1 - 0.2 * 9.81 * 0.25, 2e-3);
    world.set_material(slick, {.friction = 0.64f});
    world.set_material(blocks[2], 0, {.friction = 0}); // has one of its own from now on
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(blocks[0]).x, 0, 1e-4);
    EXPECT_NEAR(world.velocity(blocks[1]).x, 0, 1e-4);
    EXPECT_GT(world.velocity(blocks[2]).x, 0.4f);
    world.share_material(blocks[2], 0, slick);
    test::step(world, 30);
    EXPECT_NEAR(world.velocity(blocks[2]).x, 0, 1e-4);
    EXPECT_EQ(world.material(blocks[2], 0).friction, 0.64f);
}

TYPED_TEST(MaterialsTest, TwoBecomeOneAsTheySay) {
    constexpr int D = TypeParam::value;
    const auto way = [](Mixing of_floor, Mixing of_block) {
        World<D> world;
        test::add_floor<D>(world, {.friction = 0.8f, .friction_mixing = of_floor});
        return sliding_way<D>(world, {.geometry = test::cube<D>(0.5f),
                                      .material = {.friction = 0.2f, .friction_mixing = of_block}});
    };
    EXPECT_NEAR(way(Mixing::Smaller, Mixing::Smaller), way_at(0.2), 3e-3);
    EXPECT_NEAR(way(Mixing::Product, Mixing::Product), way_at(0.16), 4e-3);
    EXPECT_NEAR(way(Mixing::GeometricMean, Mixing::GeometricMean), way_at(0.4), 3e-3);
    EXPECT_NEAR(way(Mixing::Mean, Mixing::Mean), way_at(0.5), 3e-3);
    EXPECT_NEAR(way(Mixing::Larger, Mixing::Larger), way_at(0.8), 3e-3);
    EXPECT_EQ(way(Mixing::Smaller, Mixing::Mean), way(Mixing::Mean, Mixing::Mean)) << "the later counts";
    EXPECT_EQ(way(Mixing::Mean, Mixing::Smaller), way(Mixing::Mean, Mixing::Mean));
}

TYPED_TEST(MaterialsTest, APairMayHaveItsOwn) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const MaterialId board = world.add_material({.friction = 0.5f}),
                     cloth = world.add_material({.friction = 0.5f});
    world.add({.motion = Motion::Static, .shapes = {{.geometry = HalfSpace<D>{}, .shared = board}}});
    const ShapeSpec<D> block{.geometry = test::cube<D>(0.5f), .shared = cloth};
    world.set_between(cloth, board, {.friction = 0.1f});
    EXPECT_NEAR(sliding_way<D>(world, block), way_at(0.1), 5e-3);
    world.set_between(board, cloth, {.friction = 0.25f}); // the same pair
    EXPECT_NEAR(sliding_way<D>(world, block), way_at(0.25), 3e-3);
    world.clear_between(cloth, board);
    EXPECT_NEAR(sliding_way<D>(world, block), way_at(0.5), 3e-3);
}

TYPED_TEST(MaterialsTest, BadCallsAreRefused) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const MaterialId board = world.add_material({}), gone = world.add_material({});
    world.remove_material(gone);
    const BodyId block =
        world.add({.shapes = {{.geometry = test::cube<D>(1), .shared = board}}, .user_data = 7});
    const auto error = test::error_of([&] { world.remove_material(board); });
    EXPECT_NE(error.given().find("user data 7"), std::string::npos);
    EXPECT_EQ(test::error_of([&] { (void)world.material(gone); }).field(), "material id");
    EXPECT_EQ(test::error_of([&] { world.set_material(board, {.tangential_restitution = 2}); }).field(),
              "material.tangential_restitution");
    EXPECT_EQ(test::error_of([&] { world.set_between(board, gone, {}); }).field(), "b");
    EXPECT_EQ(test::error_of([&] { world.share_material(block, 0, gone); }).field(), "material");
    EXPECT_EQ(test::error_of([&] { world.share_material(block, 4, board); }).field(), "shape");
    EXPECT_EQ(test::error_of([&] {
                  world.add({.shapes = {{.geometry = test::cube<D>(1), .shared = gone}}});
              }).field(),
              "shapes[0].shared");
    world.remove(block);
    world.remove_material(board);
}

// A boxes' corner that friction turns rebounds faster than it came if restitution looks at speeds alone.
TYPED_TEST(MaterialsTest, ImpactsNeverAddEnergy) {
    constexpr int D = TypeParam::value;
    test::Numbers n(5);
    double most = 0;
    for (int i = 0; i < 400; i++) {
        World<D> world(test::weightless<D>());
        const Material m{
            .friction = n.f(0, 2), .restitution = 1, .tangential_restitution = i % 2 ? 0.0f : n.f(0, 1)};
        test::add_floor<D>(world, m);
        Vec<D> size = test::all<D>(0.1f);
        size.x = n.f(0.1, 1);
        const BodyId box = world.add({.pose = {{0, 1}, n.rotation(Vec<D>{})},
                                      .velocity = {n.f(-4, 4), n.f(-8, -1)},
                                      .shapes = {{test::box_of(size), m}}});
        Axial<D> spin = world.angular_velocity(box);
        if constexpr (D == 2) spin = n.f(-9, 9);
        else spin = n.template vec<3>(-9, 9);
        world.set_angular_velocity(box, spin);
        const double before = world.energy().kinetic;
        test::step(world, 90);
        EXPECT_LE(world.energy().kinetic, before * (1 + 1e-3));
        most = std::max(most, world.energy().kinetic / before);
    }
    EXPECT_GT(most, 0.9) << "most keep their energy";
}

}
}
