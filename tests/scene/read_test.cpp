#include "astasis/scene/scene.h"
#include "scene/keys.h"

#include "support/demo_scenes.h"
#include "support/dims.h"
#include "support/scene_faults.h"

#include <nlohmann/json.hpp>

#include <filesystem>
#include <fstream>
#include <iterator>

namespace astasis::scene {
namespace {

using test::fault_of;

const std::string kGood = R"({
  "astasis_scene": 1,
  "dimension": 2,
  "materials": {"card": {"friction": 0.4, "density": 100}},
  "bodies": [
    {"name": "box", "at": [1, 2], "turn": "30 deg", "spin": "90 deg/s",
     "shapes": [{"shape": "box", "size": [0.5, 0.25], "material": "card"}]}
  ]
})";

// The good scene with one piece of text put in the place of another.
std::string with(const std::string& what, const std::string& instead) {
    std::string text = kGood;
    const auto at = text.find(what);
    EXPECT_NE(at, std::string::npos) << what;
    return text.replace(at, what.size(), instead);
}

TEST(ReadScene, AGoodFileIsReadInFull) {
    const SceneFile file = read_scene_text("depot.json", kGood);
    const auto& scene = std::get<Scene<2>>(file.scene);
    const auto made = make_world(scene, file.document);
    const BodyId box = *made.find("box");
    EXPECT_EQ(made.world.pose(box).position, (Point2{1, 2}));
    EXPECT_NEAR(angle_of(made.world.pose(box).rotation).in_degrees(), 30, 1e-5);
    EXPECT_NEAR(made.world.angular_velocity(box), M_PI / 2, 1e-6);
    EXPECT_FLOAT_EQ(made.world.mass(box).mass, 12.5f);
    EXPECT_EQ(made.world.material(box, 0).friction, 0.4f);
    EXPECT_FALSE(made.find("crate"));
}

struct Fault {
    const char* what;
    const char* instead;
    const char* marker; // the first place of this text is where the fault stands
    const char* path;
    const char* says;
};

class Faults : public ::testing::TestWithParam<Fault> {};

TEST_P(Faults, GivePlacePathValueAndWhatIsAccepted) {
    const Fault& f = GetParam();
    const std::string text = with(f.what, f.instead), fault = fault_of(text);
    const auto at = text.find(f.marker);
    ASSERT_NE(at, std::string::npos);
    const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n');
    const auto column = at - (text.rfind('\n', at) == std::string::npos ? 0 : text.rfind('\n', at));
    const std::string place = "depot.json:" + std::to_string(line) + ":" + std::to_string(column) + ": ";
    EXPECT_EQ(fault.rfind(place + f.path, 0), 0u) << fault;
    EXPECT_NE(fault.find(f.says), std::string::npos) << fault;
}

INSTANTIATE_TEST_SUITE_P(
    All, Faults,
    ::testing::Values(
        Fault{"\"30 deg\"", "30", "30,", "$.bodies[0].turn", "given 30, accepted: an angle with its unit"},
        Fault{"\"30 deg\"", "\"30\"", "\"30\"", "$.bodies[0].turn", "given \"30\""},
        Fault{"\"90 deg/s\"", "\"90 deg\"", "\"90 deg\"", "$.bodies[0].spin",
              "a turning speed with its unit"},
        Fault{"0.25]", "0]", "0],", "$.bodies[0].shapes[0].size[1]", "given 0, accepted: a number above 0"},
        Fault{"0.25]", "-3]", "-3]", "$.bodies[0].shapes[0].size[1]", "given -3"},
        Fault{"0.25]", "1e39]", "1e39]", "$.bodies[0].shapes[0].size[1]", "given 1e39"},
        Fault{"0.5, 0.25", "0.5", "[0.5]", "$.bodies[0].shapes[0].size", "a list of 2 values"},
        Fault{"\"name\": \"box\"", "\"nmae\": \"box\"", "\"box\"", "$.bodies[0].nmae",
              "unknown key; did you mean \"name\"? Known here: name, motion"},
        Fault{"\"name\": \"box\", ", "", "{\"at\"", "$.bodies[0]", "the key \"name\" is missing"},
        Fault{"\"box\", \"at\"", "7, \"at\"", "7, \"at\"", "$.bodies[0].name", "given 7, accepted: a name"},
        Fault{"\"shape\": \"box\"", "\"shape\": \"egg\"", "\"egg\"", "$.bodies[0].shapes[0].shape",
              "one of circle, box, capsule, polygon, half-plane"},
        Fault{"\"shape\": \"box\"", "\"shape\": \"sphere\"", "\"sphere\"", "$.bodies[0].shapes[0].shape",
              "given \"sphere\""},
        Fault{"\"size\"", "\"radius\": 1, \"size\"", "1, \"size\"", "$.bodies[0].shapes[0].radius",
              "a box has no radius"},
        Fault{"\"material\": \"card\"", "\"material\": \"felt\"", "\"felt\"",
              "$.bodies[0].shapes[0].material", "card"},
        Fault{"\"friction\": 0.4", "\"friction\": -0.4", "-0.4", "$.materials.card.friction", "0 or more"},
        Fault{"\"friction\": 0.4", "\"friction\": \"0.4\"", "\"0.4\"", "$.materials.card.friction",
              "given \"0.4\""},
        Fault{"\"density\": 100", "\"density\": 0", "0}", "$.materials.card.density", "a number above 0"},
        Fault{"\"dimension\": 2", "\"dimension\": 4", "4,", "$.dimension", "from 2 to 3"},
        Fault{"\"dimension\": 2", "\"dimension\": 2.5", "2.5", "$.dimension", "a whole number"},
        Fault{"\"astasis_scene\": 1", "\"astasis_scene\": 2", "2,", "$.astasis_scene", "accepted: 1"},
        Fault{"\"at\": [1, 2]", "\"at\": [1, null]", "null", "$.bodies[0].at[1]", "given null"},
        Fault{"\"at\": [1, 2]", "\"at\": [1, 2], \"at\": [0, 0]", "\"at\": [0", "key \"at\"", "stands twice"},
        Fault{"[1, 2]", "[1, 2", ": \"30 deg\"", "not JSON", "a comma or ] is wanted here"},
        Fault{"\"at\": [1, 2]", "\"motion\": \"moving\"", "\"moving\"", "$.bodies[0].motion",
              "static, kinematic, dynamic"}));

TEST(ReadScene, WhatTheLibraryRefusesHasThePlaceOfTheBody) {
    const std::string fault = fault_of(with("\"box\", \"size\": [0.5, 0.25]", "\"half-plane\""));
    EXPECT_EQ(fault.rfind(
                  "depot.json:6:5: $.bodies[0]: shapes[0].geometry: given a half-plane on a dynamic body", 0),
              0u)
        << fault;
}

TEST(ReadScene, NotAFileNotAScene) {
    const auto fault = [](const std::filesystem::path& path) {
        try {
            read_scene(path);
        } catch (const FileError& e) {
            return std::string(e.what());
        }
        return std::string("no fault");
    };
    const auto folder = std::filesystem::temp_directory_path();
    EXPECT_NE(fault(folder / "no-such-scene.json").find("there is no such file"), std::string::npos);
    EXPECT_NE(fault(folder).find("is a folder"), std::string::npos);
    EXPECT_NE(fault_of("").find("is empty"), std::string::npos);
    EXPECT_NE(fault_of(" \n ").find("is empty"), std::string::npos);
    EXPECT_NE(fault_of("[]").find("depot.json:1:1: $: given a list of 0"), std::string::npos);
    EXPECT_NE(fault_of(std::string(1 << 20, '[')).find("deeper than 64 levels"), std::string::npos);
    std::string garbage(10 << 20, '\0');
    test::Numbers n(51);
    for (char& c : garbage) c = static_cast<char>(n.in(-128, 128));
    EXPECT_NE(fault_of(garbage).find("not JSON"), std::string::npos);
    EXPECT_LT(fault_of(garbage).size(), 400u);
}

// Any single character changed, cut or doubled gives a fault or a scene, never anything else.
TEST(ReadScene, DamagedFilesNeverCrash) {
    test::Numbers n(52);
    int faults = 0;
    for (int i = 0; i < 10000; i++) {
        std::string text = kGood;
        for (int k = 0; k < 1 + i % 3; k++) {
            const auto at = static_cast<std::size_t>(n.in(0, static_cast<double>(text.size())));
            const double what = n.in(0, 1);
            if (what < 0.4) text[at] = static_cast<char>(n.in(1, 127));
            else if (what < 0.7) text.erase(at, static_cast<std::size_t>(n.in(1, 20)));
            else text.insert(at, text.substr(static_cast<std::size_t>(n.in(0, 60)), 12));
        }
        faults += fault_of(text) != "no fault";
    }
    EXPECT_GT(faults, 5000);
}

TEST(MakeWorld, GridsNameAndSpreadTheirBodies) {
    std::string text =
        with("\"turn\": \"30 deg\"", "\"repeat\": {\"count\": [3, 2], \"pitch\": [1, 0.5]}, \"spread\": "
                                     "{\"at\": [0.1, 0], \"turn\": \"10 deg\", \"velocity\": [0, 2]}");
    SceneFile file = read_scene_text("depot.json", text);
    auto& scene = std::get<Scene<2>>(file.scene);
    const auto made = make_world(scene, file.document);
    ASSERT_EQ(made.names.size(), 6u);
    EXPECT_EQ(made.names[0], "box.1");
    EXPECT_EQ(made.names[5], "box.6");
    bool differ = false;
    for (int i = 0; i < 6; i++) {
        const BodyId id = made.world.bodies()[static_cast<std::size_t>(i)];
        const Pose<2> pose = made.world.pose(id);
        EXPECT_NEAR(pose.position.x, 1 + i % 3, 0.1);
        EXPECT_EQ(pose.position.y, 2 + 0.5 * (i / 3));
        EXPECT_LE(std::fabs(angle_of(pose.rotation).in_degrees()), 10.001);
        EXPECT_LE(std::fabs(made.world.velocity(id).y), 2);
        differ = differ || pose.position.x != 1 + i % 3;
    }
    EXPECT_TRUE(differ);
    EXPECT_EQ(make_world(scene, file.document).world.fingerprint(), made.world.fingerprint());
    scene.seed = 2;
    EXPECT_NE(make_world(scene, file.document).world.fingerprint(), made.world.fingerprint());
}

TEST(MakeWorld, SpaceTurnsAboutAnAxisAndTakesAMass) {
    const SceneFile file = read_scene_text("depot.json", R"({"astasis_scene": 1, "dimension": 3, "bodies": [
        {"name": "drum", "mass": 4, "turn": {"axis": [0, 2, 0], "angle": "90 deg"}, "spin": {"axis": [1, 0, 0], "rate": "2 rad/s"},
         "shapes": [{"shape": "sphere", "radius": 0.5, "at": [1, 0, 0]}]}]})");
    const auto made = make_world(std::get<Scene<3>>(file.scene), file.document);
    const BodyId id = made.world.bodies()[0];
    EXPECT_NEAR(made.world.mass(id).mass, 4, 1e-6);
    EXPECT_NEAR(made.world.mass(id).moments.x, 0.4 * 4 * 0.25, 1e-5);
    EXPECT_NEAR(made.world.centre_of_mass(id).z, -1, 1e-6);
    EXPECT_NEAR(made.world.angular_velocity(id).x, 2, 1e-6);
}

TEST(MakeWorld, TheDemoScenesAreReadAndMade) {
    for (const std::string& name : test::demo_scenes()) {
        const SceneFile file = test::demo_scene(name);
        std::visit([&](const auto& s) { EXPECT_GE(make_world(s, file.document).names.size(), 2u) << name; },
                   file.scene);
    }
}

TEST(ReadScene, ShapesOfThePlane) {
    const auto shape = [](const std::string& text) {
        const SceneFile file = read_scene_text(
            "depot.json", with("{\"shape\": \"box\", \"size\": [0.5, 0.25], \"material\": \"card\"}", text));
        return std::get<Scene<2>>(file.scene).bodies[0].spec.shapes[0].geometry;
    };
    EXPECT_EQ(std::get<Box2>(shape("{\"shape\": \"box\", \"size\": [1, 2], \"rounding\": 0.1}")).rounding(),
              0.1f);
    const auto capsule = std::get<Capsule2>(
        shape("{\"shape\": \"capsule\", \"from\": [0, 1], \"to\": [2, 3], \"radius\": 0.5}"));
    EXPECT_EQ(capsule.to, (Vec2{2, 3}));
    EXPECT_EQ(capsule.radius, 0.5f);
    const auto polygon = std::get<Polygon>(
        shape("{\"shape\": \"polygon\", \"corners\": [[0, 0], [1, 0], [0, 1]], \"rounding\": 0.2}"));
    EXPECT_EQ(polygon.corners.size(), 3u);
    EXPECT_EQ(polygon.rounding, 0.2f);
    const auto fault = [](const std::string& text) {
        return fault_of(with("{\"shape\": \"box\", \"size\": [0.5, 0.25], \"material\": \"card\"}", text));
    };
    EXPECT_NE(fault("{\"shape\": \"polygon\", \"corners\": [[0, 0], [1, 0]]}").find("three or more corners"),
              std::string::npos);
    EXPECT_NE(fault("{\"shape\": \"polygon\", \"corners\": [[0, 0], [2, 0], [1, 0.5], [1, 2]]}")
                  .find("turns inwards at (1, 0.5)"),
              std::string::npos);
    EXPECT_NE(fault("{\"shape\": \"capsule\", \"from\": [0, 1], \"to\": [0, 1], \"radius\": 0.5}")
                  .find("another place"),
              std::string::npos);
    EXPECT_NE(fault("{\"shape\": \"box\", \"size\": [1, 2], \"rounding\": 0.5}")
                  .find("less than half the smaller side"),
              std::string::npos);
    EXPECT_NE(
        fault("{\"shape\": \"circle\", \"radius\": 1, \"rounding\": 0.5}").find("a circle has no rounding"),
        std::string::npos);
}

template<int Dim> Geometry<Dim> shape_of(const std::string& shape) {
    const std::string text = "{\"astasis_scene\": 1, \"dimension\": " + std::to_string(Dim) +
                             ", \"bodies\": [{\"name\": \"a\", \"motion\": \"static\", \"shapes\": [" +
                             shape + "]}]}";
    const auto file = scene::read_scene_text(std::string(ASTASIS_SCENES) + "/some.json", text);
    return std::get<scene::Scene<Dim>>(file.scene).bodies[0].spec.shapes[0].geometry;
}
template<int Dim> std::string fault_of_shape(const std::string& shape) {
    try {
        shape_of<Dim>(shape);
    } catch (const scene::FileError& e) {
        return e.what();
    }
    return "none";
}

TEST(Scene, ReadsShapesOfManyPoints) {
    const auto tiles =
        std::get<TileGrid>(shape_of<2>(R"({"shape": "tiles", "cell": 0.5, "tiles": ["#..", "###"]})"));
    EXPECT_EQ(tiles.columns, 3);
    EXPECT_TRUE(tiles.is_solid(0, 1) && tiles.is_solid(2, 0) &&
                !tiles.is_solid(2, 1)); // the file begins at the top
    const auto line = std::get<Polyline>(shape_of<2>(
        R"({"shape": "polyline", "corners": [[0, 0], [1, 0], [0, 1]], "closed": true, "two_sided": true})"));
    EXPECT_TRUE(line.is_closed() && line.is_two_sided());
    EXPECT_TRUE(std::holds_alternative<Segment>(
        shape_of<2>(R"({"shape": "segment", "from": [0, 0], "to": [1, 0]})")));
    const auto field = std::get<HeightField>(
        shape_of<3>(R"({"shape": "height-field", "pitch": 2, "heights": [[0, 1, 2], [3, 4, 5]]})"));
    EXPECT_EQ(field.columns, 3);
    EXPECT_EQ(field.height(2, 1), 5);
    const auto hull = std::get<Hull>(
        shape_of<3>(R"({"shape": "hull", "points": [[0,0,0],[1,0,0],[0,1,0],[0,0,1]], "rounding": 0.1})"));
    EXPECT_EQ(hull.face_count(), 4);
    EXPECT_TRUE(std::holds_alternative<Cylinder>(
        shape_of<3>(R"({"shape": "cylinder", "from": [0,0,0], "to": [0,1,0], "radius": 1})")));
    EXPECT_EQ(std::get<TriangleMesh>(shape_of<3>(R"({"shape": "mesh", "file": "dented_floor.obj"})"))
                  .triangle_count(),
              512);
    EXPECT_EQ(
        std::get<TriangleMesh>(
            shape_of<3>(R"({"shape": "mesh", "corners": [[0,0,0],[0,0,1],[1,0,0]], "triangles": [[0,1,2]]})"))
            .triangle_count(),
        1);
}

TEST(Scene, FaultsOfShapesOfManyPoints) {
    const auto has = [](const std::string& fault, const char* part) {
        EXPECT_NE(fault.find(part), std::string::npos) << fault;
    };
    has(fault_of_shape<2>(R"({"shape": "tiles", "cell": 1, "tiles": ["#.", "#"]})"), "rows of one length");
    has(fault_of_shape<2>(R"({"shape": "tiles", "cell": 1, "tiles": ["#x"]})"), "# (solid) and . (empty)");
    has(fault_of_shape<2>(R"({"shape": "polyline", "corners": [[0, 0]]})"), "2 or more corners");
    has(fault_of_shape<2>(R"({"shape": "polyline", "corners": [[0, 0], [1, 0]], "closed": "yes"})"),
        "true or false");
    has(fault_of_shape<3>(R"({"shape": "hull", "points": [[0,0,0],[1,0,0],[0,1,0],[1,1,0]]})"),
        "of one plane");
    has(fault_of_shape<3>(R"({"shape": "height-field", "pitch": 1, "heights": [[0, 0], [0]]})"),
        "all of one length");
    has(fault_of_shape<3>(R"({"shape": "mesh", "file": "no_such.obj"})"),
        "no_such.obj: there is no such file");
    has(fault_of_shape<3>(R"({"shape": "mesh", "file": "tote_bin.json"})"), "has no faces");
    has(fault_of_shape<3>(R"({"shape": "mesh", "file": "a.obj", "corners": []})"), "not both");
    has(fault_of_shape<3>(
            R"({"shape": "mesh", "corners": [[0,0,0],[0,0,1],[1,0,0]], "triangles": [[0,1,3]]})"),
        "from 0 to 2");
}

// Materials are the world's, shared by all that name them; pairs override what mixing gives.
TEST(ReadScene, MaterialsAreShared) {
    const auto file = read_scene_text("a.json", R"({"astasis_scene": 1, "dimension": 2,
      "materials": {"ice": {"friction": 0.1, "friction_mixing": "smaller", "tangential_restitution": 0.5},
                    "board": {"friction": 0.9}},
      "between": [{"materials": ["ice", "board"], "friction": 0.02}],
      "bodies": [{"name": "a", "shapes": [{"shape": "circle", "radius": 1, "material": "ice"}]},
                 {"name": "b", "shapes": [{"shape": "circle", "radius": 1, "material": "ice"}]}]})");
    auto made = make_world(std::get<Scene<2>>(file.scene), file.document);
    const MaterialId ice = made.material_ids.at("ice");
    EXPECT_EQ(made.world.material(ice).friction_mixing, Mixing::Smaller);
    EXPECT_EQ(made.world.material(ice).tangential_restitution, 0.5f);
    made.world.set_material(ice, {.friction = 0.3f});
    for (const BodyId id : made.world.bodies()) EXPECT_EQ(made.world.material(id, 0).friction, 0.3f);
    EXPECT_EQ(std::get<Scene<2>>(file.scene).between.at(0).material.friction, 0.02f);
}

// The schema for editors knows the same keys and words as the reader.
TEST(Schema, HasTheKeysOfTheReader) {
    std::ifstream in(std::string(ASTASIS_SCENES) + "/../docs/scene.schema.json");
    const auto schema = nlohmann::json::parse(in);
    const auto expect_keys = [](const nlohmann::json& object, auto& keys) {
        std::vector<std::string> want(std::begin(keys), std::end(keys)), got;
        for (const auto& [key, value] : object.at("properties").items()) got.push_back(key);
        std::sort(want.begin(), want.end());
        EXPECT_EQ(got, want);
        EXPECT_EQ(object.at("additionalProperties"), false);
    };
    const auto& defs = schema.at("$defs");
    expect_keys(schema, keys::kScene);
    expect_keys(schema.at("properties").at("bounds"), keys::kBounds);
    expect_keys(defs.at("material"), keys::kMaterial);
    expect_keys(defs.at("between"), keys::kBetween);
    expect_keys(defs.at("body"), keys::kBody);
    expect_keys(defs.at("shape"), keys::kShape);
    expect_keys(defs.at("joint"), keys::kJoint);
    expect_keys(defs.at("limits"), keys::kLimits);
    expect_keys(defs.at("motor"), keys::kMotor);
    expect_keys(defs.at("springing"), keys::kSpringing);
    expect_keys(defs.at("field"), keys::kField);
    expect_keys(defs.at("action"), keys::kAction);
    expect_keys(defs.at("body").at("properties").at("repeat"), keys::kRepeat);
    expect_keys(defs.at("body").at("properties").at("spread"), keys::kSpread);
    const auto expect_words = [](const nlohmann::json& words, auto& known) {
        EXPECT_EQ(words.get<std::vector<std::string>>(),
                  std::vector<std::string>(std::begin(known), std::end(known)));
    };
    expect_words(defs.at("material").at("properties").at("fill").at("enum"), keys::kFills);
    expect_words(defs.at("body").at("properties").at("sweep").at("enum"), keys::kSweeps);
    expect_words(defs.at("mixing").at("enum"), keys::kMixings);
    expect_words(defs.at("body").at("properties").at("motion").at("enum"), keys::kMotions);
}

}
}
