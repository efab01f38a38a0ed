// A picker walks through the depot: round a rack, up three steps, onto a lift and across to the gate, leaning
// on a parcel that lies in the way. The walker is a mover; a kinematic body goes along, so that parcels feel
// it.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World3 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}});
    const auto block = [&](Point3 at, float x, float y, float z, Motion motion = Motion::Static) {
        return world.add({.motion = motion, .pose = {at}, .shapes = {{Box3::sized(x, y, z)}}});
    };
    block({2, 1, 0.4}, 0.6f, 2, 1.5f); // a rack, half across the way
    for (int k = 1; k <= 3; k++) block({4 + 0.4 * k, 0.1 * k, 0}, 0.4f, 0.2f * static_cast<float>(k), 3);
    block({6.4, 0.3, 0}, 2, 0.6f, 3); // a landing
    const BodyId lift = block({8.6, 0.5, 0}, 2, 0.2f, 3, Motion::Kinematic);
    block({11.7, 1.1, 0}, 4, 0.2f, 3); // the deck, on which a parcel lies
    const std::vector<ShapeSpec<3>> carton{{Box3::sized(0.5f, 0.5f, 0.5f)}};
    const BodyId parcel =
        world.add({.pose = {{11, 1.45, -0.8}}, .shapes = carton, .mass = mass_of(carton, 15)});

    const Capsule3 figure{{0, -0.55f, 0}, {0, 0.55f, 0}, 0.3f};
    const BodyId body =
        world.add({.motion = Motion::Kinematic, .pose = {{0, 0.86, 0}}, .shapes = {{figure}}});
    MoverSpec<3> spec{.shape = figure, .step_height = 0.25f, .push = 120, .body = body};
    Mover<3> picker(spec, {0, 0.86, 0});
    float fall = 0;
    for (int tick = 0; tick < 660; tick++) {
        const double x = picker.position().x;
        // Waits on the lift until that is up.
        const bool waits = x > 8.4 && x < 9 && world.pose(lift).position.y < 1.1;
        world.set_velocity(lift, {0, waits ? 0.5f : 0.0f, 0});
        fall = picker.standing() ? -2 : fall - 9.81f / 60;
        const float aside = x > 1 && x < 2.6 && picker.position().z > -0.8 ? -1.5f : 0;
        picker.move(world, {waits ? 0 : 1.5f, fall, aside});
        world.step();
        if (tick % 120 == 119)
            std::printf("%4.1f s: at (%5.2f, %.2f, %5.2f), %s\n", world.time(), picker.position().x,
                        picker.position().y, picker.position().z,
                        picker.standing() ? "on its feet" : "falling");
    }
    std::printf("the parcel was pushed %.2f m\n", world.pose(parcel).position.x - 11);
}
