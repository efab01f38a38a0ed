// Rules of check: each has a good scene and a bad one; the demo scenes are without errors.
#include "check/check.h"

#include "support/command.h"

#include <algorithm>

namespace astasis::check {
namespace {

std::vector<Finding> found(const std::string& text) {
    const scene::SceneFile file = scene::read_scene_text("depot.json", text);
    return std::visit([&](const auto& s) { return check(s, file.document); }, file.scene);
}

std::string scene_of(const std::string& bodies, const std::string& more = "",
                     const std::string& duration = "2") {
    return R"({"astasis_scene": 1, "dimension": 2, "duration": )" + duration +
           (more.empty() ? "" : ", " + more) +
           R"(, "bodies": [{"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]})" +
           (bodies.empty() ? "" : ", " + bodies) + "]}";
}
std::string box(const std::string& name, const std::string& at, const std::string& more = "",
                const std::string& size = "[1, 1]") {
    return R"({"name": ")" + name + R"(", "at": )" + at + (more.empty() ? "" : ", " + more) +
           R"(, "shapes": [{"shape": "box", "size": )" + size + "}]}";
}

struct Pair {
    const char* rule;
    bool is_error;
    std::string bad, good;
    std::vector<std::string> names; // that the finding of the bad scene holds
};
void PrintTo(const Pair& p, std::ostream* out) { *out << p.rule; }

class Rules : public ::testing::TestWithParam<Pair> {};

// The planted fault is found and named, and nothing else is called an error; the good scene has nothing.
TEST_P(Rules, FindTheirFaultAndNoOther) {
    const Pair& p = GetParam();
    const auto bad = found(p.bad), good = found(p.good);
    const auto it =
        std::find_if(bad.begin(), bad.end(), [&](const Finding& f) { return f.rule == std::string(p.rule); });
    ASSERT_NE(it, bad.end());
    EXPECT_EQ(it->is_error, p.is_error);
    for (const std::string& name : p.names) EXPECT_NE(it->text.find(name), std::string::npos) << it->text;
    for (const Finding& f : bad)
        if (f.rule != std::string(p.rule)) {
            EXPECT_FALSE(f.is_error) << f.rule << ": " << f.text;
        }
    for (const Finding& f : good) ADD_FAILURE() << f.rule << ": " << f.text;
}

const std::string kPin = R"("joints": [{"joint": "hinge", "name": "crank", "body": "arm", "at": [0, 0.1],
    "motor": {"most": )";
INSTANTIATE_TEST_SUITE_P(
    All, Rules,
    ::testing::Values(
        Pair{"pixels",
             true,
             scene_of(box("crate", "[0, 60]", "", "[40, 60]"), R"("gravity": [0, -981])"),
             scene_of(box("crate", "[0, 2]")),
             {"40 m wide", "981 m/s2"}},
        Pair{
            "ghost",
            true,
            scene_of(
                R"({"name": "ghost", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1], "collides_with": ["goods"]}]})"),
            scene_of(
                R"({"name": "ghost", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1], "collides_with": ["common"]}]})"),
            {"ghost: can touch nothing"}},
        Pair{"twins",
             true,
             scene_of(box("crate", "[0, 2]") + ", " + box("copy", "[0, 2]", R"("may_sleep": false)")),
             scene_of(box("crate", "[0, 2]") + ", " + box("other", "[2, 2]")),
             {"crate and copy"}},
        Pair{"overlap",
             true,
             scene_of(box("crate", "[0, 0.2]")),
             scene_of(box("crate", "[0, 0.5]")),
             {"floor and crate", "0.3 m", "30 %"}},
        Pair{
            "tunnel",
            true,
            scene_of(
                box("shot", "[0, 3]", R"("velocity": [300, 0], "sweep": "none")") +
                R"(, {"name": "gate", "motion": "static", "at": [40, 3], "shapes": [{"shape": "box", "size": [0.1, 2]}]})"),
            scene_of(
                box("shot", "[0, 3]", R"("velocity": [300, 0])") +
                R"(, {"name": "gate", "motion": "static", "at": [40, 3], "shapes": [{"shape": "box", "size": [0.1, 2]}]})"),
            {"shot", "5 m in a tick", "66 m/s"}},
        Pair{"late",
             true,
             scene_of(box("crate", "[0, 2]"),
                      R"("timeline": [{"action": "kick", "time": 3, "body": "crate", "impulse": [1, 0]}])"),
             scene_of(box("crate", "[0, 2]"),
                      R"("timeline": [{"action": "kick", "time": 1, "body": "crate", "impulse": [1, 0]}])"),
             {"$.timeline[0]", "3 s", "2 s"}},
        Pair{"mass_ratio",
             true,
             scene_of(box("light", "[0, 0.5]", R"("mass": 1)") + ", " +
                      box("press", "[0, 1.5]", R"("mass": 5000)")),
             scene_of(box("light", "[0, 0.5]", R"("mass": 1)") + ", " +
                      box("press", "[0, 1.5]", R"("mass": 50)")),
             {"press leans on light (5000 to 1)"}},
        Pair{"mass_ratio",
             false,
             scene_of(box("light", "[0, 0.5]", R"("mass": 1)") + ", " +
                      box("press", "[0, 1.5]", R"("mass": 300)")),
             scene_of(box("light", "[0, 1.5]", R"("mass": 1)") + ", " +
                      box("press", "[0, 0.5]", R"("mass": 300)")),
             {"press leans on light (300 to 1)"}},
        Pair{"stall",
             false,
             scene_of(box("arm", "[1, 0.1]", "", "[2, 0.2]"), kPin + R"(5, "speed": "90 deg/s"}}])"),
             scene_of(box("arm", "[1, 0.1]", "", "[2, 0.2]"), kPin + R"(50000, "speed": "90 deg/s"}}])"),
             {"crank"}},
        Pair{"terminal",
             false,
             scene_of(box("crate", "[0, 5]", R"("velocity": [0, -30], "linear_damping": 5)")),
             scene_of(box("crate", "[0, 5]", R"("velocity": [0, -3], "linear_damping": 0.5)")),
             {"crate", "1.96 m/s"}},
        Pair{"energy",
             true,
             scene_of(box("crate", "[0, 0.36]")),
             scene_of(box("crate", "[0, 0.5]")),
             {"J appear", "overlaps a little"}},
        // Two hundred boxes in a hundred-thousandth of a second are too many for any machine.
        Pair{"slow",
             false,
             scene_of(R"({"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}],
                 "repeat": {"count": [10, 20], "pitch": [1.5, 1.5]}})",
                      R"("ticks_per_second": 100000)", "0.0005"),
             scene_of(box("crate", "[0, 2]")),
             {"simulates 0.01 ms"}},
        Pair{"still", false, scene_of(""), scene_of(box("crate", "[0, 2]")), {"nothing moves"}}));

// Tunnelling in the scenes of the demo is swept, masses are near, nothing overlaps.
TEST(Check, DemoScenesAreWithoutErrors) {
    int scenes = 0;
    for (const auto& entry : std::filesystem::directory_iterator(ASTASIS_SCENES)) {
        const std::string name = entry.path().filename();
        if (!name.ends_with(".json") || name.ends_with(".rays.json")) continue;
        const scene::SceneFile file = scene::read_scene(entry.path());
        const auto findings = std::visit([&](const auto& s) { return check(s, file.document); }, file.scene);
        for (const Finding& f : findings) {
            if (f.rule == std::string("slow")) continue; // of this machine
            ADD_FAILURE() << name << ": " << f.rule << ": " << f.text;
        }
        scenes++;
    }
    EXPECT_GT(scenes, 20);
}

class CheckCommand : public test::InFolder {};

TEST_F(CheckCommand, TellsErrorsFromAdviceByItsStatus) {
    write("good.json", scene_of(box("crate", "[0, 2]")));
    write("advice.json", scene_of(""));
    write("bad.json", scene_of(box("crate", "[0, 0.2]")));
    EXPECT_EQ(astasis("check good.json").out, "good.json: nothing found by 12 rules\n");
    const auto advice = astasis("check advice.json"), bad = astasis("check bad.json"),
               json = astasis("check bad.json --json");
    EXPECT_EQ(advice.status, 0);
    EXPECT_NE(advice.out.find("advice  still: nothing moves"), std::string::npos) << advice.out;
    EXPECT_EQ(bad.status, 1);
    EXPECT_NE(bad.out.find("ERROR   overlap: at the start overlap floor and crate"), std::string::npos)
        << bad.out;
    EXPECT_EQ(json.status, 1);
    EXPECT_NE(json.out.find(R"({"rule": "overlap", "kind": "error", "text": "at the start)"),
              std::string::npos)
        << json.out;
    for (const Rule& rule : rules()) {
        const auto told = astasis(std::string("check --explain ") + rule.name);
        EXPECT_EQ(told.status, 0);
        EXPECT_NE(told.out.find(rule.title), std::string::npos);
    }
    EXPECT_EQ(astasis("check --explain none").status, 2);
    EXPECT_EQ(astasis("check").status, 2);
    EXPECT_EQ(astasis("check none.json").status, 2);
    EXPECT_EQ(files(), (std::vector<std::string>{"advice.json", "bad.json", "good.json"}));
}

}
}
