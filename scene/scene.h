// A scene as its file describes it, and the world that is made of it.
//
// read_scene() checks everything and makes nothing; make_world() builds the world. What a file may hold is
// told in docs/scene-format.md; docs/scene.schema.json is the same for editors.
#pragma once

#include "scene/json_tree.h"

#include "astasis/measures.h"
#include "astasis/world.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace astasis::scene {

inline constexpr int kVersion = 1; // of the format

struct MaterialEntry {
    Material material{};
    float density = ShapeSpec<2>{}.density;
    std::string fill; // a name of the palette, or empty: then the drawer picks one
};

// What holds where two materials meet.
struct BetweenEntry {
    std::string a, b;
    Material material{};
};

// A body of a file: one body, or as many as its grid has, each a little different by its spread.
template<int Dim> struct BodyEntry {
    std::string name;
    BodySpec<Dim> spec;
    std::vector<std::string> materials; // of each shape
    Axial<Dim> turn{};                  // radians; in space a vector along the axis
    std::array<int, Dim> count{};
    Vec<Dim> pitch{};
    Vec<Dim> spread_at{};
    double spread_turn = 0; // radians
    Vec<Dim> spread_velocity{};
    bool repeated = false;
    std::optional<float> mass; // kg of each body; the inertia is that of the shapes
    std::size_t offset = 0;    // in the file, for errors that the library finds
    std::string path;
};

// A joint of a file, or one for each neighbours in the grid of a body.
template<int Dim> struct JointEntry {
    std::string name, kind; // the name may be empty
    std::string body, to;   // names; no `to` is the world
    bool row = false;       // each of a grid to the one before it
    Joint<Dim> spec;        // without ids
    std::size_t offset = 0;
    std::string path;
};

template<int Dim> struct FieldEntry {
    Field<Dim> spec;
    std::string body; // that attracts, or empty
    std::size_t offset = 0;
    std::string path;
};

template<int Dim> struct Scene {
    std::string title;
    WorldSpec<Dim> world;
    std::uint64_t seed = 1;
    double duration = 10; // seconds
    std::optional<Bounds<Dim>> bounds;
    std::map<std::string, MaterialEntry> materials;
    std::vector<BetweenEntry> between;
    std::vector<std::string> layers{"common"}; // the names of the bits, from the first
    std::vector<BodyEntry<Dim>> bodies;
    std::vector<JointEntry<Dim>> joints;
    std::vector<FieldEntry<Dim>> fields;
};

using AnyScene = std::variant<Scene<2>, Scene<3>>;

// A scene and the file it came from, whose places errors give.
struct SceneFile {
    Document document;
    AnyScene scene;
};

// Reads and checks. Throws FileError: no such file, a folder, unreadable, over 64 MiB, or a fault in the
// text.
SceneFile read_scene(const std::filesystem::path& path);
SceneFile read_scene_text(std::string file, std::string text);

// A world with names. Body n of `world.bodies()` has user data n and the name names[n].
template<int Dim> struct Made {
    World<Dim> world;
    std::vector<std::string> names;
    std::map<std::string, MaterialId> material_ids;
    std::vector<std::vector<std::string>> materials; // of each body's shapes
    std::vector<std::string> joint_names;            // of `world.joints()`, by their user data
    Bounds<Dim> bounds; // given, or around all that is at the start, three times as large

    std::optional<BodyId> find(const std::string& name) const;
};

// Throws FileError with the body's place for what the library refuses. The same scene gives the same bits.
template<int Dim> Made<Dim> make_world(const Scene<Dim>& scene, const Document& document);

}
