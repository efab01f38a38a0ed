// A hover cart on the depot floor, seen from above: thrust, spin and damping; it leaves by one gate and comes
// in by the other.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 floor({.gravity = {}}); // seen from above, nothing pulls
    const BodyId cart = floor.add({
        .pose = {{-4, 0}},
        .free = {.linear_damping = 0.5f, .angular_damping = 1.5f},
        .shapes = {{Polygon{{{-0.5f, -0.3f}, {0.6f, 0}, {-0.5f, 0.3f}}}, {}, 50}},
    });
    const Bounds<2> depot{{-6, -4}, {6, 4}};

    // The engine stays on until it is changed; the rudder is a torque for as long as the key is held.
    floor.set_thrust(cart, {.force = {60, 0}});
    std::printf("  time s     x m     y m   heading deg   speed m/s\n");
    int gates = 0;
    for (int tick = 0; tick <= 600; tick++) {
        if (tick % 60 == 0) {
            const Pose<2> at = floor.pose(cart);
            std::printf("%8.1f %7.2f %7.2f %13.1f %11.2f\n", floor.time(), at.position.x, at.position.y,
                        angle_of(at.rotation).in_degrees(), length(floor.velocity(cart)));
        }
        const bool left_key = tick > 120 && tick < 150;
        if (left_key) floor.apply_torque(cart, 4);
        if (tick == 480) floor.clear_thrust(cart); // out of power: damping brings it to rest
        floor.step();
        if (wrap(floor, cart, depot)) gates++;
    }
    std::printf("through a gate %d times\n", gates);
}
