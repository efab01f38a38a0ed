// Counts allocations: none in a steady tick, none in a query once its vectors and its thread have been used.
#include "astasis/world_queries.h"

#include "support/dims.h"

#include <algorithm>
#include <atomic>
#include <cstdlib>
#include <new>

namespace {

std::atomic<long> allocations{0};

void* counted(std::size_t size) {
    allocations++;
    void* room = std::malloc(size == 0 ? 1 : size);
    if (room == nullptr) throw std::bad_alloc();
    return room;
}

}

void* operator new(std::size_t size) { return counted(size); }
void* operator new[](std::size_t size) { return counted(size); }
void operator delete(void* room) noexcept { std::free(room); }
void operator delete[](void* room) noexcept { std::free(room); }
void operator delete(void* room, std::size_t) noexcept { std::free(room); }
void operator delete[](void* room, std::size_t) noexcept { std::free(room); }

namespace astasis {
namespace {

template<typename T> class Allocations : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(Allocations, test::Dimensions);

Geometry<2> ground(Vec2) {
    const std::vector<Vec2> corners{{9, 1}, {4, 0}, {0, 0}, {-4, 0}, {-9, 1}};
    return Polyline::open(corners);
}
Geometry<3> ground(Vec3) {
    HeightField field{.columns = 10, .rows = 10, .pitch = 2};
    for (int i = 0; i < 100; i++) field.heights.push_back(i % 10 == 0 || i % 10 == 9 ? 0.5f : 0);
    return field;
}
std::vector<Geometry<2>> kinds(Vec2) {
    return {Box2::sized(0.8f, 0.6f), Circle{0.4f}, Capsule2{{-0.3f, 0}, {0.3f, 0}, 0.2f},
            Polygon{{{-0.4f, -0.3f}, {0.5f, -0.2f}, {0.1f, 0.5f}}, 0.05f}};
}
std::vector<Geometry<3>> kinds(Vec3) {
    const std::vector<Vec3> corners{{-0.4f, -0.3f, 0}, {0.5f, -0.2f, 0.1f}, {0.1f, 0.5f, 0}, {0, 0, 0.5f}};
    return {Box3::sized(0.8f, 0.6f, 0.7f), Sphere{0.4f}, Capsule3{{-0.3f, 0, 0}, {0.3f, 0, 0}, 0.2f},
            Hull::around(corners), Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, 0.3f}};
}
Point<2> on_ground(int i) { return {-3 + 1.2 * (i % 6), 0.6 + 1.0 * (i / 6)}; }
Point<3> on_ground(int i, Vec3) { return {5 + 1.2 * (i % 6), 0.6 + 1.0 * (i / 36), 5 + 1.2 * (i / 6 % 6)}; }
Point<2> on_ground(int i, Vec2) { return on_ground(i); }

template<int D> World<D> heap(int count) {
    World<D> world;
    const auto shapes = kinds(Vec<D>{});
    world.add({.motion = Motion::Static, .shapes = {{ground(Vec<D>{})}}});
    for (int i = 0; i < count; i++)
        world.add({.pose = {on_ground(i, Vec<D>{}), {}},
                   .free = {.angular_damping = 1},
                   .shapes = {{shapes[static_cast<std::size_t>(i) % shapes.size()]}}});
    return world;
}

TYPED_TEST(Allocations, NoneInASteadyTick) {
    for (const bool sleeping : {false, true}) { // all awake; all asleep in the end
        World<TypeParam::value> world = heap<TypeParam::value>(40);
        world.set_sleeping(sleeping);
        test::step(world, sleeping ? 2000 : 400);
        ASSERT_EQ(world.sleepers().bodies, sleeping ? 40u : 0u);
        const long before = allocations;
        test::step(world, 1000);
        EXPECT_EQ(allocations - before, 0);
        ASSERT_GT(world.contacts().size(), 40u);
    }
}

// Ticks in which a heavy ball goes through a heap: after a first crash there is room for others, though each
// meets in another way. (An island that falls asleep or wakes makes its own room.)
TYPED_TEST(Allocations, NoneInACrashAfterAFirst) {
    constexpr int D = TypeParam::value;
    World<D> world = heap<D>(40);
    world.set_sleeping(false);
    const BodyId ball = world.add({.shapes = {{.geometry = Ball<D>{0.5f}, .density = 5000}}});
    long made = 0;
    for (const float speed : {60.0f, 55.0f, 60.0f, 50.0f}) {
        int next = 0;
        for (const BodyId id : world.bodies()) {
            if (world.motion(id) != Motion::Dynamic) continue;
            world.set_pose(id, {on_ground(next++, Vec<D>{}), {}});
            world.set_velocity(id, {});
        }
        Point<D> at = on_ground(6, Vec<D>{});
        at.x -= 6, at.y += 1;
        world.set_pose(ball, {at, {}});
        world.set_velocity(ball, {speed, 0});
        const long before = allocations;
        test::step(world, 120);
        const long now = allocations - before;
        if (made > 0) {
            EXPECT_EQ(now, 0) << speed << " m/s";
        }
        made += now;
    }
    EXPECT_GT(made, 0);
}

// A heap in an area that is watched, with a ball that runs through barriers and a game that filters and looks
// at all contacts.
TYPED_TEST(Allocations, NoneWithEventsSensorsAndHooks) {
    constexpr int D = TypeParam::value;
    World<D> world = heap<D>(40);
    world.set_sleeping(false);
    world.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
    world.add({.motion = Motion::Static, .shapes = {{.geometry = test::cube<D>(8), .is_sensor = true}}});
    std::vector<BodyId> shots;
    for (int k = 0; k < 4; k++) {
        world.add({.motion = Motion::Static,
                   .pose = {{0, 20.0 + k}},
                   .shapes = {{.geometry = test::cube<D>(0.1f), .is_sensor = true}}});
        shots.push_back(world.add({.free = {.gravity_scale = 0}, .shapes = {{Ball<D>{0.1f}}}}));
    }
    world.set_pair_filter([](BodyId a, BodyId b) { return a.index != b.index; });
    world.set_contact_hook([](ContactAsked<D>& c) { c.friction *= 0.9f; });
    world.set_substep_hook([](Substep<D>& s) {
        for (const BodyId id : s.bodies())
            if (s.body(id).centre.y < 0) s.push(id, {0, 1});
            else s.set_velocities(id, {s.body(id).velocity, s.body(id).angular_velocity});
    });
    world.set_own_motion(shots[0], [](const SeenBody<D>& b) {
        return Velocities<D>{b.velocity, b.angular_velocity};
    });
    std::size_t entered = 0;
    const auto run = [&](int ticks) {
        for (int tick = 0; tick < ticks; tick++) {
            if (tick % 20 == 0)
                for (std::size_t k = 0; k < shots.size(); k++) {
                    world.set_pose(shots[k], {{-3, 20.0 + static_cast<double>(k)}});
                    world.set_velocity(shots[k], {40, 0});
                }
            world.step();
            entered += world.events().entered.size();
        }
    };
    run(600);
    const long before = allocations;
    run(600);
    EXPECT_EQ(allocations - before, 0);
    EXPECT_GT(entered, 200u);
    EXPECT_GT(world.events().moved.size(), 3u);
}

// A chain that swings with a motor at its end and a spring on its load, in wind and over an attractor.
TYPED_TEST(Allocations, NoneWithJointsAndFields) {
    constexpr int D = TypeParam::value;
    World<D> world = heap<D>(12);
    world.set_sleeping(false);
    std::optional<BodyId> before;
    for (int k = 0; k < 12; k++) {
        const double x = 0.4 * k;
        const BodyId link =
            world.add({.pose = {{x + 0.2, 8}, {}}, .shapes = {{Capsule<D>{{-0.15f, 0}, {0.15f, 0}, 0.05f}}}});
        world.add_joint(Hinge<D>{.joins = {.a = link, .b = before, .at = Point<D>{x, 8}},
                                 .limits = {.lower = -1, .upper = 1},
                                 .motor = {.most = 0.2f}});
        before = link;
    }
    world.add_joint(Spring<D>{.joins = {.a = *before, .at = Point<D>{6, 9}}});
    world.add_field({.kind = Wind<D>{.velocity = {2, 0}, .drag = 0.1f}});
    world.add_field({.kind = Attraction<D>{.centre = {0, 20}, .strength = 5}});
    test::step(world, 300);
    const long before_all = allocations;
    test::step(world, 600);
    EXPECT_EQ(allocations - before_all, 0);
}

TYPED_TEST(Allocations, NoneInAQuery) {
    constexpr int D = TypeParam::value;
    World<D> world = heap<D>(40);
    test::step(world, 100);
    test::Numbers n(3);
    const Geometry<D> shape = test::cube<D>(0.5f);
    std::vector<Hit<D>> hits;
    std::vector<std::optional<Hit<D>>> first;
    std::vector<Found<D>> found;
    long made = 0;
    std::size_t met = 0;
    for (int round = 0; round < 2; round++) { // the first to warm up
        const long before = allocations;
        for (int i = 0; i < 200; i++) {
            const Ray<D> ray{on_ground(i % 40, Vec<D>{}) + Vec<D>{0, 3}, n.template vec<D>(-6, 6)};
            met += first_hit(world, ray).has_value();
            met += any_hit(world, ray);
            all_hits(world, ray, hits);
            first_hits<D>(world, {&ray, 1}, first);
            met += first_impact(world, shape, {ray.from, {}}, ray.displacement).has_value();
            overlapping(world, shape, {on_ground(i % 40, Vec<D>{}), {}}, found);
            met += found.size();
            nearest(world, ray.from, 2, found);
        }
        made = allocations - before;
        hits.reserve(64), found.reserve(64);
    }
    EXPECT_EQ(made, 0);
    EXPECT_GT(met, 200u);
}

TYPED_TEST(Allocations, NoneForBodiesThatHadRoomMade) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.reserve(100, 100);
    const BodySpec<D> spec{.motion = Motion::Static, .shapes = {{test::cube<D>(1)}}};
    // Each body keeps lists of its own shapes; what the world keeps of it has its place already.
    std::vector<long> of_body(100);
    for (long& count : of_body) {
        const long before = allocations;
        world.add(spec);
        count = allocations - before;
    }
    EXPECT_EQ(std::count(of_body.begin() + 1, of_body.end(), of_body[1]), 99);
}

}
}
