// Sparks: what a game shows and sounds where things hit each other. Drums drop on a grate; each impact above
// a speed gives as many sparks as its impulse is worth, along the surface where it was.
#include <astasis/astasis.h>

#include <algorithm>
#include <cstdio>

int main() {
    using namespace astasis;
    World3 world;
    const Material steel{.friction = 0.4f, .restitution = 0.35f};
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}, steel}}});
    for (int i = 0; i < 5; i++)
        world.add({.pose = {{0.9 * i, 1.0 + 0.6 * i, 0}, turned(degrees(25), {0, 0, 1})},
                   .shapes = {{Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, 0.2f}, steel}}});
    // Slower ones make no spark and cost nothing.
    world.collect_events({.strikes = true, .least_speed = 1});

    int sparks = 0, impacts = 0;
    double loudest = 0;
    for (int tick = 0; tick < 240; tick++) {
        const double start = world.time();
        world.step();
        for (const Strike<3>& s : world.events().strikes) {
            const double worth = static_cast<double>(length(s.impulse) * s.speed); // J, about
            const int count = std::clamp(static_cast<int>(worth / 20), 1, 60);
            if (impacts < 4)
                std::printf("%.4f s at (%.2f, %.2f, %.2f): %.1f m/s, %d sparks\n", start + s.time,
                            s.position.x, s.position.y, s.position.z, static_cast<double>(s.speed), count);
            sparks += count, impacts++;
            loudest = std::max(loudest, worth);
        }
    }
    std::printf("%d impacts, %d sparks, the loudest of %.0f J\n", impacts, sparks, loudest);
}
