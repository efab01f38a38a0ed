#include "islands/islands.h"

#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class IslandsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(IslandsTest, test::Dimensions);

// Bodies that touch each other by one manifold each; the first is the ground.
template<int D> struct Pile {
    flow::Bodies<D> bodies;
    std::vector<flow::Manifold<D>> manifolds;
    std::vector<flow::Edge> edges;
    flow::ContactLists lists;
    islands::Islands<D> islands;
    islands::Budget budget;
    std::vector<std::uint32_t> claims;

    explicit Pile(const std::vector<float>& masses) {
        bodies.moving = static_cast<std::uint32_t>(masses.size());
        bodies.mass.resize(masses.size());
        bodies.free.resize(masses.size());
        bodies.pose.resize(masses.size());
        bodies.velocity.resize(masses.size());
        bodies.still.resize(masses.size());
        for (std::size_t i = 0; i < masses.size(); i++)
            bodies.mass[i].mass = masses[i], bodies.mass[i].inverse_mass = masses[i] > 0 ? 1 / masses[i] : 0;
    }
    void touch(std::uint32_t a, std::uint32_t b) {
        flow::Manifold<D> m;
        m.body_a = a, m.body_b = b, m.count = 1, m.thickness = 1;
        manifolds.push_back(m);
    }
    // A contact gives way by `fall` for a load of its lighter body's own weight.
    std::vector<float> loads(float fall = 1e-6f) {
        flow::find_edges<D>(manifolds, edges);
        lists.find(bodies, edges);
        islands.find(bodies, manifolds, edges, lists, Vec<D>{0, -1}, 1, 1, fall);
        decide(0);
        return {islands.known_loads().begin(), islands.known_loads().end()};
    }
    // How a body's island is solved under an allowance.
    islands::Treatment decide(std::uint32_t body, float share = 1) {
        claims.assign(bodies.moving, 0);
        islands.decide(bodies, edges, 8, share, budget, claims);
        return islands.treatment_of(body);
    }
};

TYPED_TEST(IslandsTest, AStackBearsAsIsKnownWhatStandsOnIt) {
    Pile<TypeParam::value> pile({0, 4, 2, 1});
    pile.touch(0, 1), pile.touch(2, 1), pile.touch(2, 3);
    EXPECT_EQ(pile.loads(), (std::vector<float>{7, 3, 1}));
}

TYPED_TEST(IslandsTest, WhatStandsOnTwoIsNotKnown) {
    Pile<TypeParam::value> pile({0, 4, 4, 1, 8});
    pile.touch(0, 1), pile.touch(0, 2), pile.touch(1, 3), pile.touch(2, 3), pile.touch(3, 4);
    EXPECT_EQ(pile.loads(), (std::vector<float>{4, 4, 0, 0, 8})); // the loads on both are at least their own
}

TYPED_TEST(IslandsTest, WhatLeansOnANeighbourIsNotKnown) {
    Pile<TypeParam::value> pile({0, 4, 2, 1});
    pile.touch(0, 1), pile.touch(0, 2), pile.touch(1, 2), pile.touch(2, 3);
    EXPECT_EQ(pile.loads(), (std::vector<float>{0, 0, 0, 1}));
}

// Another that is only near changes nothing: contacts would be firm and soft by turns as it comes and goes.
TYPED_TEST(IslandsTest, WhatOnlyStandsNearDoesNotCount) {
    Pile<TypeParam::value> pile({0, 4, 2, 1});
    pile.touch(0, 1), pile.touch(0, 2), pile.touch(1, 2), pile.touch(2, 3);
    pile.manifolds[2].points[0].separation = 0.01f;
    EXPECT_EQ(pile.loads(), (std::vector<float>{4, 3, 0, 1}));
}

TYPED_TEST(IslandsTest, TilesOfAFloorAreOneGround) {
    Pile<TypeParam::value> pile({0, 0, 4, 2});
    pile.touch(0, 2), pile.touch(1, 2), pile.touch(2, 3);
    EXPECT_EQ(pile.loads(), (std::vector<float>{6, 6, 2}));
}

TYPED_TEST(IslandsTest, NothingIsKnownWithoutGround) {
    Pile<TypeParam::value> pile({1, 1});
    pile.touch(0, 1);
    EXPECT_EQ(pile.loads(), (std::vector<float>{0}));
}

TYPED_TEST(IslandsTest, OfATallTowerLessIsKnown) {
    Pile<TypeParam::value> pile(std::vector<float>(101, 1));
    pile.bodies.mass[0].mass = pile.bodies.mass[0].inverse_mass = 0;
    for (std::uint32_t i = 0; i < 100; i++) pile.touch(i, i + 1);
    const auto loads = pile.loads();
    for (std::size_t i = 80; i < 100; i++) EXPECT_EQ(loads[i], static_cast<float>(100 - i));
    EXPECT_NEAR(loads[60], 40 * 8.0 / 9, 1e-5);
    EXPECT_NEAR(loads[50], 50 * 7.5 / 9, 1e-5);
    for (std::size_t i = 0; i < 40; i++) EXPECT_NEAR(loads[i], (100.0 - i) * 7 / 9, 1e-4);
}

TYPED_TEST(IslandsTest, WhereSubstepsDoNotSufficeLessIsKnown) {
    Pile<TypeParam::value> pile({0, 1, 10000});
    pile.touch(0, 1), pile.touch(1, 2);
    const auto loads = pile.loads(1e-4f);
    // Sixteen times the substeps: contacts give by 10001 * 1e-4 / 256, and should by 5e-4.
    EXPECT_EQ(pile.decide(1).level, islands::kMostLevel);
    EXPECT_NEAR(loads[0], 10001 * 5e-4 / (10001 * 1e-4 / 256), 0.01);
    EXPECT_NEAR(loads[1], 10000 * 5e-4 / (10000 * 1e-4 / 256), 0.01);
}

}
}
