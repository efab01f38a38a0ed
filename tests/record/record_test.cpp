#include "record/file_out.h"
#include "record/run.h"
#include "record/table.h"

#include "support/command.h"
#include "support/dims.h"

namespace astasis {
namespace {

class Record : public test::InFolder {};

scene::SceneFile drop() {
    return scene::read_scene_text("drop.json",
                                  R"({"astasis_scene": 1, "dimension": 2, "duration": 1, "bodies": [
        {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
        {"name": "ball, \"red\"", "at": [0, 1.1], "shapes": [{"shape": "circle", "radius": 0.1}]}]})");
}

TEST_F(Record, TheSummaryIsThatOfTheRun) {
    const scene::SceneFile file = drop();
    const auto& scene = std::get<scene::Scene<2>>(file.scene);
    auto made = scene::make_world(scene, file.document);
    std::vector<std::uint64_t> seen;
    const record::Summary s =
        record::run<2>(scene, made, [&](const auto&, std::uint64_t tick, double) { seen.push_back(tick); });
    EXPECT_EQ(s.ticks, 60u);
    EXPECT_EQ(seen.size(), 61u);
    EXPECT_EQ(s.dynamic, 1u);
    EXPECT_EQ(s.still, 1u);
    EXPECT_EQ(s.contacts_end, 1u);
    EXPECT_NEAR(s.start.potential - s.end.potential, made.world.mass(made.world.bodies()[1]).mass * 9.81,
                0.1);
    EXPECT_LE(s.deepest_end.metres, s.deepest.metres);
    EXPECT_EQ(s.deepest.who, "ball, \"red\" on floor");
    EXPECT_GT(s.slowest_ms, 0);
    EXPECT_GE(s.slowest_ms, s.median_ms);
    EXPECT_TRUE(s.warnings.empty());
}

TEST_F(Record, TicksOfADurationAreRounded) {
    EXPECT_EQ(scene::ticks_in(1, 1.0 / 60), 60u);
    EXPECT_EQ(scene::ticks_in(0.0999999, 0.1), 1u);
    EXPECT_EQ(scene::ticks_in(0, 0.1), 0u);
}

TEST_F(Record, NamesWithCommasAreQuoted) {
    const scene::SceneFile file = drop();
    const auto made = scene::make_world(std::get<scene::Scene<2>>(file.scene), file.document);
    std::string rows;
    record::append_csv(rows, made, 0);
    EXPECT_EQ(rows, "0,0,floor,0,0,0,0,0,0\n0,0,\"ball, \"\"red\"\"\",0,1.1,0,0,0,0\n");
}

TEST_F(Record, FilesAppearWholeOrNotAtAll) {
    {
        record::FileOut out(folder_ / "a.txt");
        out.write("half");
        EXPECT_FALSE(std::filesystem::exists(folder_ / "a.txt"));
    }
    EXPECT_TRUE(files().empty());
    record::FileOut out(folder_ / "a.txt");
    out.write("whole");
    out.finish();
    EXPECT_EQ(read("a.txt"), "whole");
    EXPECT_EQ(files().size(), 1u);
    EXPECT_THROW(record::FileOut(folder_ / "no" / "b.txt"), record::WriteError);
    EXPECT_THROW(record::FileOut{folder_}, record::WriteError);
}

}
}
