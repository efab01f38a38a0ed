#include "shape/outline.h"

#include "math/trig.h"

#include <algorithm>
#include <cmath>

namespace astasis::shape {

// A piece that turns by 2a stays r (1 - cos a), about r a^2 / 2, inside of the circle.
int pieces_of_turn(float radius, float fineness) {
    constexpr int kLeast = 8, kMost = 96;
    const double half = std::sqrt(2 * static_cast<double>(fineness) / radius);
    const double pieces = std::ceil(3.141592653589793 / half / 4) * 4;
    return static_cast<int>(std::clamp(pieces, double{kLeast}, double{kMost}));
}

namespace {

Vec2 at_angle(double angle, float radius) {
    const math::SinCos r = math::sin_cos(angle);
    return {static_cast<float>(r.cos) * radius, static_cast<float>(r.sin) * radius};
}

class Maker {
public:
    Maker(float fineness, Outline<2>& out) : fineness_(fineness), out_(out) {
        out.corners.clear(), out.areas.clear(), out.lines.clear();
    }

    void operator()(const Circle& c) {
        const int n = pieces_of_turn(c.radius, fineness_);
        begin();
        for (int i = 0; i < n; i++) out_.corners.push_back(at_angle(2 * kPi * i / n, c.radius));
        end();
        out_.lines.push_back({{}, {c.radius, 0}, {}, true});
    }
    void operator()(const Box2& b) {
        const float x = 0.5f * b.full_size().x - b.rounding(), y = 0.5f * b.full_size().y - b.rounding();
        const std::array<Vec2, 4> corners{{{x, -y}, {x, y}, {-x, y}, {-x, -y}}};
        rounded(corners, b.rounding());
    }
    void operator()(const Capsule2& c) { rounded(std::array<Vec2, 2>{c.from, c.to}, c.radius); }
    void operator()(const Polygon& p) { rounded(p.corners, p.rounding); }
    void operator()(const Segment& s) { out_.lines.push_back({s.from, s.to}); }
    void operator()(const HalfPlane&) {}

    void operator()(const Polyline& line) {
        const std::vector<Vec2> corners = line.corners();
        for (std::size_t i = 0; i + (line.is_closed() ? 0 : 1) < corners.size(); i++) {
            const Vec2 from = corners[i], to = corners[(i + 1) % corners.size()];
            const Vec2 out = line.is_two_sided() ? Vec2{} : direction(Vec2{to.y - from.y, from.x - to.x}, {});
            out_.lines.push_back({from, to, out});
        }
    }

    // Runs of solid cells row by row; then the walls.
    void operator()(const TileGrid& g) {
        const auto corner = [&](int column, int row) {
            return Vec2{static_cast<float>(column), static_cast<float>(row)} * g.cell;
        };
        for (int row = 0; row < g.rows; row++)
            for (int from = 0; from < g.columns; from++) {
                if (!g.is_solid(from, row)) continue;
                int to = from;
                while (g.is_solid(to, row)) to++;
                begin();
                for (const Vec2 c :
                     {corner(from, row), corner(to, row), corner(to, row + 1), corner(from, row + 1)})
                    out_.corners.push_back(c);
                end();
                out_.areas.back().inside = true;
                from = to;
            }
        for (int row = 0; row <= g.rows; row++)
            for (int column = 0; column <= g.columns; column++) {
                const bool here = g.is_solid(column, row);
                if (here != g.is_solid(column, row - 1))
                    out_.lines.push_back(
                        {corner(column, row), corner(column + 1, row), {0, here ? -1.0f : 1.0f}});
                if (here != g.is_solid(column - 1, row))
                    out_.lines.push_back(
                        {corner(column, row), corner(column, row + 1), {here ? -1.0f : 1.0f, 0}});
            }
    }

private:
    static constexpr double kPi = 3.141592653589793;

    void begin() { out_.areas.push_back({out_.corners.size(), 0}); }
    void end() { out_.areas.back().end = out_.corners.size(); }

    // Corners counter-clockwise; each becomes an arc from the normal of the side before it to that of the
    // side after it.
    void rounded(std::span<const Vec2> corners, float radius) {
        begin();
        const std::size_t n = corners.size();
        const auto angle = [&](std::size_t i) {
            const Vec2 d = corners[(i + 1) % n] - corners[i % n];
            return math::arc_tangent(-d.x, d.y);
        };
        for (std::size_t i = 0; i < n; i++) {
            if (!(radius > 0)) {
                out_.corners.push_back(corners[i]);
                continue;
            }
            const double from = angle(i + n - 1);
            double turn = angle(i) - from;
            while (turn < 0) turn += 2 * kPi;
            const int pieces = std::max(
                1, static_cast<int>(std::ceil(turn / (2 * kPi) * pieces_of_turn(radius, fineness_))));
            for (int k = 0; k <= pieces; k++)
                out_.corners.push_back(corners[i] + at_angle(from + turn * k / pieces, radius));
        }
        end();
    }

    float fineness_;
    Outline<2>& out_;
};

}

void outline(const Geometry<2>& geometry, float fineness, Outline<2>& out) {
    std::visit(Maker(fineness, out), geometry);
}

}
