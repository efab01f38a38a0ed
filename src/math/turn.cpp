#include "math/turn.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/trig.h"

#include <algorithm>

namespace astasis::math {

float norm_squared(Rotation<2> r) { return r.c * r.c + r.s * r.s; }
float norm_squared(Rotation<3> r) { return ((r.w * r.w + r.x * r.x) + r.y * r.y) + r.z * r.z; }

Rotation<2> normalized(Rotation<2> r) {
    const float s = 1.0f / std::sqrt(norm_squared(r));
    return {r.c * s, r.s * s};
}
Rotation<3> normalized(Rotation<3> r) {
    const float s = 1.0f / std::sqrt(norm_squared(r));
    return {r.w * s, r.x * s, r.y * s, r.z * s};
}

Rotation<2> turned_by(Rotation<2> r, float angle) {
    const SinCos t = sin_cos(angle);
    // In double up to the one rounding at the end, or thousands of turns would add up the rounding of each.
    const double c = t.cos * r.c - t.sin * r.s, s = t.sin * r.c + t.cos * r.s;
    const double scale = 1.0 / std::sqrt(c * c + s * s);
    return {static_cast<float>(c * scale), static_cast<float>(s * scale)};
}

Rotation<3> turned_by(Rotation<3> r, Vec3 angle) {
    const double x = angle.x, y = angle.y, z = angle.z;
    const double size = std::sqrt((x * x + y * y) + z * z);
    if (size == 0.0) return r;
    const SinCos half = sin_cos(0.5 * size);
    const double k = half.sin / size, qw = half.cos, qx = k * x, qy = k * y, qz = k * z;
    const double w = ((qw * r.w - qx * r.x) - qy * r.y) - qz * r.z;
    const double i = ((qw * r.x + qx * r.w) + qy * r.z) - qz * r.y;
    const double j = ((qw * r.y - qx * r.z) + qy * r.w) + qz * r.x;
    const double l = ((qw * r.z + qx * r.y) - qy * r.x) + qz * r.w;
    const double scale = 1.0 / std::sqrt(((w * w + i * i) + j * j) + l * l);
    return {static_cast<float>(w * scale), static_cast<float>(i * scale), static_cast<float>(j * scale),
            static_cast<float>(l * scale)};
}

float turn_between(Rotation<2> from, Rotation<2> to) {
    const Rotation<2> turn = inverse(from) * to;
    return static_cast<float>(arc_tangent(turn.s, turn.c));
}
Vec3 turn_between(Rotation<3> from, Rotation<3> to) {
    Rotation<3> turn = to * inverse(from);
    if (turn.w < 0) turn = {-turn.w, -turn.x, -turn.y, -turn.z};
    const Vec3 axis{turn.x, turn.y, turn.z};
    const float sine = length(axis);
    if (sine == 0.0f) return {};
    return axis * (2.0f * static_cast<float>(arc_tangent(sine, turn.w)) / sine);
}

Rotation<3> rotation_of(const std::array<std::array<double, 3>, 3>& m) {
    // The largest of the four parts first (Shepperd 1978, Quaternion from Rotation Matrix).
    const double w = m[0][0] + m[1][1] + m[2][2];
    const std::array four{w, 2 * m[0][0] - w, 2 * m[1][1] - w, 2 * m[2][2] - w};
    const auto most = static_cast<std::size_t>(std::max_element(four.begin(), four.end()) - four.begin());
    const double r = std::sqrt(1 + four[most]), k = 0.5 / r;
    const double x = m[1][2] - m[2][1], y = m[2][0] - m[0][2], z = m[0][1] - m[1][0];
    const double xy = m[0][1] + m[1][0], yz = m[1][2] + m[2][1], zx = m[2][0] + m[0][2];
    const auto made = [](double a, double b, double c, double d) {
        return Rotation<3>{static_cast<float>(a), static_cast<float>(b), static_cast<float>(c),
                           static_cast<float>(d)};
    };
    switch (most) {
    case 0: return made(0.5 * r, x * k, y * k, z * k);
    case 1: return made(x * k, 0.5 * r, xy * k, zx * k);
    case 2: return made(y * k, xy * k, 0.5 * r, yz * k);
    default: return made(z * k, zx * k, yz * k, 0.5 * r);
    }
}
Rotation<3> rotation_of(Vec3 x, Vec3 y, Vec3 z) {
    return normalized(rotation_of({{{x.x, x.y, x.z}, {y.x, y.y, y.z}, {z.x, z.y, z.z}}}));
}
Rotation<3> rotation_between(Vec3 from, Vec3 to) {
    const Vec3 axis = cross(from, to);
    const float w = 1 + dot(from, to);
    constexpr float kOpposite = 1e-6f;
    if (w < kOpposite) {
        const Vec3 across = tangents(from)[0];
        return {0, across.x, across.y, across.z};
    }
    return normalized(Rotation<3>{w, axis.x, axis.y, axis.z});
}

Rotation<2> blended(Rotation<2> a, Rotation<2> b, float t) { return turned_by(a, turn_between(a, b) * t); }
Rotation<3> blended(Rotation<3> a, Rotation<3> b, float t) { return turned_by(a, turn_between(a, b) * t); }

std::array<Vec2, 1> tangents(Vec2 n) { return {Vec2{-n.y, n.x}}; }

// Branches on the sign only, so that the frame turns smoothly with the normal (Duff et al. 2017, Building an
// Orthonormal Basis, Revisited, listing 3).
std::array<Vec3, 2> tangents(Vec3 n) {
    const float sign = n.z < 0 ? -1.0f : 1.0f;
    const float a = -1.0f / (sign + n.z), b = n.x * n.y * a;
    return {Vec3{1.0f + sign * n.x * n.x * a, sign * b, -sign * n.x}, Vec3{b, sign + n.y * n.y * a, -n.y}};
}

}

namespace astasis {

Rotation<2> turned(Angle angle) {
    if (!math::is_finite(angle.in_radians()))
        throw Error("angle", base::number(angle.in_radians()), "a finite angle");
    const math::SinCos t = math::sin_cos(angle.in_radians());
    return {static_cast<float>(t.cos), static_cast<float>(t.sin)};
}

Rotation<3> turned(Angle angle, Vec3 axis) {
    if (!math::is_finite(angle.in_radians()))
        throw Error("angle", base::number(angle.in_radians()), "a finite angle");
    const float size = length(axis);
    if (!math::is_finite(size) || !(size > 0))
        throw Error("axis", base::text_of(axis), "a finite vector that is not zero");
    const math::SinCos half = math::sin_cos(0.5 * angle.in_radians());
    const float k = static_cast<float>(half.sin) / size;
    return {static_cast<float>(half.cos), axis.x * k, axis.y * k, axis.z * k};
}

Angle angle_of(Rotation<2> r) { return radians(math::arc_tangent(r.s, r.c)); }
Angle angle_of(Rotation<3> r) {
    return radians(2.0 * math::arc_tangent(length(Vec3{r.x, r.y, r.z}), std::fabs(r.w)));
}

}
