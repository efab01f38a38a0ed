#include "paint/symbols.h"

#include <algorithm>
#include <cmath>

namespace astasis::paint {
namespace {

constexpr double kPinRadius = 3.6; // pixels

// A place at so many pixels along a line and beside it.
struct Along {
    Place a;
    double x, y, length;
    Along(Place from, Place to) : a(from), x(to.x - from.x), y(to.y - from.y), length(std::hypot(x, y)) {
        if (length > 0) x /= length, y /= length;
    }
    Place at(double along, double beside) const {
        return {a.x + x * along - y * beside, a.y + y * along + x * beside};
    }
};

}

void pin(Canvas& canvas, Place at, bool held) {
    if (held) {
        const double wide = 9, high = 11;
        canvas.polygon({at, {at.x + wide, at.y + high}, {at.x - wide, at.y + high}});
        canvas.fill_and_outline(kPaper, false);
        canvas.line({at.x - wide - 4, at.y + high}, {at.x + wide + 4, at.y + high}, kInk, 1.3);
        for (double x = -wide; x <= wide + 2; x += 5)
            canvas.line({at.x + x, at.y + high}, {at.x + x - 4, at.y + high + 5}, kInk, 0.8);
    }
    canvas.circle(at, kPinRadius);
    canvas.fill_and_outline(kPaper, false);
}

void weld(Canvas& canvas, Place at) {
    const double r = 4.4;
    canvas.polygon({{at.x, at.y - r}, {at.x + r, at.y}, {at.x, at.y + r}, {at.x - r, at.y}});
    canvas.fill_and_outline(kInk, false);
}

void rod(Canvas& canvas, Place a, Place b) {
    const Along along(a, b);
    for (const double beside : {-1.6, 1.6})
        canvas.line(along.at(0, beside), along.at(along.length, beside), kInk, 0.9);
    for (const Place& end : {a, b}) pin(canvas, end, false);
}

void rope(Canvas& canvas, Place a, Place b) {
    canvas.line(a, b, kInk, 1.3);
    for (const Place& end : {a, b}) canvas.dot(end, 2.2, kInk);
}

void coil(Canvas& canvas, Place a, Place b) {
    const Along along(a, b);
    const int turns = std::clamp(static_cast<int>(along.length / 9), 4, 14);
    const double lead = 0.12 * along.length, step = (along.length - 2 * lead) / (2 * turns);
    Place last = a;
    const auto to = [&](Place p) { canvas.line(last, p, kInk, 1.2), last = p; };
    to(along.at(lead, 0));
    for (int k = 0; k < 2 * turns; k++) to(along.at(lead + (k + 0.5) * step, k % 2 == 0 ? 5 : -5));
    to(along.at(along.length - lead, 0)), to(b);
    for (const Place& end : {a, b}) canvas.dot(end, 2.2, kInk);
}

void rail(Canvas& canvas, Place a, Place b) {
    const Along along(a, b);
    for (const double beside : {-5.0, 5.0})
        canvas.line(along.at(0, beside), along.at(along.length, beside), kInk, 1.1);
}

void attractor(Canvas& canvas, Place at) {
    for (const double radius : {4.0, 9.0, 14.0})
        for (int k = 0; k < 24; k += 2) {
            const auto on = [&](int i) {
                const double turn = 3.14159265 * i / 12;
                return Place{at.x + radius * std::cos(turn), at.y + radius * std::sin(turn)};
            };
            canvas.line(on(k), on(k + 1), kField, 1.2);
        }
    canvas.dot(at, 1.8, kField);
}

}
