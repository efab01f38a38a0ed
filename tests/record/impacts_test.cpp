// Balls thrown at walls of tiles: each bounce's place and normal are those of the walls, and no ball ends in
// one.
#include "record/impacts.h"
#include "record/run.h"

#include "support/dims.h"

namespace astasis {
namespace {

double off_the_grid(double x, double cell) { return std::fabs(x - cell * std::round(x / cell)); }

TEST(Impacts, OfTheTileFloorAreExact) {
    scene::SceneFile file = scene::read_scene(std::string(ASTASIS_SCENES) + "/tile_floor.json");
    auto& scene = std::get<scene::Scene<2>>(file.scene);
    auto made = scene::make_world(scene, file.document);
    record::Impacts<2> impacts;
    const auto walls = *made.find("walls");
    const auto summary =
        record::run<2>(scene, made, [&](const auto& now, std::uint64_t) { impacts.tick(now.world); });
    EXPECT_TRUE(summary.warnings.empty());
    int exact = 0, on_walls = 0, at_corners = 0;
    for (const auto& e : impacts.all()) {
        if (e.first != walls) continue;
        on_walls++;
        if (!e.exact) continue;
        exact++;
        EXPECT_NEAR(length(e.normal), 1, 1e-5);
        const double x = off_the_grid(e.position.x, 0.5), y = off_the_grid(e.position.y, 0.5);
        if (std::fabs(e.normal.x) > 0.99999f) EXPECT_LT(x, 1e-5);
        else if (std::fabs(e.normal.y) > 0.99999f) EXPECT_LT(y, 1e-5);
        else EXPECT_LT(std::max(x, y), 1e-5), at_corners++;
    }
    EXPECT_GT(on_walls, 60);
    EXPECT_GT(exact, 0.9 * on_walls);
    EXPECT_LT(at_corners, on_walls / 4);
    const auto& tiles = made.world.shapes(walls)[0].geometry;
    for (const BodyId id : made.world.bodies()) {
        if (id == walls) continue;
        EXPECT_FALSE(contains<2>(tiles, {}, made.world.pose(id).position));
        EXPECT_GT(distance<2>(made.world.shapes(id)[0].geometry, made.world.pose(id), tiles, {}).separation,
                  -1e-3);
    }
    const std::string table = record::impacts_table(made, impacts), csv = record::impacts_csv(made, impacts);
    EXPECT_NE(table.find("time s"), std::string::npos);
    EXPECT_EQ(static_cast<std::size_t>(std::count(csv.begin(), csv.end(), '\n')), impacts.all().size() + 1);
}

// A ball that falls meets the floor when and where mechanics says, though ticks know nothing of that moment.
TEST(Impacts, OfAFallingBall) {
    World3 world{WorldSpec<3>{}};
    test::add_floor<3>(world);
    test::add_ball<3>(world, {0.25, 1.1, 0}, 0.1f);
    record::Impacts<3> impacts;
    impacts.tick(world);
    for (int i = 0; i < 60; i++) world.step(), impacts.tick(world);
    ASSERT_EQ(impacts.all().size(), 1u);
    EXPECT_NEAR(impacts.all()[0].time, std::sqrt(2 / 9.81), 5e-4);
    EXPECT_NEAR(impacts.all()[0].position.x, 0.25, 1e-6);
    EXPECT_NEAR(impacts.all()[0].position.y, 0, 1e-5);
    EXPECT_NEAR(impacts.all()[0].normal.y, 1, 1e-6);
}

}
}
