// 200 pucks on the air table, all with one speed at first. Perfect bounces share the energy out until speeds
// follow Maxwell's law of the plane: a share v e^(-v^2 / 2 s) / s of them has the speed v, where 2 s is the
// mean of v squared.
#include <astasis/astasis.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <random>
#include <string>

int main() {
    using namespace astasis;
    constexpr double kSpeed = 1; // m/s
    std::vector<double> speeds;
    double worst = 0;
    for (std::uint64_t seed = 1; seed <= 10; seed++) {
        World2 table({.gravity = {}}); // seen from above
        const MaterialId perfect = table.add_material({.friction = 0, .restitution = 1});
        for (const Pose<2>& rail :
             {Pose<2>{}, Pose<2>{{4, 0}, turned(degrees(90))}, Pose<2>{{4, 2.5}, turned(degrees(180))},
              Pose<2>{{0, 2.5}, turned(degrees(-90))}})
            table.add({.motion = Motion::Static,
                       .pose = rail,
                       .shapes = {{.geometry = HalfPlane{}, .shared = perfect}}});
        std::mt19937_64 random(seed);
        for (int i = 0; i < 200; i++) {
            const double way = 6.283185307179586 * static_cast<double>(random()) * 0x1p-64;
            table.add({.pose = {{0.1 + 0.2 * (i % 20), 0.125 + 0.25 * (i / 20)}},
                       .velocity = {static_cast<float>(kSpeed * std::cos(way)),
                                    static_cast<float>(kSpeed * std::sin(way))},
                       .shapes = {{.geometry = Circle{0.04f}, .shared = perfect}}});
        }
        const double energy = table.energy().kinetic;
        for (int tick = 0; tick < 60 * 60; tick++) table.step();
        worst = std::max(worst, std::fabs(table.energy().kinetic / energy - 1));
        for (const double v : values_of<2>(table, [&](BodyId id) { return length(table.velocity(id)); }))
            speeds.push_back(v);
    }

    const auto share_beyond = [&](double v) { return std::exp(-v * v / (kSpeed * kSpeed)); };
    const Histogram found = histogram_of(speeds, 0, 3 * kSpeed, 15);
    std::printf("speed m/s    found      law   per m/s, %zu pucks\n", speeds.size());
    for (std::size_t i = 0; i < found.counts.size(); i++) {
        const double from = found.low + found.width() * static_cast<double>(i), to = from + found.width();
        std::printf("%3.1f to %3.1f %8.3f %8.3f   %s\n", from, to, found.density(i),
                    (share_beyond(from) - share_beyond(to)) / found.width(),
                    std::string(static_cast<std::size_t>(std::lround(50 * found.density(i))), '#').c_str());
    }

    // Kolmogorov and Smirnov's test: the largest distance between both distributions.
    std::sort(speeds.begin(), speeds.end());
    const auto count = static_cast<double>(speeds.size());
    double distance = 0;
    for (std::size_t i = 0; i < speeds.size(); i++) {
        const double law = 1 - share_beyond(speeds[i]), below = static_cast<double>(i) / count;
        distance = std::max({distance, law - below, below + 1 / count - law});
    }
    const double most = 1.63 / std::sqrt(count); // one in a hundred goes beyond by chance
    std::printf("largest distance to the law %.4f, of %.4f that chance allows: %s\n", distance, most,
                distance <= most ? "they follow it" : "they do not follow it");
    std::printf("energy kept within %.4f %% in 60 s\n", 100 * worst);
}
