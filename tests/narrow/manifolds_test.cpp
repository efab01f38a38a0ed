// Manifolds from hand-made bodies and pairs: what they hold, and what they carry from tick to tick.
#include "narrow/manifolds.h"

#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class ManifoldsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(ManifoldsTest, test::Dimensions);

// A floor and a box of side 1 a millimetre deep in it, with the colliders and the pair that the broad phase
// would give.
template<int D> struct Scene {
    ShapeSpec<D> floor{HalfSpace<D>{}, {.friction = 0.25f, .restitution = 0.1f}};
    ShapeSpec<D> box{test::cube<D>(1), {.friction = 1, .restitution = 0.3f}};
    flow::Bodies<D> bodies;
    std::vector<flow::Collider<D>> colliders{2};
    std::vector<flow::Pair> pairs{{0, 1}};
    narrow::ManifoldFinder<D> finder;

    Scene() {
        bodies.pose.resize(2);
        bodies.mass.resize(2);
        bodies.pose[1].centre = {100, 0.499};
        colliders[0] = {
            .key = 4, .body = 0, .spec = &floor, .reach = INFINITY, .thickness = INFINITY, .slack = 0.01f};
        colliders[1] = {.key = 9, .body = 1, .spec = &box, .reach = 1, .thickness = 1, .slack = 0.01f};
    }
    std::vector<flow::Manifold<D>> find(const std::vector<flow::Manifold<D>>& before) {
        std::vector<flow::Manifold<D>> after;
        finder.find(colliders, pairs, bodies, {}, before, after);
        return after;
    }
};

TYPED_TEST(ManifoldsTest, HoldThePairItsMaterialsAndItsPoints) {
    constexpr int D = TypeParam::value;
    Scene<D> scene;
    const auto found = scene.find({});
    ASSERT_EQ(found.size(), 1u);
    const auto& m = found[0];
    EXPECT_EQ(m.key_a, 4u);
    EXPECT_EQ(m.key_b, 9u);
    EXPECT_EQ(m.count, flow::kMostPoints<D>);
    EXPECT_EQ(m.guide, flow::Guide::FaceOfA);
    EXPECT_FLOAT_EQ(m.friction, 0.5f);    // the geometric mean
    EXPECT_FLOAT_EQ(m.restitution, 0.3f); // the larger
    EXPECT_EQ(m.thickness, 1.0f);
    EXPECT_NEAR(m.normal.y, 1, 1e-6);
    for (int i = 0; i < m.count; i++) {
        EXPECT_NEAR(m.points[i].separation, -1e-3, 1e-6);
        EXPECT_NEAR(m.points[i].core_b.y, -0.5, 1e-6);
        EXPECT_NEAR(std::fabs(m.points[i].core_b.x), 0.5, 1e-6);
        // Evaluated at the same poses, a point says the same.
        EXPECT_NEAR(flow::evaluate(m, m.points[i], scene.bodies).separation, m.points[i].separation, 1e-6);
    }
    scene.bodies.pose[1].centre.y = 0.53; // farther than the slack of both
    EXPECT_TRUE(scene.find(found).empty());
}

TYPED_TEST(ManifoldsTest, CarryImpulsesByFeatureAndElseByPlace) {
    constexpr int D = TypeParam::value;
    Scene<D> scene;
    auto before = scene.find({});
    for (int i = 0; i < before[0].count; i++) {
        before[0].points[i].normal_force = 1 + static_cast<float>(i);
        before[0].points[i].friction_force = {0.1f, 0};
        before[0].points[i].tick_impulse = {7, 7};
    }
    scene.bodies.pose[1].centre.x += 0.01;
    const auto same = scene.find(before);
    for (int i = 0; i < same[0].count; i++) {
        EXPECT_EQ(same[0].points[i].normal_force, 1 + static_cast<float>(i));
        EXPECT_EQ(same[0].points[i].friction_force, (Vec<D>{0.1f, 0}));
        EXPECT_EQ(same[0].points[i].tick_impulse, Vec<D>{}); // that of a tick begins anew
    }
    for (int i = 0; i < before[0].count; i++)
        before[0].points[i].feature += 1000; // other names, the same places
    const auto near = scene.find(before);
    for (int i = 0; i < near[0].count; i++) EXPECT_GT(near[0].points[i].normal_force, 0);
    scene.bodies.pose[1].centre.x += 0.5;
    const auto far = scene.find(before);
    for (int i = 0; i < far[0].count; i++) EXPECT_EQ(far[0].points[i].normal_force, 0);
    before[0].key_b = 8; // another pair
    scene.bodies.pose[1].centre.x -= 0.5;
    for (int i = 0; i < before[0].count; i++) EXPECT_EQ(scene.find(before)[0].points[i].normal_force, 0);
}

}
}
