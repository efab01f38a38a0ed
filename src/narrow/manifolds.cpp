#include "narrow/manifolds.h"

#include "math/numbers.h"
#include "math/turn.h"
#include "shape/surface.h"

#include <algorithm>
#include <cmath>

namespace astasis::narrow {
namespace {

using flow::Guide;

// Shares of the thinner shape's thickness.
constexpr float kSamePlace = 0.1f;
constexpr float kComesOn = 0.05f;  // within the tick
constexpr float kRound = 0.5001f;  // its reach: half of it
constexpr float kThrough = 0.005f; // a plane separates what overlaps it by no more

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

template<int Dim>
flow::Manifold<Dim> manifold_of(const Touch<Dim>& t, const flow::Collider<Dim>& a,
                                const flow::Collider<Dim>& b, const flow::CentrePose<Dim>& pose_a,
                                const flow::CentrePose<Dim>& pose_b, const flow::Materials& materials,
                                const Point<Dim>& origin) {
    const Vec<Dim> centre_a = pose_a.centre - origin, centre_b = pose_b.centre - origin;
    const Material surface = flow::meeting(materials, *a.spec, *b.spec);
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
    out.friction = surface.friction;
    out.restitution = surface.restitution;
    out.tangential_restitution = surface.tangential_restitution;
    out.rolling = surface.rolling_resistance;
    out.spinning = surface.spinning_resistance;
    out.slip = rotate(pose_b.rotation, rotate(b.spec->placement.rotation, b.spec->surface_velocity)) -
               rotate(pose_a.rotation, rotate(a.spec->placement.rotation, a.spec->surface_velocity));
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

// A point takes the impulses of the point with its feature, of the manifolds with about the same normal;
// failing that, of one left over that was nearly at the same place on both bodies: where shapes touch almost
// flat, features come and go while the load stays. Each old point is taken once.
template<int Dim> class Carrier {
public:
    // What points gave goes along within a tick.
    Carrier(std::span<const flow::Manifold<Dim>> before, std::vector<std::uint8_t>& used, bool within_tick)
        : before_(before), used_(used), within_tick_(within_tick) {
        used_.assign(before.size() * flow::kMostPoints<Dim>, 0);
    }
    void carry(flow::Manifold<Dim>& after) {
        std::array<bool, flow::kMostPoints<Dim>> found{};
        for_each(after, found, [](const auto& p, const auto& q) { return p.feature == q.feature; });
        const float near = kSamePlace * after.thickness;
        for_each(after, found, [near](const auto& p, const auto& q) {
            return length(p.core_a - q.core_a) + length(p.core_b - q.core_b) < near;
        });
    }

    // What is left of that, after all was carried.
    void leave_rest(flow::Manifold<Dim>& after) {
        if (!within_tick_) return;
        for (std::size_t m = 0; m < before_.size(); m++)
            for (int k = 0; k < before_[m].count; k++)
                if (!used_[m * flow::kMostPoints<Dim> + static_cast<std::size_t>(k)])
                    after.points[0].tick_impulse += before_[m].points[k].tick_impulse;
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
    return ((a.travel - length(a.drift)) + (b.travel - length(b.drift))) + length(a.drift - b.drift);
}

template<int Dim>
flow::CentrePose<Dim> ahead(const flow::CentrePose<Dim>& pose, const flow::Collider<Dim>& c) {
    return {pose.centre + c.drift,
            math::magnitude(c.turn) > 0 ? math::turned_by(pose.rotation, c.turn) : pose.rotation};
}

// What is apart now and comes on so fast that other features may meet than those that are nearest.
template<int Dim>
bool may_meet_otherwise(const Touch<Dim>& t, const flow::Collider<Dim>& a, const flow::Collider<Dim>& b) {
    const float way = length(a.drift - b.drift), thickness = std::min(a.thickness, b.thickness);
    if (!(way > kComesOn * thickness)) return false;
    for (int i = 0; i < t.count; i++)
        if (t.points[static_cast<std::size_t>(i)].separation <= 0) return false;
    return true;
}

// How far they come towards each other within the tick, or turn, as a share of the thinner one's thickness:
// beyond kComesOn the features that meet may change while it is solved. What is round may turn as it likes.
template<int Dim>
float coming_on(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b, const Vec<Dim>& normal) {
    const auto turning = [](const flow::Collider<Dim>& c) {
        const float angle = math::magnitude(c.turn);
        const bool turns = angle > 0 && math::is_finite(c.reach) && c.reach > kRound * c.thickness;
        return turns ? angle * c.reach : 0.0f;
    };
    return (dot(a.drift - b.drift, normal) + (turning(a) + turning(b))) / std::min(a.thickness, b.thickness);
}

// The same of those that may meet within the tick, else 0: what free motion adds to their way is little.
template<int Dim>
float coming_to_meet(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                     const flow::Manifold<Dim>& m) {
    constexpr float kAdded = 1.1f;
    float nearest = m.points[0].separation;
    for (std::size_t i = 1; i < m.count; i++) nearest = std::min(nearest, m.points[i].separation);
    const float way = coming_on(a, b, m.normal);
    return nearest > kAdded * way * m.thickness ? 0 : way;
}

// Whether other features may meet than those of a manifold, before the tick ends. Shapes with one feature
// each have no others; nor does a ball come through the plane of a face that it is over, whatever turns it.
template<int Dim> bool has_other_features(const flow::Collider<Dim>& c, bool is_guide) {
    if (std::holds_alternative<HalfSpace<Dim>>(c.spec->geometry)) return false;
    return !std::holds_alternative<Ball<Dim>>(c.spec->geometry) &&
           (!is_guide || shape::is_surface(c.spec->geometry));
}
template<int Dim>
bool may_meet_by_others(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                        const flow::Manifold<Dim>& m) {
    const bool round_a = std::holds_alternative<Ball<Dim>>(a.spec->geometry),
               round_b = std::holds_alternative<Ball<Dim>>(b.spec->geometry);
    return has_other_features(a, round_b && m.guide == Guide::FaceOfA) ||
           has_other_features(b, round_a && m.guide == Guide::FaceOfB);
}

template<int Dim> bool gave(std::span<const flow::Manifold<Dim>> manifolds) {
    for (const auto& m : manifolds)
        for (int i = 0; i < m.count; i++)
            if (m.points[i].tick_impulse != Vec<Dim>{}) return true;
    return false;
}

template<int Dim> bool comes_before(const flow::Manifold<Dim>& m, std::uint64_t key_a, std::uint64_t key_b) {
    return m.key_a < key_a || (m.key_a == key_a && m.key_b < key_b);
}

}

template<int Dim>
void ManifoldFinder<Dim>::find(std::span<const flow::Collider<Dim>> colliders,
                               std::span<const flow::Pair> pairs, const flow::Bodies<Dim>& bodies,
                               const flow::Materials& materials, std::span<const flow::Manifold<Dim>> before,
                               std::vector<flow::Manifold<Dim>>& after, When when) {
    after.clear(), pair_of_.clear();
    begin_seeing();
    std::size_t begin = 0;
    for (std::uint32_t k = 0; k < pairs.size(); k++) {
        const auto &a = colliders[pairs[k].a], &b = colliders[pairs[k].b];
        while (begin < before.size() && comes_before(before[begin], a.key, b.key)) begin++;
        std::size_t end = begin;
        while (end < before.size() && before[end].key_a == a.key && before[end].key_b == b.key) end++;
        const std::size_t first = after.size();
        find(a, b, bodies, materials, before.subspan(begin, end - begin), after, when);
        see(pairs[k], a, b, std::span(after).subspan(first));
        pair_of_.resize(after.size(), k);
    }
    const std::size_t found = after.size();
    seams_.drop(colliders, pairs, pair_of_, bodies, after);
    if (after.size() < found) see(colliders, pairs, after);
}

template<int Dim>
void ManifoldFinder<Dim>::see(std::span<const flow::Collider<Dim>> colliders,
                              std::span<const flow::Pair> pairs,
                              std::span<const flow::Manifold<Dim>> manifolds) {
    begin_seeing();
    std::size_t k = 0;
    for (const flow::Pair& pair : pairs) {
        const auto &a = colliders[pair.a], &b = colliders[pair.b];
        while (k < manifolds.size() && comes_before(manifolds[k], a.key, b.key)) k++;
        const std::size_t first = k;
        while (k < manifolds.size() && manifolds[k].key_a == a.key && manifolds[k].key_b == b.key) k++;
        see(pair, a, b, manifolds.subspan(first, k - first));
    }
}

template<int Dim> void ManifoldFinder<Dim>::begin_seeing() { come_on_ = 0, coming_.clear(); }

template<int Dim>
void ManifoldFinder<Dim>::see(const flow::Pair& pair, const flow::Collider<Dim>& a,
                              const flow::Collider<Dim>& b, std::span<const flow::Manifold<Dim>> manifolds) {
    float fastest = 0;
    for (const auto& m : manifolds)
        if (may_meet_by_others(a, b, m)) fastest = std::max(fastest, coming_to_meet(a, b, m));
    if (fastest > kComesOn) coming_.push_back(pair);
    come_on_ = std::max(come_on_, fastest);
}

// Those of one pair.
template<int Dim>
void ManifoldFinder<Dim>::find(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                               const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
                               std::span<const flow::Manifold<Dim>> before,
                               std::vector<flow::Manifold<Dim>>& after, When when) {
    const bool within_tick = when == When::WithinTick;
    const Vec<Dim> apart = a.drift - b.drift, way = direction(apart, Vec<Dim>{});
    if (within_tick && !(coming_on(a, b, way) > kComesOn)) {
        after.insert(after.end(), before.begin(), before.end());
        return;
    }
    // Relative to the smaller shape's body, where floats are finest.
    const Point<Dim> origin = bodies.pose[a.reach <= b.reach ? a.body : b.body].centre;
    const auto &pose_a = bodies.pose[a.body], &pose_b = bodies.pose[b.body];
    const auto touches = toucher_.touch(a.spec->geometry, frame_of(a, bodies, pose_a, origin),
                                        b.spec->geometry, frame_of(b, bodies, pose_b, origin), approach(a, b),
                                        before.empty() ? nullptr : &before[0].normal);
    if (touches.empty()) {
        if (within_tick && gave(before)) after.insert(after.end(), before.begin(), before.end());
        return;
    }
    const std::size_t first = after.size();
    Carrier<Dim> carrier(before, used_, within_tick);
    for (const Touch<Dim>& t : touches) {
        after.push_back(manifold_of(t, a, b, pose_a, pose_b, materials, origin));
        carrier.carry(after.back());
    }
    carrier.leave_rest(after[first]);
    if (touches.size() == 1 && may_meet_otherwise(touches[0], a, b))
        foresee(a, b, bodies, materials, origin, after.back());
}

// A box that falls past the corner of another is nearest to its side until it lies on its top. Where both
// will overlap by the end of the tick, by a face through which they have not yet come, that face is the one
// to be kept apart by: as it will be met, seen from where the bodies are now.
template<int Dim>
void ManifoldFinder<Dim>::foresee(const flow::Collider<Dim>& a, const flow::Collider<Dim>& b,
                                  const flow::Bodies<Dim>& bodies, const flow::Materials& materials,
                                  const Point<Dim>& origin, flow::Manifold<Dim>& manifold) {
    const auto pose_a = ahead(bodies.pose[a.body], a), pose_b = ahead(bodies.pose[b.body], b);
    const auto touches = toucher_.touch(a.spec->geometry, frame_of(a, bodies, pose_a, origin),
                                        b.spec->geometry, frame_of(b, bodies, pose_b, origin), 0, nullptr);
    if (touches.size() != 1) return;
    const Touch<Dim>& t = touches[0];
    if (t.guide == Guide::Centres) return; // round shapes are followed as they go
    flow::Manifold<Dim> later = manifold_of(t, a, b, pose_a, pose_b, materials, origin);
    const Rotation<Dim> turn = bodies.pose[t.guide == Guide::FaceOfB ? b.body : a.body].rotation;
    if (t.guide != Guide::World) later.normal = rotate(turn, later.local_normal);
    if (dot(later.normal, manifold.normal) > kTurnedAway) return;
    for (std::size_t i = 0; i < later.count; i++) {
        auto& p = later.points[i];
        p.separation = flow::evaluate(later, p, bodies).separation;
        if (p.separation < -kThrough * later.thickness) return;
    }
    later.slip = manifold.slip;
    for (std::size_t i = 0; i < manifold.count; i++) // given in this tick, before it was looked for again
        later.points[0].tick_impulse += manifold.points[i].tick_impulse;
    manifold = later;
}

template<int Dim> int ManifoldFinder<Dim>::substeps_before_next(int left, float way) const {
    if (!(come_on_ > kComesOn)) return left;
    return std::clamp(static_cast<int>(static_cast<float>(left) * way / come_on_), 1, left);
}

template class ManifoldFinder<2>;
template class ManifoldFinder<3>;

}
