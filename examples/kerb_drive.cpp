// A cart on four sprung wheels drives over a kerb and steers to the left: its speed, how hard each wheel
// presses on its spring, and the way that it took.
#include "assemblies.h"

#include <cmath>
#include <cstdio>

int main() {
    using namespace astasis;
    World3 yard;
    yard.add({.motion = Motion::Static,
              .shapes = {{.geometry = HalfSpace<3>{{0, 1, 0}}, .material = {.friction = 0.9f}}}});
    yard.add({.motion = Motion::Static,
              .pose = {{3, 0.04, 0}},
              .shapes = {{.geometry = Box3::sized(0.8f, 0.08f, 6), .material = {.friction = 0.9f}}}});
    const auto cart = assemblies::park_cart(yard, {0, 0, 0});
    assemblies::drive_cart(yard, cart, 1.5f, 30, 0);

    float jolt = 0, travel = 0;
    for (int tick = 0; tick < 60 * 9; tick++) {
        if (tick == 60 * 4) assemblies::drive_cart(yard, cart, 1.5f, 30, 12);
        yard.step();
        const auto axle = yard.joint_state(cart.axles[0]);
        travel = std::max(travel, std::fabs(axle.axes[0].position));
        jolt = std::max(jolt, std::fabs(axle.axes[0].motor + axle.axes[0].stop));
        if (tick % 60 == 59) {
            const Pose<3> pose = yard.pose(cart.frame);
            const Vec3 ahead = rotate(pose.rotation, {1, 0, 0});
            std::printf("%2.0f s: at %5.2f m, %5.2f m; heading %5.1f deg; %4.2f m/s\n", yard.time(),
                        pose.position.x, pose.position.z,
                        std::atan2(-static_cast<double>(ahead.z), static_cast<double>(ahead.x)) *
                            57.29577951308232,
                        static_cast<double>(length(yard.velocity(cart.frame))));
        }
    }
    std::printf("left front: at most %.0f mm of travel and %.0f N on the kerb\n",
                static_cast<double>(travel * 1000), static_cast<double>(jolt));
}
