// Spheres and capsules, as rods, against one another and against half-spaces. A sphere is a rod of no length.
//
// Nearest points of two segments (Lumelsky 1985, On fast computation of distance between line segments). Rods
// side by side within 0.6 degrees touch at both ends of what they share. Oracle: tests/narrow/.
#include "math/wide.h"
#include "narrow/crossing.h"
#include "narrow/touch.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {

using flow::Guide;
using math::Wide3;

namespace {

struct Parameters {
    double s = 0, t = 0; // along the first and the second segment, 0 to 1
};

// In double: of a rod a thousand times as long as the other is thick, floats would leave the normal too
// coarse.
Parameters nearest(const Rod& a, const Rod& b) {
    const Wide3 da = math::widened(a.to) - math::widened(a.from),
                db = math::widened(b.to) - math::widened(b.from);
    const Wide3 r = math::widened(a.from) - math::widened(b.from);
    const double aa = dot(da, da), bb = dot(db, db), ab = dot(da, db), ar = dot(da, r), br = dot(db, r);
    const auto unit = [](double x) { return std::clamp(x, 0.0, 1.0); };
    if (aa == 0) return {0, bb > 0 ? unit(br / bb) : 0.0};
    if (bb == 0) return {unit(-ar / aa), 0};
    const double denominator = aa * bb - ab * ab;
    double s = denominator > 1e-12 * aa * bb ? unit((ab * br - ar * bb) / denominator) : 0.0;
    double t = (ab * s + br) / bb;
    if (t < 0) t = 0, s = unit(-ar / aa);
    else if (t > 1) t = 1, s = unit((ab - ar) / aa);
    return {s, t};
}

Wide3 exactly_at(const Rod& rod, double s) {
    return math::widened(rod.from) + (math::widened(rod.to) - math::widened(rod.from)) * s;
}

// Some direction across the rods, for cores that meet: there the line between them has none.
Vec3 across(const Rod& a, const Rod& b) {
    const Vec3 da = direction(a.to - a.from, Vec3{}), db = direction(b.to - b.from, Vec3{});
    const Vec3 crossed = cross(da, db);
    if (length_squared(crossed) > 1e-4f) return direction(crossed.y < 0 ? -crossed : crossed, Vec3{});
    const Vec3 along = length_squared(da) > 0 ? da : db;
    const Vec3 up = Vec3{0, 1, 0} - along * along.y;
    return direction(up, Vec3{1, 0, 0});
}

std::uint32_t place_code(double s) { return s == 0 ? 0 : s == 1 ? 1 : 2; }

// Both ends of the stretch that two rods share side by side; nothing if they share none.
Touch<3> side_by_side(const Rod& a, const Rod& b) {
    const Vec3 da = a.to - a.from;
    const float aa = dot(da, da), length_a = std::sqrt(aa);
    const float f = dot(b.from - a.from, da) / aa, g = dot(b.to - a.from, da) / aa;
    const float low = std::max(0.0f, std::min(f, g)), high = std::min(1.0f, std::max(f, g));
    Touch<3> out;
    if (!((high - low) * length_a > 1e-2f * (a.radius + b.radius))) return out;
    const auto on_b = [&](float s) { return b.at(std::clamp((s - f) / (g - f), 0.0f, 1.0f)); };
    const float middle = 0.5f * (low + high);
    const Vec3 between = on_b(middle) - a.at(middle);
    const Vec3 along = da * (1.0f / length_a);
    out.normal = direction(between - along * dot(between, along), across(a, b));
    out.guide = Guide::World;
    out.skin_a = a.radius, out.skin_b = b.radius;
    for (const float s : {low, high}) {
        const Vec3 pa = a.at(s), pb = on_b(s);
        out.points[out.count] = {pa, pb, dot(pb - pa, out.normal) - (a.radius + b.radius),
                                 16u + static_cast<std::uint32_t>(out.count)};
        out.count++;
    }
    return out;
}

// Whether no end reaches deeper along the normal of rods side by side, and no points are nearer: they are
// parallel.
bool is_deepest(const Rod& a, const Rod& b, const Touch<3>& t, double separation) {
    const double slack =
        8e-5 * (std::min(length(a.to - a.from), length(b.to - b.from)) + std::min(a.radius, b.radius));
    const Wide3 n = math::widened(t.normal);
    const auto along = [&](Vec3 p) { return dot(math::widened(p), n); };
    const double reached =
        (std::min(along(b.from), along(b.to)) - std::max(along(a.from), along(a.to))) - a.radius - b.radius;
    const double found = std::min(t.points[0].separation, t.points[1].separation);
    return std::fabs(found - separation) < slack && std::fabs(found - reached) < slack;
}

// Rods that cross at a slant: where one that turns about their nearest point comes down on the other within
// the tick; where they are beside one another by more than 0.7 R it is left out. What comes on slowly needs
// less, and is not to rest there: the true normal is another one.
void add_beside(const Crossing& c, float nearest_s, float margin, Touch<3>& out) {
    const float far = margin > 0.1f * c.both ? 0.7f : 0.4f;
    const float reach = far * c.both / (std::max(c.slant, 1e-3f) * c.length_a);
    const int found = out.count;
    for (const float s : {std::max(c.low, nearest_s - reach), std::min(c.high, nearest_s + reach)}) {
        bool is_new = std::fabs(s - nearest_s) * c.length_a >= 0.1f * c.both;
        for (int i = 0; i < found; i++)
            is_new = is_new && length(c.a.at(s) - out.points[i].core_a) >= 0.1f * c.both;
        if (is_new) c.add(s, far + 0.05f, 32u + static_cast<std::uint32_t>(out.count), out);
    }
}

}

Touch<3> rod_rod(const Rod& a, const Rod& b, float margin) {
    const Parameters p = nearest(a, b);
    const Vec3 da = a.to - a.from, db = b.to - b.from;
    const Wide3 pa = exactly_at(a, p.s), pb = exactly_at(b, p.t);
    const double distance = norm(pb - pa), skins = static_cast<double>(a.radius) + b.radius;
    if (!(distance - skins < margin)) return {};
    const float product = dot(da, da) * dot(db, db);
    if (product > 0 && length_squared(cross(da, db)) < 1e-4f * product) {
        const Touch<3> both = side_by_side(a, b);
        if (both.count == 2 && is_deepest(a, b, both, distance - skins)) return both;
    }
    Touch<3> out;
    out.normal = distance > 1e-6 * skins ? math::narrowed((pb - pa) * (1 / distance)) : across(a, b);
    // A ball rolls round a rod; two rods may also slide along themselves, which does not turn their normal.
    out.guide = product > 0 ? Guide::World : Guide::Centres;
    out.skin_a = a.radius, out.skin_b = b.radius;
    const auto add_nearest = [&] {
        out.points[out.count++] = {math::narrowed(pa), math::narrowed(pb),
                                   static_cast<float>(distance - skins),
                                   place_code(p.s) * 3 + place_code(p.t)};
    };
    if (!(product > 0)) return add_nearest(), out;
    const Crossing crossing(a, b);
    const auto nearest_s = static_cast<float>(p.s);
    if (!add_stretch(crossing, nearest_s, static_cast<float>(distance), out)) add_nearest();
    add_beside(crossing, nearest_s, margin, out);
    return out;
}

Touch<3> rod_half_space(const Rod& a, const HalfSpace<3>& b, const Frame<3>& at_b, float margin) {
    const Vec3 outward = rotate(at_b.rotation, b.outward);
    const auto height = [&](Vec3 p) { return dot(p - at_b.position, outward); };
    Touch<3> out;
    if (!(std::min(height(a.from), height(a.to)) - a.radius < margin)) return out;
    out.normal = -outward;
    out.guide = Guide::FaceOfB;
    out.skin_a = a.radius;
    const auto add = [&](Vec3 p, std::uint32_t feature) {
        out.points[out.count++] = {p, p - outward * height(p), height(p) - a.radius, feature};
    };
    add(a.from, 0);
    if (a.from != a.to) add(a.to, 1);
    return out;
}

}
