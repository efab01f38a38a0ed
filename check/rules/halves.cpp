#include "check/rules.h"

#include "astasis/world_queries.h"

#include <optional>

namespace astasis::checks {

const Rule halves_rule{"halves", "half extents where full sizes are meant",
                       "Sizes of boxes are full sizes, from side to side. Who gives half of them gets things "
                       "of half the size that hang\n"
                       "in the air, each as far from the next as both would be larger. Sign: boxes that "
                       "would touch exactly if all were\n"
                       "twice as large. Cure: twice the sizes.",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "low", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [0.5, 0.5]}]},
  {"name": "middle", "at": [0, 1.5], "shapes": [{"shape": "box", "size": [0.5, 0.5]}]},
  {"name": "top", "at": [0, 2.5], "shapes": [{"shape": "box", "size": [0.5, 0.5]}]}]})",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "low", "at": [0, 0.5], "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "middle", "at": [0, 1.5], "shapes": [{"shape": "box", "size": [1, 1]}]},
  {"name": "top", "at": [0, 2.5], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

namespace {

// The full height of a body that is one upright box.
template<int Dim> std::optional<double> height_of(const World<Dim>& world, BodyId id) {
    const auto shapes = world.shapes(id);
    if (shapes.size() != 1 || !(world.pose(id).rotation == Rotation<Dim>{}) ||
        !(shapes[0].placement.rotation == Rotation<Dim>{}))
        return {};
    const auto* box = std::get_if<Box<Dim>>(&shapes[0].geometry);
    if (!box) return {};
    return double{box->full_size().y};
}

enum class Below : std::uint8_t { Other, Floor, Box }; // what would bear a box that was twice as high

template<int Dim> Below below(const World<Dim>& world, BodyId id, double height) {
    constexpr double kExact = 0.01; // of its height
    const Point<Dim> at = world.centre_of_mass(id);
    const auto hit =
        first_hit(world, Ray<Dim>{at, Vec<Dim>{0, static_cast<float>(-2 * height)}}, {.except = id});
    if (!hit) return Below::Other;
    const double gap = at.y - height / 2 - hit->position.y;
    const auto other = height_of(world, hit->body);
    if (other && world.motion(hit->body) == Motion::Dynamic)
        return std::fabs(gap - (height + *other) / 2) < kExact * height ? Below::Box : Below::Other;
    const bool halved_too = other && std::fabs(gap - (height + *other) / 2) < kExact * height;
    return halved_too || std::fabs(gap - height / 2) < kExact * height ? Below::Floor : Below::Other;
}

}

template<int Dim> void halves(const Trial<Dim>& trial, std::vector<Finding>& out) {
    const World<Dim>& world = trial.start;
    std::vector<std::string> names;
    std::size_t boxes = 0, on_others = 0;
    double height = 0;
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic) continue;
        const auto own = height_of(world, id);
        if (!own) continue;
        boxes++;
        const Below what = below(world, id, *own);
        if (what == Below::Other) continue;
        height = *own, on_others += what == Below::Box;
        names.push_back(trial.name(id));
    }
    // One that hangs as high by chance says nothing.
    if (on_others == 0 || on_others == names.size() || 2 * names.size() < boxes) return;
    out.push_back(
        {halves_rule.name, false,
         fmt::format("{} would stand exactly on what is below if they were twice as large: were half "
                     "extents given? Sizes are full: {:.3g} m instead of {:.3g} m.",
                     some_of(names), 2 * height, height)});
}
ASTASIS_RULE_ENDS(halves)

}
