// Impacts of thrown balls are those of the walls; tables list what the world tells.
#include "record/events.h"
#include "record/run.h"

#include "support/dims.h"

namespace astasis {
namespace {

double off_the_grid(double x, double cell) { return std::fabs(x - cell * std::round(x / cell)); }

TEST(EventLog, ImpactsOfTheTileFloorAreExact) {
    scene::SceneFile file = scene::read_scene(ASTASIS_SCENES "/tile_floor.json");
    auto& scene = std::get<scene::Scene<2>>(file.scene);
    auto made = scene::make_world(scene, file.document);
    made.world.collect_events({.strikes = true, .least_speed = 0.1f});
    record::EventLog<2> impacts(true);
    const auto walls = *made.find("walls");
    const auto summary =
        record::run<2>(scene, made, [&](const auto& now, std::uint64_t, double) { impacts.tick(now); });
    EXPECT_TRUE(summary.warnings.empty());
    int on_walls = 0, at_corners = 0;
    for (const auto& e : impacts.rows()) {
        ASSERT_GE(e.strike.speed, 0.1f);
        if (e.first != "walls") continue;
        on_walls++;
        EXPECT_NEAR(length(e.strike.normal), 1, 1e-5);
        const double x = off_the_grid(e.strike.position.x, 0.5), y = off_the_grid(e.strike.position.y, 0.5);
        if (std::fabs(e.strike.normal.x) > 0.99999f) EXPECT_LT(x, 1e-3);
        else if (std::fabs(e.strike.normal.y) > 0.99999f) EXPECT_LT(y, 1e-3);
        else EXPECT_LT(std::max(x, y), 1e-3), at_corners++;
    }
    EXPECT_GT(on_walls, 60);
    EXPECT_LT(at_corners, on_walls / 4);
    const auto& tiles = made.world.shapes(walls)[0].geometry;
    for (const BodyId id : made.world.bodies()) {
        if (id == walls) continue;
        EXPECT_FALSE(contains<2>(tiles, {}, made.world.pose(id).position));
        EXPECT_GT(distance<2>(made.world.shapes(id)[0].geometry, made.world.pose(id), tiles, {}).separation,
                  -1e-3);
    }
    const std::string table = record::impacts_table(impacts.rows()),
                      csv = record::impacts_csv(impacts.rows());
    EXPECT_NE(table.find("time s"), std::string::npos);
    EXPECT_EQ(static_cast<std::size_t>(std::count(csv.begin(), csv.end(), '\n')), impacts.rows().size() + 1);
}

// Parcels on the belt pass the barrier one by one, and all of them end in the bin: as counted, as listed.
TEST(EventLog, BarriersCountParcels) {
    scene::SceneFile file = scene::read_scene(ASTASIS_SCENES "/light_barrier.json");
    auto& scene = std::get<scene::Scene<2>>(file.scene);
    auto made = scene::make_world(scene, file.document);
    made.world.collect_events({.touches = true, .strikes = true, .sleep = true});
    record::EventLog<2> log;
    const auto summary =
        record::run<2>(scene, made, [&](const auto& now, std::uint64_t, double) { log.tick(now); });
    ASSERT_EQ(summary.sensors.size(), 2u);
    const std::size_t parcels = summary.dynamic;
    EXPECT_EQ(summary.sensors[0].name, "barrier");
    EXPECT_EQ(summary.sensors[0].entered, parcels);
    EXPECT_EQ(summary.sensors[0].left, parcels);
    EXPECT_EQ(summary.sensors[1].in_it, parcels);
    std::size_t entered = 0;
    double last = 0;
    for (const auto& e : log.rows()) {
        entered += e.what == record::Happening::Entered && e.second == "barrier";
        EXPECT_GE(e.time, last - scene.world.tick);
        last = e.time;
    }
    EXPECT_EQ(entered, parcels);
    const std::string csv = record::events_csv(log.rows());
    const auto commas = [](std::string_view line) { return std::count(line.begin(), line.end(), ','); };
    for (std::size_t at = 0; at < csv.size();) {
        const std::size_t end = csv.find('\n', at);
        ASSERT_EQ(commas(std::string_view(csv).substr(at, end - at)), 12) << csv.substr(at, end - at);
        at = end + 1;
    }
}

}
}
