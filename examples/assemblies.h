// Machines built of bodies and joints, to copy and change: a chain, a cart on sprung wheels, a test dummy.
#pragma once

#include <astasis/astasis.h>

#include <array>
#include <cstddef>
#include <vector>

namespace assemblies {

using namespace astasis;

struct Chain {
    std::vector<BodyId> links;
    std::vector<JointId> pins; // one more than links: the first holds `from`, the last `to`
};
// A chain of `count` links from a place of one body to a place of another, straight between them. Neighbours
// do not touch each other; the chain and all else do. Without damping a taut chain hums on like a string.
inline Chain hang_chain(World2& world, BodyId from, Vec2 on_from, BodyId to, Vec2 on_to, std::size_t count,
                        float thickness, float density, float damping) {
    const Point2 first = to_world(world.pose(from), on_from), last = to_world(world.pose(to), on_to);
    const Vec2 step = (last - first) * (1 / static_cast<float>(count)), half = step * 0.5f;
    Chain chain;
    BodyId before = from;
    for (std::size_t k = 0; k < count; k++) {
        const Point2 start = first + step * static_cast<float>(k);
        const BodyId link = world.add({
            .pose = {start + half},
            .free = {.linear_damping = damping, .angular_damping = damping},
            .shapes = {{.geometry = Capsule2{-half, half, thickness / 2}, .density = density}},
        });
        chain.pins.push_back(world.add_joint(Hinge<2>{.joins = {.a = link, .b = before, .at = start}}));
        chain.links.push_back(link);
        before = link;
    }
    chain.pins.push_back(world.add_joint(Hinge<2>{.joins = {.a = to, .b = before, .at = last}}));
    return chain;
}

struct Cart {
    BodyId frame;
    std::array<BodyId, 4> wheels; // left front, right front, left rear, right rear
    std::array<JointId, 4> axles;
};
// A cart that looks along +x: all four wheels are sprung, the front ones steer, the rear ones drive. `at` is
// the middle of its wheels on the ground.
inline Cart park_cart(World3& world, Point3 at) {
    const float radius = 0.25f, half_track = 0.55f, half_base = 0.6f;
    Cart cart;
    cart.frame = world.add({.pose = {at + Vec3{0, 0.45f, 0}},
                            .shapes = {{.geometry = Box3::sized(1.6f, 0.12f, 0.9f), .density = 200}}});
    for (std::size_t k = 0; k < 4; k++) {
        const bool front = k < 2, left = k % 2 == 0;
        const Point3 hub = at + Vec3{front ? half_base : -half_base, radius, left ? -half_track : half_track};
        cart.wheels[k] = world.add({
            .pose = {hub},
            .shapes = {{.geometry = Cylinder{{0, 0, -0.06f}, {0, 0, 0.06f}, radius},
                        .material = {.friction = 1},
                        .density = 250}},
        });
        cart.axles[k] = world.add_joint(Wheel<3>{
            .joins = {.a = cart.wheels[k], .b = cart.frame, .at = hub},
            .suspension = {.frequency = 3.5f, .damping_ratio = 0.6f},
            .travel = {.lower = -0.1f, .upper = 0.1f},
        });
    }
    return cart;
}
// Speed in m/s, forward; torque in N m at each rear wheel; steering in degrees to the left.
inline void drive_cart(World3& world, const Cart& cart, float speed, float torque, double steering) {
    for (const std::size_t k : {2u, 3u})
        world.set_motor(cart.axles[k], {.most = torque, .speed = -speed / 0.25f}, 1);
    const auto turned = static_cast<float>(degrees(steering).in_radians());
    for (const std::size_t k : {0u, 1u}) world.set_motor(cart.axles[k], {.most = 200, .target = turned}, 2);
}

struct Dummy {
    BodyId chest, hips, head;
    std::array<BodyId, 2> upper_arms, forearms, thighs, shins; // left, right
    std::vector<JointId> joints;
};
// A test dummy of 1.77 m and 69 kg that stands upright and looks along +x, its soles at `at`. Its joints turn
// as far as a human's: elbow 150, knee 135, hip 120 forward, neck 45 degrees (Kapandji 2007, The Physiology
// of the Joints).
inline Dummy stand_dummy(World3& world, Point3 at) {
    Dummy d;
    const Material foam{.friction = 0.6f, .restitution = 0.05f};
    const auto part = [&](float height, float side, const Geometry<3>& geometry, float mass) {
        const std::vector<ShapeSpec<3>> shapes{{.geometry = geometry, .material = foam}};
        return world.add({.pose = {at + Vec3{0, height, side}},
                          .free = {.angular_damping = 0.3f},
                          .shapes = shapes,
                          .mass = mass_of(shapes, mass)});
    };
    const auto limb = [](float half, float radius) { return Capsule3{{0, -half, 0}, {0, half, 0}, radius}; };
    const auto place = [&](float height, float side) { return at + Vec3{0, height, side}; };
    const auto ball = [&](BodyId a, BodyId b, Point3 where, Vec3 cone_axis, double cone, double twist,
                          float friction, Vec3 axis = {0, -1, 0}) {
        d.joints.push_back(world.add_joint(BallJoint{.joins = {.a = a, .b = b, .at = where},
                                                     .axis = axis,
                                                     .cone_axis = cone_axis,
                                                     .cone = degrees(cone),
                                                     .twist = between(degrees(-twist), degrees(twist)),
                                                     .friction = friction}));
    };
    const auto hinge = [&](BodyId a, BodyId b, Point3 where, double from, double to, float friction) {
        d.joints.push_back(world.add_joint(Hinge<3>{.joins = {.a = a, .b = b, .at = where},
                                                    .axis = {0, 0, 1},
                                                    .limits = between(degrees(from), degrees(to)),
                                                    .motor = {.most = friction}}));
    };
    d.chest = part(1.25f, 0, Box3::sized(0.22f, 0.42f, 0.34f), 22);
    d.hips = part(0.91f, 0, Box3::sized(0.2f, 0.18f, 0.3f), 12);
    d.head = part(1.65f, 0, Sphere{0.12f}, 5);
    ball(d.hips, d.chest, place(1.02f, 0), {}, 25, 30, 4);
    ball(d.head, d.chest, place(1.5f, 0), {}, 45, 60, 1, {0, 1, 0});
    for (std::size_t k = 0; k < 2; k++) {
        const float out = k == 0 ? -1.0f : 1.0f, shoulder = 0.24f * out, hip = 0.1f * out;
        d.upper_arms[k] = part(1.27f, shoulder, limb(0.11f, 0.05f), 2.2f);
        d.forearms[k] = part(0.97f, shoulder, limb(0.12f, 0.04f), 1.6f);
        d.thighs[k] = part(0.63f, hip, limb(0.15f, 0.07f), 8);
        d.shins[k] = part(0.22f, hip, limb(0.165f, 0.055f), 4);
        ball(d.upper_arms[k], d.chest, place(1.41f, shoulder), {0.4f, -0.6f, 0.7f * out}, 95, 60, 1);
        hinge(d.forearms[k], d.upper_arms[k], place(1.12f, shoulder), 0, 150, 0.5f);
        ball(d.thighs[k], d.hips, place(0.82f, hip), {0.82f, -0.57f, 0.1f * out}, 70, 35, 3);
        hinge(d.shins[k], d.thighs[k], place(0.42f, hip), -135, 0, 1);
    }
    return d;
}

}
