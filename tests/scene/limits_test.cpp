// Files of strangers: what asks for too much is refused with a sentence before any of it is made.
#include "astasis/scene/timeline.h"
#include "scene/obj.h"
#include "scene/read_text.h"

#include "support/command.h"
#include "support/scene_faults.h"

#include <sys/stat.h>

namespace astasis::scene {
namespace {

using test::fault_of;

void has(const std::string& fault, const std::string& part) {
    EXPECT_NE(fault.find(part), std::string::npos) << fault.substr(0, 400);
}
std::string repeated(const std::string& item, int count) {
    std::string out;
    for (int i = 0; i < count; i++) out += (i > 0 ? "," : "") + item;
    return out;
}
std::string plane(const std::string& bodies, const std::string& more = "") {
    return R"({"astasis_scene": 1, "dimension": 2, "bodies": [)" + bodies + "]" + more + "}";
}
const std::string kCircle = R"({"shape": "circle", "radius": 0.5})";

// With a search of all keys before each, these would take minutes.
TEST(Limits, ManyKeysOfOneObject) {
    std::string text = "{";
    for (int i = 0; i < 300'000; i++) text += "\"k" + std::to_string(i) + "\": 0, ";
    has(fault_of(text + "\"k7\": 1}"), "stands twice in one object");
    has(fault_of(text + "\"z\": 1}"), "unknown key");
}

TEST(Limits, ManyNamesAndActions) {
    std::string bodies, actions;
    for (int i = 0; i < 60'000; i++) {
        const std::string n = std::to_string(i);
        const std::string comma = i > 0 ? "," : "";
        bodies += comma + R"({"name": "p)" + n + R"(", "at": [)" + n + ", 0], \"shapes\": [" + kCircle + "]}";
        actions += comma + R"({"action": "remove", "time": 1, "body": "p)" + n + "\"}";
    }
    EXPECT_EQ(fault_of(plane(bodies, R"(, "timeline": [)" + actions + "]")), "no fault");
}

TEST(Limits, ValuesAndDepth) {
    has(fault_of("[" + repeated("0", 4'000'001) + "]"), "one more than the 4000000");
    has(fault_of(std::string(1 << 20, '[')), "deeper than 64 levels");
}

TEST(Limits, MemoryOfBodiesShapesAndJoints) {
    const std::string many = R"("repeat": {"count": [1000, 1000], "pitch": [2, 2]})";
    const std::string shapes =
        fault_of(plane(R"({"name": "crowd", "shapes": [)" + repeated(kCircle, 300) + "], " + many + "}"));
    has(shapes, "$.bodies[0]"), has(shapes, "300000000 shapes"), has(shapes, "no more than 1000 MB");
    const std::string half =
        R"(", "shapes": [)" + kCircle + R"(], "repeat": {"count": [600, 600], "pitch": [2, 2]}})";
    has(fault_of(plane(R"({"name": "a)" + half + R"(, {"name": "b)" + half)), "720000 bodies");
    has(fault_of(plane(R"({"name": "a)" + half,
                       R"(, "joints": [{"joint": "rope", "name": "j", "body": "a", "row": true}])")),
        "360000 joints");
    std::string row = R"([)" + repeated("0", 2000) + "]";
    has(fault_of(
            R"({"astasis_scene": 1, "dimension": 3, "bodies": [{"name": "g", "motion": "static", "shapes": [)"
            R"({"shape": "height-field", "pitch": 1, "heights": [)" +
            repeated(row, 40) + R"(]}], "repeat": {"count": [100, 100, 1], "pitch": [1, 1, 1]}}]})"),
        "memory");
}

TEST(Limits, PairsOfWhatStandsAtOnePlace) {
    const std::string at_one = R"({"name": "pile", "shapes": [)" + kCircle +
                               R"(], "repeat": {"count": [5000, 1], "pitch": [0, 0]}})";
    has(fault_of(plane(at_one)), "pairs of shapes whose bounds overlap");
    const std::string row = R"({"name": "row", "shapes": [)" + kCircle +
                            R"(], "repeat": {"count": [5000, 1], "pitch": [1.01, 0]}})";
    EXPECT_EQ(fault_of(plane(row)), "no fault");
}

TEST(Limits, PairsAndMemoryOfWhatIsSpawned) {
    const auto fault_in_ticks = [](const std::string& spawn, int ticks) -> std::string {
        const auto file =
            read_scene_text("depot.json", plane("", R"(, "gravity": [0, 0], "timeline": [)" + spawn + "]"));
        auto made = make_world(std::get<Scene<2>>(file.scene), file.document);
        try {
            for (int i = 0; i < ticks; i++) made.timeline->before_tick(made);
        } catch (const FileError& e) {
            return e.what();
        }
        return "no fault";
    };
    const auto spawn = [](const char* pitch) {
        return R"({"action": "spawn", "every": 0.001, "body": {"name": "p", "shapes": [)" + kCircle +
               R"(], "repeat": {"count": [40, 40], "pitch": [)" + pitch + "]}}}";
    };
    const std::string piled = fault_in_ticks(spawn("0, 0"), 1);
    has(piled, "depot.json:1:"), has(piled, "$.timeline[0]"),
        has(piled, "pairs of shapes whose bounds overlap");
    EXPECT_EQ(fault_in_ticks(spawn("2, 2"), 1), "no fault");
}

std::string mesh_fault(const std::string& text) {
    try {
        read_obj_text(text);
    } catch (const std::exception& e) {
        return e.what();
    }
    return "no fault";
}

TEST(Limits, MeshesAreReadForCornersAndFacesAlone) {
    const std::string corners = "v 0 0 0\nv 1 0 0\nv 0 0 1\n";
    EXPECT_EQ(mesh_fault(corners + "f 1 3 2\n"), "no fault");
    EXPECT_EQ(mesh_fault("mtllib ../../dev/zero\nusemtl film\no thing\r\n" + corners +
                         "vt nan nan\nf 1/1/1 -1//2 2\r\n"),
              "no fault");
    has(mesh_fault("v 0 0 nan\n"), "line 1: a corner is v and three finite numbers");
    has(mesh_fault("v 0 0\n"), "line 1: a corner");
    has(mesh_fault("v 0 0 1e99\n"), "line 1: a corner");
    has(mesh_fault(corners + "f 1 2 4\n"), "line 4: a face names corners that stand above it");
    has(mesh_fault(corners + "f 0 1 2\n"), "line 4: a face names");
    has(mesh_fault(corners + "f -4 1 2\n"), "line 4: a face names");
    has(mesh_fault(corners + "f 1 2\n"), "line 4: a face has three");
    has(mesh_fault(corners), "has no faces");
    has(mesh_fault(""), "has no faces");
}

class LimitsOfFiles : public test::InFolder {
protected:
    std::string fault(const std::string& name) const {
        try {
            read_scene(folder_ / name);
        } catch (const FileError& e) {
            return e.what();
        }
        return "no fault";
    }
};

TEST_F(LimitsOfFiles, EndlessAndOversizedOnesAreRefused) {
    has(fault("/dev/zero"), "is no regular file");
    std::ofstream(folder_ / "large.json") << "{";
    std::filesystem::resize_file(folder_ / "large.json", kMostBytes + 1);
    has(fault("large.json"), "over 64 MiB");
    const auto endless = shell("yes | " ASTASIS_COMMAND " run /dev/stdin 2>&1");
    EXPECT_NE(endless.status, 0);
    has(endless.out, "over 64 MiB");
    std::ofstream(folder_ / "zero.json")
        << R"({"astasis_scene": 1, "dimension": 3, "bodies": [{"name": "m", "motion": "static",
               "shapes": [{"shape": "mesh", "file": "/dev/zero"}]}]})";
    has(fault("zero.json"), "/dev/zero: is no regular file");
    ASSERT_EQ(mkfifo((folder_ / "pipe.obj").c_str(), 0600), 0);
    std::ofstream(folder_ / "pipe.json")
        << R"({"astasis_scene": 1, "dimension": 3, "bodies": [{"name": "m", "motion": "static",
               "shapes": [{"shape": "mesh", "file": "pipe.obj"}]}]})";
    has(fault("pipe.json"), "is no regular file");
}

TEST_F(LimitsOfFiles, APipeIsReadToItsEnd) {
    std::ofstream(folder_ / "s.json") << plane(R"({"name": "p", "shapes": [)" + kCircle + "]}");
    EXPECT_EQ(shell("cat s.json | " ASTASIS_COMMAND " run /dev/stdin --duration 0.1 2>&1").status, 0);
}

}
}
