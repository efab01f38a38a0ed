// This program times what joints and fields cost beside resting contacts and free bodies: the median tick of
// a second, the least of three, after a second in which nothing is timed. Each scene is checked first: chains
// have not stretched, boxes rest on the floor, what a field moves has moved.
#include <astasis/astasis.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <vector>

namespace {

using namespace astasis;

constexpr int kTicks = 60;

template<int D> World<D> awake(bool weightless = false) {
    World<D> world;
    if (weightless) world.set_gravity({});
    world.set_sleeping(false);
    return world;
}
template<int D> Geometry<D> box(float x, float y) {
    if constexpr (D == 2) return Box2::sized(x, y);
    else return Box3::sized(x, y, x);
}
template<int D>
BodyId add_box(World<D>& world, const Point<D>& at, float x, float y, float mass, Vec<D> v = {}) {
    const std::vector<ShapeSpec<D>> shapes{{.geometry = box<D>(x, y)}};
    return world.add({.pose = {at}, .velocity = v, .shapes = shapes, .mass = mass_of(shapes, mass)});
}
template<int D> void pin(World<D>& world, BodyId a, std::optional<BodyId> b, const Point<D>& at) {
    const Joined<D> joins{.a = a, .b = b, .at = at};
    if constexpr (D == 2) world.add_joint(Hinge<2>{.joins = joins});
    else world.add_joint(BallJoint{.joins = joins});
}
// A chain of links of 10 cm and 0.1 kg hangs from a place, with a load at its end if it is above 0, and
// swings.
template<int D> void add_chain(World<D>& world, double x, int links, float load) {
    std::optional<BodyId> last;
    for (int k = 0; k < links; k++) {
        const double y = -0.1 * k;
        const float v = 0.5f * static_cast<float>(k) / static_cast<float>(links);
        const BodyId link = add_box<D>(world, {x, y - 0.05}, 0.04f, 0.1f, 0.1f, {v, 0});
        pin<D>(world, link, last, {x, y});
        last = link;
    }
    if (load <= 0) return;
    const BodyId tote = add_box<D>(world, {x, -0.1 * links - 0.2}, 0.5f, 0.4f, load, {0.5f, 0});
    pin<D>(world, tote, last, {x, -0.1 * links});
}
// Boxes that rest on a floor, in columns: a contact each.
template<int D> void add_boxes(World<D>& world, int columns, int high = 1) {
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    for (int k = 0; k < columns * high; k++)
        add_box<D>(world, {0.5 * (k / high), 0.05 + 0.1 * (k % high)}, 0.2f, 0.1f, 0.1f);
}
template<int D> void add_free(World<D>& world, int count) {
    for (int k = 0; k < count; k++)
        add_box<D>(world, {5 + 0.5 * (k % 100), 0.5 * (k / 100)}, 0.1f, 0.1f, 0.1f);
}

template<int D> bool chains_hold(const World<D>& world) {
    for (const JointId id : world.joints())
        if (world.joint_state(id).stretch > 1e-4f) return false;
    return true;
}

template<int D> double median_ms(World<D>& world, const Snapshot<D>& from) {
    double least = 1e9;
    for (int run = 0; run < 3; run++) {
        world.restore(from);
        for (int tick = 0; tick < kTicks; tick++) world.step();
        std::vector<double> ms;
        for (int tick = 0; tick < kTicks; tick++) {
            const auto start = std::chrono::steady_clock::now();
            world.step();
            ms.push_back(
                std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
        }
        std::nth_element(ms.begin(), ms.begin() + kTicks / 2, ms.end());
        least = std::min(least, ms[kTicks / 2]);
    }
    return least;
}

// A row; returns milliseconds a tick.
template<int D>
double tell(const char* name, World<D> world, int things, bool (*is_right)(const World<D>&), double beside) {
    const Snapshot<D> start = world.save();
    for (int tick = 0; tick < kTicks; tick++) world.step();
    const WorkOfTick work = world.work_of_tick();
    const double ms = median_ms(world, start);
    std::printf("| %s | %s | %.3f | %.2f | %.2g | %llu | %llu | %s |\n", name, D == 2 ? "plane" : "space", ms,
                1e3 * ms / things, beside > 0 ? ms / beside : 1.0,
                static_cast<unsigned long long>(work.plain),
                static_cast<unsigned long long>(work.exactness.spent), is_right(world) ? "yes" : "NO");
    return ms;
}

template<int D> void tell_all() {
    const auto boxes_rest = [](const World<D>& world) {
        return world.contacts().size() >= world.bodies().size() - 1 && world.penetration().deepest < 1e-4f;
    };
    const auto has_moved = [](const World<D>& world) {
        return static_cast<double>(length(world.velocity(world.bodies()[0]))) > 0;
    };
    World<D> boxes = awake<D>(), chains = awake<D>(), few = awake<D>(), column = awake<D>(),
             crane = awake<D>();
    add_boxes<D>(boxes, 2000);
    for (int k = 0; k < 100; k++) add_chain<D>(chains, 3.0 * k, 20, 0);
    const double rest = tell<D>("2000 boxes at rest", std::move(boxes), 2000, boxes_rest, 0);
    tell<D>("100 chains of 20 links", std::move(chains), 2000, chains_hold<D>, rest);
    add_boxes<D>(few, 51), add_boxes<D>(column, 1, 51);
    add_chain<D>(crane, 0, 50, 10);
    tell<D>("51 boxes at rest", std::move(few), 51, boxes_rest, 0);
    const double stands = tell<D>("column of 51 boxes", std::move(column), 51, boxes_rest, 0);
    tell<D>("crane: 50 links, load 1:100", std::move(crane), 51, chains_hold<D>, stands);
    World<D> free = awake<D>(true), pulled = awake<D>(true);
    add_free<D>(free, 10000), add_free<D>(pulled, 10000);
    pulled.add_field({.kind = Attraction<D>{.strength = 5}});
    const double freely = tell<D>(
        "10000 free bodies", std::move(free), 10000, [](const World<D>&) { return true; }, 0);
    tell<D>("10000 bodies attracted", std::move(pulled), 10000, has_moved, freely);
}

}

int main() {
    std::puts("| scene | | ms a tick | us a thing | times the row above | work, plain | bought | right |");
    std::puts("|---|---|---|---|---|---|---|---|");
    tell_all<2>();
    tell_all<3>();
}
