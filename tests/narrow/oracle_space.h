// The slow oracle of convex shapes in space, in double and by another way than the library's.
//
// The signed distance of two convex shapes, apart or not, is the largest gap along any direction: the least
// of n.b less the most of n.a. The search tries directions all round, the normals of faces, what is square to
// two edges, and climbs from the best. It can only fall short; what it is compared with must itself be such a
// gap, which is checked.
#pragma once

#include "narrow/touch_support.h"

namespace astasis::test {

using Vec3d = VecD<3>;

struct Solid3 {
    Geometry<3> geometry;
    Frame<3> at;
    std::vector<Vec3d> core;                    // corners in the world
    std::vector<Vec3d> normals;                 // of faces
    std::vector<std::pair<Vec3d, Vec3d>> lines; // edges, or the corner itself: from where, and the way along
    Vec3d axis = Vec3d::Zero();                 // of a rim
    double rim = 0, skin = 0, size = 0;

    double most(const Vec3d& n) const {
        double best = -1e300;
        for (const auto& p : core) best = std::max(best, n.dot(p));
        const double across = std::sqrt(std::max(0.0, n.squaredNorm() - n.dot(axis) * n.dot(axis)));
        return best + rim * across + skin * n.norm();
    }
};

inline double gap(const Solid3& a, const Solid3& b, const Vec3d& n) { return -b.most(-n) - a.most(n); }

inline Solid3 solid(const Geometry<3>& geometry, const Frame<3>& at) {
    Solid3 out{geometry, at, {}, {}, {}, Vec3d::Zero(), 0, 0, 0};
    const auto turned = [&](Vec3 p) { return to_eigen(rotate(at.rotation, p)); };
    const auto add = [&](Vec3 p) { out.core.push_back(to_eigen(at.position) + turned(p)); };
    const auto join = [&](std::size_t i, std::size_t k) {
        out.lines.emplace_back(out.core[i], out.core[k] - out.core[i]);
    };
    if (const auto* s = std::get_if<Sphere>(&geometry)) add({}), out.skin = s->radius;
    if (const auto* c = std::get_if<Capsule3>(&geometry)) add(c->from), add(c->to), out.skin = c->radius;
    if (const auto* c = std::get_if<Cylinder>(&geometry)) {
        add(c->from), add(c->to), out.rim = c->radius;
        out.axis = (out.core[1] - out.core[0]).normalized();
        out.normals = {out.axis};
    }
    if (const auto* b = std::get_if<Box3>(&geometry)) {
        const float r = b->rounding();
        const Vec3 s = b->full_size() - Vec3{2 * r, 2 * r, 2 * r};
        out.core = corners(Box3::sized(s.x, s.y, s.z), at), out.normals = axes(at), out.skin = r;
        for (std::size_t i = 0; i < 8; i++)
            for (const std::size_t bit : {1u, 2u, 4u})
                if (!(i & bit)) join(i, i | bit);
    }
    if (const auto* h = std::get_if<Hull>(&geometry)) {
        for (const Vec3 p : h->corners()) add(p);
        for (int f = 0; f < h->face_count(); f++) {
            const auto loop = h->face(f);
            out.normals.push_back(turned(h->normal(f)).normalized());
            for (std::size_t i = 0; i < loop.size(); i++)
                if (loop[i] < loop[(i + 1) % loop.size()]) join(loop[i], loop[(i + 1) % loop.size()]);
        }
        out.skin = h->rounding();
    }
    if (out.core.size() == 1) out.lines = {{out.core[0], Vec3d::Zero()}};
    if (out.core.size() == 2) join(0, 1);
    for (const auto& p : out.core) out.size = std::max(out.size, (p - out.core[0]).norm());
    out.size += 2 * (out.skin + out.rim);
    return out;
}

// A point, to ask how far it lies from a shape's surface.
inline Solid3 point(const Vec3d& p) {
    return {Sphere{0}, {}, {p}, {}, {{p, Vec3d::Zero()}}, Vec3d::Zero(), 0, 0, 0};
}

// Nearest points of two segments, as the vector between them.
inline Vec3d between(const Vec3d& p, const Vec3d& u, const Vec3d& q, const Vec3d& v) {
    const auto onto = [](const Vec3d& x, const Vec3d& o, const Vec3d& d) {
        return d.squaredNorm() > 0 ? Vec3d(o + d * std::clamp((x - o).dot(d) / d.squaredNorm(), 0.0, 1.0))
                                   : o;
    };
    const double uu = u.squaredNorm(), vv = v.squaredNorm(), uv = u.dot(v), det = uu * vv - uv * uv;
    Vec3d on_p = p;
    if (det > 1e-12 * uu * vv)
        on_p = p + u * std::clamp(((q - p).dot(u) * vv - (q - p).dot(v) * uv) / det, 0.0, 1.0);
    const Vec3d on_q = onto(on_p, q, v);
    return on_q - onto(on_q, p, u);
}

inline double signed_distance(const Solid3& a, const Solid3& b, Numbers& numbers) {
    std::vector<std::pair<double, Vec3d>> best; // the best few, best first
    const auto try_direction = [&](const Vec3d& d) {
        if (!(d.norm() > 1e-12 * (a.size + b.size))) return;
        for (const double sign : {1.0, -1.0}) {
            const Vec3d n = d.normalized() * sign;
            const double g = gap(a, b, n);
            if (best.size() == 3 && g <= best.back().first) continue;
            if (best.size() == 3) best.pop_back();
            const auto at =
                std::find_if(best.begin(), best.end(), [&](const auto& x) { return x.first < g; });
            best.insert(at, {g, n});
        }
    };
    for (int i = 0; i < 60; i++) { // a spiral over half the sphere
        const double z = (i + 0.5) / 60, angle = 2.399963 * i, r = std::sqrt(1 - z * z);
        try_direction({r * std::cos(angle), r * std::sin(angle), z});
    }
    for (const auto* s : {&a, &b})
        for (const auto& n : s->normals) try_direction(n);
    for (const auto& [p, u] : a.lines)
        for (const auto& [q, v] : b.lines) try_direction(u.cross(v)), try_direction(between(p, u, q, v));
    // Where only one edge counts the gap has a ridge, square to the edge: climb along ridges too.
    std::vector<Vec3d> ridges;
    for (const auto* s : {&a, &b}) {
        for (const auto& [p, u] : s->lines)
            if (u.norm() > 0) ridges.push_back(u.normalized());
    }
    const auto starts = best;
    double most = best[0].first;
    for (const auto& start : starts) {
        double value = start.first;
        Vec3d n = start.second;
        const auto climb = [&](const Vec3d& d) {
            const Vec3d trial = d.normalized();
            const double g = gap(a, b, trial);
            const bool better = g > value;
            if (better) value = g, n = trial;
            return better;
        };
        double step = 0.3;
        for (int round = 0; round < 150 && step > 1e-7; round++) {
            bool better = false;
            for (int i = 0; i < 6; i++)
                better = climb(n + step * Vec3d(numbers.in(-1, 1), numbers.in(-1, 1), numbers.in(-1, 1))) ||
                         better;
            for (int i = 0; i < 6 && !ridges.empty(); i++) {
                const Vec3d& u = ridges[static_cast<std::size_t>(
                    numbers.in(0, static_cast<double>(ridges.size()) - 1e-9))];
                const Vec3d across = n - u * u.dot(n);
                if (!(across.norm() > 1e-6)) continue;
                better = climb(across + step * numbers.in(-1, 1) * u.cross(across)) || better;
            }
            step *= better ? 1.2 : 0.5;
        }
        most = std::max(most, value);
    }
    return most;
}

inline Hull any_hull(Numbers& n, double scale) {
    std::vector<Vec3> points;
    const int kind = static_cast<int>(n.in(0, 3));
    const int count = static_cast<int>(n.in(4, 24));
    for (int i = 0; i < count + (kind == 2 ? 12 : 0); i++) {
        Vec3 p = n.vec<3>(-1, 1);
        if (kind == 1) p = direction(p, Vec3{1, 0, 0}); // on a ball
        if (kind == 2)
            p = {std::round(p.x * 2) / 2, std::round(p.y * 2) / 2,
                 std::round(p.z * 2) / 2}; // many in one plane
        points.push_back(p * static_cast<float>(scale));
    }
    // What makes sure of a volume.
    for (const Vec3 p : {Vec3{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {-0.5f, -0.5f, -0.5f}})
        points.push_back(p * static_cast<float>(0.4 * scale));
    return Hull::around(points);
}

inline constexpr const char* kSolidNames[] = {"sphere", "capsule",      "box",     "rounded box",
                                              "hull",   "rounded hull", "cylinder"};
inline constexpr int kSolidKinds = 7;

inline Geometry<3> any_solid(Numbers& n, int kind, double scale) {
    const auto f = [&](double low, double high) { return static_cast<float>(scale * n.in(low, high)); };
    switch (kind) {
    case 0: return Sphere{f(0.1, 1)};
    case 1: return Capsule3{{f(-1, 0), f(-1, 1), f(-1, 1)}, {f(0.1, 1), f(-1, 1), f(-1, 1)}, f(0.02, 0.5)};
    case 2: return Box3::sized(f(0.5, 2), f(0.5, 2), f(0.5, 2));
    case 3: return Box3::sized(f(0.5, 2), f(0.5, 2), f(0.5, 2)).rounded(f(0.01, 0.24));
    case 4: return any_hull(n, scale);
    case 5: return any_hull(n, scale).grown(f(0.01, 0.3));
    default: {
        const Vec3 axis = n.vec<3>(-1, 1) + Vec3{0, 1.5f, 0};
        return Cylinder{axis * static_cast<float>(-0.3 * scale), axis * f(0.05, 0.5), f(0.1, 1)};
    }
    }
}

}
