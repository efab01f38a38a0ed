#include "math/inertia.h"

#include <algorithm>

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
