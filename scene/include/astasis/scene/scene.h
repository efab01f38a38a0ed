// A scene as its file describes it, and the world that is made of it.
//
// read_scene() checks everything and makes nothing; make_world() builds the world. What a file may hold is
// told in docs/scene-format.md; docs/scene.schema.json is the same for editors.
#pragma once

#include "astasis/scene/json_tree.h"

#include "astasis/measures.h"
#include "astasis/world.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <unordered_map>
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
    std::string name, kind; // a name is made of the others if none is given
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

// What a time line does: at a time, every so often, or when something enters or leaves a sensor. Bodies,
// joints and sensors are named; the name of a grid, or of what is spawned, is all of it. Without a body's
// name it is the body that entered or left.
template<int Dim> struct Spawn { // makes the bodies of an entry, with their spread, once each time
    BodyEntry<Dim> body;
    bool where_free = false; // only while nothing is in the way
};
struct Removal {
    std::string body;
};
template<int Dim> struct Kick {
    std::string body;
    Vec<Dim> impulse{};         // N s
    std::optional<Vec<Dim>> on; // where, from the body's origin and in its frame; its centre of mass
};
template<int Dim> struct NewVelocity {
    std::string body;
    std::optional<Vec<Dim>> velocity;
    std::optional<Axial<Dim>> spin; // rad/s
};
struct NewMaterial {
    std::string material;
    Material value{};
};
template<int Dim> struct NewGravity { Vec<Dim> gravity{}; };
struct NewMotor {
    std::string joint;
    int axis = 0;
    Motor motor{};
};
template<int Dim> struct Action {
    enum class When : std::uint8_t { Time, Entered, Left };
    using Kind = std::variant<Spawn<Dim>, Removal, Kick<Dim>, NewVelocity<Dim>, NewMaterial, NewGravity<Dim>,
                              NewMotor>;
    Kind kind{};
    When when = When::Time;
    double from = 0;                    // s, of the first time
    std::optional<double> every;        // s; once, if it is not given
    std::optional<double> until;        // s
    std::optional<std::uint64_t> count; // the most times
    std::string sensor;                 // the body whose sensors are meant
    std::size_t offset = 0;             // in the file, as `path` for errors
    std::string path;
};

template<int Dim> struct Scene {
    std::string title; // the file's name, if none is given
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
    std::vector<Action<Dim>> timeline;
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

template<int Dim> class Timeline;

// A world with names. The nth body that was made has user data n and the name names[n], which stays its own
// when it is gone.
template<int Dim> struct Made {
    World<Dim> world;
    std::vector<std::string> names;
    std::vector<BodyId> ids;                             // as the names
    std::unordered_map<std::string, std::size_t> places; // of names, the first that has each
    std::uint64_t bytes = 0; // about, that the bodies which the scene made and has not removed take
    std::map<std::string, MaterialId> material_ids;
    std::vector<std::vector<std::string>> materials; // of each body's shapes
    std::vector<std::string> joint_names;            // of `world.joints()`, by their user data
    Bounds<Dim> bounds; // given, or around all that is at the start or spawned, three times as large
    std::shared_ptr<Timeline<Dim>> timeline;

    // Of a body that is there.
    std::optional<BodyId> find(const std::string& name) const;
    const std::string& name_of(BodyId id) const; // also of one that is gone
};

// The number of ticks of a duration, rounded to the nearest.
std::uint64_t ticks_in(double seconds, double tick);

// Throws FileError with the body's place for what the library refuses, and for what asks for more than a
// gigabyte. The same scene gives the same bits.
template<int Dim> Made<Dim> make_world(const Scene<Dim>& scene, const Document& document);

}
