// IV: what must not depend on the frame, the order of adding, or the run.
#include "fidelity/crowds.h"
#include "fidelity/outcome.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

// A tower on a plate is hit by a ball while all fly along x.
template<int Dim> World<Dim> moving_tower(float speed) {
    World<Dim> world = falling<Dim>();
    const Material m{.friction = 0.4f, .restitution = 0.3f};
    world.add({.motion = Motion::Kinematic,
               .pose = {{0, -0.5}, {}},
               .velocity = {speed, 0},
               .shapes = {{sized<Dim>(20, 1, 20), m}}});
    for (int i = 0; i < 5; i++)
        world.set_velocity(add<Dim>(world, {0, 0.5 + i}, sized<Dim>(1, 1, 1), 1, m), {speed, 0});
    world.set_velocity(add<Dim>(world, {-1.5, 3.5}, Ball<Dim>{0.3f}, 5, m), {speed + 6, 0});
    return world;
}

template<int Dim> void galilei(Outcome& out) {
    World<Dim> still = moving_tower<Dim>(0), moving = moving_tower<Dim>(50);
    const auto apart = [&] {
        double most = 0;
        const auto a = places(still), b = places(moving);
        for (std::size_t i = 0; i < a.size(); i++) {
            Point<Dim> back = b[i];
            back.x -= 50 * moving.time();
            most = std::max(most, static_cast<double>(length(back - a[i])));
        }
        return most;
    };
    run(still, 0.5), run(moving, 0.5);
    out.at_most("apart at 0.5 s", "m", apart(), 0.001, 1e-9);
    run(still, 1.5), run(moving, 1.5);
    out.at_most("apart at 2 s", "m", apart(), 0.2, 1e-6);
}

// The observed order of convergence from errors at steps that halve, until one is no more than rounding.
double order(const std::vector<double>& errors, double rounding) {
    double least = 10;
    for (std::size_t i = 1; i < errors.size() && errors[i] > rounding; i++)
        least = std::min(least, std::log2(errors[i - 1] / errors[i]));
    return least;
}

// Where a box that tumbles about its middle axis points after 1.5 s, before its first flip.
double tumbled(World<3>& world) {
    const std::vector<ShapeSpec<3>> shapes{{Box3::sized(0.1f, 0.2f, 0.3f)}};
    const BodyId box =
        world.add({.angular_velocity = {1, 5, 1}, .shapes = shapes, .mass = mass_of(shapes, 12)});
    run(world, 1.5);
    return rotate(world.pose(box).rotation, Vec3{1, 0, 0}).y;
}

void convergence(Outcome& out) {
    std::vector<double> flip, far;
    for (const int rate : {60, 120, 240, 480}) {
        // One substep a tick: with more, nothing but rounding is left of the error.
        World<3> world({.gravity = {}, .tick = 1.0 / rate, .substeps = 1});
        flip.push_back(tumbled(world));
        // An eccentric orbit about a fixed centre, GM = 1000: the farthest distance is 16 m.
        World<2> space({.gravity = {}, .tick = 1.0 / rate});
        const BodyId body = add<2>(space, {4, 0}, Circle{0.1f}, 1, {});
        space.set_velocity(body, {0, 20});
        double most = 0;
        while (space.time() < 6.3) {
            const auto p = space.pose(body).position;
            const double r = std::hypot(p.x, p.y);
            most = std::max(most, r);
            space.apply_force(body, {static_cast<float>(-1000 * p.x / (r * r * r)),
                                     static_cast<float>(-1000 * p.y / (r * r * r))});
            space.step();
        }
        far.push_back(std::fabs(most - 16));
    }
    World<3> fine({.gravity = {}, .tick = 1.0 / 960});
    const double exact = tumbled(fine);
    for (double& f : flip) f = std::fabs(f - exact);
    out.at_least("order, tumbling box, one substep a tick", "", order(flip, 5e-6), 0.9, 1.9);
    out.at_least("order, eccentric orbit by forces a tick", "", order(far, 0), 0.9, 1.9);
}

// 1000 boxes and balls that fall on each other.
template<int Dim> void fill_pile(World<Dim>& world) {
    add_ground(world, {});
    Draws draws(5);
    const int wide = Dim == 2 ? 50 : 10, deep = Dim == 2 ? 1 : 10;
    for (int n = 0; n < 1000; n++) {
        Point<Dim> at{0.5 * (n % wide) + draws.in(-0.05, 0.05), 0.5 + 0.5 * (n / (wide * deep))};
        if constexpr (Dim == 3) at.z = 0.5 * (n / wide % deep);
        if (n % 3 == 0) add<Dim>(world, at, Ball<Dim>{0.15f}, 1, {});
        else add<Dim>(world, at, sized<Dim>(0.3, 0.3, 0.3), 1, {});
    }
}

template<int Dim> void determinism(Outcome& out) {
    World<Dim> first = falling<Dim>(), second = falling<Dim>();
    fill_pile(first), fill_pile(second);
    bool same = true, restored = true;
    run(first, 5), run(second, 5);
    const auto saved = first.save();
    std::vector<std::uint64_t> prints;
    for (int i = 0; i < 300; i++) {
        first.step(), second.step();
        prints.push_back(first.fingerprint());
        same = same && prints.back() == second.fingerprint();
    }
    first.restore(saved);
    for (int i = 0; i < 300; i++) {
        first.step();
        restored = restored && first.fingerprint() == prints[static_cast<std::size_t>(i)];
    }
    out.holds("run to run", same);
    out.holds_best("from a restored state", restored);
}

template<int Dim> double pyramid_moved(Order order) {
    World<Dim> world = falling<Dim>();
    add_ground(world, {});
    build_pyramid(world, order);
    const auto start = places(world);
    run(world, 10);
    double moved = 0;
    const auto now = places(world);
    for (std::size_t i = 0; i < now.size(); i++)
        moved = std::max(moved, static_cast<double>(length(now[i] - start[i])));
    return moved;
}

template<int Dim> void insertion(Outcome& out) {
    const double forward = pyramid_moved<Dim>(Order::Forward);
    double extra = 0, apart = 0, sum = 0;
    Vec<Dim> reference{};
    for (const Order o : {Order::Forward, Order::Backward, Order::Shuffled}) {
        if (o != Order::Forward) extra = std::max(extra, std::fabs(pyramid_moved<Dim>(o) - forward));
        World<Dim> world = weightless<Dim>();
        fill_burst(world, o);
        sum = 0;
        for (const BodyId b : world.bodies()) sum += length(world.velocity(b));
        run(world, 10);
        if (o == Order::Forward) reference = world.momentum().linear;
        apart = std::max(apart, static_cast<double>(length(world.momentum().linear - reference)));
    }
    out.at_most("pyramid: further moved in 10 s", "m", extra, 0.005, 1e-6);
    out.at_most("burst: difference of momentum", "", apart / sum, 1e-5, 1e-12);
}

}

std::span<const Case> invariance_cases() {
    static constexpr std::array kCases{
        Case{"IV01", "The same in a moving frame", 2, false, galilei<2>},
        Case{"IV01", "The same in a moving frame", 3, false, galilei<3>},
        Case{"IV04", "Order of convergence", 3, false, convergence},
        Case{"IV05", "The same bits", 2, true, determinism<2>},
        Case{"IV05", "The same bits", 3, true, determinism<3>},
        Case{"IV07", "Order of adding", 2, false, insertion<2>},
        Case{"IV07", "Order of adding", 3, true, insertion<3>},
    };
    return kCases;
}

}
