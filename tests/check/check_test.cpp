// Rules of check: each has a good scene and a bad one; the demo scenes are without errors.
#include "astasis/check.h"
#include "astasis/force_watch.h"

#include "support/cases.h"
#include "support/command.h"
#include "support/dims.h"

#include <fmt/format.h>

#include <algorithm>

namespace astasis::checks {
namespace {

std::vector<Finding> found(const std::string& text) {
    const scene::SceneFile file = scene::read_scene_text("depot.json", text);
    return std::visit([&](const auto& s) { return check_scene(s, file.document); }, file.scene);
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

std::vector<std::string> errors_of(const std::vector<Finding>& findings) {
    std::vector<std::string> out;
    for (const Finding& f : findings)
        if (f.is_error) out.emplace_back(f.rule);
    return out;
}

class EachRule : public ::testing::TestWithParam<Rule> {};

// The planted fault is found, and nothing else is called an error; the good scene has nothing.
TEST_P(EachRule, FindsItsFaultAndNoOther) {
    const Rule& rule = GetParam();
    const auto bad = found(rule.bad), good = found(rule.good);
    const auto is_it = [&](const Finding& f) { return f.rule == std::string(rule.name); };
    EXPECT_TRUE(std::any_of(bad.begin(), bad.end(), is_it));
    for (const Finding& f : bad)
        if (!is_it(f)) {
            EXPECT_FALSE(f.is_error) << f.rule << ": " << f.text;
        }
    for (const Finding& f : good) ADD_FAILURE() << f.rule << ": " << f.text;
}
INSTANTIATE_TEST_SUITE_P(All, EachRule, ::testing::ValuesIn(rules().begin(), rules().end()),
                         [](const auto& of) { return std::string(of.param.name); });

struct Planted {
    const char* rule;
    bool is_error;
    std::string scene;
    std::vector<std::string> says; // that the finding holds
};

void PrintTo(const Planted& p, std::ostream* out) { *out << p.rule; }

class PlantedFaults : public ::testing::TestWithParam<Planted> {};

TEST_P(PlantedFaults, AreNamedWithTheirFiguresAndNothingElseIsAnError) {
    const Planted& p = GetParam();
    const auto findings = found(p.scene);
    const auto it = std::find_if(findings.begin(), findings.end(),
                                 [&](const Finding& f) { return f.rule == std::string(p.rule); });
    for (const Finding& f : findings)
        if (f.rule != std::string(p.rule)) {
            EXPECT_FALSE(f.is_error) << f.rule << ": " << f.text;
        }
    ASSERT_NE(it, findings.end());
    EXPECT_EQ(it->is_error, p.is_error) << it->text;
    for (const std::string& word : p.says) EXPECT_NE(it->text.find(word), std::string::npos) << it->text;
}

std::string in_space(const std::string& bodies, const std::string& more = "") {
    return R"({"astasis_scene": 1, "dimension": 3, "duration": 2)" + (more.empty() ? "" : ", " + more) +
           R"(, "bodies": [{"name": "floor", "motion": "static", "shapes": [{"shape": "half-space"}]}, )" +
           bodies + "]}";
}
std::string cube(const std::string& name, const std::string& at, const std::string& more = "",
                 const std::string& size = "[1, 1, 1]") {
    return box(name, at, more, size);
}
const std::string kGate =
    R"(, {"name": "gate", "motion": "static", "at": [40, 3], "shapes": [{"shape": "box", "size": [0.1, 2]}]})";
const std::string kRamp =
    R"({"name": "ramp", "motion": "static", "turn": "20 deg", "shapes": [{"shape": "box", "size": [10, 1], "material": "board"}]}, )";
std::string ruled(const std::string& bodies, const std::string& joint) {
    return scene_of(bodies, R"("joints": [)" + joint + "]");
}

INSTANTIATE_TEST_SUITE_P(
    All, PlantedFaults,
    ::testing::Values(
        Planted{"pixels",
                true,
                scene_of(box("crate", "[0, 60]", "", "[40, 60]"), R"("gravity": [0, -981])"),
                {"40 m wide", "981 m/s2"}},
        Planted{"pixels",
                true,
                scene_of(box("crate", "[0, 4]", R"("velocity": [250, 0])", "[8, 8]")),
                {"8 m wide", "250 m/s"}},
        Planted{"pixels", true, in_space(cube("crate", "[0, 32, 0]", "", "[64, 64, 64]")), {"64 m wide"}},
        Planted{"upward",
                false,
                in_space(cube("crate", "[0, 0.5, 0]"), R"("gravity": [0, 9.81, 0])"),
                {"+9.81 m/s2"}},
        Planted{"degrees",
                false,
                scene_of(box("crate", "[0, 2]", R"("turn": "90 rad")")),
                {"the turn of crate is 90 rad", "90 deg"}},
        Planted{"degrees",
                false,
                scene_of(box("crate", "[0, 2]", R"("turn": "1.5708 deg")")),
                {"1.571 deg", "1.571 rad"}},
        Planted{"degrees",
                false,
                scene_of(box("crate", "[0, 2]", R"("spin": "360 rad/s")")),
                {"the spin of crate", "360 deg/s"}},
        Planted{"degrees",
                false,
                ruled(box("arm", "[1, 3]", "", "[2, 0.2]"),
                      R"({"joint": "hinge", "name": "crank", "body": "arm", "at": [0, 3],
                          "limits": {"lower": "-45 rad", "upper": "45 rad"}})"),
                {"the lower limit of crank is -45 rad"}},
        Planted{"halves",
                false,
                in_space(cube("low", "[0, 0.5, 0]", "", "[0.5, 0.5, 0.5]") + ", " +
                         cube("top", "[0, 1.5, 0]", "", "[0.5, 0.5, 0.5]")),
                {"low, top", "1 m instead of 0.5 m"}},
        Planted{
            "digits",
            true,
            scene_of(
                box("crate", "[0, 2]") +
                R"(, {"name": "isle", "motion": "static", "shapes": [{"shape": "box", "size": [4, 1], "at": [5e6, 0]}]})"),
            {"isle", "5e+06 m"}},
        Planted{"bare",
                true,
                in_space(R"({"name": "gauge", "at": [0, 2, 0],
                             "shapes": [{"shape": "sphere", "radius": 0.2, "sensor": true}]})"),
                {"gauge: moves and has no solid shape"}},
        Planted{
            "ghost",
            true,
            scene_of(
                R"({"name": "ghost", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1], "collides_with": ["goods"]}]})"),
            {"ghost: can touch nothing"}},
        Planted{"twins",
                true,
                scene_of(R"({"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}],
                             "repeat": {"count": [2, 1], "pitch": [0, 1]}})"),
                {"crate.1 and crate.2"}},
        Planted{"overlap", true, scene_of(box("crate", "[0, 0.2]")), {"floor and crate", "0.3 m", "30 %"}},
        Planted{"overlap",
                true,
                in_space(cube("low", "[0, 0.5, 0]") + ", " + cube("top", "[0, 1, 0]")),
                {"low and top by 0.5 m"}},
        Planted{"refused",
                true,
                ruled(box("crate", "[0, 3]"),
                      R"({"joint": "rod", "name": "strut", "body": "crate", "at": [0, 5], "length": 1})"),
                {"length: given 1 m between ends that are 2 m apart"}},
        Planted{"anchors",
                true,
                ruled(box("crate", "[0, 3]"),
                      R"({"joint": "rod", "name": "strut", "body": "crate", "at": [0, 5], "length": 1.92})"),
                {"strut is 1.92 m long", "2 m apart"}},
        Planted{"anchors",
                true,
                ruled(box("crate", "[0, 1]"),
                      R"({"joint": "rope", "name": "sling", "body": "crate", "at": [0, 4], "length": 2})"),
                {"sling is 2 m long", "3 m apart"}},
        Planted{"limits",
                true,
                ruled(box("flap", "[0.5, 2]", "", "[1, 0.1]"),
                      R"({"joint": "hinge", "name": "flap pin", "body": "flap", "at": [0, 2],
                          "limits": {"lower": "10 deg", "upper": "80 deg"}})"),
                {"flap pin begins at 0 degrees", "lower limit at 10 degrees"}},
        Planted{"limits",
                true,
                ruled(box("sled", "[0, 0.5]"), R"({"joint": "slider", "name": "rail", "body": "sled",
                                                   "limits": {"lower": -3, "upper": -1}})"),
                {"rail begins at 0 m", "upper limit at -1 m"}},
        Planted{"limits",
                true,
                in_space(cube("lamp", "[0, 3, 0]", "", "[0.2, 1, 0.2]"),
                         R"("joints": [{"joint": "ball", "name": "neck", "body": "lamp", "at": [0, 3.5, 0],
                             "axis": [0, -1, 0], "cone_axis": [1, 0, 0], "cone": "30 deg"}])"),
                {"neck begins 90 degrees from the middle of its cone of 30 degrees"}},
        Planted{"tunnel",
                true,
                scene_of(box("shot", "[0, 3]", R"("velocity": [300, 0], "sweep": "none")") + kGate),
                {"shot", "5 m in a tick", "66 m/s"}},
        Planted{
            "late",
            true,
            scene_of(box("crate", "[0, 2]"),
                     R"("timeline": [{"action": "kick", "time": 3, "body": "crate", "impulse": [1, 0]}])"),
            {"$.timeline[0]", "3 s", "2 s"}},
        Planted{
            "tunnel",
            true,
            scene_of(
                R"({"name": "pellet", "at": [0, 60], "sweep": "none", "shapes": [{"shape": "circle", "radius": 0.05}]},
                       {"name": "plank", "motion": "static", "at": [0, 1], "shapes": [{"shape": "segment", "from": [-5, 0], "to": [5, 0]}]})"),
            {"pellet comes 0.567 m in a tick when it has fallen", "6 m/s"}},
        Planted{"digits",
                true,
                R"({"astasis_scene": 1, "dimension": 2, "duration": 2, "bodies": [
                    {"name": "floor", "motion": "static", "at": [1e13, 0], "shapes": [{"shape": "box", "size": [40, 1]}]},
                    {"name": "crate", "at": [1e13, 1], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
                {"crate (1e+13 m)", "coarse steps"}},
        Planted{"terminal",
                false,
                R"({"astasis_scene": 1, "dimension": 2, "duration": 2, "gravity": [0, 0], "bodies": [
                    {"name": "puck", "velocity": [5, 0], "linear_damping": 30, "shapes": [{"shape": "circle", "radius": 0.5}]}]})",
                {"puck begins with 5 m/s and comes no farther than 0.17 m"}},
        Planted{"energy", true, scene_of(box("crate", "[0, 0.36]")), {"J appear", "overlaps a little"}},
        Planted{"mass_ratio",
                true,
                scene_of(box("light", "[0, 0.5]", R"("mass": 1)") + ", " +
                         box("press", "[0, 1.5]", R"("mass": 5000)")),
                {"press leans on light (5000 to 1)"}},
        Planted{"mass_ratio",
                false,
                scene_of(box("light", "[0, 0.5]", R"("mass": 1)") + ", " +
                         box("press", "[0, 1.5]", R"("mass": 300)")),
                {"press leans on light (300 to 1)"}},
        Planted{"mass_ratio",
                true,
                ruled(box("hook", "[0, 8]", R"("mass": 0.01)", "[0.2, 0.2]") + ", " +
                          box("load", "[0, 5]", R"("mass": 1000)"),
                      R"({"joint": "rope", "body": "hook", "at": [0, 10]},
                         {"joint": "rope", "body": "load", "to": "hook"})"),
                {"load is joined to hook (100000 to 1)"}},
        Planted{"mass_ratio",
                false,
                ruled(box("hook", "[0, 8]", R"("mass": 1)", "[0.2, 0.2]") + ", " +
                          box("load", "[0, 5]", R"("mass": 200)"),
                      R"({"joint": "rope", "body": "hook", "at": [0, 10]},
                         {"joint": "rope", "body": "load", "to": "hook"})"),
                {"load is joined to hook (200 to 1)"}},
        Planted{"slope",
                false,
                scene_of(kRamp + box("crate", "[-0.342, 0.9397]", R"("turn": "20 deg")", "[1, 1]"),
                         R"("materials": {"board": {"friction": 0.04}})"),
                {"crate stands on ramp, a slope of 20 degrees", "8.05 degrees", "0.36"}},
        Planted{"stall",
                false,
                ruled(box("arm", "[1, 0.1]", "", "[2, 0.2]"),
                      R"({"joint": "hinge", "name": "crank", "body": "arm", "at": [0, 0.1],
                          "motor": {"most": 5, "speed": "90 deg/s"}})"),
                {"crank"}},
        Planted{"stall",
                false,
                ruled(box("sled", "[0, 0.5]"), R"({"joint": "slider", "name": "push rod", "body": "sled",
                          "motor": {"most": 40, "target": 2}})"),
                {"push rod"}},
        Planted{"terminal",
                false,
                scene_of(box("crate", "[0, 5]", R"("velocity": [0, -30], "linear_damping": 5)")),
                {"crate begins with 30 m/s", "1.96 m/s"}},
        Planted{"terminal",
                false,
                in_space(cube("crate", "[0, 20, 0]", R"("linear_damping": 6)")),
                {"would come down with", "1.64 m/s"}},
        Planted{"awake",
                false,
                in_space(
                    R"({"name": "ball", "at": [0, 0.5, 0], "velocity": [2, 0, 0],
                             "shapes": [{"shape": "sphere", "radius": 0.5}]})"),
                {"ball", "rolls on level ground for ever"}},
        Planted{
            "awake",
            false,
            in_space(R"({"name": "top", "at": [0, 0.5, 0], "spin": {"axis": [0, 1, 0], "rate": "20 rad/s"},
                             "shapes": [{"shape": "sphere", "radius": 0.5}]})"),
            {"top (20 rad/s)", "spins in place"}},
        Planted{"awake",
                false,
                scene_of(box("low", "[0, 0.5]", R"("may_sleep": false)") + ", " + box("top", "[0, 1.5]")),
                {"low lies still, may not sleep", "1 body"}},
        Planted{
            "refused",
            true,
            ruled(
                box("low", "[0, 0.5]") + ", " + box("top", "[0, 4]"),
                R"({"joint": "weld", "name": "bracket", "body": "low", "to": "top", "at_body": [0, 0.5], "at_to": [0, -0.5]})"),
            {"an anchor that is 2.5 m from that on the first body"}},
        Planted{"still", false, scene_of(""), {"nothing moves"}}));

// Each of three faults in one scene.
TEST(Check, SeveralFaultsAreAllNamed) {
    const auto findings =
        found(scene_of(box("crate", "[0, 0.2]") + ", " + box("one", "[5, 2]") + ", " + box("two", "[5, 2]") +
                           ", " + box("shot", "[10, 3]", R"("velocity": [300, 0], "sweep": "none")") + kGate,
                       R"("timeline": [{"action": "kick", "time": 3, "body": "crate", "impulse": [1, 0]}])"));
    EXPECT_EQ(errors_of(findings), (std::vector<std::string>{"twins", "overlap", "tunnel", "late"}));
}

template<typename Dim> class LiveForces : public ::testing::Test {};
TYPED_TEST_SUITE(LiveForces, test::Dimensions);

// A world that a game runs is looked at without a file, and stays as it is.
TEST(Check, OfALiveWorld) {
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    const BodyId light = world.add({.pose = {{0, 0.5}},
                                    .shapes = {{Box2::sized(1, 1)}},
                                    .mass = MassProperties<2>{.mass = 1, .inertia = 0.2f}});
    const BodyId press = world.add({.pose = {{0, 1.5}},
                                    .shapes = {{Box2::sized(1, 1)}},
                                    .mass = MassProperties<2>{.mass = 5000, .inertia = 800}});
    const std::uint64_t before = world.fingerprint();
    const auto plain = astasis::check(world);
    const auto named = astasis::check<2>(world, [&](BodyId id) {
        return id == light ? "light" : id == press ? "press" : "floor";
    });
    EXPECT_EQ(world.fingerprint(), before);
    ASSERT_FALSE(plain.empty());
    EXPECT_EQ(plain[0].text.substr(0, 36), "body 2 leans on body 1 (5000 to 1): ") << plain[0].text;
    EXPECT_EQ(named[0].text.substr(0, 33), "press leans on light (5000 to 1):");
    World3 empty;
    EXPECT_TRUE(astasis::check(empty).empty());
}

// A spring that the game applies as a force each tick is found, with its stiffness, and grows as is said; a
// steady force, a drag and a soft spring are not.
TYPED_TEST(LiveForces, AStiffSpringIsFound) {
    constexpr int D = TypeParam::value;
    World<D> world({.gravity = {}});
    const auto add = [&](double x) {
        return world.add(
            {.pose = {{x, 0}, {}}, .shapes = {{Ball<D>{0.5f}}}, .mass = mass_of<D>({{Ball<D>{0.5f}}}, 2)});
    };
    const BodyId stiff = add(1), steady = add(10), drag = add(20), soft = add(30.5);
    world.set_velocity(drag, {3, 0});
    ForceWatch<D> watch;
    double most = 0;
    for (int k = 0; k < 120; k++) {
        const auto pull = [&](BodyId id, double from, float stiffness) {
            const auto x = static_cast<float>(world.pose(id).position.x - from);
            world.apply_force(id, {-stiffness * x, 0});
        };
        pull(stiff, 0, 100), pull(soft, 30, 4);
        world.apply_force(steady, {5, 0});
        world.apply_force(drag, world.velocity(drag) * -1.0f);
        watch.before_tick(world);
        EXPECT_EQ(length(world.applied_force(steady)), 5);
        world.step();
        EXPECT_EQ(length(world.applied_force(steady)), 0);
        if (k >= 60) most = std::max(most, std::fabs(world.pose(stiff).position.x));
    }
    const auto findings = watch.findings(world, [&](BodyId id) { return id == stiff ? "buggy" : "other"; });
    ASSERT_EQ(findings.size(), 1u);
    EXPECT_NE(findings[0].text.find("the force on buggy follows its place like a spring of 100 N/m"),
              std::string::npos)
        << findings[0].text;
    EXPECT_NE(findings[0].text.find("adds 23 % to each swing"), std::string::npos) << findings[0].text;
    EXPECT_NEAR(most, 1.23 * 1.23, 0.1); // after two seconds
}

// Tunnelling in the scenes of the demo is swept, masses are near, nothing overlaps.
TEST(Check, DemoScenesAreWithoutErrors) {
    int scenes = 0;
    for (const auto& entry : std::filesystem::directory_iterator(ASTASIS_SCENES)) {
        const std::string name = entry.path().filename();
        if (!name.ends_with(".json") || name.ends_with(".rays.json")) continue;
        if (name == "hundred_heaps.json" && !test::is_soak()) continue; // half a minute by itself
        const scene::SceneFile file = scene::read_scene(entry.path());
        const auto findings =
            std::visit([&](const auto& s) { return check_scene(s, file.document); }, file.scene);
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
    EXPECT_EQ(astasis("check good.json").out,
              fmt::format("good.json: nothing found by {} rules\n", rules().size()));
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
    write("gum.json", scene_of(box("crate", "[0, 2]"), R"("materials": {"gum": {"restitution": 1.4}})"));
    const auto refused = astasis("check gum.json");
    EXPECT_EQ(refused.status, 1);
    EXPECT_NE(refused.out.find("ERROR   refused: gum.json:1:"), std::string::npos) << refused.out;
    EXPECT_NE(refused.out.find("given 1.4, accepted: a number from 0 to 1"), std::string::npos)
        << refused.out;
    write("cut.json", "{\"astasis_scene\": 1,");
    EXPECT_EQ(astasis("check cut.json").status, 2);
    EXPECT_EQ(astasis("check --explain none").status, 2);
    EXPECT_EQ(astasis("check").status, 2);
    EXPECT_EQ(astasis("check none.json").status, 2);
    EXPECT_EQ(files(),
              (std::vector<std::string>{"advice.json", "bad.json", "cut.json", "good.json", "gum.json"}));
}

}
}
