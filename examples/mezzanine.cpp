// A mezzanine that lets through from below and bears from above: a contact hook drops the contacts of what
// has yet to come over its edge. And a floor whose ice lies only where the plan says.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 world;
    const BodyId floor = world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    const BodyId deck =
        world.add({.motion = Motion::Static, .pose = {{0, 2.4}}, .shapes = {{Box2::sized(3, 0.2f)}}});
    const BodyId jumper = world.add({.pose = {{0, 0.3}}, .shapes = {{Box2::sized(0.4f, 0.6f)}}});
    const BodyId slider =
        world.add({.pose = {{4, 0.15}}, .velocity = {6, 0}, .shapes = {{Box2::sized(0.4f, 0.3f)}}});

    world.set_contact_hook([&](ContactAsked<2>& contact) {
        const bool on_deck = contact.body_a == deck || contact.body_b == deck;
        const BodyId other = contact.body_a == deck ? contact.body_b : contact.body_a;
        // By where it was before the tick, so that the answer stays the same all through it.
        if (on_deck) contact.keep = bounds_of(world.shape(other, 0), world.previous_pose(other)).low.y > 2.48;
        const bool on_floor = contact.body_a == floor;
        if (on_floor && contact.position.x > 5 && contact.position.x < 8) contact.friction = 0.02f;
    });
    world.apply_impulse(jumper, Vec2{0, 7.6f} * world.mass(jumper).mass);
    double highest = 0;
    for (int tick = 0; tick < 240; tick++) {
        world.step();
        highest = std::max(highest, world.pose(jumper).position.y);
    }
    std::printf("the jumper came up to %.2f m and stands at %.2f m, on the deck\n", highest,
                world.pose(jumper).position.y);
    std::printf("the slider stopped at %.1f m; on dry floor it is %.1f m\n", world.pose(slider).position.x,
                4 + 6 * 6 / (2 * 0.5 * 9.81));
}
