// A jointed dummy falls over on the depot's floor: no joint is torn and none bends farther than a human's.
#include "assemblies.h"

#include <algorithm>
#include <cstdio>

int main() {
    using namespace astasis;
    World3 depot;
    depot.add({.motion = Motion::Static,
               .shapes = {{.geometry = HalfSpace<3>{{0, 1, 0}}, .material = {.friction = 0.6f}}}});
    const auto dummy = assemblies::stand_dummy(depot, {0, 0.05, 0});
    depot.set_velocity(dummy.chest, {2, 0, 0.5f});

    float stretch = 0, beyond = 0;
    double slept = 0;
    for (int tick = 0; tick < 60 * 20 && slept == 0; tick++) {
        depot.step();
        for (const JointId id : dummy.joints) {
            const auto state = depot.joint_state(id);
            stretch = std::max(stretch, state.stretch);
            if (const auto* hinge = std::get_if<Hinge<3>>(&depot.joint(id)))
                beyond = std::max({beyond, state.axes[0].position - hinge->limits.upper,
                                   hinge->limits.lower - state.axes[0].position});
        }
        if (depot.is_asleep(dummy.chest)) slept = depot.time();
    }
    std::printf("head at %.2f m, hips at %.2f m\n", depot.pose(dummy.head).position.y,
                depot.pose(dummy.hips).position.y);
    std::printf("joints were torn apart by at most %.2f mm, elbows and knees bent %.1f deg too far\n",
                static_cast<double>(stretch * 1000),
                std::max(0.0, static_cast<double>(beyond) * 57.29577951308232));
    if (slept > 0) std::printf("asleep after %.1f s\n", slept);
    else std::printf("still awake\n");
}
