// The command as its user meets it.
#include "support/command.h"

#include <nlohmann/json.hpp>

#include <cmath>
#include <regex>

namespace astasis {
namespace {

using test::Outcome;
using test::scene;

class Tool : public test::InFolder {};

bool has(const Outcome& outcome, const std::string& text) {
    return outcome.out.find(text) != std::string::npos;
}

std::vector<std::vector<std::string>> csv_rows(const std::string& text) {
    std::vector<std::vector<std::string>> rows;
    std::stringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        std::stringstream cells(line);
        rows.emplace_back();
        for (std::string cell; std::getline(cells, cell, ',');) rows.back().push_back(cell);
    }
    return rows;
}

TEST_F(Tool, RunPrintsASummary) {
    const Outcome o = astasis("run " + scene("two_pucks"));
    EXPECT_EQ(o.status, 0);
    EXPECT_TRUE(has(o, "Two pucks on the air table"));
    EXPECT_TRUE(has(o, "plane, 60 ticks a second, 8 substeps, seed 1"));
    EXPECT_TRUE(has(o, "2 dynamic, 0 kinematic, 0 static"));
    EXPECT_TRUE(has(o, "120 (2 s simulated)"));
    EXPECT_TRUE(std::regex_search(
        o.out, std::regex("wall time a tick [0-9.]+ ms median, [0-9.]+ ms at the 99th percentile")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("start +2 J +0 J +2 J")));
    EXPECT_TRUE(
        std::regex_search(o.out, std::regex("end +1.46 J +0 J +1.46 J"))); // e = 0.8: -0.7 and 0.9 m/s
    EXPECT_TRUE(has(o, "warnings         none"));
    EXPECT_FALSE(has(o, "\r")); // no progress in a pipe
    EXPECT_TRUE(files().empty());
}

TEST_F(Tool, OptionsOverrideTheScene) {
    const Outcome o = astasis("run " + scene("parcel_chute") +
                              " --duration 0.5 --ticks-per-second 100 --substeps 2 --seed 99");
    EXPECT_EQ(o.status, 0);
    EXPECT_TRUE(has(o, "100 ticks a second, 2 substeps, seed 99"));
    EXPECT_TRUE(has(o, "50 (0.5 s simulated)"));
}

// Whatever falls down the chute, and however it is spread, goods come into each other by no more than a
// tenth.
TEST_F(Tool, GoodsDownTheChuteKeepApart) {
    for (int seed = 1; seed <= 24; seed++) {
        const Outcome o =
            astasis("run " + scene("parcel_chute") + " --duration 4 --seed " + std::to_string(seed));
        std::smatch share;
        ASSERT_TRUE(std::regex_search(o.out, share, std::regex("deepest [^(]*\\(([0-9.]+) %"))) << o.out;
        EXPECT_LT(std::stod(share[1]), 10) << "seed " << seed;
    }
}

TEST_F(Tool, WatchFollowsABody) {
    const Outcome o =
        astasis("run " + scene("two_pucks") + " --watch 'light puck' --watch 'heavy puck' --every 0.5");
    EXPECT_EQ(o.status, 0);
    EXPECT_TRUE(
        std::regex_search(o.out, std::regex("0\\.5000 +-1\\.00000 +0\\.00000 +0\\.00000 +2\\.00000")));
    EXPECT_TRUE(
        std::regex_search(o.out, std::regex("2\\.0000 +-0\\.97000 +0\\.00000 +0\\.00000 +-0\\.70000")));
    const Outcome bad = astasis("run " + scene("two_pucks") + " --watch puck --csv out.csv");
    EXPECT_EQ(bad.status, 2);
    EXPECT_TRUE(has(bad, "has no body of that name; it has light puck, heavy puck"));
    EXPECT_TRUE(files().empty());
}

TEST_F(Tool, CsvHoldsEveryTickOfEveryBody) {
    ASSERT_EQ(astasis("run " + scene("two_pucks") + " --csv all.csv").status, 0);
    const auto rows = csv_rows(read("all.csv"));
    ASSERT_EQ(rows.size(), 1u + 121 * 2);
    EXPECT_EQ(rows[0], (std::vector<std::string>{"tick", "time_s", "body", "x_m", "y_m", "angle_rad",
                                                 "vx_m_s", "vy_m_s", "spin_rad_s"}));
    for (std::size_t i = 1; i < rows.size(); i++) {
        ASSERT_EQ(rows[i].size(), 9u);
        const int tick = std::stoi(rows[i][0]);
        ASSERT_EQ(tick, static_cast<int>((i - 1) / 2));
        ASSERT_NEAR(std::stod(rows[i][1]), tick / 60.0, 1e-12);
        if (rows[i][2] == "light puck" && tick < 50) {
            ASSERT_NEAR(std::stod(rows[i][3]), -2 + tick / 30.0, 1e-6);
        }
    }
    ASSERT_EQ(astasis("run " + scene("two_pucks") + " --csv some.csv --every 0.5").status, 0);
    EXPECT_EQ(csv_rows(read("some.csv")).size(), 1u + 5 * 2);
}

TEST_F(Tool, ContactsAreListedAtAMoment) {
    write("rest.json", R"({"astasis_scene": 1, "dimension": 2, "duration": 2, "bodies": [
        {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
        {"name": "box", "at": [3, 0.5], "mass": 6, "shapes": [{"shape": "box", "size": [1, 1]}]}]})");
    const Outcome o = astasis("run rest.json --contacts --contacts-csv c.csv --at 1");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(has(o, "contacts at 1.0000 s: 2"));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("floor +box +2\\.5000 +-?0\\.0000 +0\\.0000 +1\\.0000")));
    const auto rows = csv_rows(read("c.csv"));
    ASSERT_EQ(rows.size(), 3u);
    EXPECT_EQ(rows[0][10], "impulse_y_Ns");
    // Both points together carry the weight: 6 kg times 9.81 m/s2 for a sixtieth of a second.
    EXPECT_NEAR(std::stod(rows[1][10]) + std::stod(rows[2][10]), 6 * 9.81 / 60, 1e-4);
    EXPECT_TRUE(has(astasis("run " + scene("two_pucks") + " --contacts"), "contacts at 2.0000 s: 0"));
    EXPECT_TRUE(has(astasis("run " + scene("tote_bin") + " --duration 1 --contacts"), "bin [2]"));
}

TEST_F(Tool, TheSameSceneAndSeedGiveTheSameBytes) {
    for (const char* name : {"parcel_chute", "tote_bin"}) {
        ASSERT_EQ(astasis("run " + scene(name) + " --duration 2 --csv a.csv").status, 0);
        ASSERT_EQ(astasis("run " + scene(name) + " --duration 2 --csv b.csv").status, 0);
        ASSERT_EQ(astasis("run " + scene(name) + " --duration 2 --seed 5 --csv c.csv").status, 0);
        EXPECT_EQ(read("a.csv"), read("b.csv"));
        EXPECT_NE(read("a.csv"), read("c.csv"));
    }
}

TEST_F(Tool, DemoScenesComeToRest) {
    for (const char* name : {"parcel_chute", "tote_bin", "mixed_goods", "tube_rack"}) {
        const Outcome o = astasis("run " + scene(name) + " --csv end.csv --every 1");
        ASSERT_EQ(o.status, 0);
        EXPECT_TRUE(has(o, "warnings         none")) << o.out;
        // In the last second no body moves by more than two millimetres, and none lies deeper than 2 % in
        // another.
        const auto rows = csv_rows(read("end.csv"));
        std::size_t bodies = 1;
        while (rows[1 + bodies][0] == rows[1][0]) bodies++;
        double most = 0;
        for (std::size_t i = rows.size() - bodies; i < rows.size(); i++)
            most = std::max(most, std::hypot(std::stod(rows[i][3]) - std::stod(rows[i - bodies][3]),
                                             std::stod(rows[i][4]) - std::stod(rows[i - bodies][4])));
        EXPECT_LT(most, 2e-3) << name;
        std::smatch share;
        ASSERT_TRUE(std::regex_search(o.out, share, std::regex("at the end [0-9.]+ [a-z]*m \\(([0-9.]+) %")));
        EXPECT_LT(std::stod(share[1]), 2.0) << name;
    }
}

TEST_F(Tool, PicturesAreWrittenWholeOrNotAtAll) {
    ASSERT_EQ(astasis("run " + scene("two_pucks") + " --picture a.png --at 1").status, 0);
    ASSERT_EQ(astasis("run " + scene("two_pucks") + " --picture b.svg").status, 0);
    EXPECT_EQ(read("a.png").substr(1, 3), "PNG");
    EXPECT_NE(read("b.svg").find("<svg"), std::string::npos);
    EXPECT_EQ(files(), (std::vector<std::string>{"a.png", "b.svg"}));
    const Outcome kind = astasis("run " + scene("two_pucks") + " --picture c.gif");
    EXPECT_EQ(kind.status, 2);
    EXPECT_TRUE(has(kind, "ends in .png or .svg"));
    const Outcome late = astasis("run " + scene("two_pucks") + " --picture c.png --at 7");
    EXPECT_EQ(late.status, 2);
    EXPECT_TRUE(has(late, "--at 7: the run ends at 2 s"));
    EXPECT_EQ(files(), (std::vector<std::string>{"a.png", "b.svg"}));
}

TEST_F(Tool, SummariesTellOfJointsAndFields) {
    const Outcome arm = astasis("run " + scene("diverter_arm") + " --duration 2 --picture arm.png");
    ASSERT_EQ(arm.status, 0) << arm.out;
    EXPECT_TRUE(std::regex_search(arm.out, std::regex("joints +5, gave way by [0-9.]+ um at most \\(")));
    EXPECT_TRUE(
        std::regex_search(arm.out, std::regex("strongest reaction [0-9.]+ N \\(.*, at [0-9.]+ s\\)")));
    EXPECT_TRUE(has(arm, "strongest torque 600 N m (crank pin)")); // its motor is at its most
    const Outcome post = astasis("run " + scene("magnet_post") + " --duration 1");
    ASSERT_EQ(post.status, 0) << post.out;
    EXPECT_TRUE(std::regex_search(post.out, std::regex("fields +2")));
}

// Joints are drawn unless they are not asked for: the picture of an arm has more in it with them.
TEST_F(Tool, PicturesShowJointsFieldsAndSensors) {
    for (const char* name : {"diverter_arm", "magnet_post", "kerb_cart", "light_barrier", "lift_gate"}) {
        const Outcome with =
            astasis("draw " + scene(name) + " --picture with.png --show joints,fields,sensors");
        ASSERT_EQ(with.status, 0) << with.out;
        ASSERT_EQ(astasis("draw " + scene(name) + " --picture without.png --show shapes").status, 0);
        EXPECT_GT(read("with.png").size(), read("without.png").size()) << name;
    }
}

TEST_F(Tool, EventsAreListedAndWritten) {
    const Outcome o = astasis("run " + scene("light_barrier") + " --events --events-csv e.csv --impacts " +
                              "--least-speed 2 --duration 3");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(std::regex_search(o.out, std::regex("entered +parcel\\.6 +barrier")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("impact +tote +parcel\\.6 +5\\.[0-9]+ +[0-9.]+")));
    EXPECT_TRUE(
        std::regex_search(o.out, std::regex("sensors +barrier: 5 entered, 4 left, 1 in it at the end")));
    EXPECT_TRUE(has(o, "speed m/s"));
    EXPECT_EQ(read("e.csv").find("time_s,event,first,first_shape,second,second_shape,x_m,y_m,normal_x"), 0u);
    EXPECT_NE(read("e.csv").find(",entered,parcel.6,0,barrier,0,,,,,,,\n"), std::string::npos);
    const Outcome alone = astasis("run " + scene("light_barrier") + " --least-speed 2");
    EXPECT_EQ(alone.status, 2);
    EXPECT_TRUE(has(alone, "--least-speed goes with --events"));
}

TEST_F(Tool, ATimeLineIsRunListedAndCounted) {
    const Outcome o = astasis("run " + scene("lift_gate") +
                              " --events --events-csv e.csv --csv p.csv --watch parcel.2 --every 1");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(has(o, "time line        6 spawned, 12 motor set, 5 removed"));
    EXPECT_TRUE(has(o, "1 dynamic, 0 kinematic, 6 static at the start"));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("0\\.2[0-9]+ +spawned +parcel\\.1\n")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("removed +parcel\\.2\n.*left +parcel\\.2 +hatch")));
    EXPECT_TRUE(has(o, "hatch: 5 entered, 5 left, 0 in it"));
    // A body that comes and goes: its table says when it is not there.
    EXPECT_TRUE(std::regex_search(o.out, std::regex("\n +2\\.0000 +not there\n +3\\.0000 +-")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("\n +12\\.0000 +not there\n")));
    EXPECT_NE(read("e.csv").find(",motor set,rail,,,"), std::string::npos);
    const std::string poses = read("p.csv");
    EXPECT_EQ(poses.find(",parcel.2,"), poses.find(",parcel.2,", poses.find("\n180,")));
    EXPECT_EQ(poses.find(",parcel.2,", poses.find("\n660,")), std::string::npos);
    EXPECT_EQ(astasis("run " + scene("lift_gate") + " --watch parcel.x").status, 2);
}

TEST_F(Tool, TimesAreToldStageByStage) {
    const Outcome o =
        astasis("time " + scene("mixed_goods") +
                " --duration 2 --versus substeps=16,sleeping=off --trace t.json --picture t.png");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(has(o, "120 ticks, 60 a second, 8 substeps, seed 3"));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("solving +[0-9.]+ +[0-9.]+ +[0-9.]+ +[0-9.]+ %")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("a tick +[0-9.]+ +[0-9.]+ +[0-9.]+ +100\\.0 %")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("moving +44 +44 +44\n")));
    EXPECT_TRUE(std::regex_search(o.out, std::regex("plain work +[1-9]")));
    std::smatch times;
    ASSERT_TRUE(std::regex_search(o.out, times,
                                  std::regex("versus substeps=16,sleeping=off: a tick takes ([0-9.]+) times "
                                             "as long \\(([0-9.]+) to ([0-9.]+)")));
    EXPECT_LE(std::stod(times[2]), std::stod(times[1]));
    EXPECT_LE(std::stod(times[1]), std::stod(times[3]));
    EXPECT_GT(std::stod(times[1]), 1);
    EXPECT_EQ(read("t.png").substr(1, 3), "PNG");
    // The stages make up the tick, and stand within it.
    const auto trace = nlohmann::json::parse(read("t.json"));
    double ticks = 0, stages = 0, end = 0;
    int count = 0;
    for (const auto& e : trace.at("traceEvents")) {
        if (e.at("ph") != "X") continue;
        const double start = e.at("ts"), seconds = e.at("dur");
        if (e.at("name").get<std::string>().starts_with("tick ")) {
            ticks += seconds, end = start + seconds, count++;
            continue;
        }
        stages += seconds;
        EXPECT_LE(start + seconds, end + 0.01);
    }
    EXPECT_EQ(count, 120);
    EXPECT_NEAR(stages / ticks, 1, 0.01);
    for (const char* call : {" --versus subsetps=4", " --versus substeps=x", " --versus sleeping=maybe",
                             " --versus extra_work=-1"})
        EXPECT_EQ(astasis("time " + scene("two_pucks") + call).status, 2) << call;
    EXPECT_EQ(astasis("time " + scene("two_pucks") + " --trace x --picture x").status, 2);
    EXPECT_EQ(files(), (std::vector<std::string>{"t.json", "t.png"}));
}

TEST_F(Tool, DrawDrawsWithoutStepping) {
    const Outcome plane = astasis("draw " + scene("two_pucks"));
    ASSERT_EQ(plane.status, 0) << plane.out;
    EXPECT_TRUE(has(plane, "2, with 2 shapes"));
    EXPECT_TRUE(has(plane, "wrote            two_pucks.png"));
    const Outcome space =
        astasis("draw " + scene("tube_rack") +
                " --picture t.svg --show names,bounds,axes --eye -3,2,4 --target 0,0.5,0 --size 640x400");
    ASSERT_EQ(space.status, 0) << space.out;
    EXPECT_EQ(files(), (std::vector<std::string>{"t.svg", "two_pucks.png"}));
}

TEST_F(Tool, RaysAreListedDrawnAndWritten) {
    write("rays.json", R"({"astasis_rays": 1, "rays": [{"from": [-2.2, 0.5, 0.3], "to": [2.2, 0.5, 0.3]},
                           {"from": [0, 9, 0], "to": [0, 8, 0]}, {"from": [4, 2, 0], "to": [4, -2, 0]}]})");
    const Outcome o =
        astasis("draw " + scene("tote_bin") + " --rays rays.json --picture r.png --hits-csv hits.csv");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(has(o, "Rays at 0.0000 s: 2 of 3 hit"));
    EXPECT_TRUE(has(o, "1  nothing within 1 m"));
    EXPECT_TRUE(std::regex_search(
        o.out,
        std::regex("2  floor +0 +0 +2.0000 +0.50000 +4.0000 +0.0000 +0.0000 +0.0000 +1.0000 +0.0000")));
    const auto rows = csv_rows(read("hits.csv"));
    ASSERT_EQ(rows.size(), 4u);
    EXPECT_EQ(rows[1][1], "bin");
    EXPECT_NEAR(std::stod(rows[1][4]), 0.9, 1e-5); // to the outer side of the left wall
    EXPECT_EQ(rows[0].size(), 12u);
    const Outcome later = astasis("run " + scene("tote_bin") + " --duration 1 --rays rays.json --at 0.5");
    EXPECT_TRUE(has(later, "Rays at 0.5000 s: 2 of 3 hit")) << later.out;

    write("flat.json", R"({"astasis_rays": 1, "rays": [{"from": [0, 1], "to": [2, 1]}]})");
    const Outcome flat = astasis("draw " + scene("tote_bin") + " --rays flat.json");
    EXPECT_EQ(flat.status, 2);
    EXPECT_TRUE(has(flat, "flat.json:1:39: $.rays[0].from: given a list of 2, accepted: a list of 3"))
        << flat.out;
}

TEST_F(Tool, LayersOfASceneKeepShapesApart) {
    const auto file = [](const char* floor, const char* box) {
        return std::string(R"({"astasis_scene": 1, "dimension": 2, "duration": 1, "bodies": [
            {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane")") +
               floor + R"(}]},
            {"name": "box", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1])" +
               box + "}]}]}";
    };
    write("apart.json", file(R"(, "layers": ["belt"])", R"(, "collides_with": ["common"])"));
    write("meet.json", file(R"(, "layers": ["belt"])", R"(, "collides_with": ["common", "belt"])"));
    write("group.json", file(R"(, "group": 2)", R"(, "group": 2)"));
    EXPECT_TRUE(std::regex_search(astasis("run apart.json").out, std::regex("contacts +0 at the end")))
        << astasis("run apart.json").out;
    EXPECT_TRUE(std::regex_search(astasis("run meet.json").out, std::regex("contacts +2 at the end")));
    EXPECT_TRUE(std::regex_search(astasis("run group.json").out, std::regex("contacts +0 at the end")));
}

TEST_F(Tool, DemoLeavesAFolder) {
    const Outcome o = astasis("demo --out here");
    ASSERT_EQ(o.status, 0) << o.out;
    EXPECT_TRUE(has(o, "All of it is in " + (folder_ / "here").string()));
    for (const char* name :
         {"parcel_chute.json", "parcel_chute.csv", "parcel_chute.png", "parcel_chute_summary.txt",
          "tile_floor.png", "tile_floor_impacts.csv", "tote_bin.json", "tote_bin.csv", "tote_bin_summary.txt",
          "tote_bin.png", "drum_floor.png", "dented_floor.obj"})
        EXPECT_TRUE(std::filesystem::exists(folder_ / "here" / name)) << name;
    EXPECT_NE(read("here/parcel_chute_summary.txt").find("66 dynamic"), std::string::npos);
    write("file", "x");
    EXPECT_EQ(astasis("demo --out file").status, 2);
}

TEST_F(Tool, SaysWhatLooksWrong) {
    const std::string head = "{\"astasis_scene\": 1, \"dimension\": 2, \"duration\": 3, \"bounds\": "
                             "{\"from\": [-1, -1], \"to\": [1, 9]}, \"bodies\": [";
    const std::string ball =
        "{\"name\": \"ball\", \"at\": [0, 5], \"shapes\": [{\"shape\": \"circle\", \"radius\": 0.1}]}";
    write("fall.json", head + ball + "]}");
    EXPECT_TRUE(has(astasis("run fall.json"),
                    "WARNING          1 body left the scene's bounds, first ball at 1.12 s"));
    EXPECT_TRUE(has(astasis("run fall.json --duration 0"), "nothing was stepped"));
    write("still.json",
          head + R"({"name": "post", "motion": "static", "shapes": [{"shape": "circle", "radius": 1}]}]})");
    EXPECT_TRUE(has(astasis("run still.json"), "nothing can move"));
}

TEST_F(Tool, BadInputIsRefusedWithStatusTwoAndNothingIsWritten) {
    write("empty.json", "");
    write("bare.json", "{\"astasis_scene\": 1, \"dimension\": 2, \"bodies\": [\n {\"name\": \"b\", \"turn\": "
                       "30,\n  \"shapes\": []}]}");
    write("mass.json", "{\"astasis_scene\": 1, \"dimension\": 3, \"bodies\": [{\"name\": \"b\", \"mass\": 0, "
                       "\"shapes\": [{\"shape\": \"sphere\", \"radius\": 1}]}]}");
    write("nan.json", "{\"astasis_scene\": 1, \"dimension\": 2, \"gravity\": [0, NaN], \"bodies\": []}");
    write("key.json", "{\"astasis_scene\": 1, \"dimension\": 2, \"colour\": 1, \"bodies\": []}");
    std::string garbage;
    for (std::uint32_t i = 0, s = 1; i < 10u << 20; i++)
        s = s * 1664525 + 1013904223, garbage += static_cast<char>(s >> 24);
    write("garbage.json", garbage);
    const auto before = files();
    const std::vector<std::pair<std::string, std::string>> cases{
        {"run none.json", "none.json: there is no such file"},
        {"run .", "is a folder"},
        {"run empty.json", "empty.json:1:1: the file: is empty"},
        {"run garbage.json", "garbage.json:1:1: not JSON"},
        {"run bare.json",
         "bare.json:2:24: $.bodies[0].turn: given 30, accepted: an angle with its unit, as \"30 deg\""},
        {"run mass.json", "$.bodies[0].mass: given 0, accepted: a number above 0"},
        {"run nan.json", "nan.json:1:"},
        {"run key.json", "$.colour: unknown key; known here: $schema, astasis_scene"},
        {"run " + scene("two_pucks") + " --substeps 0",
         "--substeps: given 0, accepted: a whole number from 1 to 64"},
        {"run " + scene("two_pucks") + " --substeps two", "--substeps"},
        {"run " + scene("two_pucks") + " --duration nan", "--duration"},
        {"run " + scene("two_pucks") + " --seed -1", "--seed"},
        {"run " + scene("two_pucks") + " --at 1",
         "--at goes with --picture, --rays, --contacts or --contacts-csv"},
        {"run " + scene("two_pucks") + " --show names", "--show goes with --picture"},
        {"draw " + scene("two_pucks") + " --show name", "given \"name\", accepted: some of centres"},
        {"draw " + scene("two_pucks") + " --size 10x10", "--size: given 10x10, accepted: width and height"},
        {"draw " + scene("two_pucks") + " --eye 1,2,3", "go with scenes in space"},
        {"draw " + scene("tote_bin") + " --eye 1,2", "--eye: given 1,2, accepted: three numbers"},
        {"draw " + scene("tote_bin") + " --view-angle 200", "--view-angle: given 200, accepted: 1 to 120"},
        {"draw " + scene("two_pucks") + " --hits-csv a.csv", "--hits-csv goes with --rays"},
        {"draw " + scene("two_pucks") + " --rays no.json", "no.json: there is no such file"},
        {"draw nowhere.json", "nowhere.json: there is no such file"},
        {"run " + scene("two_pucks") + " --csv .", "is a folder"},
        {"run " + scene("two_pucks") + " --csv none/a.csv", "there is no folder none"},
        {"run " + scene("two_pucks") + " --colour red", "--colour"},
        {"run", "run wants the name of a scene file"},
        {"fly", "there is no command \"fly\""},
        {"", "a command is missing"}};
    for (const auto& [arguments, says] : cases) {
        const std::string with_output =
            arguments.rfind("run ", 0) == 0 && arguments.find("--csv") == std::string::npos
                ? arguments + " --csv out.csv"
                : arguments;
        const Outcome o = astasis(with_output);
        EXPECT_EQ(o.status, 2) << arguments;
        EXPECT_TRUE(has(o, "astasis: ")) << o.out;
        EXPECT_TRUE(has(o, says)) << arguments << "\n" << o.out;
        EXPECT_LT(o.out.size(), 700u) << arguments;
    }
    EXPECT_EQ(files(), before);
}

TEST_F(Tool, HelpIsThereForEverything) {
    const Outcome all = astasis("--help");
    EXPECT_EQ(all.status, 0);
    EXPECT_TRUE(has(all, "run") && has(all, "demo"));
    const Outcome run = astasis("run --help");
    for (const char* option : {"--duration", "--ticks-per-second", "--substeps", "--seed", "--watch",
                               "--every", "--csv", "--picture", "--contacts", "--contacts-csv", "--at"})
        EXPECT_TRUE(has(run, option)) << option;
    EXPECT_TRUE(has(astasis("demo --help"), "--out"));
    EXPECT_TRUE(std::regex_search(astasis("--version").out, std::regex("astasis [0-9]+\\.[0-9]+\\.[0-9]+")));
}

}
}
