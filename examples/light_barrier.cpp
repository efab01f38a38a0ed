// A light barrier: parcels slide past a lamp, and a ray across the way tells when one breaks the beam.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 world;
    const Material slippery{.friction = 0};
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}, slippery}}});
    for (int i = 0; i < 3; i++) {
        const float height = 0.2f + 0.15f * static_cast<float>(i);
        world.add({.pose = {{-1.0 - 1.5 * i, 0.5 * height}},
                   .velocity = {1.5f, 0},
                   .shapes = {{Box2::sized(0.4f, height), slippery}},
                   .user_data = static_cast<std::uint64_t>(i)});
    }

    // From the lamp down to the sensor, which sits just above the floor.
    const Ray<2> beam{{0, 1}, {0, -0.99f}};
    std::optional<BodyId> in_beam;
    int parcels = 0;
    for (int tick = 0; tick < 240; tick++) {
        world.step();
        const auto hit = first_hit(world, beam);
        if (hit && !in_beam) {
            parcels++;
            std::printf("%.2f s: parcel %d breaks the beam, %.2f m below the lamp\n", world.time(),
                        static_cast<int>(world.user_data(hit->body)), 1 - hit->position.y);
        }
        if (!hit && in_beam)
            std::printf("%.2f s: parcel %d has passed\n", world.time(),
                        static_cast<int>(world.user_data(*in_beam)));
        in_beam = hit ? std::optional(hit->body) : std::nullopt;
    }
    std::printf("%d parcels\n", parcels);
}
