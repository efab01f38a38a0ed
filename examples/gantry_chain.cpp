// A tote of a tonne hangs on a chain of fifty light links from a trolley that drives and brakes: how far the
// chain stretches, and what its uppermost pin carries.
#include "assemblies.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

int main() {
    using namespace astasis;
    World2 yard;
    const BodyId trolley = yard.add({
        .motion = Motion::Kinematic,
        .pose = {{0, 11}},
        .shapes = {{.geometry = Box2::sized(1, 0.4f)}},
    });
    const std::vector<ShapeSpec<2>> box{{.geometry = Box2::sized(1.2f, 0.8f)}};
    const BodyId tote = yard.add({
        .pose = {{0, 0.4}},
        .free = {.linear_damping = 0.3f},
        .shapes = box,
        .mass = mass_of(box, 1000),
    });
    const auto chain = assemblies::hang_chain(yard, trolley, {0, -0.2f}, tote, {0, 0.4f}, 50, 0.04f, 1080, 1);

    double stretch = 0, most = 0;
    for (int tick = 0; tick < 60 * 60 && !yard.is_asleep(tote); tick++) {
        const double t = yard.time();
        yard.set_velocity(trolley, {t < 4 ? 1.5f : 0, 0});
        yard.step();
        double length = 0;
        for (std::size_t k = 0; k + 1 < chain.pins.size(); k++)
            length += static_cast<double>(astasis::length(yard.joint_state(chain.pins[k + 1]).anchor_a -
                                                          yard.joint_state(chain.pins[k]).anchor_a));
        stretch = std::max(stretch, std::fabs(length / 10 - 1));
        most = std::max(most, static_cast<double>(astasis::length(yard.joint_state(chain.pins[0]).force)));
    }
    std::printf("10 m of chain, 50 links of %.1f kg, %.0f kg at the end\n",
                static_cast<double>(yard.mass(chain.links[0]).mass),
                static_cast<double>(yard.mass(tote).mass));
    std::printf("stretched by at most %.4f %%\n", stretch * 100);
    std::printf("the uppermost pin carried up to %.0f N\n", most);
    std::printf("%s after %.0f s, with %.0f N on it\n", yard.is_asleep(tote) ? "asleep" : "still awake",
                yard.time(), static_cast<double>(length(yard.joint_state(chain.pins[0]).force)));
}
