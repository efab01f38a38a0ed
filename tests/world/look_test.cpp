// Queries of a world against the same question put to each shape.
#include "narrow/touch_support.h"
#include "support/dims.h"

#include <algorithm>
#include <thread>

namespace astasis {
namespace {

using test::error_of;
using test::Numbers;

template<typename T> class LookTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(LookTest, test::Dimensions);

Geometry<2> some_shape(Numbers& n, Vec2) {
    switch (static_cast<int>(n.in(0, 5))) {
    case 0: return Circle{n.f(0.1, 0.5)};
    case 1: return Box2::sized(n.f(0.2, 1), n.f(0.2, 1));
    case 2: return Capsule2{{-0.3f, 0}, {0.3f, 0.1f}, n.f(0.05, 0.2)};
    case 3: return Polygon{{{-0.4f, -0.3f}, {0.5f, -0.2f}, {0.1f, 0.5f}}, n.f(0, 0.1)};
    default: return Segment{{-0.5f, 0}, {0.4f, 0.2f}};
    }
}
Geometry<3> some_shape(Numbers& n, Vec3) {
    switch (static_cast<int>(n.in(0, 5))) {
    case 0: return Sphere{n.f(0.1, 0.5)};
    case 1: return Box3::sized(n.f(0.2, 1), n.f(0.2, 1), n.f(0.2, 1));
    case 2: return Capsule3{{-0.3f, 0, 0}, {0.3f, 0.1f, 0}, n.f(0.05, 0.2)};
    case 3: {
        const std::vector<Vec3> corners{
            {-0.4f, -0.3f, 0}, {0.5f, -0.2f, 0.1f}, {0.1f, 0.5f, 0}, {0, 0, 0.5f}};
        return Hull::around(corners);
    }
    default: return Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, n.f(0.1, 0.3)};
    }
}
Geometry<2> ground(Vec2) {
    TileGrid tiles{.columns = 8, .rows = 2, .cell = 1};
    tiles.solid = {true,  true, true,  true,  true, true, true,  true,
                   false, true, false, false, true, true, false, false};
    return tiles;
}
Geometry<3> ground(Vec3) {
    HeightField field{.columns = 9, .rows = 9, .pitch = 1};
    for (int i = 0; i < 81; i++) field.heights.push_back(0.3f * static_cast<float>((i * 7) % 5));
    return field;
}

// A depot of a few hundred shapes, some of which fall, after a few ticks.
template<int D> World<D> depot(Numbers& n, int count) {
    World<D> world;
    world.add({.motion = Motion::Static, .pose = {{-4, -6}, {}}, .shapes = {{ground(Vec<D>{})}}});
    world.add({.motion = Motion::Static, .pose = {{0, -8}, {}}, .shapes = {{HalfSpace<D>{}}}});
    for (int i = 0; i < count; i++) {
        ShapeSpec<D> shape{some_shape(n, Vec<D>{})};
        if constexpr (D == 2)
            if (std::holds_alternative<Segment>(shape.geometry)) shape.geometry = Circle{0.2f};
        shape.placement = {n.template vec<D>(-0.3, 0.3), n.rotation(Vec<D>{})};
        shape.layers = i % 3 == 0 ? 2 : 1;
        world.add({.motion = i % 2 == 0 ? Motion::Static : Motion::Dynamic,
                   .pose = {Point<D>{} + n.template vec<D>(-5, 5), n.rotation(Vec<D>{})},
                   .velocity = i % 2 == 0 ? Vec<D>{} : n.template vec<D>(-20, 20),
                   .shapes = {shape}});
    }
    test::step(world, 5);
    return world;
}

template<int D> Pose<D> shape_pose(const World<D>& world, BodyId id, std::uint32_t k) {
    const Pose<D> body = world.pose(id);
    const Placement<D>& on = world.shapes(id)[k].placement;
    return {body.position + rotate(body.rotation, on.position), body.rotation * on.rotation};
}

// The answer of each shape by itself, the first of them first.
template<int D, typename Ask>
std::vector<Hit<D>> ask_all(const World<D>& world, const Filter& filter, const Ask& ask) {
    std::vector<Hit<D>> out;
    for (const BodyId id : world.bodies())
        for (std::uint32_t k = 0; k < world.shapes(id).size(); k++) {
            if ((world.shapes(id)[k].layers & filter.layers) == 0 || id == filter.except) continue;
            if (const auto hit = ask(world.shapes(id)[k].geometry, shape_pose(world, id, k)))
                out.push_back({id, k, hit->piece, hit->fraction, hit->position, hit->normal});
        }
    std::stable_sort(out.begin(), out.end(),
                     [](const auto& a, const auto& b) { return a.fraction < b.fraction; });
    return out;
}

// Poses of shapes are put together in another order here than in the world: equal but for rounding.
template<int D> void expect_same(const Hit<D>& got, const Hit<D>& want, double way) {
    EXPECT_EQ(got.body, want.body);
    EXPECT_EQ(got.shape, want.shape);
    EXPECT_NEAR(got.fraction * way, want.fraction * way, 1e-4);
}
// Counts those in one list only: a hit that only grazes may be there or not for a rounding.
template<int D> int count_odd(const std::vector<Hit<D>>& got, const std::vector<Hit<D>>& want, double way) {
    std::size_t both = 0;
    for (const auto& hit : got) {
        const auto same =
            std::find_if(want.begin(), want.end(), [&](const auto& w) { return w.body == hit.body; });
        if (same == want.end()) continue;
        expect_same(hit, *same, way);
        both++;
    }
    return static_cast<int>(got.size() + want.size() - 2 * both);
}

TYPED_TEST(LookTest, RaysMeetWhatEachShapeSays) {
    constexpr int D = TypeParam::value;
    Numbers n(17);
    int rays = 0, hits = 0, differ = 0;
    for (int round = 0; round < 10; round++) {
        const World<D> world = depot<D>(n, 150);
        for (int i = 0; i < test::cases(); i++) {
            const Ray<D> ray{Point<D>{} + n.template vec<D>(-7, 7), n.template vec<D>(-9, 9)};
            Filter filter;
            if (i % 4 == 1) filter.layers = 2;
            if (i % 4 == 2) filter.except = world.bodies()[static_cast<std::size_t>(n.in(0, 150))];
            const auto want = ask_all(world, filter, [&](const auto& g, const auto& at) {
                return ray_cast<D>(g, at, ray.from, ray.displacement);
            });
            std::vector<Hit<D>> got;
            all_hits(world, ray, got, filter);
            const double way = length(ray.displacement);
            differ += count_odd(got, want, way);
            const auto first = first_hit(world, ray, filter);
            ASSERT_EQ(first.has_value(), !got.empty());
            ASSERT_EQ(any_hit(world, ray, filter), !got.empty());
            if (first) {
                ASSERT_TRUE(first->body == got[0].body && first->fraction == got[0].fraction);
            }
            rays++, hits += static_cast<int>(got.size());
        }
    }
    std::printf("%d rays, %d hits, %d differ by a rounding\n", rays, hits, differ);
    EXPECT_GT(hits, rays / 10);
    EXPECT_LE(differ, rays / 1000);
}

TYPED_TEST(LookTest, CastsMeetWhatEachShapeSays) {
    constexpr int D = TypeParam::value;
    Numbers n(19);
    int casts = 0, hits = 0, differ = 0;
    for (int round = 0; round < 10; round++) {
        const World<D> world = depot<D>(n, 100);
        for (int i = 0; i < test::cases(); i++) {
            const Geometry<D> shape = some_shape(n, Vec<D>{});
            const Pose<D> from{Point<D>{} + n.template vec<D>(-7, 7), n.rotation(Vec<D>{})};
            const Vec<D> way = n.template vec<D>(-9, 9);
            const auto want =
                ask_all(world, {}, [&](const auto& g, const auto& at) -> std::optional<RayHit<D>> {
                    const auto met = shape_cast<D>(shape, from, way, g, at);
                    if (!met) return {};
                    return RayHit<D>{met->time, met->position, -met->normal, met->piece};
                });
            const auto got = first_impact(world, shape, from, way);
            casts++;
            if (got.has_value() == want.empty()) differ++;
            else if (got) {
                hits++;
                EXPECT_NEAR(got->fraction * length(way), want[0].fraction * length(way), 1e-4);
                if (want.size() > 1 && want[1].fraction - want[0].fraction > 1e-4) {
                    EXPECT_EQ(got->body, want[0].body);
                }
            }
        }
    }
    std::printf("%d casts, %d hits, %d differ by a rounding\n", casts, hits, differ);
    EXPECT_GT(hits, casts / 4);
    EXPECT_LE(differ, casts / 1000);
}

// A height field holds all that is below it, but a world sees it within its bounds only.
template<int D> bool contains_here(const Geometry<D>& g, const Pose<D>& pose, const Point<D>& p) {
    const Bounds<D> b = bounds_of<D>(g, pose);
    for (int k = 0; k < D; k++)
        if (p[k] < b.low[k] || p[k] > b.high[k]) return false;
    return contains<D>(g, pose, p);
}

TYPED_TEST(LookTest, OverlapsAndNeighboursAreWhatEachShapeSays) {
    constexpr int D = TypeParam::value;
    Numbers n(23);
    int asked = 0, met = 0, differ = 0;
    for (int round = 0; round < 10; round++) {
        const World<D> world = depot<D>(n, 150);
        for (int i = 0; i < test::cases() / 4; i++) {
            const Geometry<D> shape = some_shape(n, Vec<D>{});
            const Pose<D> at{Point<D>{} + n.template vec<D>(-7, 7), n.rotation(Vec<D>{})};
            const float within = n.f(0, 2);
            std::vector<Found<D>> overlaps, near;
            overlapping(world, shape, at, overlaps);
            nearest(world, at.position, within, near);
            EXPECT_TRUE(std::is_sorted(near.begin(), near.end(), [](const auto& a, const auto& b) {
                return a.separation < b.separation;
            }));
            for (const BodyId id : world.bodies()) {
                const auto& g = world.shapes(id)[0].geometry;
                const Pose<D> pose = shape_pose(world, id, 0);
                const auto of_body = [&](const auto& list) {
                    return std::find_if(list.begin(), list.end(),
                                        [&](const auto& f) { return f.body == id; });
                };
                const auto d = distance<D>(shape, at, g, pose);
                const bool inside = contains_here<D>(g, pose, at.position);
                const bool swallowed = contains_here<D>(g, pose, d.on_a);
                const bool overlaps_it = of_body(overlaps) != overlaps.end();
                if (std::fabs(d.separation) > 1e-4) {
                    EXPECT_EQ(overlaps_it, d.separation < 0 || swallowed);
                } else differ += overlaps_it != (d.separation <= 0);
                const Point<D> closest = closest_point<D>(g, pose, at.position);
                const double away = inside ? 0.0 : static_cast<double>(length(closest - at.position));
                const auto found = of_body(near);
                if (std::fabs(away - within) > 1e-4) {
                    EXPECT_EQ(found != near.end(), away < within);
                }
                if (found != near.end()) {
                    EXPECT_NEAR(found->separation, away, 1e-4);
                    EXPECT_NEAR(length(found->position - closest), 0, inside ? 3 : 1e-3);
                }
                asked++, met += overlaps_it;
            }
        }
    }
    std::printf("%d shapes asked, %d overlap, %d differ by a rounding\n", asked, met, differ);
    EXPECT_GT(met, asked / 3000);
}

TYPED_TEST(LookTest, SeesWhatTheFilterLetsThrough) {
    constexpr int D = TypeParam::value;
    World<D> world;
    std::vector<BodyId> ids;
    for (int i = 0; i < 3; i++)
        ids.push_back(world.add(
            {.motion = Motion::Static, .pose = {{2.0 * i, 0}, {}}, .shapes = {{test::cube<D>(1)}}}));
    const Ray<D> ray{{-2, 0}, {10, 0}};
    EXPECT_EQ(first_hit(world, ray)->body, ids[0]);
    EXPECT_NEAR(first_hit(world, ray)->fraction, 0.15, 1e-6);
    EXPECT_EQ(first_hit(world, ray)->normal, (Vec<D>{-1, 0}));
    EXPECT_EQ(first_hit(world, ray, {.except = ids[0]})->body, ids[1]);
    EXPECT_EQ(first_hit(world, ray, {.accept = [&](BodyId id, std::uint32_t) { return id == ids[2]; }})->body,
              ids[2]);
    EXPECT_FALSE(any_hit(world, ray, {.layers = 2}));
    world.set_layers(ids[1], 0, 2, 1);
    EXPECT_EQ(first_hit(world, ray, {.layers = 2})->body, ids[1]);
    world.set_pose(ids[1], {{0, 5}, {}});
    EXPECT_FALSE(any_hit(world, ray, {.layers = 2}));
    world.remove(ids[0]);
    EXPECT_EQ(first_hit(world, ray)->body, ids[2]);

    const Ray<D> inside{{4, 0}, {10, 0}}, nowhere{{4, 0}, {}};
    EXPECT_EQ(first_hit(world, inside)->fraction, 0);
    EXPECT_EQ(first_hit(world, inside)->normal, (Vec<D>{-1, 0}));
    EXPECT_TRUE(any_hit(world, nowhere));
    EXPECT_FALSE(any_hit(world, Ray<D>{{9, 9}, {}}));
    std::vector<std::optional<Hit<D>>> many;
    first_hits<D>(world, std::vector<Ray<D>>{ray, {{9, 9}, {}}, inside}, many);
    ASSERT_EQ(many.size(), 3u);
    EXPECT_TRUE(many[0].has_value() && !many[1].has_value() && many[2].has_value());

    EXPECT_EQ(error_of([&] {
                  static_cast<void>(first_hit(world, Ray<D>{{NAN, 0}, {}}));
              }).field(),
              "ray.from");
    EXPECT_EQ(error_of([&] {
                  static_cast<void>(first_hit(world, Ray<D>{{}, {INFINITY, 0}}));
              }).field(),
              "ray.displacement");
    std::vector<Found<D>> found;
    EXPECT_EQ(error_of([&] { nearest(world, Point<D>{}, -1, found); }).field(), "within");
    EXPECT_EQ(error_of([&] { overlapping(world, Bounds<D>{}, found); }).field(), "box");
    EXPECT_EQ(error_of([&] {
                  static_cast<void>(first_impact<D>(world, HalfSpace<D>{}, {}, {1, 0}));
              }).field(),
              "shape");
    overlapping(world,
                Bounds<D>{Point<D>{3.2, -1} - test::all<D>(0.01f), Point<D>{3.6, 1} + test::all<D>(0.01f)},
                found);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].body, ids[2]);
}

TYPED_TEST(LookTest, ThreadsAskAtOnce) {
    constexpr int D = TypeParam::value;
    Numbers n(29);
    const World<D> world = depot<D>(n, 200);
    std::vector<Ray<D>> rays;
    for (int i = 0; i < 2000; i++)
        rays.push_back({Point<D>{} + n.template vec<D>(-7, 7), n.template vec<D>(-9, 9)});
    std::vector<std::optional<Hit<D>>> alone;
    std::vector<std::vector<std::optional<Hit<D>>>> together(4);
    first_hits<D>(world, rays, alone);
    std::vector<std::thread> threads;
    for (auto& out : together) threads.emplace_back([&] { first_hits<D>(world, rays, out); });
    for (auto& t : threads) t.join();
    for (const auto& out : together)
        for (std::size_t i = 0; i < rays.size(); i++) {
            ASSERT_EQ(out[i].has_value(), alone[i].has_value());
            if (out[i]) {
                ASSERT_TRUE(out[i]->body == alone[i]->body && out[i]->fraction == alone[i]->fraction);
            }
        }
}

}
}
