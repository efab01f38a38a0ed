#include <astasis/astasis.h>

int main() {
    astasis::World3 world;
    const auto ball = world.add({.pose = {{0, 10, 0}}, .shapes = {{astasis::Sphere{0.1f}}}});
    for (int i = 0; i < 60; i++) world.step();
    const double height = world.pose(ball).position.y;
    return height > 5.09 && height < 5.10 ? 0 : 1;
}
