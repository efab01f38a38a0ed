// The snippets of docs/guide.md, in its order; each prints what the guide shows.
#include <astasis/astasis.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

using namespace astasis;

namespace {

void world_with_bodies() {
    std::puts("== a world");
    // step 1
    World2 world; // 60 ticks a second, gravity 9.81 m/s2 down
    const BodyId floor = world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    const BodyId parcel = world.add({
        .pose = {{0, 2}, turned(degrees(10))},
        .shapes = {{.geometry = Box2::sized(0.4f, 0.3f), .material = {.friction = 0.4f}, .density = 140}},
        .user_data = 7, // yours: an index into your own objects
    });
    std::printf("parcel %.1f kg, floor %.1f kg\n", static_cast<double>(world.mass(parcel).mass),
                static_cast<double>(world.mass(floor).mass));
    // end
}

// step 2
class Letters : public Pen<2> { // a whole renderer: one letter a mark
public:
    void line(const Point<2>&, const Point<2>&, const Mark<2>&) override {}
    void area(std::span<const Point<2>> corners, const Mark<2>& mark) override {
        if (mark.motion == Motion::Static) return;
        std::printf("outline of body %llu:", static_cast<unsigned long long>(mark.body.index));
        for (const Point<2>& c : corners) std::printf(" (%.2f, %.2f)", c.x, c.y);
        std::puts("");
    }
    void point(const Point<2>& at, const Mark<2>& mark) override {
        const char* what = mark.meaning == Meaning::Contact ? "contact" : "centre of mass";
        std::printf("%s at (%.2f, %.2f)\n", what, at.x, at.y);
    }
    void text(const Point<2>&, std::string_view, const Mark<2>&) override {}
};
// end

void see_it() {
    std::puts("== seen");
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    world.add({.pose = {{0, 0.15}}, .shapes = {{Box2::sized(0.4f, 0.3f)}}});
    for (int i = 0; i < 10; i++) world.step();
    // step 2, used
    Letters letters;
    draw<2>(world, letters);
    // end
}

void step_it() {
    std::puts("== stepped");
    World2 world;
    const BodyId parcel = world.add({.pose = {{0, 20}}, .shapes = {{Box2::sized(0.4f, 0.3f)}}});
    // step 3
    Pacer<2> pacer(world);
    const double frames[] = {0.021, 0.009, 0.033, 0.016, 0.030}; // s, as they come
    for (const double seconds : frames) {
        const FrameReport did = pacer.advance(seconds);
        std::printf("frame of %2.0f ms: %d ticks, drawn at %.4f m\n", 1e3 * seconds, did.ticks,
                    pacer.blended_pose(parcel).position.y);
    }
    // end
}

void carry_poses() {
    std::puts("== carried");
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    for (std::uint64_t i = 0; i < 3; i++)
        world.add({.pose = {{1.0 * static_cast<double>(i), i == 1 ? 2.0 : 0.15}},
                   .shapes = {{Box2::sized(0.4f, 0.3f)}},
                   .user_data = i});
    for (int i = 0; i < 60; i++) world.step();
    // step 4
    struct Sprite {
        double x = 0, y = 0, degrees = 0;
    };
    std::map<std::uint64_t, Sprite> sprites; // your own objects, by what you put into user_data
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) == Motion::Static || world.is_asleep(id)) continue; // stands where it stood
        const Pose<2> at = world.pose(id);
        sprites[world.user_data(id)] = {at.position.x, at.position.y, angle_of(at.rotation).in_degrees()};
    }
    for (const auto& [which, s] : sprites)
        std::printf("sprite %llu to (%.3f, %.3f)\n", static_cast<unsigned long long>(which), s.x, s.y);
    // end
}

void push_it() {
    std::puts("== pushed");
    World2 world;
    const Material wood{.friction = 0.5f};
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}, wood}}});
    const BodyId parcel = world.add({.pose = {{0, 0.15}}, .shapes = {{Box2::sized(0.4f, 0.3f), wood, 140}}});
    const BodyId lift = world.add(
        {.motion = Motion::Kinematic, .pose = {{3, 0.05}}, .shapes = {{Box2::sized(1, 0.1f), wood}}});
    // step 5
    const float weight = world.mass(parcel).mass * 9.81f;
    for (int tick = 0; tick < 60; tick++) {
        world.apply_force(parcel, {0.7f * weight, 0}); // lasts this tick: say it again in the next
        world.step();
    }
    std::printf("pulled for 1 s: %.3f m/s (0.2 g = %.3f)\n", static_cast<double>(world.velocity(parcel).x),
                0.2 * 9.81);
    world.apply_impulse(parcel, {0, world.mass(parcel).mass * 2}); // at once: up by 2 m/s
    world.move_to(lift, {{3, 0.10}}); // by the end of the next tick; carries what stands on it
    world.step();
    // end
}

void join_it() {
    std::puts("== joined");
    World2 world;
    const BodyId arm = world.add({.pose = {{0.6, 2}}, .shapes = {{Box2::sized(1.2f, 0.1f), {}, 133}}});
    // step 6
    const JointId pin = world.add_joint(Hinge<2>{
        .joins = {.a = arm, .at = {{0, 2}}}, // to the world; `.b` would be another body
        .limits = between(degrees(-30), degrees(90)),
        .motor = {.most = 300, .speed = 2, .target = static_cast<float>(degrees(60).in_radians())},
    });
    for (int tick = 0; tick < 120; tick++) world.step();
    const JointAxisState axis = world.joint_state(pin).axes[0];
    std::printf("arm at %.1f degrees, held by %.1f of 300 N m\n",
                static_cast<double>(axis.position) * 57.29578, static_cast<double>(axis.motor));
    // end
    World2 table({.gravity = {}});
    const BodyId puck = table.add({.pose = {{1, 0}}, .shapes = {{Circle{0.1f}}}});
    const float k = 39.478418f * table.mass(puck).mass; // a swing a second
    // step 6, a field
    const auto pull = [k](const SeenBody<2>& body) { // N, towards the middle
        return FieldForce<2>{(body.centre - Point2{0, 0}) * -k};
    };
    table.add_field({.kind = OwnField<2>{pull}});
    float farthest = 0;
    for (int tick = 0; tick < 60 * 20; tick++) {
        table.step();
        if (tick >= 60 * 19)
            farthest = std::max(farthest, std::fabs(static_cast<float>(table.pose(puck).position.x)));
    }
    std::printf("after 20 swings it still comes %.4f m far\n", static_cast<double>(farthest));
    // end
}

void watch_it() {
    std::puts("== watched");
    World2 world;
    const Material lively{.restitution = 0.5f};
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}, lively}}});
    const BodyId ball = world.add({.pose = {{0, 1}}, .shapes = {{Circle{0.1f}, lively}}});
    // step 7
    std::puts("   time s   height m   kinetic J   total J   overlap mm");
    for (int tick = 0; tick <= 60; tick++) {
        if (tick % 15 == 0) {
            const Energy e = world.energy();
            std::printf("%9.2f %10.4f %11.3f %9.3f %12.4f\n", world.time(), world.pose(ball).position.y,
                        e.kinetic, e.total(), 1e3 * static_cast<double>(world.penetration().deepest));
        }
        world.step();
    }
    const Snapshot<2> here = world.save(); // and from here again, to the bit
    const auto run_on = [&] {
        for (int i = 0; i < 60; i++) world.step();
        return world.fingerprint();
    };
    const auto once = run_on();
    world.restore(here);
    std::printf("the same again: %s\n", once == run_on() ? "yes" : "no");
    // end
}

void react() {
    std::puts("== events");
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    // step 8
    world.collect_events({.touches = true, .strikes = true, .sleep = true, .least_speed = 1});
    const BodyId crate = world.add({.pose = {{0, 2}}, .shapes = {{Box2::sized(0.5f, 0.5f)}}});
    const BodyId barrier = world.add({.motion = Motion::Static,
                                      .pose = {{0, 1}},
                                      .shapes = {{.geometry = Box2::sized(2, 0.02f), .is_sensor = true}}});
    for (int tick = 0; tick < 120; tick++) {
        const double start = world.time();
        world.step();
        const Events<2> events = world.events(); // good until the next step
        for (const Crossing& c : events.entered)
            std::printf("%.3f s: the crate is in the barrier: %s\n", start + c.time,
                        c.body == crate && c.sensor_body == barrier ? "yes" : "no");
        for (const Strike<2>& s : events.strikes)
            std::printf("%.3f s: it hits at %.2f m/s\n", start + s.time, static_cast<double>(s.speed));
        for (const BodyId id : events.fell_asleep)
            std::printf("%.3f s: body %u sleeps\n", world.time(), id.index);
    }
    // end
}

void find_faults() {
    std::puts("== faults");
    World2 world({.gravity = {}});
    world.add({.motion = Motion::Static, .pose = {{2, 0}}, .shapes = {{Box2::sized(0.01f, 2)}}});
    // step 9
    const BodyId swept = world.add({.velocity = {400, 0}, .shapes = {{Circle{0.02f}}}});
    const BodyId not_swept = world.add(
        {.pose = {{0, 0.2}}, .velocity = {400, 0}, .shapes = {{Circle{0.02f}}}, .sweep = Sweep::None});
    world.collect_events({.strikes = true});
    world.step();
    std::printf("swept: %.2f m, not swept: %.2f m\n", world.pose(swept).position.x,
                world.pose(not_swept).position.x);
    for (const Strike<2>& s : world.events().strikes)
        std::printf("impact after %.2f ms of the tick, at x = %.3f m\n", 1e3 * s.time, s.position.x);
    for (const BodyId id : world.unswept())
        std::printf("body %u came farther than its width without being looked at\n", id.index);
    // end
}

void tune_it() {
    std::puts("== tuned");
    // step 10
    for (const double rate : {30.0, 60.0, 120.0}) {
        World2 world({.tick = 1 / rate});
        world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
        for (int i = 0; i < 10; i++)
            world.add({.pose = {{0, 0.15 + 0.3 * i}}, .shapes = {{Box2::sized(0.4f, 0.3f)}}});
        int ticks = 0;
        float deepest = 0;
        while (world.sleepers().bodies < 10 && ticks < 10 * rate) {
            world.step(), ticks++;
            deepest = std::max(deepest, world.penetration().deepest);
        }
        std::printf("%3.0f ticks a second: asleep after %.1f s, overlap at most %.2f mm\n", rate,
                    ticks / rate, 1e3 * static_cast<double>(deepest));
    }
    // end
}

}

int main() {
    world_with_bodies();
    see_it();
    step_it();
    carry_poses();
    push_it();
    join_it();
    watch_it();
    react();
    find_faults();
    tune_it();
}
