// Plates that open a gate: whoever stands on one, picker or parcel, lifts it, and it shuts when both are
// left. The plates are sensors; the gate slides on a rail, driven by a motor that goes to a height, and
// pushes what it comes down on no harder than it may.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    const BodyId plate =
        world.add({.motion = Motion::Static,
                   .pose = {{2, 0.1}},
                   .shapes = {{.geometry = Box2::sized(4, 0.1f), .collides_with = 2, .is_sensor = true}}});
    const std::vector<ShapeSpec<2>> leaf{{Box2::sized(0.1f, 2)}};
    const BodyId gate = world.add({.pose = {{2, 1}}, .shapes = leaf, .mass = mass_of(leaf, 60)});
    const Motor shut{.most = 1500, .speed = 2, .target = 0.0f},
        open{.most = 1500, .speed = 2, .target = 1.9f};
    const JointId rail = world.add_joint(Slider<2>{
        .joins = {.a = gate}, .axis = {0, 1}, .limits = {.lower = 0, .upper = 1.9f}, .motor = shut});
    world.set_contact_hook([&](ContactAsked<2>& contact) {
        if (contact.body_a == gate || contact.body_b == gate) contact.most_push = 400;
    });

    // A picker walks through, with a body that the plate sees; a parcel slides after it and stops on the
    // plate.
    const Capsule2 figure{{0, -0.55f}, {0, 0.55f}, 0.3f};
    const BodyId body = world.add(
        {.motion = Motion::Kinematic, .pose = {{-3, 0.86}}, .shapes = {{.geometry = figure, .layers = 2}}});
    Mover<2> picker({.shape = figure, .body = body}, {-3, 0.86});
    const std::vector<ShapeSpec<2>> box{{.geometry = Box2::sized(0.5f, 0.4f), .layers = 2}};
    const BodyId parcel = world.add({.pose = {{-6, 0.2}}, .shapes = box, .mass = mass_of(box, 20)});
    for (int tick = 0; tick < 600; tick++) {
        picker.move(world, {tick < 360 ? 1.4f : 0, -2});
        if (tick == 420) world.set_velocity(parcel, {9.5f, 0});
        world.step();
        const Events<2> events = world.events();
        if (!events.entered.empty() || !events.left.empty()) {
            const std::size_t on_it = world.shapes_in(plate, 0).size();
            world.set_motor(rail, on_it > 0 ? open : shut);
            std::printf("%5.2f s: %zu on the plate, the gate %s\n", world.time(), on_it,
                        on_it > 0 ? "lifts" : "shuts");
        }
        if (tick % 120 == 119)
            std::printf("%5.2f s: picker at %5.2f m, parcel at %5.2f m, gate %.2f m up\n", world.time(),
                        picker.position().x, world.pose(parcel).position.x,
                        static_cast<double>(world.joint_state(rail).axes[0].position));
    }
}
