// A light barrier: parcels slide past a lamp at all speeds, and a sensor tells when each breaks the beam and
// for how long, even of one that crosses it within a tick.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 world;
    const Material slippery{.friction = 0};
    const BodyId floor = world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}, slippery}}});
    // From the lamp down to just above the floor, which it does not see: it is on a layer of its own.
    constexpr std::uint64_t kGround = 2;
    world.set_layers(floor, 0, kGround, ~std::uint64_t{0});
    world.add(
        {.motion = Motion::Static,
         .pose = {{0, 0.5}},
         .shapes = {{.geometry = Box2::sized(0.01f, 0.98f), .collides_with = ~kGround, .is_sensor = true}}});
    for (int i = 0; i < 3; i++)
        world.add({.pose = {{-1.0 - 1.5 * i, 0.1}},
                   .velocity = {i == 2 ? 90.0f : 1.5f, 0}, // the last is shot past the others' heads
                   .shapes = {{Box2::sized(0.4f, 0.2f), slippery}},
                   .user_data = static_cast<std::uint64_t>(i)});
    world.set_pose(world.bodies()[4], {{-4, 0.8}});

    int parcels = 0;
    for (int tick = 0; tick < 240; tick++) {
        const double start = world.time();
        world.step();
        const Events<2> events = world.events();
        for (const Crossing& c : events.entered) {
            parcels++;
            std::printf("%.4f s: parcel %d breaks the beam\n", start + c.time,
                        static_cast<int>(world.user_data(c.body)));
        }
        for (const Crossing& c : events.left)
            std::printf("%.4f s: parcel %d has passed\n", start + c.time,
                        static_cast<int>(world.user_data(c.body)));
    }
    std::printf("%d parcels\n", parcels);
}
