// Surfaces: contacts of their pieces against brute force, and no seams where they are smooth.
#include "math/numbers.h"
#include "narrow/oracle_space.h"

namespace astasis {
namespace {

using namespace test;

Polyline straight_line(int segments, float from, float to) { // a floor: from right to left
    std::vector<Vec2> corners;
    for (int i = segments; i >= 0; i--)
        corners.push_back({from + (to - from) * static_cast<float>(i) / static_cast<float>(segments), 0});
    return Polyline::open(corners);
}

TileGrid floor_of_tiles(int columns, int rows, float cell) {
    return {columns, rows, cell, std::vector<std::uint8_t>(static_cast<std::size_t>(columns * rows), 1)};
}

// A level floor of triangles, cut this way and that: two in each cell.
TriangleMesh level_mesh(int cells, float from, float pitch, float half_width, Numbers& n) {
    std::vector<Vec3> corners;
    std::vector<TriangleMesh::Triangle> triangles;
    for (int i = 0; i <= cells; i++)
        for (const float z : {-half_width, half_width})
            corners.push_back({from + static_cast<float>(i) * pitch, 0, z});
    for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(cells); i++) {
        const std::uint32_t a = 2 * i, b = a + 1, c = a + 2, d = a + 3;
        if (n.in(0, 1) < 0.5) triangles.push_back({a, b, c}), triangles.push_back({b, d, c});
        else triangles.push_back({a, b, d}), triangles.push_back({a, d, c});
    }
    return TriangleMesh::of(corners, triangles);
}

// What slides over a level surface at 5 m/s keeps its height and its speed.
template<int D>
void slide(const Geometry<D>& floor, const Geometry<D>& slider, double lowest, Point<D> start, int ticks,
           const char* what) {
    World<D> world{WorldSpec<D>{}};
    world.add({.motion = Motion::Static, .shapes = {{floor, {.friction = 0}}}});
    start.y = lowest;
    const BodyId id =
        world.add({.pose = {start, {}}, .velocity = {5, 0}, .shapes = {{slider, {.friction = 0}}}});
    step(world, 20); // comes to rest on the floor
    const double height = world.pose(id).position.y;
    float most_change = 0, most_height = 0, most_turn = 0;
    for (int i = 0; i < ticks; i++) {
        world.step();
        most_change = std::max(most_change, length(world.velocity(id) - Vec<D>{5, 0}));
        most_height =
            std::max(most_height, static_cast<float>(std::fabs(world.pose(id).position.y - height)));
        most_turn = std::max(most_turn, math::magnitude(world.angular_velocity(id)));
    }
    EXPECT_LT(most_change, 1e-4f) << what;
    EXPECT_LT(most_height, 1e-4f) << what;
    EXPECT_LT(most_turn, 1e-3f) << what;
    EXPECT_NEAR(world.pose(id).position.x - start.x, 5 * (ticks + 20) / 60.0, 0.01) << what;
    EXPECT_NEAR(height, lowest, 2e-3) << what;
}

TEST(Surface, NothingCatchesAtSeamsOfThePlane) { // 1000 pieces of 0.1 m: 100 m, 20 s
    const std::vector<std::pair<Geometry<2>, double>> sliders{
        {Box2::sized(0.5f, 0.3f), 0.15},
        {Box2::sized(0.5f, 0.3f).rounded(0.05f), 0.15},
        {Circle{0.2f}, 0.2},
        {Capsule2{{-0.2f, 0}, {0.2f, 0}, 0.1f}, 0.1},
        {Polygon{{{-0.3f, 0}, {0.3f, 0}, {0, 0.4f}}}, 0}};
    int i = 0;
    for (const auto& [slider, lowest] : sliders) {
        const std::string name = "slider " + std::to_string(i++);
        slide<2>(straight_line(1000, -1, 109), slider, lowest, {0, 0}, 1200,
                 (name + " on a polyline").c_str());
        // The grid's top is at the height of its cells.
        slide<2>(floor_of_tiles(1100, 2, 0.1f), slider, lowest + 0.2, {0.5, 0}, 1200,
                 (name + " on tiles").c_str());
    }
}

TEST(Surface, NothingCatchesAtSeamsOfSpace) {
    Numbers n(4);
    const std::vector<std::pair<Geometry<3>, double>> sliders{
        {Box3::sized(0.5f, 0.3f, 0.4f), 0.15},
        {Box3::sized(0.5f, 0.3f, 0.4f).rounded(0.05f), 0.15},
        {Sphere{0.2f}, 0.2},
        {Capsule3{{-0.2f, 0, 0}, {0.2f, 0, 0}, 0.1f}, 0.1},
        {Cylinder{{0, -0.2f, 0}, {0, 0.2f, 0}, 0.25f}, 0.2},
        {Hull::around(std::vector<Vec3>{{-0.3f, 0, -0.2f}, {0.3f, 0, -0.2f}, {0, 0, 0.4f}, {0, 0.5f, 0}}),
         0}};
    HeightField level{502, 6, 0.2f, std::vector<float>(502 * 6, 0.0f)};
    int i = 0;
    for (const auto& [slider, lowest] : sliders) {
        const std::string name = "slider " + std::to_string(i++);
        slide<3>(level_mesh(550, -1, 0.2f, 1, n), slider, lowest, {0, 0, 0.03}, 1200,
                 (name + " on a mesh").c_str());
        slide<3>(level, slider, lowest, {1, 0, 0.43}, 900, (name + " on a height field").c_str());
    }
}

double point_to_triangle(const Vec3d& p, const Vec3d& a, const Vec3d& b, const Vec3d& c) {
    const Vec3d n = (b - a).cross(c - a).normalized(), on = p - n * n.dot(p - a);
    const auto inside = [&](const Vec3d& u, const Vec3d& v) { return (v - u).cross(on - u).dot(n) >= 0; };
    if (inside(a, b) && inside(b, c) && inside(c, a)) return (p - on).norm();
    const auto to_edge = [&](const Vec3d& u, const Vec3d& v) {
        return (p - u - (v - u) * std::clamp((p - u).dot(v - u) / (v - u).squaredNorm(), 0.0, 1.0)).norm();
    };
    return std::min({to_edge(a, b), to_edge(b, c), to_edge(c, a)});
}

// Balls near a surface of triangles: the deepest contact is the nearest triangle's, by brute force.
TEST(Surface, BallsAgreeWithTheNearestTriangle) {
    Numbers n(8);
    std::vector<Vec3> corners;
    std::vector<TriangleMesh::Triangle> triangles;
    HeightField field{12, 12, 0.5f, {}};
    for (int i = 0; i < 144; i++) field.heights.push_back(n.f(-0.4, 0.4));
    for (int r = 0; r < 12; r++)
        for (int c = 0; c < 12; c++)
            corners.push_back(
                {0.5f * static_cast<float>(c), field.height(c, r), 0.5f * static_cast<float>(r)});
    for (std::uint32_t r = 0; r < 11; r++)
        for (std::uint32_t c = 0; c < 11; c++) {
            const std::uint32_t p = r * 12 + c;
            triangles.push_back({p, p + 13, p + 1}), triangles.push_back({p, p + 12, p + 13});
        }
    const TriangleMesh mesh = TriangleMesh::of(corners, triangles);
    narrow::Toucher<3> toucher;
    int touching = 0;
    for (int i = 0; i < 4 * test::cases(); i++) {
        const Frame<3> at{{n.f(0.7, 4.8), n.f(-0.1, 1), n.f(0.7, 4.8)}, n.rotation(Vec3{})};
        const Frame<3> ground{n.vec<3>(-1, 1), n.rotation(Vec3{})};
        const Frame<3> ball{ground.position + rotate(ground.rotation, at.position), at.rotation};
        const float radius = n.f(0.05, 0.5), margin = 0.05f;
        double nearest = 1e300;
        bool above = true;
        for (const auto& t : triangles) {
            const Vec3d p = to_eigen(at.position), a = to_eigen(corners[t[0]]), b = to_eigen(corners[t[1]]),
                        c = to_eigen(corners[t[2]]);
            const double d = point_to_triangle(p, a, b, c);
            if (d < nearest) nearest = d, above = (b - a).cross(c - a).dot(p - a) > 0;
        }
        if (!above || std::fabs(nearest - radius - margin) < 1e-4) continue;
        for (const Geometry<3>& surface : {Geometry<3>(mesh), Geometry<3>(field)}) {
            const auto found = toucher.touch(surface, ground, Sphere{radius}, ball, margin);
            double deep = 1e300;
            for (const auto& t : found) deep = std::min<double>(deep, deepest(t));
            if (nearest - radius > margin) {
                EXPECT_TRUE(found.empty());
            } else {
                EXPECT_NEAR(deep, nearest - radius, 1e-4);
                touching++;
                const auto back = toucher.touch(Sphere{radius}, ball, surface, ground, margin);
                double swapped = 1e300;
                for (const auto& t : back) swapped = std::min<double>(swapped, deepest(t));
                EXPECT_EQ(swapped, deep);
            }
        }
        if (HasFailure())
            FAIL() << "case " << i << ", ball at " << at.position.x << " " << at.position.y << " "
                   << at.position.z << " radius " << radius;
    }
    EXPECT_GT(touching, test::cases());
}

// A solid body made of triangles touches as the hull of its corners does, shallowly and apart.
TEST(Surface, ABoxOfTrianglesTouchesAsABox) {
    Numbers n(12);
    const Vec3 half{0.5f, 0.7f, 0.9f};
    std::vector<Vec3> corners;
    for (int k = 0; k < 8; k++)
        corners.push_back({k & 1 ? -half.x : half.x, k & 2 ? -half.y : half.y, k & 4 ? -half.z : half.z});
    const Hull hull = Hull::around(corners);
    std::vector<TriangleMesh::Triangle> triangles;
    for (int f = 0; f < hull.face_count(); f++) {
        const auto loop = hull.face(f);
        for (std::size_t i = 1; i + 1 < loop.size(); i++)
            triangles.push_back({loop[0], loop[i], loop[i + 1]});
    }
    const std::vector<Vec3> of_hull(hull.corners().begin(), hull.corners().end());
    const TriangleMesh mesh = TriangleMesh::of(of_hull, triangles);
    narrow::Toucher<3> toucher;
    for (int i = 0; i < 2 * test::cases(); i++) {
        const Geometry<3> mover = any_solid(n, i % kSolidKinds, 0.6);
        const Frame<3> fa{n.vec<3>(-1, 1), n.rotation(Vec3{})};
        Frame<3> fb{fa.position + direction(n.vec<3>(-1, 1), Vec3{0, 1, 0}) * 3.0f, n.rotation(Vec3{})};
        const double goals[] = {0.02, 0, -1e-3, -0.01};
        for (int k = 0; k < 3; k++) {
            const Touch<3> t = narrow::touch(hull, fa, mover, fb, 1e9f);
            fb.position += t.normal * static_cast<float>(goals[i % 4] - deepest(t));
        }
        const Touch<3> want = narrow::touch(hull, fa, mover, fb, 0.05f);
        double deep = 1e300;
        for (const auto& t : toucher.touch(mesh, fa, mover, fb, 0.05f))
            deep = std::min<double>(deep, deepest(t));
        // In overlap a face of the mesh may stand in for an edge of the solid, and is then deeper. Shallower
        // by up to a tenth of the overlap only for drums: over an edge of the mesh their cap counts as a
        // polygon.
        const bool drum = std::holds_alternative<Cylinder>(mover);
        EXPECT_LT(deep, deepest(want) + 1e-4 + (drum ? 0.1 * std::max(-goals[i % 4], 0.0) : 0)) << i;
        if (goals[i % 4] >= 0) {
            EXPECT_NEAR(deep, deepest(want), 1e-4) << i;
        }
        if (HasFailure()) FAIL() << kSolidNames[i % kSolidKinds] << ", case " << i;
    }
}

// In the plane: tiles and the polyline round them against the distance from the solid cells, by brute force.
TEST(Surface, TilesAgreeWithTheNearestSolidCell) {
    Numbers n(15);
    narrow::Toucher<2> toucher;
    int touching = 0;
    for (int i = 0; i < 4 * test::cases(); i++) {
        TileGrid grid{6, 5, 0.5f, {}};
        for (int k = 0; k < 30; k++) grid.solid.push_back(n.in(0, 1) < 0.4);
        const Vec2 p{n.f(-0.5, 3.5), n.f(-0.5, 3)};
        const float radius = n.f(0.02, 0.4), margin = 0.03f;
        double nearest = 1e300;
        for (int r = 0; r < 5; r++)
            for (int c = 0; c < 6; c++) {
                if (!grid.is_solid(c, r)) continue;
                const double x = std::max({0.5 * c - p.x, p.x - 0.5 * (c + 1), 0.0}),
                             y = std::max({0.5 * r - p.y, p.y - 0.5 * (r + 1), 0.0});
                nearest = std::min(nearest, std::hypot(x, y));
            }
        if (nearest == 0 || std::fabs(nearest - radius - margin) < 1e-4) continue;
        const Frame<2> at{n.vec<2>(-1, 1), n.rotation(Vec2{})},
            ball{at.position + rotate(at.rotation, p), {}};
        const auto found = toucher.touch(grid, at, Circle{radius}, ball, margin);
        double deep = 1e300;
        for (const auto& t : found) deep = std::min<double>(deep, deepest(t));
        EXPECT_EQ(found.empty(), nearest - radius > margin);
        if (found.empty()) continue;
        EXPECT_NEAR(deep, nearest - radius, 1e-5);
        touching++;
        if (HasFailure()) FAIL() << "case " << i;
    }
    EXPECT_GT(touching, test::cases() / 2);
}

// A ball whose middle is in a wall still comes out of it, by the nearest side.
TEST(Surface, WhatIsInAWallComesOut) {
    World<2> world(weightless<2>());
    TileGrid wall{5, 5, 1, std::vector<std::uint8_t>(25, 0)};
    for (std::size_t row = 0; row < 5; row++) wall.solid[row * 5 + 2] = 1;
    world.add({.motion = Motion::Static, .shapes = {{wall}}});
    const BodyId left = add_ball<2>(world, {2.3, 2.5}, 0.2f), right = add_ball<2>(world, {2.6, 1.5}, 0.2f);
    step(world, 120);
    EXPECT_LT(world.pose(left).position.x, 1.81);
    EXPECT_GT(world.pose(right).position.x, 3.19);
}

}
}
