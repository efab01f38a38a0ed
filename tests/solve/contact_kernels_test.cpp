// Kernels of every instruction set: the same bits over a long run, and single contacts against closed forms.
#include "support/dims.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

template<typename T> class KernelsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(KernelsTest, test::Dimensions);

constexpr auto kSets = {simd::InstructionSet::Scalar, simd::InstructionSet::Four, simd::InstructionSet::Avx2,
                        simd::InstructionSet::Avx512};

std::vector<simd::InstructionSet> available() {
    std::vector<simd::InstructionSet> out;
    for (const auto set : kSets)
        if (simd::is_available(set)) out.push_back(set);
    return out;
}

TEST(Kernels, EachSetHasItsOwn) {
    EXPECT_TRUE(simd::is_available(simd::InstructionSet::Scalar));
    EXPECT_TRUE(simd::is_available(simd::best()));
    const int lanes[]{1, 8, 8, 16};
    for (const auto set : available()) {
        EXPECT_EQ(solve::contact_kernels<2>(set).lanes, lanes[static_cast<int>(set)]);
        EXPECT_EQ(&solve::contact_kernels<3>(set), &solve::contact_kernels<3>(set));
        for (const auto other : available())
            if (other != set) {
                EXPECT_NE(&solve::contact_kernels<2>(set), &solve::contact_kernels<2>(other));
            }
    }
}

Capsule<2> tube(Vec2) { return {{-0.2f, 0}, {0.2f, 0}, 0.1f}; }
Cylinder tube(Vec3) { return {{-0.2f, 0, 0}, {0.2f, 0, 0}, 0.1f}; }

// A heap of boxes, balls and tubes with belts, resistances, bounded contacts and a heavy piece, on a floor
// that a plate fills with more contacts than there are colours; a driven paddle stirs it.
template<int D> World<D> heap(simd::InstructionSet set) {
    World<D> world;
    WorldAccess::state(world).advance = Advance<D>(set);
    test::add_floor<D>(world);
    world.set_contact_hook([](ContactAsked<D>& c) {
        if (c.body_a.index > 2 && (c.body_a.index + c.body_b.index) % 9 == 0) c.most_push = 20;
    });
    Vec<D> plate = test::all<D>(8);
    plate.y = 0.2f;
    world.add({.pose = {{0, 0.1}, {}},
               .shapes = {{.geometry = test::box_of(plate), .surface_velocity = {0.1f, 0}}}});
    BodySpec<D> paddle{.motion = Motion::Kinematic, .pose = {{-1, 1}, {}}};
    if constexpr (D == 2) paddle.angular_velocity = 1;
    else paddle.angular_velocity = {0.2f, 0.3f, 1};
    Vec<D> blade = test::all<D>(0.8f);
    blade.y = 0.1f;
    const std::vector<ShapeSpec<D>> blades{{.geometry = test::box_of(blade)}};
    paddle.shapes = blades;
    world.add(paddle);
    test::Numbers n(11);
    for (int i = 0; i < 60; i++) {
        const Material m{.restitution = i % 4 == 0 ? 0.3f : 0.0f,
                         .rolling_resistance = 0.01f,
                         .spinning_resistance = 0.01f};
        ShapeSpec<D> shape{i % 3 == 0   ? Geometry<D>(Ball<D>{0.15f})
                           : i % 3 == 1 ? Geometry<D>(test::cube<D>(0.3f))
                                        : Geometry<D>(tube(Vec<D>{})),
                           m};
        Point<D> at{-3 + 0.6 * (i % 10), 0.5 + 0.5 * (i / 10)};
        if constexpr (D == 3) at.z = n.in(-0.3, 0.3);
        world.add({.pose = {at, n.rotation(Vec<D>{})}, .shapes = {shape}});
    }
    for (int i = 0; i < 2; i++) // heavy on light
        world.add({.pose = {{3.5, 0.35 + 0.3 * i}, {}},
                   .shapes = {{.geometry = test::cube<D>(0.3f), .density = i == 0 ? 1000.0f : 100000.0f}}});
    return world;
}

// Whatever is granted: what is refused bounces in passes. Returns the highest level.
template<int D> int run_in_all_sets(float extra_work, int ticks) {
    std::vector<World<D>> worlds;
    for (const auto set : available())
        worlds.push_back(heap<D>(set)), worlds.back().set_extra_work(extra_work);
    int most = 0;
    for (int tick = 0; tick < ticks; tick++) {
        for (auto& w : worlds) w.step();
        const auto& state = WorldAccess::state(worlds[0]);
        for (std::uint32_t i = 0; i < state.advance.roots().size(); i++)
            most = std::max(most, int{state.advance.treatment_of(i).level});
        for (std::size_t i = 1; i < worlds.size(); i++) {
            EXPECT_EQ(worlds[0].fingerprint(), worlds[i].fingerprint())
                << "set " << i << ", tick " << tick << ", extra work " << extra_work;
            if (testing::Test::HasFailure()) return most;
        }
    }
    return most;
}

TYPED_TEST(KernelsTest, AllSetsGiveTheSameBits) {
    constexpr int D = TypeParam::value;
    EXPECT_GT(run_in_all_sets<D>(1, ASTASIS_DEFAULT_CASES), 0); // islands of several kinds ran
    run_in_all_sets<D>(0.1f, ASTASIS_DEFAULT_CASES / 4);
    run_in_all_sets<D>(0, ASTASIS_DEFAULT_CASES / 2);
}

// Two balls that touch, with any masses and velocities, in a substep without gravity.
template<int D> struct Touch {
    flow::Bodies<D> bodies;
    std::vector<flow::Manifold<D>> manifolds{1};
};
template<int D> math::Inertia<D> round_inertia(float i) {
    if constexpr (D == 2) return i;
    else return {i, 0, 0, i, 0, i};
}
template<int D> Touch<D> touching(test::Numbers& n, float friction) {
    Touch<D> t;
    const Vec<D> normal = direction(n.vec<D>(-1, 1), Vec<D>{1});
    for (int i = 0; i < 2; i++) {
        flow::Mass<D> m;
        m.mass = n.f(0.5, 5), m.inverse_mass = 1 / m.mass;
        m.inertia = round_inertia<D>(0.4f * m.mass * 0.25f);
        m.inverse_inertia = round_inertia<D>(1 / (0.4f * m.mass * 0.25f));
        t.bodies.mass.push_back(m);
        t.bodies.pose.push_back(
            {Point<D>{} + normal * (i == 0 ? -0.49999f : 0.49999f), n.rotation(Vec<D>{})});
        flow::Velocity<D> v{n.vec<D>(-2, 2), {}};
        for (int k = 0; k < math::kAxialSize<D>; k++) math::component(v.angular, k) = n.f(-5, 5);
        t.bodies.velocity.push_back(v);
        t.bodies.motion.push_back(Motion::Dynamic);
    }
    t.bodies.remainder.resize(2), t.bodies.push.resize(2), t.bodies.free.resize(2), t.bodies.still.resize(2);
    t.bodies.moving = 2;
    auto& m = t.manifolds[0];
    m.body_a = 0, m.body_b = 1, m.guide = flow::Guide::Centres, m.count = 1;
    m.normal = normal, m.skin_a = m.skin_b = 0.5f, m.friction = friction, m.thickness = 1;
    m.points[0].normal_force = 1e-20f; // rests on it: this is no impact
    return t;
}
template<int D> Vec<D> closing(const Touch<D>& t, Vec<D> n) {
    const auto &a = t.bodies.velocity[0], &b = t.bodies.velocity[1];
    return (b.linear + cross(b.angular, n * -0.5f)) - (a.linear + cross(a.angular, n * 0.5f));
}

// One contact has a closed form: the normal speed goes to 0 by its mass, the slip too if the disc lets it.
TYPED_TEST(KernelsTest, OneContactIsSolvedByItsClosedForm) {
    constexpr int D = TypeParam::value;
    int pushed = 0, slid = 0;
    for (const auto set : available()) {
        test::Numbers n(3);
        for (int i = 0; i < 2000; i++) {
            const float friction = n.f(0, 1);
            Touch<D> t = touching<D>(n, friction);
            const Vec<D> normal = t.manifolds[0].normal, before = closing(t, normal);
            const auto start = t.bodies;
            std::vector<std::uint32_t> claims(2);
            Advance<D>(set).advance({.tick = 1e-6}, {}, t.bodies, t.manifolds, claims);
            const Vec<D> after = closing(t, normal);
            const double speed = dot(before, normal), left = dot(after, normal);
            const double mass = 1 / (1.0 / start.mass[0].mass + 1.0 / start.mass[1].mass);
            const double impulse =
                length(t.bodies.velocity[0].linear - start.velocity[0].linear) * start.mass[0].mass;
            if (speed >= 0) { // parts
                ASSERT_NEAR(left, speed, 1e-5);
                continue;
            }
            pushed++;
            ASSERT_NEAR(left, 0, 2e-4) << i; // the pose has moved on by a millionth of a second
            const Vec<D> slip = before - normal * dot(before, normal),
                         slip_after = after - normal * dot(after, normal);
            // A ball's sliding meets 1/m + r^2/I = 3.5/m.
            const double needed = length(slip) * mass / 3.5, most = friction * -speed * mass;
            const double drag = std::min(needed, most);
            slid += needed > most;
            ASSERT_NEAR(impulse, std::hypot(speed * mass, drag), 2e-3 * (1 + impulse)) << i;
            ASSERT_NEAR(length(slip_after), length(slip) - 3.5 * drag / mass, 4e-3) << i;
            // Momentum stays.
            const Vec<D> sum = (t.bodies.velocity[0].linear - start.velocity[0].linear) * start.mass[0].mass +
                               (t.bodies.velocity[1].linear - start.velocity[1].linear) * start.mass[1].mass;
            ASSERT_LT(length(sum), 1e-5f * (1 + static_cast<float>(impulse)));
        }
    }
    EXPECT_GT(pushed, 500);
    EXPECT_GT(slid, 100);
}

}
}
