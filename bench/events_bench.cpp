// This program times what events, sensors and hooks add to a tick: a pile of 1000 boxes, all awake, with one
// kind after the other. Every kind is timed against a twin without it, ticks in turn, so that both see the
// same hour; the median of the ratios counts. Each is checked: it has told, or asked, something.
#include <astasis/astasis.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <functional>
#include <vector>

namespace {

using namespace astasis;

constexpr int kBoxes = 1000, kSettle = 120, kTicks = 200;

template<int D> Geometry<D> cube(float side) {
    if constexpr (D == 2) return Box2::sized(side, side);
    else return Box3::sized(side, side, side);
}
template<int D> World<D> pile() {
    World<D> world;
    world.set_sleeping(false);
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    for (int i = 0; i < kBoxes; i++) {
        Point<D> at{0.55 * (i % 25), 0.3 + 0.55 * (i / 25)};
        if constexpr (D == 3) at = {0.55 * (i % 10), 0.3 + 0.55 * (i / 100), 0.55 * (i / 10 % 10)};
        world.add({.pose = {at}, .shapes = {{cube<D>(0.5f)}}});
    }
    return world;
}
double milliseconds(const std::function<void()>& call) {
    const auto start = std::chrono::steady_clock::now();
    call();
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}
double median(std::vector<double> values) {
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

template<int D>
void tell(const char* name, const std::function<void(World<D>&)>& switch_on,
          const std::function<std::size_t(const World<D>&)>& told) {
    World<D> plain = pile<D>(), with = pile<D>();
    switch_on(with);
    std::size_t any = 0;
    for (int k = 0; k < kSettle; k++) plain.step(), with.step(), any += told(with);
    std::vector<double> ratios, ms;
    for (int k = 0; k < kTicks; k++) {
        const double a = milliseconds([&] { plain.step(); }), b = milliseconds([&] { with.step(); });
        ratios.push_back(b / a), ms.push_back(a);
        any += told(with);
    }
    std::printf("| %s | %s | %.2f | %.3f | %s |\n", name, D == 2 ? "plane" : "space", median(ms),
                median(ratios), any > 0 ? "yes" : "NO");
}

template<int D> void tell_all() {
    using W = World<D>;
    const auto collect = [](EventKinds kinds) { return [kinds](W& w) { w.collect_events(kinds); }; };
    tell<D>(
        "nothing", [](W&) {}, [](const W&) { return 1; });
    tell<D>("touches", collect({.touches = true}),
            [](const W& w) { return w.events().touches_begun.size(); });
    tell<D>("strikes", collect({.strikes = true}), [](const W& w) { return w.events().strikes.size(); });
    tell<D>("poses", collect({.poses = true}), [](const W& w) { return w.events().moved.size(); });
    tell<D>("all of these", collect({.touches = true, .strikes = true, .sleep = true, .poses = true}),
            [](const W& w) { return w.events().moved.size(); });
    tell<D>(
        "20 sensors among them",
        [](W& w) {
            for (int k = 0; k < 20; k++)
                w.add({.motion = Motion::Static,
                       .pose = {Point<D>{0.7 * k, 0.5}},
                       .shapes = {{.geometry = cube<D>(0.6f), .is_sensor = true}}});
        },
        [](const W& w) { return w.events().entered.size(); });
    std::size_t asked = 0;
    tell<D>(
        "a pair filter",
        [&](W& w) { w.set_pair_filter([&](BodyId, BodyId) { return asked++ < ~std::size_t{0}; }); },
        [&](const W&) { return asked; });
    tell<D>(
        "a contact hook", [&](W& w) { w.set_contact_hook([&](ContactAsked<D>&) { asked++; }); },
        [&](const W&) { return asked; });
    tell<D>(
        "a substep hook", [&](W& w) { w.set_substep_hook([&](Substep<D>&) { asked++; }); },
        [&](const W&) { return asked; });
    tell<D>(
        "own motion of 50 bodies",
        [&](W& w) {
            for (std::size_t k = 1; k <= 50; k++)
                w.set_own_motion(w.bodies()[20 * k], [&](const SeenBody<D>& b) {
                    asked++;
                    return Velocities<D>{b.velocity, b.angular_velocity};
                });
        },
        [&](const W&) { return asked; });
}

}

int main() {
    std::puts("| what | | ms a tick without | times with it | told |");
    std::puts("|---|---|---|---|---|");
    tell_all<2>();
    tell_all<3>();
}
