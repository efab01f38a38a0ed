#include "solve/hurry.h"

#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class HurryTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(HurryTest, test::Dimensions);

// Balls at random, some of which cannot be moved, some touch, and some come on.
template<int D> struct Crowd {
    flow::Bodies<D> bodies;
    std::vector<flow::Collider<D>> colliders;
    std::vector<std::uint32_t> moving;
    std::vector<flow::Pair> pairs, coming;
    std::vector<flow::Manifold<D>> manifolds;

    Crowd(std::uint64_t seed, std::uint32_t count) {
        test::Numbers n(seed);
        bodies.moving = count;
        bodies.mass.resize(count);
        colliders.resize(count);
        for (std::uint32_t i = 0; i < count; i++) {
            bodies.mass[i].inverse_mass = n.in(0, 1) < 0.2 ? 0.0f : 1.0f;
            auto& c = colliders[i];
            c.body = i;
            moving.push_back(i);
            c.travel = static_cast<float>(n.in(0, 0.6));
            c.thickness = static_cast<float>(n.in(0.1, 0.5));
            for (int k = 0; k < D; k++) {
                c.bounds.low[k] = n.in(0, D == 2 ? 20 : 10);
                c.bounds.high[k] = c.bounds.low[k] + 0.5;
            }
        }
        for (std::uint32_t i = 0; i < count; i++)
            for (std::uint32_t j = i + 1; j < count; j++) {
                pairs.push_back({i, j});
                flow::Manifold<D> m;
                m.body_a = i, m.body_b = j;
                if (n.in(0, 1) < 0.5 / count) manifolds.push_back(m);
                if (n.in(0, 1) < 0.5 / count / count) coming.push_back({i, j});
            }
    }
};

// The same, said as slowly as can be: in each round, all that were marked in the round before ask everybody.
template<int D> std::vector<std::uint8_t> slowly(const Crowd<D>& crowd) {
    const std::size_t count = crowd.bodies.moving;
    const auto moves = [&](std::uint32_t i) { return crowd.bodies.mass[i].inverse_mass > 0; };
    std::vector<std::uint8_t> hurried(count, 0), asked(count, 0);
    std::vector<float> reach(count, 0);
    const auto far = [&](std::uint32_t i, float way) { reach[i] = std::max(reach[i], way); };
    for (const auto& pair : crowd.pairs) {
        const float a = crowd.colliders[pair.a].travel, b = crowd.colliders[pair.b].travel;
        far(pair.a, moves(pair.b) ? a : std::max(a, b)), far(pair.b, moves(pair.a) ? b : std::max(a, b));
    }
    for (const auto& pair : crowd.coming)
        for (const std::uint32_t i : {pair.a, pair.b}) hurried[i] = moves(i);
    for (bool again = true; again;) {
        for (std::size_t round = 0; round < count; round++) // what touches goes together
            for (const auto& m : crowd.manifolds)
                if (moves(m.body_a) && moves(m.body_b)) {
                    hurried[m.body_a] = hurried[m.body_b] = hurried[m.body_a] | hurried[m.body_b];
                    reach[m.body_a] = reach[m.body_b] = std::max(reach[m.body_a], reach[m.body_b]);
                }
        again = false;
        const auto marked = hurried;
        const auto reach_before = reach;
        for (std::uint32_t i = 0; i < count; i++) {
            if (!marked[i] || asked[i]) continue;
            asked[i] = 1;
            const auto& c = crowd.colliders[i];
            for (std::uint32_t j = 0; j < count; j++) {
                const auto& d = crowd.colliders[j];
                double apart = 0;
                for (int k = 0; k < D; k++)
                    apart = std::max(
                        {apart, c.bounds.low[k] - d.bounds.high[k], d.bounds.low[k] - c.bounds.high[k]});
                if (!moves(j) || marked[j]) continue;
                if (apart > std::min(2 * reach_before[i], 2 * c.thickness) + d.travel) continue;
                hurried[j] = 1, far(j, reach_before[i]);
                again = true;
            }
        }
    }
    return hurried;
}

TYPED_TEST(HurryTest, MarksWhatComesOnAndAllThatItMayReach) {
    constexpr int D = TypeParam::value;
    solve::Hurry<D> hurry;
    std::size_t some = 0;
    for (std::uint64_t seed = 0; seed < 500; seed++) {
        const Crowd<D> crowd(seed, 5 + seed % 40);
        const auto around = [&](std::uint32_t c, float far, FunctionRef<void(std::uint32_t)> visit) {
            const auto& from = crowd.colliders[c].bounds;
            for (const std::uint32_t i : crowd.moving) {
                const auto to = flow::reached(crowd.colliders[i]);
                bool near = true;
                for (int k = 0; k < D; k++)
                    near = near && to.low[k] <= from.high[k] + far && from.low[k] - far <= to.high[k];
                if (near) visit(i);
            }
        };
        hurry.find(crowd.bodies, crowd.colliders, crowd.moving, crowd.pairs, crowd.manifolds, crowd.coming,
                   around);
        const std::vector<std::uint8_t> marks(hurry.marks().begin(), hurry.marks().end());
        ASSERT_EQ(marks, slowly(crowd)) << "seed " << seed;
        const auto marked = static_cast<std::size_t>(std::count(marks.begin(), marks.end(), 1));
        some += marked > 0 && marked < marks.size() / 2;
    }
    EXPECT_GT(some, 50u);
}

// A stack, and far from it two boxes that meet at 20 m/s.
template<int D> World<D> stack_beside(bool crash) {
    World<D> world;
    test::add_floor<D>(world);
    for (int i = 0; i < 8; i++)
        world.add({.pose = {{0.03 * i, 0.3 + 0.5 * i}, {}}, .shapes = {{test::cube<D>(0.5f)}}});
    if (!crash) return world;
    for (const float side : {-1.0f, 1.0f}) {
        BodySpec<D> box{.pose = {{30 + 1.5 * side, 0.25}, {}},
                        .velocity = {-10 * side, 0},
                        .shapes = {{test::cube<D>(0.5f)}}};
        box.sweep = Sweep::None;
        world.add(box);
    }
    return world;
}

TYPED_TEST(HurryTest, WhatIsFarFromACrashNoticesNothing) {
    constexpr int D = TypeParam::value;
    World<D> alone = stack_beside<D>(false), beside = stack_beside<D>(true);
    for (int tick = 0; tick < 90; tick++) {
        alone.step(), beside.step();
        for (std::size_t k = 0; k < alone.bodies().size(); k++) {
            const BodyId a = alone.bodies()[k], b = beside.bodies()[k];
            ASSERT_EQ(alone.pose(a).position, beside.pose(b).position) << "tick " << tick << ", body " << k;
            ASSERT_EQ(alone.pose(a).rotation, beside.pose(b).rotation) << "tick " << tick << ", body " << k;
            ASSERT_EQ(alone.velocity(a), beside.velocity(b)) << "tick " << tick << ", body " << k;
        }
    }
}

}
}
