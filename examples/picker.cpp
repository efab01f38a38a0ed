// Which body is under a pixel: a ray from the eye of a pinhole camera through it.
#include <astasis/astasis.h>

#include <cmath>
#include <cstdio>

using namespace astasis;

namespace {

// A camera that looks from `eye` to `target`, upright; its image is `width` by `height` pixels.
struct Camera {
    Point3 eye, target;
    double angle; // of view, from top to bottom, radians
    int width, height;

    Ray<3> through(double x, double y, float far) const {
        const Vec3 ahead = direction(target - eye, Vec3{0, 0, -1});
        const Vec3 right = direction(cross(ahead, Vec3{0, 1, 0}), Vec3{1, 0, 0});
        const Vec3 up = cross(right, ahead);
        const double focal = 0.5 * height / std::tan(0.5 * angle); // pixels
        const auto across = static_cast<float>((x - 0.5 * width) / focal);
        const auto upwards = static_cast<float>((0.5 * height - y) / focal);
        return {eye, (ahead + right * across + up * upwards) * far};
    }
};

}

int main() {
    World3 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<3>{}}}, .user_data = 0});
    world.add({.pose = {{-1, 0.5, 0}}, .shapes = {{Box3::sized(1, 1, 1)}}, .user_data = 1});
    world.add({.pose = {{1, 0.4, 0}}, .shapes = {{Sphere{0.4f}}}, .user_data = 2});
    const char* names[] = {"floor", "parcel", "ball"};

    const Camera camera{{0, 2, 6}, {0, 0.5, 0}, 0.6, 640, 400};
    for (const auto& [x, y] : {std::pair{220.0, 200.0}, {420.0, 210.0}, {320.0, 300.0}, {320.0, 5.0}}) {
        const auto hit = first_hit(world, camera.through(x, y, 100));
        if (hit)
            std::printf("pixel %3.0f,%3.0f: %s at %.2f %.2f %.2f m\n", x, y,
                        names[world.user_data(hit->body)], hit->position.x, hit->position.y, hit->position.z);
        else std::printf("pixel %3.0f,%3.0f: nothing\n", x, y);
    }
}
