// Cutting an outline into convex pieces: triangles by cutting off ears (Meisters 1975, Polygons Have Ears),
// then pieces joined again across every cut that is not needed (Hertel and Mehlhorn 1983: at most four times
// the least number).
#include "astasis/cut.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"

#include <algorithm>

namespace astasis {
namespace {

double doubled_area(Vec2 a, Vec2 b, Vec2 c) {
    return (static_cast<double>(b.x) - a.x) * (static_cast<double>(c.y) - a.y) -
           (static_cast<double>(b.y) - a.y) * (static_cast<double>(c.x) - a.x);
}

// Whether two sides cross or touch, other than at an end that they share.
bool cross_each_other(Vec2 a, Vec2 b, Vec2 c, Vec2 d) {
    const auto sign = [](double x) { return x > 0 ? 1 : x < 0 ? -1 : 0; };
    const int abc = sign(doubled_area(a, b, c)), abd = sign(doubled_area(a, b, d));
    const int cda = sign(doubled_area(c, d, a)), cdb = sign(doubled_area(c, d, b));
    if (abc * abd < 0 && cda * cdb < 0) return true;
    const auto on = [](Vec2 p, Vec2 q, Vec2 x) { // on the line of p and q: also between them?
        return std::min(p.x, q.x) <= x.x && x.x <= std::max(p.x, q.x) && std::min(p.y, q.y) <= x.y &&
               x.y <= std::max(p.y, q.y);
    };
    return (abc == 0 && on(a, b, c)) || (abd == 0 && on(a, b, d)) || (cda == 0 && on(c, d, a)) ||
           (cdb == 0 && on(c, d, b));
}

void refuse(const std::string& field, const std::string& given, const char* accepted) {
    throw Error(field, given, accepted);
}

// The outline counter-clockwise, without corners that repeat or lie on a straight side.
std::vector<Vec2> checked_outline(std::span<const Vec2> given) {
    std::vector<Vec2> c;
    double area = 0;
    for (std::size_t i = 0; i < given.size(); i++) {
        if (!math::is_finite(given[i]))
            refuse("outline[" + std::to_string(i) + "]", base::text_of(given[i]), "finite numbers (m)");
        if (c.empty() || !(c.back() == given[i])) c.push_back(given[i]);
    }
    while (c.size() > 1 && c.front() == c.back()) c.pop_back();
    for (std::size_t i = 0; i < c.size() && c.size() > 2; i++) {
        const Vec2 a = c[(i + c.size() - 1) % c.size()], b = c[i], d = c[(i + 1) % c.size()];
        if (doubled_area(a, b, d) != 0 || dot(b - a, d - b) < 0) continue;
        c.erase(c.begin() + static_cast<std::ptrdiff_t>(i));
        i = i < 2 ? static_cast<std::size_t>(-1) : i - 2;
    }
    if (c.size() < 3)
        refuse("outline",
               std::to_string(given.size()) + " corners, of which " + std::to_string(c.size()) + " remain",
               "3 or more corners that do not lie on one line");
    const std::size_t n = c.size();
    for (std::size_t i = 0; i < n; i++)
        for (std::size_t k = i + 1; k < n; k++) {
            const bool neighbours = k == i + 1 || (i == 0 && k == n - 1);
            if (!neighbours && cross_each_other(c[i], c[(i + 1) % n], c[k], c[(k + 1) % n]))
                refuse("outline",
                       "sides from " + base::text_of(c[i]) + " and from " + base::text_of(c[k]) +
                           " that meet",
                       "an outline that neither crosses nor touches itself");
        }
    for (std::size_t i = 0; i < n; i++) area += doubled_area({}, c[i], c[(i + 1) % n]);
    if (area < 0) std::reverse(c.begin(), c.end());
    return c;
}

using Ring = std::vector<std::size_t>;

bool is_ear(const std::vector<Vec2>& c, const Ring& ring, std::size_t i) {
    const std::size_t n = ring.size();
    const std::size_t ia = ring[(i + n - 1) % n], ib = ring[i], id = ring[(i + 1) % n];
    if (!(doubled_area(c[ia], c[ib], c[id]) > 0)) return false;
    return std::none_of(ring.begin(), ring.end(), [&](std::size_t k) {
        return k != ia && k != ib && k != id && doubled_area(c[ia], c[ib], c[k]) >= 0 &&
               doubled_area(c[ib], c[id], c[k]) >= 0 && doubled_area(c[id], c[ia], c[k]) >= 0;
    });
}

std::vector<Ring> triangles_of(const std::vector<Vec2>& c) {
    Ring ring(c.size());
    for (std::size_t i = 0; i < ring.size(); i++) ring[i] = i;
    std::vector<Ring> out;
    while (ring.size() > 3) {
        const std::size_t n = ring.size();
        // The roundest ear first, so that slivers are few.
        std::size_t best = n;
        double most = -2;
        for (std::size_t i = 0; i < n; i++) {
            if (!is_ear(c, ring, i)) continue;
            const Vec2 a = c[ring[(i + n - 1) % n]], b = c[ring[i]], d = c[ring[(i + 1) % n]];
            const double round = doubled_area(a, b, d) / (static_cast<double>(length_squared(b - a)) +
                                                          length_squared(d - b) + length_squared(a - d));
            if (round > most) most = round, best = i;
        }
        if (best == n)
            refuse("outline", "corners too close together to be told apart",
                   "an outline that floats can cut");
        out.push_back({ring[(best + n - 1) % n], ring[best], ring[(best + 1) % n]});
        ring.erase(ring.begin() + static_cast<std::ptrdiff_t>(best));
    }
    out.push_back(ring);
    return out;
}

bool is_convex(const std::vector<Vec2>& c, const Ring& ring) {
    const std::size_t n = ring.size();
    for (std::size_t i = 0; i < n; i++)
        if (!(doubled_area(c[ring[i]], c[ring[(i + 1) % n]], c[ring[(i + 2) % n]]) >= 0)) return false;
    return true;
}

// Two rings joined across a side that both have; empty if they share none or the whole is not convex.
Ring joined(const std::vector<Vec2>& c, const Ring& a, const Ring& b) {
    for (std::size_t i = 0; i < a.size(); i++)
        for (std::size_t k = 0; k < b.size(); k++) {
            if (a[i] != b[(k + 1) % b.size()] || a[(i + 1) % a.size()] != b[k]) continue;
            Ring out;
            for (std::size_t j = 0; j < a.size(); j++) out.push_back(a[(i + 1 + j) % a.size()]);
            for (std::size_t j = 2; j < b.size(); j++) out.push_back(b[(k + j) % b.size()]);
            if (is_convex(c, out)) return out;
        }
    return {};
}

}

std::vector<Polygon> cut_into_convex(std::span<const Vec2> outline) {
    const std::vector<Vec2> corners = checked_outline(outline);
    std::vector<Ring> pieces = triangles_of(corners);
    for (std::size_t i = 0; i < pieces.size(); i++)
        for (std::size_t k = 0; k < pieces.size(); k++) {
            if (i == k) continue;
            Ring both = joined(corners, pieces[i], pieces[k]);
            if (both.empty()) continue;
            pieces[i] = std::move(both);
            pieces.erase(pieces.begin() + static_cast<std::ptrdiff_t>(k));
            if (k < i) i--;
            k = static_cast<std::size_t>(-1); // look at all others again
        }
    std::vector<Polygon> out;
    out.reserve(pieces.size());
    for (const Ring& ring : pieces) {
        Polygon p;
        for (const std::size_t i : ring) p.corners.push_back(corners[i]);
        out.push_back(std::move(p));
    }
    return out;
}

}
