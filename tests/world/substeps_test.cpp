// Hooks within a tick: a body's own motion, the hook before each substep, and edits of all kinds from all
// hooks.
#include "support/dims.h"

#include <cmath>
#include <limits>
#include <set>

namespace astasis {
namespace {

template<typename T> class SubstepsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SubstepsTest, test::Dimensions);

template<int Dim> Axial<Dim> turning(float rate) {
    if constexpr (Dim == 2) return rate;
    else return {0, 0, rate};
}

// A function of time: on a circle, whatever gravity and damping would make of it.
TYPED_TEST(SubstepsTest, OwnMotionTakesThePlaceOfFreeMotion) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId lamp = world.add({.pose = {{1, 5}},
                                   .free = {.linear_damping = 3, .angular_damping = 3, .drag = 2},
                                   .shapes = {{test::cube<D>(0.2f)}}});
    constexpr double kRate = 2;
    double last = -1;
    world.set_own_motion(lamp, [&](const SeenBody<D>& b) {
        EXPECT_EQ(b.id, lamp);
        EXPECT_GT(b.time, last);
        last = b.time;
        // By the middle of the substep: a circle of the second order.
        const double a = kRate * (b.time + 0.5 * b.seconds);
        return Velocities<D>{
            {static_cast<float>(-kRate * std::sin(a)), static_cast<float>(kRate * std::cos(a))},
            turning<D>(1.5f)};
    });
    for (int tick = 1; tick <= 200; tick++) {
        world.step();
        const double a = kRate * world.time();
        const Point<D> at = world.pose(lamp).position;
        ASSERT_NEAR(at.x, std::cos(a), 2e-5);
        ASSERT_NEAR(at.y, 5 + std::sin(a), 2e-5);
    }
    const Vec<D> axis = rotate(world.pose(lamp).rotation, Vec<D>{1, 0});
    EXPECT_NEAR(std::atan2(axis.y, axis.x), std::remainder(1.5 * world.time(), 2 * M_PI), 1e-4);
    EXPECT_FALSE(world.is_asleep(lamp));
    // It was given its speed, and what lifts it.
    const Energy energy = world.energy();
    EXPECT_NEAR(world.work().hooks, energy.total() - 5 * 9.81 * world.mass(lamp).mass, 1e-2 * energy.total());
    // Without it the body falls.
    world.set_own_motion(lamp, {});
    world.set_velocity(lamp, {});
    world.step();
    EXPECT_LT(world.velocity(lamp).y, -0.1f);
}

// A function of its state: it walks to where it wants to be, and what stands in the way is felt.
TYPED_TEST(SubstepsTest, ContactsAndJointsAreSolvedAllTheSame) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    Vec<D> size = test::all<D>(4);
    size.x = 0.2f;
    world.add({.motion = Motion::Static, .pose = {{3, 2}}, .shapes = {{test::box_of(size)}}});
    const BodyId walker = test::add_ball<D>(world, {0, 0.3}, 0.25f);
    const BodyId trailer = test::add_ball<D>(world, {-1, 0.25}, 0.25f);
    world.add_joint(Rod<D>{.joins = {.a = trailer, .b = walker}});
    double far = 0;
    world.set_own_motion(walker, [](const SeenBody<D>& b) {
        return Velocities<D>{{static_cast<float>(std::min(1.0, 5 - b.centre.x)),
                              b.velocity.y - 9.81f * static_cast<float>(b.seconds)},
                             {}};
    });
    for (int tick = 0; tick < 240; tick++) {
        world.step();
        far = std::max(far, world.pose(walker).position.x);
        ASSERT_GT(world.pose(walker).position.y, 0.25 - 2e-3);
        ASSERT_NEAR(length(world.pose(walker).position - world.pose(trailer).position), std::hypot(1, 0.05),
                    2e-3);
    }
    EXPECT_NEAR(far, 2.9 - 0.25, 5e-3);
    EXPECT_NEAR(world.pose(walker).position.x, 2.9 - 0.25, 5e-3);
}

TYPED_TEST(SubstepsTest, AShotByItsOwnMotionGoesThroughNothing) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    Vec<D> size = test::all<D>(2);
    size.x = 0.01f;
    world.add({.motion = Motion::Static, .pose = {{10, 0}}, .shapes = {{test::box_of(size)}}});
    const BodyId ball = test::add_ball<D>(world, {0, 0}, 0.1f);
    world.set_own_motion(ball, [](const SeenBody<D>&) { return Velocities<D>{{300, 0}, {}}; });
    for (int tick = 0; tick < 30; tick++) {
        world.step();
        ASSERT_LE(world.pose(ball).position.x, 9.995 - 0.1 + 5e-3) << tick;
    }
    EXPECT_GT(world.pose(ball).position.x, 9.8);
}

// A push through each substep is that of apply_force through the tick.
TYPED_TEST(SubstepsTest, PushesOfSubstepsAreForces) {
    constexpr int D = TypeParam::value;
    World<D> hooked, plain;
    BodyId id{};
    for (World<D>* w : {&hooked, &plain})
        id = w->add({.pose = {{0, 5}},
                     .free = {.linear_damping = 0.5f, .angular_damping = 1},
                     .shapes = {{test::cube<D>(0.3f)}}});
    const Vec<D> force{30, 200};
    int substeps = 0;
    hooked.set_substep_hook([&](Substep<D>& s) {
        EXPECT_EQ(s.bodies().size(), 1u);
        EXPECT_EQ(s.bodies()[0], id);
        EXPECT_TRUE(s.contains(id));
        EXPECT_NEAR(s.time(), hooked.time() + (substeps % 8) * s.seconds(), 1e-12);
        EXPECT_FLOAT_EQ(static_cast<float>(s.seconds()), 1.0f / 480);
        EXPECT_EQ(s.body(id).mass, hooked.mass(id).mass);
        s.push(id, force * 0.5f, turning<D>(2));
        s.push(id, force * 0.5f, turning<D>(1));
        substeps++;
    });
    const double before = hooked.energy().total();
    for (int tick = 0; tick < 60; tick++) {
        plain.apply_force(id, force), plain.apply_torque(id, turning<D>(3));
        hooked.step(), plain.step();
        ASSERT_LT(length(hooked.pose(id).position - plain.pose(id).position), 1e-5);
        ASSERT_LT(length(hooked.velocity(id) - plain.velocity(id)), 1e-5f);
    }
    EXPECT_EQ(substeps, 60 * 8);
    hooked.set_free_motion(id, {});
    const double work = hooked.work().hooks, energy = hooked.energy().total();
    EXPECT_GT(work, 0.9 * (energy - before));
    test::step(hooked, 60);
    EXPECT_NEAR(hooked.work().hooks - work, hooked.energy().total() - energy,
                1e-3 * std::fabs(hooked.energy().total() - energy));
    // The substep after has none of it.
    hooked.set_substep_hook({}), hooked.set_free_motion(id, {.gravity_scale = 0});
    const Vec<D> v = hooked.velocity(id);
    hooked.step();
    EXPECT_LT(length(hooked.velocity(id) - v), 1e-5f * length(v));
}

// Of several velocities the last counts, and its work alone.
TYPED_TEST(SubstepsTest, TheLastVelocityCounts) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId ball = test::add_ball<D>(world, {}, 0.25f, 2);
    world.set_own_motion(ball, [](const SeenBody<D>&) { return Velocities<D>{{9, 9}, {}}; });
    world.set_substep_hook([&](Substep<D>& s) {
        s.set_velocities(ball, {{5, 0}, {}});
        s.set_velocities(ball, {{3, 0}, {}});
    });
    test::step(world, 60);
    EXPECT_NEAR(world.pose(ball).position.x, 3, 1e-5);
    EXPECT_EQ(world.pose(ball).position.y, 0);
    EXPECT_NEAR(world.work().hooks, 0.5 * 2 * 9, 1e-5);
}

TYPED_TEST(SubstepsTest, LockedAxesStayLocked) {
    constexpr int D = TypeParam::value;
    World<D> world;
    Locks<D> locks;
    locks.x = true;
    const BodyId id = world.add({.free = {.locks = locks}, .shapes = {{test::cube<D>(0.3f)}}});
    world.set_substep_hook([&](Substep<D>& s) {
        s.push(id, {50, 0});
        s.set_velocities(id, {{3, 1}, turning<D>(1)});
    });
    test::step(world, 30);
    EXPECT_EQ(world.pose(id).position.x, 0);
    EXPECT_NEAR(world.pose(id).position.y, 0.5, 1e-5);
}

TYPED_TEST(SubstepsTest, WhatIsNotInASubstepIsRefused) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId floor = test::add_floor<D>(world);
    const BodyId ball = test::add_ball<D>(world, {0, 5}, 0.25f);
    const BodyId gone = test::add_ball<D>(world, {3, 5}, 0.25f);
    world.remove(gone);
    int refused = 0, asked = 0;
    const float nan = std::numeric_limits<float>::quiet_NaN();
    world.set_substep_hook([&](Substep<D>& s) {
        const auto refuse = [&](const auto& call) {
            asked++;
            try {
                call();
            } catch (const Error&) {
                refused++;
            }
        };
        for (const BodyId id : {floor, gone, BodyId{}}) {
            EXPECT_FALSE(s.contains(id));
            refuse([&] { static_cast<void>(s.body(id)); });
            refuse([&] { s.push(id, {1, 0}); });
            refuse([&] { s.set_velocities(id, {}); });
        }
        refuse([&] { s.push(ball, {nan, 0}); });
        refuse([&] { s.push(ball, {}, turning<D>(nan)); });
        refuse([&] { s.set_velocities(ball, {{nan, 0}, {}}); });
        refuse([&] { s.set_velocities(ball, {{}, turning<D>(nan)}); });
        refuse([&] { world.set_velocity(ball, {}); });
        refuse([&] { world.set_own_motion(ball, {}); });
        refuse([&] { world.set_substep_hook({}); });
        refuse([&] { world.step(); });
    });
    World<D> quiet;
    test::add_floor<D>(quiet), test::add_ball<D>(quiet, {0, 5}, 0.25f);
    test::step(world, 5), test::step(quiet, 5);
    EXPECT_GT(asked, 0);
    EXPECT_EQ(refused, asked);
    EXPECT_EQ(world.pose(ball), quiet.pose(quiet.bodies()[1]));
    EXPECT_EQ(test::error_of([&] { world.set_own_motion(gone, {}); }).field(), "body id");
    // A function that gives no numbers leaves the body as it is, and what it throws comes after the tick.
    world.set_substep_hook({});
    world.set_own_motion(ball, [&](const SeenBody<D>&) { return Velocities<D>{{nan, 0}, {}}; });
    test::step(world, 5), test::step(quiet, 5);
    EXPECT_EQ(world.pose(ball), quiet.pose(quiet.bodies()[1]));
    world.set_own_motion(ball, [](const SeenBody<D>&) -> Velocities<D> { throw 3; });
    EXPECT_THROW(world.step(), int);
    quiet.step();
    EXPECT_EQ(world.pose(ball), quiet.pose(quiet.bodies()[1]));
}

TYPED_TEST(SubstepsTest, OwnMotionGoesWithItsBodyAndIsNoState) {
    constexpr int D = TypeParam::value;
    World<D> world(test::weightless<D>());
    const BodyId ball = test::add_ball<D>(world, {}, 0.25f);
    world.set_own_motion(ball, [](const SeenBody<D>&) { return Velocities<D>{{1, 0}, {}}; });
    const auto then = world.save();
    const auto bytes = world.save_bytes();
    test::step(world, 60);
    EXPECT_NEAR(world.pose(ball).position.x, 1, 1e-5);
    world.restore(then);
    test::step(world, 60);
    EXPECT_NEAR(world.pose(ball).position.x, 1, 1e-5);
    world.restore_bytes(bytes);
    test::step(world, 60);
    EXPECT_NEAR(world.pose(ball).position.x, 1, 1e-5);
    world.remove(ball);
    const BodyId next = test::add_ball<D>(world, {}, 0.25f); // of the same index
    test::step(world, 60);
    EXPECT_EQ(world.pose(next).position, (Point<D>{}));
    world.restore(then);
    test::step(world, 60);
    EXPECT_EQ(world.pose(ball).position, (Point<D>{}));
}

// Islands that take more substeps than others have hooks of their own for each.
TYPED_TEST(SubstepsTest, EachBodyIsInEachSubstepOfItsGroupOnce) {
    constexpr int D = TypeParam::value;
    World<D> world({.sleeping = false});
    test::add_floor<D>(world);
    std::vector<BodyId> all;
    for (int k = 0; k < 6; k++)
        all.push_back(test::add_ball<D>(world, {0, 0.25 + 0.5 * k}, 0.25f, k == 5 ? 300.0f : 1.0f));
    for (int k = 0; k < 6; k++) all.push_back(test::add_ball<D>(world, {10.0 + k, 0.25}, 0.25f));
    std::vector<double> seconds(all.size());
    world.set_substep_hook([&](Substep<D>& s) {
        std::set<std::uint32_t> seen;
        for (const BodyId id : s.bodies()) {
            EXPECT_TRUE(seen.insert(id.index).second);
            EXPECT_TRUE(s.contains(id));
            seconds[static_cast<std::size_t>(std::find(all.begin(), all.end(), id) - all.begin())] +=
                s.seconds();
        }
    });
    for (int tick = 0; tick < 60; tick++) {
        std::fill(seconds.begin(), seconds.end(), 0);
        world.step();
        for (const double s : seconds) ASSERT_NEAR(s, 1.0 / 60, 1e-9);
    }
}

// A world that a game edits at random in all the places where it may, and some where it may not.
template<int D> class Meddler {
public:
    explicit Meddler(std::uint64_t seed) : random_(seed), pacer_(world_, {.most_ticks_a_frame = 0}) {
        test::add_floor<D>(world_);
        Vec<D> size = test::all<D>(6);
        size.y = 0.1f;
        world_.add({.motion = Motion::Static,
                    .pose = {{0, 2}},
                    .shapes = {{.geometry = test::box_of(size), .is_sensor = true}}});
        world_.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
        world_.set_pair_filter([](BodyId a, BodyId b) { return (a.index * 7 + b.index * 3) % 11 != 0; });
        world_.set_contact_hook([](ContactAsked<D>& c) {
            const std::uint32_t kind = c.body_a.index * 5 + c.body_b.index;
            c.keep = kind % 13 != 0;
            c.friction = static_cast<float>(kind % 3) * 0.4f,
            c.restitution = static_cast<float>(kind % 5) * 0.2f;
            c.surface_velocity.x = static_cast<float>(kind % 2);
            if (kind % 7 == 0) c.most_push = static_cast<float>(kind % 4) * 50;
        });
        world_.set_substep_hook([this](Substep<D>& s) { in_substep(s); });
        world_.add_field({.kind = OwnField<D>{[](const SeenBody<D>& b) {
                              return FieldForce<D>{b.velocity * (-0.1f * b.mass), {}};
                          }},
                          .within = Bounds<D>{}});
    }
    void tick() {
        pacer_.advance(
            world_.settings().tick, [this](World<D>&) { between(); },
            [this](World<D>& w) {
                for (const auto& moved : w.events().moved) ASSERT_TRUE(w.contains(moved.body));
                between();
            });
    }
    const World<D>& world() const { return world_; }
    std::size_t refused() const { return refused_; }

private:
    bool chance(double share) { return random_.in(0, 1) < share; }
    BodyId any() {
        return bodies_[static_cast<std::size_t>(random_.in(0, static_cast<double>(bodies_.size())))];
    }
    Vec<D> some(double most) { return random_.template vec<D>(-most, most); }
    void in_substep(Substep<D>& s) {
        const auto here = s.bodies();
        if (here.empty() || !chance(0.1)) return;
        const BodyId id = here[static_cast<std::size_t>(random_.in(0, static_cast<double>(here.size())))];
        EXPECT_EQ(s.body(id).id, id);
        if (chance(0.5)) s.push(id, some(chance(0.02) ? 1e6 : 100), turning<D>(random_.f(-5, 5)));
        else s.set_velocities(id, {some(chance(0.02) ? 1000 : 5), turning<D>(random_.f(-5, 5))});
        if (!chance(0.05)) return;
        try {
            world_.remove(id);
        } catch (const Error&) {
            refused_++;
        }
    }
    void between() {
        if (bodies_.size() < 4 || (bodies_.size() < 24 && chance(0.1))) add();
        if (!chance(0.3)) return;
        const BodyId id = any();
        const bool dynamic = world_.motion(id) == Motion::Dynamic;
        switch (static_cast<int>(random_.in(0, 12))) {
        case 0: remove(id); break;
        case 1: world_.set_pose(id, {{random_.in(-3, 3), random_.in(0.2, 5)}}); break;
        case 2:
            if (world_.motion(id) != Motion::Static) world_.set_velocity(id, some(chance(0.1) ? 300 : 5));
            break;
        case 3:
            if (dynamic) world_.apply_force(id, some(500));
            break;
        case 4:
            if (dynamic) world_.apply_impulse(id, some(10));
            break;
        case 5:
            world_.set_motion(id, chance(0.7)   ? Motion::Dynamic
                                  : chance(0.5) ? Motion::Kinematic
                                                : Motion::Static);
            break;
        case 6: join(id); break;
        case 7:
            if (!world_.joints().empty()) world_.remove_joint(world_.joints()[0]);
            break;
        case 8:
            world_.set_own_motion(id, [](const SeenBody<D>& b) {
                return Velocities<D>{
                    {static_cast<float>(std::cos(b.time)), static_cast<float>(std::sin(b.time)) + 0.1f},
                    b.angular_velocity};
            });
            break;
        case 9: world_.set_own_motion(id, {}); break;
        case 10: world_.set_layers(id, world_.shape_numbers(id)[0], 1, chance(0.8) ? 1 : 0); break;
        default: world_.restore(world_.save()); break;
        }
    }
    void add() {
        const float size = random_.f(0.2, 0.6);
        const Geometry<D> box = test::cube<D>(size), ball = Ball<D>{0.5f * size};
        bodies_.push_back(world_.add({.pose = {{random_.in(-3, 3), random_.in(0.5, 6)}},
                                      .velocity = some(3),
                                      .shapes = {{chance(0.5) ? box : ball}}}));
    }
    void remove(BodyId id) {
        world_.remove(id);
        std::erase(bodies_, id);
    }
    void join(BodyId id) {
        const BodyId other = any();
        if (other == id || (world_.motion(id) != Motion::Dynamic && world_.motion(other) != Motion::Dynamic))
            return;
        const float apart = length(world_.pose(id).position - world_.pose(other).position);
        if (!(apart > 1e-3f && apart < 10)) return;
        world_.add_joint(Rod<D>{.joins = {.a = id, .b = other}});
    }

    test::Numbers random_;
    World<D> world_;
    Pacer<D> pacer_;
    std::vector<BodyId> bodies_;
    std::size_t refused_ = 0;
};

TYPED_TEST(SubstepsTest, NoEditOfAHookCorrupts) {
    constexpr int D = TypeParam::value;
    Meddler<D> meddler(7), again(7);
    for (int tick = 0; tick < 10000; tick++) {
        meddler.tick();
        ASSERT_FALSE(this->HasFatalFailure()) << tick;
        for (const BodyId id : meddler.world().bodies())
            ASSERT_TRUE(std::isfinite(length(meddler.world().velocity(id))) &&
                        std::isfinite(meddler.world().pose(id).position.x))
                << tick;
        if (tick >= 2000) continue;
        again.tick();
        ASSERT_EQ(meddler.world().fingerprint(), again.world().fingerprint()) << tick;
    }
    EXPECT_GT(meddler.refused(), 50u);
}

}
}
