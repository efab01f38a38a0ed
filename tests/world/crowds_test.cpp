// Crowds: what is poured, dropped, hit or falls together keeps apart, gains no energy and comes to rest.
#include "support/cases.h"
#include "support/dims.h"

#include <algorithm>

namespace astasis {
namespace {

template<typename T> class CrowdsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(CrowdsTest, test::Dimensions);

constexpr int kSeeds = 20;
constexpr float kSide = 0.3f; // of all parcels: the thinner shape's thickness

// Overlaps of all contacts of a run, as shares of the thickness.
class Overlaps {
public:
    template<int D> void add(const World<D>& world) {
        for (const auto& c : world.contacts()) {
            const float share = std::max(-c.separation, 0.0f) / kSide;
            all_.push_back(share);
            most_ = std::max(most_, share);
        }
    }
    float most() const { return most_; }
    float hundredth() {
        const auto at = all_.begin() + static_cast<std::ptrdiff_t>(all_.size() * 99 / 100);
        std::nth_element(all_.begin(), at, all_.end());
        return at == all_.end() ? 0 : *at;
    }

private:
    std::vector<float> all_;
    float most_ = 0;
};

template<int D> World<D> bin(float extra_work, double width) {
    World<D> world({.extra_work = extra_work});
    test::add_floor<D>(world);
    Vec<D> side = test::all<D>(static_cast<float>(width) + 2);
    side.x = 1, side.y = 12;
    for (const double s : {-1.0, 1.0}) {
        world.add({.motion = Motion::Static,
                   .pose = {{s * (width / 2 + 0.5), 6}, {}},
                   .shapes = {{test::box_of(side)}}});
        if constexpr (D == 3)
            world.add({.motion = Motion::Static,
                       .pose = {{0, 6, s * (width / 2 + 0.5)}, {}},
                       .shapes = {{Box3::sized(static_cast<float>(width) + 2, 12, 1)}}});
    }
    return world;
}

// Energy of what has come in so far may only fall: each body brings its own.
template<int D> class Ledger {
public:
    void bring(const World<D>& world, BodyId id) { brought_ += world.energy(id).total(); }
    void check(const World<D>& world, const char* what, int seed) {
        const double now = world.energy().total(), gained = now - least_brought();
        EXPECT_LT(gained, 0.005 * std::fabs(brought_))
            << what << ", seed " << seed << ", " << world.time() << " s";
    }

private:
    double least_brought() const { return brought_; }
    double brought_ = 0;
};

template<int D> BodyId add_parcel(World<D>& world, test::Numbers& n, Point<D> at, Vec<D> velocity) {
    BodySpec<D> spec{
        .pose = {at, n.rotation(Vec<D>{})}, .velocity = velocity, .shapes = {{test::cube<D>(kSide)}}};
    return world.add(spec);
}

// Parcels are poured into a bin in groups.
template<int D> void pour(float extra_work, float typical, float most) {
    Overlaps overlaps;
    for (int seed = 1; seed <= kSeeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world = bin<D>(extra_work, D == 2 ? 4 : 2);
        Ledger<D> ledger;
        for (int tick = 0; tick < 240; tick++) {
            if (tick < 160 && tick % 8 == 0)
                for (int i = 0; i < 4; i++) {
                    Point<D> at{(i - 1.5) * (D == 2 ? 0.8 : 0.45) + n.in(-0.02, 0.02), 7 + 0.1 * i};
                    if constexpr (D == 3) at.z = n.in(-0.6, 0.6);
                    ledger.bring(world, add_parcel<D>(world, n, at, {0, -3}));
                }
            world.step();
            overlaps.add(world);
            ledger.check(world, "poured", seed);
        }
    }
    EXPECT_LT(overlaps.hundredth(), typical);
    EXPECT_LT(overlaps.most(), most);
}
TYPED_TEST(CrowdsTest, WhatIsPouredKeepsApart) { pour<TypeParam::value>(1, 0.02f, 0.1f); }
TYPED_TEST(CrowdsTest, WhatIsPouredKeepsApartWithoutExtraWork) { pour<TypeParam::value>(0, 0.04f, 0.2f); }

// A block of parcels that do not touch drops onto the floor at once.
template<int D> void drop(float extra_work, float typical, float most) {
    Overlaps overlaps;
    for (int seed = 1; seed <= kSeeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world = bin<D>(extra_work, 20);
        Ledger<D> ledger;
        for (int row = 0; row < (D == 2 ? 12 : 6); row++)
            for (int i = 0; i < 4; i++)
                for (int k = 0; k < (D == 2 ? 1 : 3); k++) {
                    Point<D> at{(i - 1.5) * 0.47 + n.in(0, 0.02), 0.5 + 0.47 * row};
                    if constexpr (D == 3) at.z = (k - 1) * 0.47 + n.in(0, 0.02);
                    BodySpec<D> spec{.pose = {at, {}}, .shapes = {{test::cube<D>(kSide)}}};
                    ledger.bring(world, world.add(spec));
                }
        for (int tick = 0; tick < 150; tick++) {
            world.step();
            overlaps.add(world);
            ledger.check(world, "dropped", seed);
        }
    }
    EXPECT_LT(overlaps.hundredth(), typical);
    EXPECT_LT(overlaps.most(), most);
}
TYPED_TEST(CrowdsTest, WhatIsDroppedKeepsApart) { drop<TypeParam::value>(1, 0.02f, 0.1f); }
TYPED_TEST(CrowdsTest, WhatIsDroppedKeepsApartWithoutExtraWork) { drop<TypeParam::value>(0, 0.04f, 0.2f); }

// A wall of parcels is hit by a heavy ball.
template<int D> void hit(float extra_work, float typical, float most) {
    Overlaps overlaps;
    for (int seed = 1; seed <= kSeeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world({.extra_work = extra_work});
        test::add_floor<D>(world);
        Ledger<D> ledger;
        for (int row = 0; row < 8; row++)
            for (int i = 0; i < 8; i++) {
                BodySpec<D> spec{.pose = {{i * (kSide + 0.01) + 0.15 * (row % 2), kSide * (row + 0.5)}, {}},
                                 .shapes = {{test::cube<D>(kSide)}}};
                ledger.bring(world, world.add(spec));
            }
        BodySpec<D> ball{.pose = {{-2, n.in(0.5, 2)}, {}},
                         .velocity = {n.f(5, 15), 0},
                         .shapes = {{.geometry = Ball<D>{0.3f}, .density = 3000}}};
        if constexpr (D == 3)
            ball.pose.position = {n.in(0.5, 2), n.in(0.5, 2), -2}, ball.velocity = {0, 0, n.f(5, 15)};
        ledger.bring(world, world.add(ball));
        for (int tick = 0; tick < 120; tick++) {
            world.step();
            overlaps.add(world);
            ledger.check(world, "hit", seed);
        }
    }
    EXPECT_LT(overlaps.hundredth(), typical);
    EXPECT_LT(overlaps.most(), most);
}
TYPED_TEST(CrowdsTest, WhatIsHitKeepsApart) { hit<TypeParam::value>(1, 0.02f, 0.1f); }
TYPED_TEST(CrowdsTest, WhatIsHitKeepsApartWithoutExtraWork) { hit<TypeParam::value>(0, 0.04f, 0.2f); }

// Balls of 6 cm that fall together, 2.5 cm apart, have no relative speed till the lowest is stopped.
template<int D> void fall_together(float extra_work, float most) {
    for (int seed = 1; seed <= kSeeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world({.extra_work = extra_work});
        test::add_floor<D>(world);
        const double height = 0.1 + n.in(0, 2);
        for (int i = 0; i < 5; i++)
            test::add_ball<D>(world, {1e-4 * n.in(-1, 1), height + 0.085 * i}, 0.03f, 1);
        for (int tick = 0; tick < 90; tick++) {
            world.step();
            ASSERT_LT(world.penetration().deepest, most * 0.06f)
                << "seed " << seed << ", " << world.time() << " s";
        }
    }
}
TYPED_TEST(CrowdsTest, WhatFallsTogetherKeepsApart) { fall_together<TypeParam::value>(1, 0.12f); }
TYPED_TEST(CrowdsTest, WhatFallsTogetherKeepsApartWithoutExtraWork) {
    fall_together<TypeParam::value>(0, 0.24f);
}

}
}
