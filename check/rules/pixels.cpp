#include "check/rules.h"

namespace astasis::checks {

const Rule pixels_rule{
    "pixels", "lengths that look like pixels, not metres",
    "All lengths are metres, speeds m/s, gravity m/s2. Things of 50 m fall slowly, as hills do, and "
    "contacts, sleep\n"
    "and sweeps are tuned for things of 1 cm to 10 m. Signs: bodies tens of metres wide, a gravity of "
    "hundreds.\n"
    "Cure: divide every length, speed and the gravity by the pixels of a metre, and multiply when you draw.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "gravity": [0, -981],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 60], "shapes": [{"shape": "box", "size": [40, 60]}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

namespace {

double median_of(std::vector<double> values) {
    if (values.empty()) return 0;
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

}

template<int Dim> void pixels(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kWide = 15, kStrong = 100;     // m, m/s2
    constexpr double kWideForFast = 4, kFast = 100; // m, m/s: both together
    const World<Dim>& world = trial.start;
    std::vector<double> widths, speeds;
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic) continue;
        for (const auto& shape : world.shapes(id)) widths.push_back(double{thickness_of(shape)});
        if (const double speed = double{length(world.velocity(id))}; speed > 0) speeds.push_back(speed);
    }
    const double gravity = double{length(world.settings().gravity)};
    const double width = median_of(widths), speed = median_of(speeds);
    const bool fast = width > kWideForFast && speed > kFast;
    if (width <= kWide && gravity <= kStrong && !fast) return;
    std::vector<std::string> signs;
    if (width > kWide || fast)
        signs.push_back(fmt::format("bodies that move are {:.4g} m wide (the median)", width));
    if (gravity > kStrong) signs.push_back(fmt::format("gravity is {:.4g} m/s2", gravity));
    if (fast) signs.push_back(fmt::format("speeds are {:.4g} m/s (the median)", speed));
    out.push_back({pixels_rule.name, true,
                   some_of(signs) + ": these look like pixels. Lengths are metres: divide them, speeds and "
                                    "gravity by the pixels of a metre."});
}
ASTASIS_RULE_ENDS(pixels)

}
