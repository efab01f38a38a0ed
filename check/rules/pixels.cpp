#include "check/rules.h"

namespace astasis::check {

const Rule pixels_rule{
    "pixels", "lengths that look like pixels, not metres",
    "All lengths are metres, speeds m/s, gravity m/s2. Things of 50 m fall slowly, as hills do, and "
    "contacts, sleep\n"
    "and sweeps are tuned for things of 1 cm to 10 m. Signs: bodies tens of metres wide, a gravity of "
    "hundreds.\n"
    "Cure: divide every length, speed and the gravity by the pixels of a metre, and multiply when you draw."};

template<int Dim> void pixels(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kWide = 15, kStrong = 100; // m, m/s2
    const World<Dim>& world = trial.made.world;
    std::vector<double> widths;
    for (const BodyId id : world.bodies())
        if (world.motion(id) == Motion::Dynamic)
            for (const auto& shape : world.shapes(id)) widths.push_back(double{thickness_of(shape)});
    const double gravity = double{length(world.settings().gravity)};
    double median = 0;
    if (!widths.empty()) {
        const auto middle = widths.begin() + static_cast<std::ptrdiff_t>(widths.size() / 2);
        std::nth_element(widths.begin(), middle, widths.end());
        median = *middle;
    }
    if (median <= kWide && gravity <= kStrong) return;
    std::string text;
    if (median > kWide) text += fmt::format("bodies that move are {:.4g} m wide (the median)", median);
    if (gravity > kStrong) text += fmt::format("{}gravity is {:.4g} m/s2", text.empty() ? "" : ", ", gravity);
    out.push_back(
        {pixels_rule.name, true,
         text +
             ": these look like pixels. Lengths are metres: divide them, speeds and gravity by the pixels of "
             "a metre."});
}
ASTASIS_RULE_ENDS(pixels)

}
