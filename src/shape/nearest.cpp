#include "shape/nearest.h"

#include <algorithm>

namespace astasis::shape {
namespace {

using math::Wide;

constexpr double kTouching = 1e-7; // of the smaller size
constexpr int kMostRounds = 100;

template<int Dim> using Corner = typename Simplex<Dim>::Corner;

// Shares of the points of `set` (bits) whose sum is the point of their flat nearest to the origin; false if
// they do not span one, or if that point lies outside of them.
template<int Dim> bool project(const Simplex<Dim>& s, unsigned set, std::array<double, Dim + 1>& shares) {
    // Edges from the newest point, which is near the others that count, scaled to length 1: points may lie
    // close together while the whole is large.
    const auto newest = static_cast<std::size_t>(s.count - 1);
    const Wide<Dim> origin = s.corner[newest].at;
    std::array<std::size_t, Dim> index{};
    std::array<Wide<Dim>, Dim> edge{};
    std::array<double, Dim> scale{};
    std::size_t size = 0;
    for (std::size_t i = 0; i < newest; i++) {
        if (!(set >> i & 1)) continue;
        const Wide<Dim> e = s.corner[i].at - origin;
        const double n = norm(e);
        if (!(n > 0)) return false;
        index[size] = i, scale[size] = 1 / n, edge[size] = e * scale[size], size++;
    }
    // Solve E^T E x = -E^T p for the edges E from the point p: at most 3 by 3, by elimination with pivots.
    double m[Dim][Dim + 1] = {};
    for (std::size_t i = 0; i < size; i++) {
        for (std::size_t k = 0; k < size; k++) m[i][k] = dot(edge[i], edge[k]);
        m[i][Dim] = -dot(edge[i], origin);
    }
    for (std::size_t i = 0; i < size; i++) {
        std::size_t pivot = i;
        for (std::size_t k = i + 1; k < size; k++)
            if (std::fabs(m[k][i]) > std::fabs(m[pivot][i])) pivot = k;
        if (!(std::fabs(m[pivot][i]) > 1e-13)) return false;
        std::swap(m[i], m[pivot]);
        for (std::size_t k = 0; k < size; k++) {
            if (k == i) continue;
            const double f = m[k][i] / m[i][i];
            for (std::size_t c = i; c <= Dim; c++) m[k][c] -= f * m[i][c];
        }
    }
    shares.fill(0);
    double rest = 1;
    for (std::size_t i = 0; i < size; i++) {
        const double x = m[i][Dim] / m[i][i] * scale[i];
        if (!(x >= 0)) return false;
        shares[index[i]] = x;
        rest -= x;
    }
    shares[newest] = rest;
    return rest >= 0;
}

template<int Dim> Wide<Dim> blend(const Simplex<Dim>& s, const std::array<double, Dim + 1>& shares) {
    Wide<Dim> sum{};
    for (int i = 0; i < s.count; i++)
        sum = sum + s.corner[static_cast<std::size_t>(i)].at * shares[static_cast<std::size_t>(i)];
    return sum;
}

// Reduces a simplex to the face that is nearest to the origin, and returns the nearest point. Only faces that
// hold the newest corner, the last one, can be.
template<int Dim> Wide<Dim> reduce(Simplex<Dim>& s) {
    const unsigned newest = 1u << (s.count - 1);
    unsigned best = newest;
    std::array<double, Dim + 1> shares{}, best_shares{};
    best_shares[static_cast<std::size_t>(s.count - 1)] = 1;
    Wide<Dim> point = s.corner[static_cast<std::size_t>(s.count - 1)].at;
    double least = squared(point);
    for (unsigned rest = 1; rest < newest; rest++) {
        if (!project(s, rest | newest, shares)) continue;
        const Wide<Dim> p = blend(s, shares);
        if (const double d = squared(p); d < least)
            least = d, best = rest | newest, best_shares = shares, point = p;
    }
    int kept = 0;
    for (int i = 0; i < s.count; i++)
        if (best >> i & 1) {
            s.corner[static_cast<std::size_t>(kept)] = s.corner[static_cast<std::size_t>(i)];
            s.corner[static_cast<std::size_t>(kept++)].share = best_shares[static_cast<std::size_t>(i)];
        }
    s.count = kept;
    return point;
}

template<int Dim> Corner<Dim> difference(const Convex<Dim>& a, const Convex<Dim>& b, const Wide<Dim>& d) {
    const Wide<Dim> on_b = b.support(d), on_a = a.support(-d);
    return {on_b - on_a, on_a, on_b, 0};
}

}

double touching_distance(double size_a, double size_b) {
    const double least = std::min(size_a, size_b), most = std::max(size_a, size_b);
    return least > 0 ? std::max(kTouching * least, 2e-11 * most * (most / least)) : 1e-12 * most;
}

template<int Dim> Nearest<Dim> nearest(const Convex<Dim>& a, const Convex<Dim>& b) {
    Nearest<Dim> out;
    Simplex<Dim>& s = out.simplex;
    const double size_a = a.size(), size_b = b.size(), near = touching_distance(size_a, size_b);
    const double too_near = near * near, doubtful = 1e-4 * std::min(size_a, size_b);
    Wide<Dim> v = b.middle() - a.middle();
    if (!(squared(v) > 0)) v[1] = 1;
    s.corner[0] = difference(a, b, -v);
    s.corner[0].share = 1, s.count = 1;
    v = s.corner[0].at;
    for (int round = 0; round < kMostRounds && squared(v) > too_near && s.count <= Dim; round++) {
        const Corner<Dim> next = difference(a, b, -v);
        // No point of the difference lies nearer along v: v is the nearest.
        if (squared(v) - dot(v, next.at) <= 1e-12 * squared(v)) break;
        const Simplex<Dim> before = s;
        s.corner[static_cast<std::size_t>(s.count++)] = next;
        const Wide<Dim> shorter = reduce(s);
        if (squared(shorter) < squared(v)) {
            v = shorter;
            continue;
        }
        // No nearer: rounding, in a simplex that has become flat. If nothing shows that they are apart, and
        // they are that close, they touch.
        s = before;
        if (dot(v, next.at) < 0 && squared(v) < doubtful * doubtful) return out;
        break;
    }
    if (squared(v) <= too_near || s.count > Dim) return out;
    out.apart = true;
    out.distance = norm(v);
    out.normal = v * (1.0 / out.distance);
    for (int i = 0; i < s.count; i++) {
        const auto& c = s.corner[static_cast<std::size_t>(i)];
        out.on_a = out.on_a + c.on_a * c.share, out.on_b = out.on_b + c.on_b * c.share;
    }
    return out;
}

template Nearest<2> nearest(const Convex<2>&, const Convex<2>&);
template Nearest<3> nearest(const Convex<3>&, const Convex<3>&);

}
