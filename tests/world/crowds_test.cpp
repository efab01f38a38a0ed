// Crowds: what is poured, dropped, hit or falls together keeps apart, gains no energy and comes to rest.
#include "astasis/pushes.h"

#include "support/cases.h"
#include "support/dims.h"

#include <algorithm>

namespace astasis {
namespace {

template<typename T> class CrowdsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(CrowdsTest, test::Dimensions);

constexpr int kSeeds = ASTASIS_DEFAULT_CASES >= 1000 ? 20 : 1; // sanitizers look at memory
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
    void bring(double energy) { brought_ += energy; }
    void bring(const World<D>& world, BodyId id) { bring(world.energy(id).total()); }
    void check(const World<D>& world, const char* what, int seed) {
        const double gained = world.energy().total() - brought_;
        EXPECT_LT(gained, 0.005 * std::fabs(brought_))
            << what << ", seed " << seed << ", " << world.time() << " s";
    }

private:
    double brought_ = 0;
};

template<int D> BodyId add_parcel(World<D>& world, test::Numbers& n, Point<D> at, Vec<D> velocity) {
    BodySpec<D> spec{
        .pose = {at, n.rotation(Vec<D>{})}, .velocity = velocity, .shapes = {{test::cube<D>(kSide)}}};
    return world.add(spec);
}

// Of all contacts of 20 runs, and the energy within each; `scene` makes a world and what comes into it.
struct Limits {
    float typical, most; // overlap, as shares of the thickness: of 99 contacts in a hundred, and of any
};
template<int D, typename Scene> void expect_apart(const char* what, Limits limits, int ticks, Scene scene) {
    Overlaps overlaps;
    for (int seed = 1; seed <= kSeeds; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        Ledger<D> ledger;
        World<D> world = scene.begin(n, ledger);
        for (int tick = 0; tick < ticks; tick++) {
            scene.before(tick, world, n, ledger);
            world.step();
            overlaps.add(world);
            ledger.check(world, what, seed);
        }
    }
    EXPECT_LT(overlaps.hundredth(), limits.typical);
    EXPECT_LT(overlaps.most(), limits.most);
}
constexpr Limits kDefault{0.02f, 0.1f}, kWithoutExtraWork{0.04f, 0.2f};

// Parcels are poured into a bin in groups.
template<int D> struct Pour {
    float extra_work;

    World<D> begin(test::Numbers&, Ledger<D>&) const { return bin<D>(extra_work, D == 2 ? 4 : 2); }
    void before(int tick, World<D>& world, test::Numbers& n, Ledger<D>& ledger) const {
        if (tick >= 160 || tick % 8 != 0) return;
        for (int i = 0; i < 4; i++) {
            Point<D> at{(i - 1.5) * (D == 2 ? 0.8 : 0.45) + n.in(-0.02, 0.02), 7 + 0.1 * i};
            if constexpr (D == 3) at.z = n.in(-0.6, 0.6);
            ledger.bring(world, add_parcel<D>(world, n, at, {0, -3}));
        }
    }
};
TYPED_TEST(CrowdsTest, WhatIsPouredKeepsApart) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("poured", kDefault, 240, Pour<D>{1});
}
TYPED_TEST(CrowdsTest, WhatIsPouredKeepsApartWithoutExtraWork) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("poured", kWithoutExtraWork, 240, Pour<D>{0});
}

// Scenes whose bodies are all there from the start.
template<int D> struct Standing {
    float extra_work;

    void before(int, World<D>&, test::Numbers&, Ledger<D>&) const {}
};

// A block of parcels that do not touch drops onto the floor at once.
template<int D> struct Drop : Standing<D> {
    World<D> begin(test::Numbers& n, Ledger<D>& ledger) const {
        World<D> world = bin<D>(this->extra_work, 20);
        for (int row = 0; row < (D == 2 ? 12 : 6); row++)
            for (int i = 0; i < 4; i++)
                for (int k = 0; k < (D == 2 ? 1 : 3); k++) {
                    Point<D> at{(i - 1.5) * 0.47 + n.in(0, 0.02), 0.5 + 0.47 * row};
                    if constexpr (D == 3) at.z = (k - 1) * 0.47 + n.in(0, 0.02);
                    ledger.bring(world, world.add({.pose = {at, {}}, .shapes = {{test::cube<D>(kSide)}}}));
                }
        return world;
    }
};
TYPED_TEST(CrowdsTest, WhatIsDroppedKeepsApart) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("dropped", kDefault, 150, Drop<D>{1});
}
TYPED_TEST(CrowdsTest, WhatIsDroppedKeepsApartWithoutExtraWork) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("dropped", kWithoutExtraWork, 150, Drop<D>{0});
}

// A wall of parcels is hit by a heavy ball.
template<int D> struct HitWall : Standing<D> {
    World<D> begin(test::Numbers& n, Ledger<D>& ledger) const {
        World<D> world({.extra_work = this->extra_work});
        test::add_floor<D>(world);
        for (int row = 0; row < 8; row++)
            for (int i = 0; i < 8; i++) {
                const Point<D> at{i * (kSide + 0.01) + 0.15 * (row % 2), kSide * (row + 0.5)};
                ledger.bring(world, world.add({.pose = {at, {}}, .shapes = {{test::cube<D>(kSide)}}}));
            }
        BodySpec<D> ball{.pose = {{-2, n.in(0.5, 2)}, {}},
                         .velocity = {n.f(5, 15), 0},
                         .shapes = {{.geometry = Ball<D>{0.3f}, .density = 3000}}};
        if constexpr (D == 3)
            ball.pose.position = {n.in(0.5, 2), n.in(0.5, 2), -2}, ball.velocity = {0, 0, n.f(5, 15)};
        ledger.bring(world, world.add(ball));
        return world;
    }
};
TYPED_TEST(CrowdsTest, WhatIsHitKeepsApart) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("hit", kDefault, 120, HitWall<D>{1});
}
TYPED_TEST(CrowdsTest, WhatIsHitKeepsApartWithoutExtraWork) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("hit", kWithoutExtraWork, 120, HitWall<D>{0});
}

// A block of crates stands, and is blown apart from within.
template<int D> struct Blown {
    float extra_work;

    World<D> begin(test::Numbers&, Ledger<D>& ledger) const {
        World<D> world({.extra_work = extra_work});
        test::add_floor<D>(world);
        constexpr int kAcross = D == 2 ? 8 : 4;
        for (int i = 0; i < kAcross; i++)
            for (int j = 0; j < kAcross; j++)
                for (int k = 0; k < (D == 2 ? 1 : kAcross); k++) {
                    Point<D> at{kSide * i, kSide * (j + 0.5)};
                    if constexpr (D == 3) at.z = kSide * k;
                    ledger.bring(world, world.add({.pose = {at, {}}, .shapes = {{test::cube<D>(kSide)}}}));
                }
        return world;
    }
    void before(int tick, World<D>& world, test::Numbers& n, Ledger<D>& ledger) const {
        if (tick != 10) return;
        const double before = world.energy().total(), middle = 0.5 * kSide * (D == 2 ? 7 : 3);
        Point<D> centre{middle + n.in(-0.1, 0.1), n.in(0.1, 0.4)};
        if constexpr (D == 3) centre.z = middle + n.in(-0.1, 0.1);
        blast(world, Blast<D>{centre, 3, world.mass(world.bodies().back()).mass * n.f(5, 20)});
        ledger.bring(world.energy().total() - before);
    }
};
TYPED_TEST(CrowdsTest, WhatIsBlownApartKeepsApart) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("blown", kDefault, 90, Blown<D>{1});
}
TYPED_TEST(CrowdsTest, WhatIsBlownApartKeepsApartWithoutExtraWork) {
    constexpr int D = TypeParam::value;
    expect_apart<D>("blown", kWithoutExtraWork, 90, Blown<D>{0});
}

// Parcels of 2 cm come down at a thousand widths a second, all at once: too many for the budget to lead each
// along its path. None goes through the floor, and all come apart again.
template<int D> void fall_far(float extra_work) {
    constexpr float kSmall = 0.02f;
    World<D> world({.extra_work = extra_work});
    test::add_floor<D>(world);
    for (int row = 0; row < 10; row++)
        for (int i = 0; i < 10; i++)
            for (int k = 0; k < (D == 2 ? 1 : 10); k++) {
                Point<D> at{0.05 * i, 1 + 0.05 * row};
                if constexpr (D == 3) at.z = 0.05 * k;
                world.add({.pose = {at, {}}, .velocity = {0, -20}, .shapes = {{test::cube<D>(kSmall)}}});
            }
    for (int tick = 0; tick < 180; tick++) {
        world.step();
        for (const BodyId id : world.bodies())
            ASSERT_GE(world.pose(id).position.y, 0) << world.time() << " s";
    }
    EXPECT_LT(world.penetration().deepest, 0.1f * kSmall);
}
TYPED_TEST(CrowdsTest, WhatIsSmallAndFallsFarStaysAboveTheFloor) { fall_far<TypeParam::value>(1); }
TYPED_TEST(CrowdsTest, WhatIsSmallAndFallsFarStaysAboveTheFloorWithoutExtraWork) {
    fall_far<TypeParam::value>(0);
}

// Balls of 10 cm are shot at a wall of 5 cm, at 100 m/s and one behind another, for a second: they pile up at
// it, and those that come later hit them while they are still there.
template<int D> void shoot_a_stream_at_a_wall(float extra_work) {
    for (int seed = 1; seed <= 3; seed++) {
        test::Numbers n(static_cast<std::uint64_t>(seed));
        World<D> world({.extra_work = extra_work});
        test::add_floor<D>(world);
        Vec<D> wall = test::all<D>(80);
        wall.x = 0.05f;
        world.add({.motion = Motion::Static, .shapes = {{test::box_of(wall)}}});
        for (int tick = 0; tick < 90; tick++) {
            for (int i = 0; i < 4 && tick < 60; i++) {
                Point<D> at{-8, n.in(0.3, 4)};
                if constexpr (D == 3) at.z = n.in(0, 1);
                world.set_velocity(test::add_ball<D>(world, at, 0.05f), {100});
            }
            world.step();
            for (const BodyId id : world.bodies())
                ASSERT_LE(world.pose(id).position.x, 0) << "seed " << seed << ", " << world.time() << " s";
        }
    }
}
TYPED_TEST(CrowdsTest, AStreamOfShotsStaysBeforeAWall) { shoot_a_stream_at_a_wall<TypeParam::value>(1); }
TYPED_TEST(CrowdsTest, AStreamOfShotsStaysBeforeAWallWithoutExtraWork) {
    shoot_a_stream_at_a_wall<TypeParam::value>(0);
}

// Three boxes of 2 cm above one another, at 250 to 5000 widths a second: those behind have no relative speed
// till the lowest is stopped, and go farther in a substep than the gap between them.
TYPED_TEST(CrowdsTest, WhatIsFastOneBehindAnotherKeepsApart) {
    constexpr int D = TypeParam::value;
    constexpr float kSmall = 0.02f;
    for (int seed = 1; seed <= kSeeds; seed++)
        for (const float speed : {5.0f, 20.0f, 100.0f}) {
            test::Numbers n(static_cast<std::uint64_t>(seed));
            World<D> world;
            test::add_floor<D>(world);
            for (int i = 0; i < 3; i++)
                world.add({.pose = {{1e-3 * n.in(-1, 1), 0.5 + 0.05 * i + n.in(0, 0.01)}, {}},
                           .velocity = {0, -speed},
                           .shapes = {{test::cube<D>(kSmall)}}});
            for (int tick = 0; tick < 60; tick++) {
                world.step();
                ASSERT_LT(world.penetration().deepest, 0.25f * kSmall)
                    << "seed " << seed << ", " << speed << " m/s, " << world.time() << " s";
            }
        }
}

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
TYPED_TEST(CrowdsTest, WhatFallsTogetherKeepsApart) { fall_together<TypeParam::value>(1, 0.031f); }
TYPED_TEST(CrowdsTest, WhatFallsTogetherKeepsApartWithoutExtraWork) {
    fall_together<TypeParam::value>(0, 0.15f);
}

}
}
