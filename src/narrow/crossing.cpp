#include "narrow/crossing.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

// What bulges between the ends of a stretch, as a share of both radii, and of the length.
constexpr float kBulge = 2.5e-4f, kBulgeOfLength = 4e-5f;
constexpr float kMostStretches = 32, kMostSlant = 0.25f;

}

Crossing::Crossing(const Rod& first, const Rod& second)
    : a(first), b(second), da(a.to - a.from), db(b.to - b.from), length_a(length(da)), length_b(length(db)),
      both(a.radius + b.radius), slant(length(cross(da, db)) / (length_a * length_b)) {
    const float f = dot(b.from - a.from, da) / dot(da, da), g = dot(b.to - a.from, da) / dot(da, da);
    low = std::clamp(std::min(f, g), 0.0f, 1.0f), high = std::clamp(std::max(f, g), 0.0f, 1.0f);
}

bool Crossing::add(float s, float most_beside, std::uint32_t feature, Touch<3>& out) const {
    const float off = slant * slant + 1e-3f;
    const Vec3 pa = a.at(s), n = out.normal;
    const float t = dot(pa - b.from, db) / dot(db, db);
    if (!(t >= -off && t <= 1 + off)) return false;
    const Vec3 between = b.at(std::clamp(t, 0.0f, 1.0f)) - pa;
    const float apart = dot(between, n), side = length(between - n * apart);
    if (!(side < most_beside * both)) return false;
    const float later = both - std::sqrt(both * both - side * side);
    out.points[out.count++] = {pa, pa + n * (apart + later), apart + later - both, feature};
    return true;
}

bool add_stretch(const Crossing& c, float nearest_s, float apart, Touch<3>& out) {
    const float shared = (c.high - c.low) * c.length_a;
    const bool is_across = std::fabs(dot(out.normal, c.da)) < 1e-2f * c.length_a;
    if (!(is_across && c.slant < kMostSlant && shared > 0.1f * c.both && apart > 0.5f * c.both)) return false;
    const float bulge = std::min(kBulge * c.both, kBulgeOfLength * (std::min(c.length_a, c.length_b) +
                                                                    std::min(c.a.radius, c.b.radius)));
    const float longest = 2 * std::sqrt(2 * c.both * bulge) / c.slant;
    float stretches = 1;
    while (stretches <= kMostStretches && shared > stretches * longest) stretches *= 2;
    if (stretches > kMostStretches) return false;
    const float along = std::clamp((nearest_s - c.low) / (c.high - c.low), 0.0f, 1.0f) * stretches;
    const float first = std::min(std::floor(along), stretches - 1);
    const int before = out.count;
    for (const float k : {first, first + 1})
        if (!c.add(c.low + (c.high - c.low) * (k / stretches), 0.5f,
                   kStretchFeature + static_cast<std::uint32_t>(64 * stretches + k), out)) {
            out.count = before;
            return false;
        }
    return true;
}

}
