// A world, a floor, a parcel; its height as it falls, beside the closed form.
#include <astasis/astasis.h>

#include <cstdio>

int main() {
    using namespace astasis;
    World2 world; // 60 ticks a second, 9.81 m/s2 down
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    const BodyId parcel = world.add({.pose = {{0, 20}}, .shapes = {{Box2::sized(0.4f, 0.3f)}}});

    std::printf("time s   height m   20 - g t^2/2\n");
    for (int i = 0; i <= 120; i++) {
        if (i % 30 == 0) {
            const double t = world.time(), height = world.pose(parcel).position.y;
            std::printf("%6.1f %10.4f %14.4f\n", t, height, 20 - 0.5 * 9.81 * t * t);
        }
        world.step();
    }
}
