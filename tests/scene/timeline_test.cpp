#include "astasis/scene/timeline.h"

#include "support/dims.h"
#include "support/scene_faults.h"

#include <algorithm>

namespace astasis::scene {
namespace {

using test::fault_of;

// A floor, a row of two crates, a sensor at x 3 that sees all, a cart on a rail, and what the time line says.
std::string scene_with(const std::string& timeline, int dimension = 2) {
    const bool plane = dimension == 2;
    const auto at = [&](const std::string& xy) { return "[" + xy + (plane ? "]" : ", 0]"); };
    const std::string size = plane ? "[0.4, 0.4]" : "[0.4, 0.4, 0.4]";
    const auto box = [&](const std::string& more) {
        return R"("shapes": [{"shape": "box", "size": )" + size + more + "}]";
    };
    return R"({"astasis_scene": 1, "dimension": )" + std::to_string(dimension) + R"(, "ticks_per_second": 50,
"gravity": )" +
           at("0, 0") + R"(, "materials": {"card": {"friction": 0.5, "restitution": 0.25}}, "bodies": [
{"name": "crate", "at": )" +
           at("-2, 0") + R"(, "repeat": {"count": )" + (plane ? "[1, 2]" : "[1, 2, 1]") + R"(, "pitch": )" +
           at("0, 2") + "}, " + box(R"(, "material": "card")") + R"(},
{"name": "beam", "motion": "static", "at": )" +
           at("3, 0") + ", " + box(R"(, "sensor": true)") + R"(},
{"name": "cart", "at": )" +
           at("0, -5") + ", " + box("") + R"(}],
"joints": [{"joint": "slider", "name": "rail", "body": "cart", "axis": )" +
           at("1, 0") + R"(}],
"timeline": [)" +
           timeline + "]}";
}

template<int Dim> Made<Dim> made_of(const std::string& timeline) {
    const SceneFile file = read_scene_text("depot.json", scene_with(timeline, Dim));
    return make_world(std::get<Scene<Dim>>(file.scene), file.document);
}

// Steps and returns the times at which a deed was done, with the names.
template<int Dim> std::vector<std::pair<int, std::string>> deeds(Made<Dim>& made, int ticks) {
    std::vector<std::pair<int, std::string>> out;
    for (int n = 0; n < ticks; n++) {
        made.timeline->before_tick(made);
        for (const Deed& deed : made.timeline->deeds())
            out.emplace_back(n, std::string(deed.what) + " " + deed.name);
        made.world.step();
    }
    return out;
}
using Deeds = std::vector<std::pair<int, std::string>>;

std::string parcel(const std::string& at, const std::string& more = "") {
    return R"("body": {"name": "parcel", "at": )" + at + more +
           R"(, "shapes": [{"shape": "circle", "radius": 0.1}]})";
}

TEST(Timeline, AKickComesAtItsTimeOnce) {
    auto made = made_of<2>(R"({"action": "kick", "time": 0.1, "body": "crate.2", "impulse": [0, 8]})");
    EXPECT_EQ(deeds(made, 20), (Deeds{{5, "kicked crate.2"}}));
    const BodyId crate = *made.find("crate.2");
    EXPECT_FLOAT_EQ(made.world.velocity(crate).y, 8 / made.world.mass(crate).mass);
    EXPECT_EQ(made.world.velocity(*made.find("crate.1")), Vec2{});
    EXPECT_EQ(made.world.angular_velocity(crate), 0);
}

TEST(Timeline, AKickOffTheCentreTurns) {
    auto made =
        made_of<2>(R"({"action": "kick", "time": 0, "body": "crate.1", "impulse": [0, 8], "on": [0.2, 0]})");
    deeds(made, 1);
    const BodyId crate = *made.find("crate.1");
    EXPECT_FLOAT_EQ(made.world.angular_velocity(crate), 8 * 0.2f / made.world.mass(crate).inertia);
}

// 0.1 has no exact double: sums of ticks and of periods round differently, and none is missed or doubled.
TEST(Timeline, APeriodHasItsTicks) {
    auto made = made_of<2>(R"({"action": "set gravity", "every": 0.1, "from": 0.3, "gravity": [0, 0]})");
    const auto all = deeds(made, 5000);
    ASSERT_EQ(all.size(), 997u);
    for (std::size_t n = 0; n < all.size(); n++) EXPECT_EQ(all[n].first, 15 + 5 * static_cast<int>(n));
}

TEST(Timeline, APeriodShorterThanATickIsDoneSeveralTimes) {
    auto made = made_of<2>(R"({"action": "spawn", "every": 0.005, "count": 10, )" + parcel("[9, 9]") + "}");
    const auto all = deeds(made, 9);
    ASSERT_EQ(all.size(), 10u);
    EXPECT_EQ(std::count_if(all.begin(), all.end(), [](const auto& d) { return d.first == 1; }), 4);
}

TEST(Timeline, UntilAndCountEndIt) {
    auto made = made_of<2>(R"({"action": "set gravity", "every": 0.1, "until": 0.35, "gravity": [0, 0]},
        {"action": "set velocity", "every": 0.1, "count": 2, "body": "crate", "velocity": [0, 0]})");
    EXPECT_EQ(deeds(made, 100), (Deeds{{0, "gravity set "},
                                       {0, "velocity set crate.1"},
                                       {0, "velocity set crate.2"},
                                       {5, "gravity set "},
                                       {5, "velocity set crate.1"},
                                       {5, "velocity set crate.2"},
                                       {10, "gravity set "},
                                       {15, "gravity set "}}));
}

TEST(Timeline, SpawnedBodiesAreNumberedAndSpread) {
    const std::string text = R"({"action": "spawn", "every": 0.2, "count": 3, )" +
                             parcel("[5, 5]", R"(, "velocity": [1, 0],
        "spread": {"at": [0.5, 0.25], "turn": "20 deg", "velocity": [0, 0.5]})") +
                             "}";
    auto made = made_of<2>(text), again = made_of<2>(text);
    EXPECT_EQ(deeds(made, 30),
              (Deeds{{0, "spawned parcel.1"}, {10, "spawned parcel.2"}, {20, "spawned parcel.3"}}));
    std::vector<Point2> places;
    for (const char* name : {"parcel.1", "parcel.2", "parcel.3"}) {
        ASSERT_TRUE(made.find(name));
        EXPECT_EQ(made.name_of(*made.find(name)), name);
        const Vec2 v = made.world.velocity(*made.find(name));
        EXPECT_EQ(v.x, 1);
        EXPECT_LE(std::abs(v.y), 0.5f);
        places.push_back(made.world.pose(*made.find(name)).position);
        EXPECT_LE(std::abs(places.back().y - 5), 0.25 + 0.5 * 0.6);
    }
    EXPECT_NE(places[0].y - 5, places[1].y - 5);
    EXPECT_NE(made.world.velocity(*made.find("parcel.1")).y, made.world.velocity(*made.find("parcel.2")).y);
    deeds(again, 30);
    EXPECT_EQ(again.world.fingerprint(), made.world.fingerprint());
    SceneFile other = read_scene_text("depot.json", scene_with(text));
    std::get<Scene<2>>(other.scene).seed = 2;
    auto differs = make_world(std::get<Scene<2>>(other.scene), other.document);
    deeds(differs, 30);
    EXPECT_NE(differs.world.fingerprint(), made.world.fingerprint());
}

TEST(Timeline, ASpawnThatIsInTheWayWaits) {
    auto made = made_of<2>(R"({"action": "spawn", "every": 0.02, "count": 3, "where_free": true, )" +
                           parcel("[5, 5]", R"(, "velocity": [1, 0])") + "}");
    // Circles of 0.2 m at 1 m/s make room every 0.2 s, and one tick for what touches.
    const auto all = deeds(made, 60);
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0].first, 0);
    for (std::size_t n = 1; n < 3; n++) {
        EXPECT_GE(all[n].first - all[n - 1].first, 10);
        EXPECT_LE(all[n].first - all[n - 1].first, 11);
    }
    EXPECT_TRUE(made.world.contacts().empty());
}

TEST(Timeline, NamesStayWithTheirBodies) {
    auto made = made_of<2>(R"({"action": "remove", "time": 0.1, "body": "crate.1"},
        {"action": "spawn", "time": 0.2, )" +
                           parcel("[5, 5]") + R"(},
        {"action": "remove", "time": 0.3, "body": "crate"}, {"action": "remove", "time": 0.4, "body": "crate"})");
    const BodyId first = *made.find("crate.1"), second = *made.find("crate.2"), cart = *made.find("cart");
    // A name of which nothing is left has nothing done to it.
    EXPECT_EQ(deeds(made, 40),
              (Deeds{{5, "removed crate.1"}, {10, "spawned parcel.1"}, {15, "removed crate.2"}}));
    EXPECT_FALSE(made.find("crate.1") || made.find("crate.2"));
    EXPECT_EQ(made.name_of(first), "crate.1");
    EXPECT_EQ(made.name_of(second), "crate.2");
    EXPECT_EQ(made.find("cart"), cart);
    EXPECT_EQ(made.name_of(*made.find("parcel.1")), "parcel.1");
}

TEST(Timeline, SensorsSetItOff) {
    auto made = made_of<2>(R"({"action": "set velocity", "time": 0, "body": "crate.1", "velocity": [20, 0]},
        {"action": "spawn", "entered": "beam", )" +
                           parcel("[5, 5]") + R"(},
        {"action": "set velocity", "left": "beam", "velocity": [-20, 0]},
        {"action": "remove", "left": "beam", "from": 0.5},
        {"action": "kick", "entered": "beam", "count": 1, "body": "crate.2", "impulse": [0, 1]})");
    // Entered with its middle at 2.6 m after 0.23 s, left at 3.4 m after 0.27 s; turned back at 3.6 m in the
    // tick after, so that it enters after 0.29 s and leaves after 0.33 s.
    EXPECT_EQ(deeds(made, 60), (Deeds{{0, "velocity set crate.1"},
                                      {12, "spawned parcel.1"},
                                      {12, "kicked crate.2"},
                                      {14, "velocity set crate.1"},
                                      {15, "spawned parcel.2"},
                                      {17, "velocity set crate.1"}}));
    EXPECT_TRUE(made.find("crate.1")); // it left before 0.5 s, both times
}

TEST(Timeline, AThroughPassWithinATickCountsForBoth) {
    auto made = made_of<2>(R"({"action": "set velocity", "time": 0, "body": "crate.1", "velocity": [400, 0]},
        {"action": "spawn", "entered": "beam", )" +
                           parcel("[5, 5]") + R"(},
        {"action": "remove", "left": "beam"})");
    EXPECT_EQ(deeds(made, 10),
              (Deeds{{0, "velocity set crate.1"}, {1, "spawned parcel.1"}, {1, "removed crate.1"}}));
}

TEST(Timeline, MaterialsMotorsAndGravityChange) {
    auto made = made_of<2>(R"({"action": "set material", "time": 0.1, "material": "card", "friction": 0.9},
        {"action": "set motor", "time": 0.1, "joint": "rail", "motor": {"most": 5000, "speed": 2}},
        {"action": "set gravity", "time": 0.2, "gravity": [0, -2]})");
    EXPECT_EQ(deeds(made, 50),
              (Deeds{{5, "material set card"}, {5, "motor set rail"}, {10, "gravity set "}}));
    const Material card = made.world.material(made.material_ids.at("card"));
    EXPECT_EQ(card.friction, 0.9f);
    EXPECT_EQ(card.restitution, 0.25f);
    EXPECT_NEAR(made.world.velocity(*made.find("cart")).x, 2, 1e-3f);
    EXPECT_NEAR(made.world.velocity(*made.find("crate.1")).y, -2 * 0.8f, 1e-4f);
}

TEST(Timeline, InSpaceItIsTheSame) {
    auto made = made_of<3>(R"({"action": "set velocity", "time": 0, "body": "crate.1", "velocity": [20, 0, 0],
        "spin": {"axis": [1, 0, 0], "rate": "2 rad/s"}},
        {"action": "kick", "time": 0, "body": "crate.2", "impulse": [0, 0, 5], "on": [0, 0.2, 0]},
        {"action": "spawn", "every": 0.1, "count": 2, "body": {"name": "parcel", "at": [5, 5, 5],
          "shapes": [{"shape": "sphere", "radius": 0.1}], "spread": {"at": [1, 1, 1]}}},
        {"action": "remove", "entered": "beam"})");
    EXPECT_EQ(deeds(made, 20), (Deeds{{0, "velocity set crate.1"},
                                      {0, "kicked crate.2"},
                                      {0, "spawned parcel.1"},
                                      {5, "spawned parcel.2"},
                                      {12, "removed crate.1"}}));
    EXPECT_GT(made.world.angular_velocity(*made.find("crate.2")).x, 0);
}

TEST(Timeline, FaultsAreNamed) {
    const auto expect = [](const std::string& timeline, const std::string& sentence) {
        const std::string fault = fault_of(scene_with(timeline));
        EXPECT_NE(fault.find(sentence), std::string::npos) << timeline << "\n" << fault;
        EXPECT_NE(fault.find("$.timeline[0]"), std::string::npos) << fault;
    };
    expect(R"({"action": "jump", "time": 1})", "one of spawn, remove, kick");
    expect(R"({"action": "remove", "body": "cart"})", "says when it happens");
    expect(R"({"action": "remove", "time": 1, "every": 2, "body": "cart"})", "says when it happens");
    expect(R"({"action": "remove", "time": 1, "count": 2, "body": "cart"})", "happens once");
    expect(R"({"action": "remove", "time": 1})", "body");
    expect(R"({"action": "remove", "time": 1, "body": "carts"})", "the name of a body of this file");
    expect(R"({"action": "remove", "time": 1, "body": "crate.x"})", "the name of a body of this file");
    expect(R"({"action": "remove", "time": 1, "body": "cart", "impulse": [1, 0]})", "has no impulse");
    expect(R"({"action": "remove", "entered": "cart"})", "that has a sensor");
    expect(R"({"action": "remove", "every": 1, "from": 3, "until": 2, "body": "cart"})",
           "not before \"from\"");
    expect(R"({"action": "remove", "every": 0, "body": "cart"})", "from 0.0001");
    expect(R"({"action": "set velocity", "time": 1, "body": "cart"})", "says what is set");
    expect(R"({"action": "set motor", "time": 1, "joint": "pin", "motor": {"most": 1}})",
           "the name of a joint");
    expect(R"({"action": "set motor", "time": 1, "joint": "rail", "motor": {"most": 1, "speed": "3 deg/s"}})",
           "a number");
    expect(R"({"action": "set material", "time": 1, "material": "steel"})", "the name of a material");
    expect(
        R"({"action": "spawn", "time": 1, "body": {"name": "cart", "shapes": [{"shape": "circle", "radius": 1}]}})",
        "no other body has");
}

TEST(Timeline, WhatTheLibraryRefusesNamesTheEntry) {
    auto made = made_of<2>(R"({"action": "kick", "time": 0, "body": "beam", "impulse": [1, 0]})");
    try {
        made.timeline->before_tick(made);
        FAIL();
    } catch (const FileError& e) {
        EXPECT_NE(std::string(e.what()).find("depot.json:"), std::string::npos) << e.what();
        EXPECT_NE(std::string(e.what()).find("$.timeline[0]"), std::string::npos) << e.what();
    }
}

}
}
