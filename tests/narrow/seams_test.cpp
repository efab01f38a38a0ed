// Seams between separate bodies: what slides over them feels nothing; what juts out is met.
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class Seams : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(Seams, test::Dimensions);

// Tiles of 0.5 m as bodies of their own, top at 0, the one from 2 to 2.5 m raised; a slick body slides along.
template<int D> struct Floor {
    World<D> world;
    BodyId body;
    explicit Floor(const Geometry<D>& shape, float speed, double raised = 0, Motion tiles = Motion::Static) {
        Vec<D> size = test::all<D>(0.5f);
        if constexpr (D == 3) size.z = 2;
        for (int i = 0; i < 20; i++)
            world.add({.motion = tiles,
                       .pose = {{0.25 + 0.5 * i, -0.25 + (i == 4 ? raised : 0)}, {}},
                       .shapes = {{test::box_of(size), {.friction = 0}, 5000}}});
        if (tiles == Motion::Dynamic)
            world.add({.motion = Motion::Static, .pose = {{0, -0.5}, {}}, .shapes = {{HalfSpace<D>{}}}});
        body = world.add({.pose = {{0.5, 0.2}, {}}, .shapes = {{shape, {.friction = 0}, 100}}});
        test::step(world, 20);
        world.set_velocity(body, {speed, 0});
    }
};

TYPED_TEST(Seams, AreNotFelt) {
    constexpr int D = TypeParam::value;
    for (const float speed : {0.2f, 1.0f, 5.0f, 13.0f, 40.0f})
        for (const Motion tiles : {Motion::Static, Motion::Dynamic})
            for (const Geometry<D>& shape : {Geometry<D>{test::cube<D>(0.4f)}, Geometry<D>{Ball<D>{0.2f}}}) {
                Floor<D> f(shape, speed, 0, tiles);
                const double from = f.world.pose(f.body).position.x, height = f.world.pose(f.body).position.y;
                const int ticks = std::min(300, static_cast<int>(8 / speed * 60));
                test::step(f.world, ticks);
                // Tiles that can be moved give way a little where they are trodden on.
                const double off = tiles == Motion::Static ? 4e-4 : 1e-2;
                EXPECT_NEAR(f.world.velocity(f.body).x, speed, off * speed) << speed;
                EXPECT_NEAR(f.world.pose(f.body).position.x, from + speed * ticks / 60.0, off * 8) << speed;
                EXPECT_NEAR(f.world.pose(f.body).position.y, height, 1e-4) << speed;
            }
}

TYPED_TEST(Seams, WhatJutsOutIsMet) {
    constexpr int D = TypeParam::value;
    for (const float speed : {1.0f, 5.0f, 13.0f}) {
        Floor<D> f(test::cube<D>(0.4f), speed, 0.05);
        test::step(f.world, static_cast<int>(4 / speed * 60));
        EXPECT_LT(f.world.velocity(f.body).x, 0.8 * speed) << speed;
    }
}

// An arm that hangs below the floor's plane beyond its end meets what stands there, though that is behind the
// plane.
TYPED_TEST(Seams, AnotherShapeOfTheBodyIsHeld) {
    constexpr int D = TypeParam::value;
    World<D> world;
    Vec<D> floor = test::all<D>(1), arm = test::all<D>(0.1f);
    floor.x = 4, arm.y = 0.8f;
    const Material slick{.friction = 0};
    world.add({.motion = Motion::Static, .pose = {{-2, -0.5}, {}}, .shapes = {{test::box_of(floor), slick}}});
    world.add({.motion = Motion::Static,
               .pose = {{1.5, -0.5}, {}},
               .shapes = {{test::box_of(floor * 0.25f), slick}}});
    const BodyId body = world.add({.pose = {{-0.6, 0.2}, {}},
                                   .shapes = {{test::cube<D>(0.4f), slick, 1000},
                                              {test::box_of(arm), slick, 10, {{0.7f, -0.4f}, {}}}}});
    test::step(world, 20);
    world.set_velocity(body, {2, 0});
    test::step(world, 60);
    EXPECT_LT(world.velocity(body).x, 0.5);
    EXPECT_LT(world.pose(body).position.x, 0.8) << "its cube is before the side that the arm met, at 1";
}

}
}
