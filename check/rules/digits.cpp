#include "check/rules.h"

#include <limits>

namespace astasis::checks {

const Rule digits_rule{"digits", "things too small or too far for their floats",
                       "Places of bodies are doubles and reach as far as one likes. Shapes are floats, seven "
                       "digits in their body's frame:\n"
                       "an outline that lies a thousand kilometres from its own origin has steps of "
                       "centimetres. And what is thinner than\n"
                       "a tenth of a millimetre is near to what contacts leave between things. Cure: a body "
                       "whose origin is where its shape is;\n"
                       "another unit of length for what is tiny.",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "grain", "at": [0, 1], "shapes": [{"shape": "circle", "radius": 0.00001}]}]})",
                       R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "grain", "at": [0, 1], "shapes": [{"shape": "circle", "radius": 0.001}]}]})"};

namespace {

// From the body's origin to the box around a shape, m.
template<int Dim> double distance_from_origin(const ShapeSpec<Dim>& shape) {
    const Bounds<Dim> box = bounds_of(shape, Pose<Dim>{});
    double squares = 0;
    for (int k = 0; k < Dim; k++) {
        const double outside = std::max({box.low[k], -box.high[k], 0.0});
        squares += outside * outside;
    }
    return std::sqrt(squares);
}

}

template<int Dim> void digits(const Trial<Dim>& trial, std::vector<Finding>& out) {
    // A box of 1e-4 m rests 0.1 % deep, one of a tenth of it falls through.
    constexpr double kThin = 1e-4, kStep = 1.2e-7, kStepOfPlace = 2.2e-16; // of a float, and of a double
    constexpr double kCoarse = 0.01, kCoarsePlace = 1e-4;                  // of the thinnest that moves
    const World<Dim>& world = trial.start;
    std::vector<std::string> small, far, far_out;
    double thinnest = std::numeric_limits<double>::infinity();
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic) continue;
        double own = std::numeric_limits<double>::infinity();
        for (const auto& shape : world.shapes(id)) own = std::min(own, double{thickness_of(shape)});
        if (own > 0 && own < kThin) small.push_back(fmt::format("{} ({:.2g} m)", trial.name(id), own));
        if (own > 0) thinnest = std::min(thinnest, own);
        double away = 0;
        for (int k = 0; k < Dim; k++) away = std::max(away, std::fabs(world.pose(id).position[k]));
        if (kStepOfPlace * away > kCoarsePlace * own)
            far_out.push_back(fmt::format("{} ({:.2g} m)", trial.name(id), away));
    }
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id)) {
            const double away = distance_from_origin(shape);
            if (!std::isfinite(away) || kStep * away < kCoarse * thinnest) continue;
            far.push_back(fmt::format("{} ({:.3g} m)", trial.name(id), away));
            break;
        }
    if (!small.empty())
        out.push_back(
            {digits_rule.name, true,
             fmt::format("{}: thinner than {:g} m, which contacts cannot tell from nothing. Choose a "
                         "larger unit of length for such a scene.",
                         some_of(small), kThin)});
    if (!far_out.empty())
        out.push_back(
            {digits_rule.name, true,
             fmt::format("{}: so far from the world's origin even its place has coarse steps. Move the scene "
                         "to its origin.",
                         some_of(far_out))});
    if (!far.empty())
        out.push_back({digits_rule.name, true,
                       fmt::format("{}: the shape lies so far from its body's origin that its floats are too "
                                   "coarse for a body of {:.2g} m. Move the body there, and the shape to its "
                                   "origin.",
                                   some_of(far), thinnest)});
}
ASTASIS_RULE_ENDS(digits)

}
