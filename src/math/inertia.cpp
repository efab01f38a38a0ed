#include "math/inertia.h"

#include "math/turn.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace astasis::math {

Sym3 turned_tensor(const Sym3& m, Rotation<3> r) {
    const Vec3 ex = rotate(r, Vec3{1, 0, 0}), ey = rotate(r, Vec3{0, 1, 0}), ez = rotate(r, Vec3{0, 0, 1});
    // Columns of R m, then times R^T.
    const Vec3 cx = (ex * m.xx + ey * m.xy) + ez * m.xz;
    const Vec3 cy = (ex * m.xy + ey * m.yy) + ez * m.yz;
    const Vec3 cz = (ex * m.xz + ey * m.yz) + ez * m.zz;
    const auto entry = [&](int i, int j) { return (cx[i] * ex[j] + cy[i] * ey[j]) + cz[i] * ez[j]; };
    return {entry(0, 0), entry(0, 1), entry(0, 2), entry(1, 1), entry(1, 2), entry(2, 2)};
}

Sym3 inverse(const Sym3& m) {
    // Cofactors, in double: thin bodies have tensors whose determinant cancels badly in float.
    const double xx = m.xx, xy = m.xy, xz = m.xz, yy = m.yy, yz = m.yz, zz = m.zz;
    const double a = yy * zz - yz * yz, b = xz * yz - xy * zz, c = xy * yz - xz * yy;
    const double determinant = (xx * a + xy * b) + xz * c;
    if (!(determinant > 0)) return {};
    const double s = 1.0 / determinant;
    return {static_cast<float>(a * s),
            static_cast<float>(b * s),
            static_cast<float>(c * s),
            static_cast<float>((xx * zz - xz * xz) * s),
            static_cast<float>((xy * xz - xx * yz) * s),
            static_cast<float>((xx * yy - xy * xy) * s)};
}

Sym3 point_inertia(float mass, Vec3 r) {
    return {mass * (r.y * r.y + r.z * r.z), -mass * r.x * r.y, -mass * r.x * r.z,
            mass * (r.x * r.x + r.z * r.z), -mass * r.y * r.z, mass * (r.x * r.x + r.y * r.y)};
}

namespace {

using Columns = std::array<std::array<double, 3>, 3>; // of a matrix

// Turns two of the axes so that the element between them goes (Jacobi 1846; Golub and Van Loan 2013, 8.5).
void rotate_away(Columns& m, Columns& axes, std::size_t p, std::size_t q) {
    if (m[p][q] == 0) return;
    const double theta = (m[q][q] - m[p][p]) / (2 * m[p][q]);
    const double t = (theta < 0 ? -1 : 1) / (std::fabs(theta) + std::sqrt(theta * theta + 1));
    const double c = 1 / std::sqrt(t * t + 1), s = t * c;
    const auto turn = [&](std::array<double, 3>& a, std::array<double, 3>& b) {
        for (std::size_t k = 0; k < 3; k++) {
            const double x = a[k], y = b[k];
            a[k] = c * x - s * y, b[k] = s * x + c * y;
        }
    };
    turn(m[p], m[q]);
    for (auto& column : m) {
        const double x = column[p], y = column[q];
        column[p] = c * x - s * y, column[q] = s * x + c * y;
    }
    turn(axes[p], axes[q]);
}

}

Principal<3> principal(const Sym3& in) {
    Columns m{{{in.xx, in.xy, in.xz}, {in.xy, in.yy, in.yz}, {in.xz, in.yz, in.zz}}};
    Columns axes{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}};
    for (int sweep = 0; sweep < 8; sweep++)
        for (const auto& [p, q] : {std::pair<std::size_t, std::size_t>{0, 1}, {0, 2}, {1, 2}})
            rotate_away(m, axes, p, q);
    std::size_t last = 2;
    double least = 1e300;
    for (std::size_t k = 0; k < 3; k++) {
        const double own = 1 / m[k][k], one = 1 / m[(k + 1) % 3][(k + 1) % 3],
                     other = 1 / m[(k + 2) % 3][(k + 2) % 3];
        const double product = std::fabs((one - own) * (other - own));
        if (product < least) least = product, last = k;
    }
    const std::size_t first = (last + 1) % 3, second = (last + 2) % 3; // right-handed as before
    return {rotation_of({axes[first], axes[second], axes[last]}),
            {static_cast<float>(m[first][first]), static_cast<float>(m[second][second]),
             static_cast<float>(m[last][last])}};
}

bool is_isotropic(const Sym3& m) {
    const float largest = std::max({m.xx, m.yy, m.zz});
    const float off = std::max({std::fabs(m.xy), std::fabs(m.xz), std::fabs(m.yz)});
    const float apart = largest - std::min({m.xx, m.yy, m.zz});
    return std::max(off, apart) <= 1e-6f * largest;
}

Vec3 limited_turning(Vec3 impulse, Vec3 normal, float rolling, float spinning) {
    const float along = dot(impulse, normal);
    Vec3 across = impulse - normal * along;
    const float size = length(across);
    if (size > rolling) across = across * (rolling / size);
    return across + normal * (along > spinning ? spinning : along < -spinning ? -spinning : along);
}

}
