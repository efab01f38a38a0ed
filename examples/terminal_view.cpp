// The smallest renderer: a pen that draws a world in the plane as characters. Copy it and put your own
// drawing calls in its four functions.
#include <astasis/astasis.h>
#include <astasis/drawing.h>

#include <cmath>
#include <cstdio>
#include <string>

using namespace astasis;

namespace {

class TerminalPen : public Pen<2> {
public:
    TerminalPen(Bounds<2> seen, int columns, int rows)
        : seen_(seen), columns_(columns), rows_(rows),
          cells_(static_cast<std::size_t>(rows), std::string(static_cast<std::size_t>(columns), ' ')) {}

    void line(const Point2& from, const Point2& to, const Mark<2>& mark) override {
        if (mark.meaning == Meaning::Velocity || mark.meaning == Meaning::Force) return;
        const Vec2 way = to - from;
        const int steps = 2 + static_cast<int>(2 * length(way) / metres_a_column());
        for (int i = 0; i <= steps; i++)
            put(from + way * (static_cast<float>(i) / static_cast<float>(steps)),
                mark.meaning == Meaning::Surface ? '=' : '.');
    }
    void area(std::span<const Point2> corners, const Mark<2>& mark) override {
        for (std::size_t i = 0; i < corners.size(); i++) {
            const Point2 a = corners[i];
            const Vec2 way = corners[(i + 1) % corners.size()] - a;
            for (int k = 0; k <= columns_; k++)
                put(a + way * (static_cast<float>(k) / static_cast<float>(columns_)),
                    mark.motion == Motion::Static ? '#' : 'o');
        }
    }
    void point(const Point2& at, const Mark<2>& mark) override {
        put(at, mark.meaning == Meaning::Contact ? '^' : '+');
    }
    void text(const Point2& at, std::string_view text, const Mark<2>&) override {
        for (std::size_t i = 0; i < text.size(); i++)
            put(at + Vec2{static_cast<float>((static_cast<double>(i) + 1.5) * metres_a_column()), 0},
                text[i]);
    }
    void show() const {
        for (const std::string& row : cells_) std::printf("|%s|\n", row.c_str());
    }

private:
    double metres_a_column() const { return (seen_.high.x - seen_.low.x) / columns_; }
    void put(const Point2& p, char c) {
        const auto column = std::floor((p.x - seen_.low.x) / metres_a_column());
        const auto row = std::floor((seen_.high.y - p.y) / (seen_.high.y - seen_.low.y) * rows_);
        if (column < 0 || row < 0 || column >= columns_ || row >= rows_) return;
        cells_[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)] = c;
    }

    Bounds<2> seen_;
    int columns_, rows_;
    std::vector<std::string> cells_;
};

}

int main() {
    World2 world;
    world.add({.motion = Motion::Static, .shapes = {{HalfPlane{}}}});
    world.add({.motion = Motion::Static, .pose = {{3.4, 0.75}}, .shapes = {{Box2::sized(0.2f, 1.5f)}}});
    for (int i = 0; i < 3; i++)
        world.add({.pose = {{1.2, 0.5 + 1.0 * i}}, .shapes = {{Box2::sized(1.2f, 0.9f)}}});
    const BodyId drum = world.add({.pose = {{-1, 0.4}}, .velocity = {3, 0}, .shapes = {{Circle{0.4f}}}});
    for (int tick = 0; tick < 90; tick++) {
        if (tick % 30 == 0) {
            const auto name = [&](BodyId id) {
                return id == drum ? std::string_view("drum") : std::string_view();
            };
            TerminalPen pen({{-2, -0.2}, {4, 3.4}}, 72, 18);
            draw(world, pen, {.velocities = false, .forces = false, .name = name, .fineness = 0.02f});
            std::printf("t = %.2f s\n", world.time());
            pen.show();
        }
        world.step();
    }
}
