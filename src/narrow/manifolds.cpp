#include "narrow/manifolds.h"

#include "base/room.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/surface.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

using flow::Guide;

// Shares of the thinner shape's thickness: what counts as the same place on a body; and a pair that may come
// nearer within the tick by less than kSlow keeps its manifolds while it has moved by less than kHardly.
constexpr float kSamePlace = 0.1f, kSlow = 0.15f, kHardly = 1e-2f;

// The frame of a shape relative to `origin`, with its body at a pose.
template<int Dim>
Frame<Dim> frame_of(const flow::Collider<Dim>& c, const flow::Bodies<Dim>& bodies,
                    const flow::CentrePose<Dim>& pose, const Point<Dim>& origin) {
    const Vec<Dim> arm = c.spec->placement.position - bodies.mass[c.body].centre;
    return {(pose.centre - origin) + rotate(pose.rotation, arm), pose.rotation * c.spec->placement.rotation};
}

// Where a patch bears evenly: the mean distance from its middle over that of its corners or ends. 1/2 of a
// line, 0.541 of a square, less of longer rectangles; 2/3 of a disc.
template<int Dim> float spread_of(const Touch<Dim>& t) {
    constexpr float kOfLine = 0.5f, kOfFace = 0.54f, kOfDisc = 2.0f / 3;
    return t.count < 2 ? 1 : t.count == 2 ? kOfLine : t.on_cap ? kOfDisc : kOfFace;
}

// What its materials make of a manifold.
template<int Dim>
void set_surface(flow::Manifold<Dim>& out, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                 const flow::CentrePose<Dim>& pose_a, const flow::CentrePose<Dim>& pose_b,
                 const flow::Materials& materials) {
    const Material surface = flow::meeting(materials, *a.spec, *b.spec);
    out.friction = surface.friction;
    out.restitution = surface.restitution;
    out.tangential_restitution = surface.tangential_restitution;
    out.rolling = surface.rolling_resistance;
    out.spinning = surface.spinning_resistance;
    out.most_force = flow::Manifold<Dim>::kNoBound;
    if (a.spec->surface_velocity == Vec<Dim>{} && b.spec->surface_velocity == Vec<Dim>{}) out.slip = {};
    else
        out.slip = rotate(pose_b.rotation, rotate(b.spec->placement.rotation, b.spec->surface_velocity)) -
                   rotate(pose_a.rotation, rotate(a.spec->placement.rotation, a.spec->surface_velocity));
}

template<int Dim>
flow::Manifold<Dim> manifold_of(const Touch<Dim>& t, const flow::Collider<Dim>& a,
                                const flow::Collider<Dim>& b, const flow::CentrePose<Dim>& pose_a,
                                const flow::CentrePose<Dim>& pose_b, const flow::Materials& materials,
                                const Point<Dim>& origin) {
    const Vec<Dim> centre_a = pose_a.centre - origin, centre_b = pose_b.centre - origin;
    flow::Manifold<Dim> out;
    out.key_a = a.key, out.key_b = b.key;
    out.shape_a = a.shape, out.shape_b = b.shape;
    out.body_a = a.body, out.body_b = b.body;
    out.guide = t.guide;
    out.count = static_cast<std::uint8_t>(t.count);
    out.normal = t.normal;
    out.local_normal = rotate_back(t.guide == Guide::FaceOfB ? pose_b.rotation : pose_a.rotation, t.normal);
    out.skin_a = t.skin_a, out.skin_b = t.skin_b;
    out.rim_a = {t.rim_a.radius, rotate_back(pose_a.rotation, t.rim_a.axis)};
    out.rim_b = {t.rim_b.radius, rotate_back(pose_b.rotation, t.rim_b.axis)};
    set_surface(out, a, b, pose_a, pose_b, materials);
    out.thickness = std::min(a.thickness, b.thickness);
    out.spread = spread_of(t);
    for (int i = 0; i < t.count; i++) {
        auto& p = out.points[i];
        p.core_a = rotate_back(pose_a.rotation, t.points[i].core_a - centre_a);
        p.core_b = rotate_back(pose_b.rotation, t.points[i].core_b - centre_b);
        p.separation = t.points[i].separation;
        p.feature = t.points[i].feature;
    }
    return out;
}

// A point takes the impulses of the old point with its feature, of the manifolds with about the same normal;
// failing that, of a free old point that was nearly at the same place on both bodies: where shapes touch
// almost flat, features come and go while the load stays. Each old point is taken once.
template<int Dim> class Carrier {
public:
    // What points gave in the present tick is carried too if the tick goes on.
    Carrier(std::span<const flow::Manifold<Dim>> before, std::vector<std::uint8_t>& used, bool within_tick)
        : before_(before), used_(used), within_tick_(within_tick) {
        constexpr std::size_t kFew = 16; // manifolds, as most pairs have
        base::make_room(used_, std::max(before.size(), kFew) * flow::kMostPoints<Dim>);
        used_.assign(before.size() * flow::kMostPoints<Dim>, 0);
    }
    // The impulses of old points that no new one took.
    void carry_rest(flow::Manifold<Dim>& after) {
        if (!within_tick_) return;
        for (std::size_t m = 0; m < before_.size(); m++)
            for (std::size_t k = 0; k < before_[m].count; k++)
                if (!used_[m * flow::kMostPoints<Dim> + k])
                    after.points[0].tick_impulse += before_[m].points[k].tick_impulse;
    }
    void carry(flow::Manifold<Dim>& after) {
        std::array<bool, flow::kMostPoints<Dim>> found{};
        for_each(after, found, [](const auto& p, const auto& q) { return p.feature == q.feature; });
        const float near = kSamePlace * after.thickness;
        for_each(after, found, [near](const auto& p, const auto& q) {
            return length(p.core_a - q.core_a) + length(p.core_b - q.core_b) < near;
        });
    }

private:
    template<typename Same>
    void for_each(flow::Manifold<Dim>& after, std::array<bool, flow::kMostPoints<Dim>>& found,
                  const Same& same) {
        for (int i = 0; i < after.count; i++)
            for (std::size_t m = 0; m < before_.size(); m++) {
                if (before_.size() > 1 && dot(before_[m].normal, after.normal) < kTurnedAway) continue;
                for (int k = 0; k < before_[m].count; k++) {
                    auto& used = used_[m * flow::kMostPoints<Dim> + static_cast<std::size_t>(k)];
                    const auto& old = before_[m].points[k];
                    if (found[static_cast<std::size_t>(i)] || used || !same(after.points[i], old)) continue;
                    after.points[i].normal_force = old.normal_force;
                    after.points[i].friction_force = old.friction_force;
                    if (within_tick_) after.points[i].tick_impulse = old.tick_impulse;
                    after.turning_torque = before_[m].turning_torque;
                    used = 1;
                    found[static_cast<std::size_t>(i)] = true;
                }
            }
    }

    std::span<const flow::Manifold<Dim>> before_;
    std::vector<std::uint8_t>& used_;
    bool within_tick_;
};

// How far both may come towards each other within the tick: what they fly side by side does not count.
template<int Dim> float approach(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b) {
    return (a.slack + b.slack) + length(a.drift - b.drift);
}

// Whether their bounds stay apart by more than their slack as one drifts past the other: the times at which
// they are near along each axis have none in common.
template<int Dim> bool stay_apart(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b) {
    const double slack = static_cast<double>(a.slack) + b.slack;
    double from = 0, till = 1;
    for (int k = 0; k < Dim; k++) {
        const double above = (b.bounds.low[k] - a.bounds.high[k]) - slack,
                     below = (a.bounds.low[k] - b.bounds.high[k]) - slack;
        const double drift = static_cast<double>(b.drift[k]) - a.drift[k];
        if (drift == 0 && (above > 0 || below > 0)) return true;
        if (drift == 0) continue;
        from = std::max(from, (drift > 0 ? below : above) / std::fabs(drift));
        till = std::min(till, (drift > 0 ? above : below) / -std::fabs(drift));
        if (from > till) return true;
    }
    return false;
}

// Whether `b` stays above a half-space that stands still: its bounds have no end, and say nothing.
template<int Dim>
bool stays_above(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                 const flow::Bodies<Dim>& bodies) {
    const auto* half = std::get_if<HalfSpace<Dim>>(&a.spec->geometry);
    if (half == nullptr || a.drift != Vec<Dim>{} || math::magnitude(a.turn) > 0) return false;
    const flow::CentrePose<Dim>& at = bodies.pose[a.body];
    const Placement<Dim>& on = a.spec->placement;
    const Vec<Dim> outward = rotate(at.rotation, rotate(on.rotation, half->outward)),
                   arm = rotate(at.rotation, on.position - bodies.mass[a.body].centre);
    const float above = dot((bodies.pose[b.body].centre - at.centre) - arm, outward) - b.reach;
    return above + std::min(dot(b.drift, outward), 0.0f) > a.slack + b.slack;
}

// See Manifold::found.
template<int Dim>
flow::RelativePose<Dim> relative_pose(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                                      const flow::CentrePose<Dim>& pose_a,
                                      const flow::CentrePose<Dim>& pose_b) {
    const bool b_moves = b.reach <= a.reach;
    const flow::CentrePose<Dim>&frame = b_moves ? pose_a : pose_b, &mover = b_moves ? pose_b : pose_a;
    return {rotate_back(frame.rotation, mover.centre - frame.centre),
            inverse(frame.rotation) * mover.rotation};
}

// A bound of the angle between two rotations, rad, for small ones.
float angle_between(const Rotation<2>& p, const Rotation<2>& q) { return std::fabs(p.c * q.s - p.s * q.c); }
float angle_between(const Rotation<3>& p, const Rotation<3>& q) {
    const Rotation<3> r = inverse(p) * q;
    return 2 * length(Vec3{r.x, r.y, r.z});
}

// Whether the manifolds of a pair, found before, still serve: it is slow and has hardly moved against itself.
template<int Dim>
bool may_keep(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, const flow::Bodies<Dim>& bodies,
              std::span<const flow::Manifold<Dim>> before, float margin) {
    if (before.empty() || !before[0].may_keep || !(margin < kSlow * before[0].thickness)) return false;
    const flow::RelativePose<Dim> now = relative_pose(a, b, bodies.pose[a.body], bodies.pose[b.body]);
    const flow::RelativePose<Dim>& then = before[0].found;
    const float moved = length(now.centre - then.centre) +
                        angle_between(then.rotation, now.rotation) * std::min(a.reach, b.reach);
    return moved <= kHardly * before[0].thickness;
}

template<int Dim> bool comes_before(const flow::Manifold<Dim>& m, std::uint64_t key_a, std::uint64_t key_b) {
    return m.key_a < key_a || (m.key_a == key_a && m.key_b < key_b);
}

}

template<int Dim>
void ManifoldFinder<Dim>::find(std::span<const flow::Collider<Dim>> colliders,
                               std::span<const flow::Pair> pairs, const flow::Bodies<Dim>& bodies,
                               const flow::Materials& materials, std::span<const flow::Manifold<Dim>> before,
                               std::vector<flow::Manifold<Dim>>& after) {
    after.clear(), pair_of_.clear();
    base::make_room(after, before.size() + 2 * bodies.moving);
    std::size_t begin = 0;
    for (std::uint32_t k = 0; k < pairs.size(); k++) {
        const auto &a = colliders[pairs[k].a], &b = colliders[pairs[k].b];
        while (begin < before.size() && comes_before(before[begin], a.key, b.key)) begin++;
        std::size_t end = begin;
        while (end < before.size() && before[end].key_a == a.key && before[end].key_b == b.key) end++;
        const float margin = approach(a, b);
        if (may_keep(a, b, bodies, before.subspan(begin, end - begin), margin)) {
            for (const auto& m : before.subspan(begin, end - begin)) keep(m, a, b, bodies, materials, after);
        } else if (!stay_apart(a, b) && !stays_above(a, b, bodies) && !stays_above(b, a, bodies))
            find_pair({a, b, bodies.pose[a.body], bodies.pose[b.body], margin}, bodies, materials,
                      before.subspan(begin, end - begin), false, after);
        pair_of_.resize(after.size(), k);
    }
    seams_.drop(colliders, pairs, pair_of_, bodies, after);
}

// As it is, with what its materials make of it now.
template<int Dim>
void ManifoldFinder<Dim>::keep(const flow::Manifold<Dim>& m, const flow::Collider<Dim>& a,
                               const flow::Collider<Dim>& b, const flow::Bodies<Dim>& bodies,
                               const flow::Materials& materials, std::vector<flow::Manifold<Dim>>& after) {
    after.push_back(m);
    flow::Manifold<Dim>& kept = after.back();
    kept.body_a = a.body, kept.body_b = b.body; // places change
    if (kept.guide == Guide::World) kept.normal = rotate(bodies.pose[a.body].rotation, kept.local_normal);
    set_surface(kept, a, b, bodies.pose[a.body], bodies.pose[b.body], materials);
    for (auto& p : kept.points) p.tick_impulse = {};
    if (look_at_ && !look_at_(kept, {a, b, bodies.pose[a.body], bodies.pose[b.body], 0})) after.pop_back();
}

template<int Dim>
void ManifoldFinder<Dim>::find_pair(const PairAt<Dim>& at, const flow::Bodies<Dim>& bodies,
                                    const flow::Materials& materials,
                                    std::span<const flow::Manifold<Dim>> before, bool within_tick,
                                    std::vector<flow::Manifold<Dim>>& after) {
    const auto& [a, b, pose_a, pose_b, margin] = at;
    // Relative to the smaller shape's body, where floats are finest.
    const Point<Dim> origin = (a.reach <= b.reach ? pose_a : pose_b).centre;
    const auto touches = toucher_.touch(a.spec->geometry, frame_of(a, bodies, pose_a, origin),
                                        b.spec->geometry, frame_of(b, bodies, pose_b, origin), margin,
                                        before.empty() ? nullptr : &before[0].normal);
    const std::size_t first = after.size();
    Carrier<Dim> carrier(before, used_, within_tick);
    for (const Touch<Dim>& t : touches) {
        after.push_back(manifold_of(t, a, b, pose_a, pose_b, materials, origin));
        carrier.carry(after.back());
        after.back().found = relative_pose(a, b, pose_a, pose_b), after.back().may_keep = true;
    }
    if (after.size() > first) carrier.carry_rest(after[first]);
    if (!look_at_) return;
    const auto found = after.begin() + static_cast<std::ptrdiff_t>(first);
    after.erase(std::remove_if(found, after.end(), [&](auto& m) { return !look_at_(m, at); }), after.end());
}

template class ManifoldFinder<2>;
template class ManifoldFinder<3>;

}
