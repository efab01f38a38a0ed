// What the tests of manifolds share: corners and axes in double, separating axes, and what holds for every
// pair.
#pragma once

#include "narrow/touch.h"

#include "support/cases.h"
#include "support/dims.h"

#include <Eigen/Dense>

#include <algorithm>
#include <vector>

namespace astasis::test {

using narrow::Frame;
using narrow::Touch;

template<int D> using VecD = Eigen::Matrix<double, D, 1>;
template<int D> VecD<D> to_eigen(Vec<D> v) {
    VecD<D> out;
    for (int i = 0; i < D; i++) out[i] = v[i];
    return out;
}

template<int D> std::vector<VecD<D>> corners(const Box<D>& box, const Frame<D>& at) {
    std::vector<VecD<D>> out;
    for (int k = 0; k < 1 << D; k++) {
        Vec<D> local = box.full_size() * 0.5f;
        for (int i = 0; i < D; i++)
            if (k >> i & 1) local[i] = -local[i];
        out.push_back(to_eigen(at.position) + to_eigen(rotate(at.rotation, local)));
    }
    return out;
}
template<int D> std::vector<VecD<D>> axes(const Frame<D>& at) {
    std::vector<VecD<D>> out;
    for (int i = 0; i < D; i++) {
        Vec<D> e{};
        e[i] = 1;
        out.push_back(to_eigen(rotate(at.rotation, e)).normalized());
    }
    return out;
}
inline void add_crossed(std::vector<VecD<2>>&, const std::vector<VecD<2>>&, const std::vector<VecD<2>>&) {}
inline void add_crossed(std::vector<VecD<3>>& out, const std::vector<VecD<3>>& a,
                        const std::vector<VecD<3>>& b) {
    for (const auto& u : a)
        for (const auto& v : b)
            if (u.cross(v).norm() > 1e-6) out.push_back(u.cross(v).normalized());
}

// The largest gap along any normal of the Minkowski difference: exact in overlap, a lower bound of the
// distance apart.
template<int D>
double separation(const std::vector<VecD<D>>& a, const std::vector<VecD<D>>& b,
                  const std::vector<VecD<D>>& normals) {
    double best = -1e300;
    for (const auto& n : normals)
        for (const double sign : {1.0, -1.0}) {
            double high = -1e300, low = 1e300;
            for (const auto& p : a) high = std::max(high, sign * n.dot(p));
            for (const auto& p : b) low = std::min(low, sign * n.dot(p));
            best = std::max(best, low - high);
        }
    return best;
}

template<int D>
double box_separation(const Box<D>& a, const Frame<D>& fa, const Box<D>& b, const Frame<D>& fb) {
    auto normals = axes(fa), of_b = axes(fb);
    std::vector<VecD<D>> crossed;
    add_crossed(crossed, normals, of_b);
    normals.insert(normals.end(), of_b.begin(), of_b.end());
    normals.insert(normals.end(), crossed.begin(), crossed.end());
    return separation<D>(corners(a, fa), corners(b, fb), normals);
}

template<int D> float deepest(const Touch<D>& t) {
    float least = 1e9f;
    for (int i = 0; i < t.count; i++) least = std::min(least, t.points[i].separation);
    return least;
}

// From a rim's middle to where it touches; nothing without a rim.
template<int D> Vec<D> reached(const flow::Rim<D>& rim, Vec<D> n) {
    const Vec<D> across = direction(n - rim.axis * dot(n, rim.axis), Vec<D>{});
    return direction(across - rim.axis * dot(across, rim.axis), Vec<D>{}) * rim.radius;
}

// The points where a manifold's point touches each shape.
template<int D> std::pair<VecD<D>, VecD<D>> surface_points(const Touch<D>& t, int i) {
    const auto& p = t.points[static_cast<std::size_t>(i)];
    const VecD<D> n = to_eigen(t.normal);
    return {to_eigen(p.core_a + reached(t.rim_a, t.normal)) + n * t.skin_a,
            to_eigen(p.core_b - reached(t.rim_b, t.normal)) - n * t.skin_b};
}

// What the oracle says, and how closely a manifold has to agree with it.
struct Wanted {
    double separation, tolerance;
};

// Checks whether, how far and with what normal two shapes touch, and that the swapped pair answers alike.
// False if there is nothing more to check: they are farther apart than the margin, or it is too close to
// call.
template<int D> bool agrees(const Wanted& want, const Touch<D>& t, const Touch<D>& swapped, float margin) {
    if (want.separation > margin + want.tolerance) {
        EXPECT_EQ(t.count, 0);
        return false;
    }
    if (want.separation > margin - want.tolerance) return false;
    EXPECT_GT(t.count, 0);
    if (t.count == 0) return false;
    EXPECT_NEAR(length(t.normal), 1, 1e-5);
    EXPECT_NEAR(deepest(t), want.separation, want.tolerance);
    EXPECT_NEAR(deepest(swapped), deepest(t), 2 * want.tolerance);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        const auto [on_a, on_b] = surface_points(t, i);
        EXPECT_NEAR((on_b - on_a).dot(to_eigen(t.normal)), p.separation, want.tolerance);
    }
    return true;
}

}
