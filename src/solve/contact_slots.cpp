// Slots of groups: manifolds are written into their lanes, at the start of a tick and when they are found
// anew within it.
#include "solve/contact_groups.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// A body that turns by less in a substep, rad, counts as not turning: things that stand on it creep outwards
// by that share of its speed.
constexpr float kTurns = 1e-5f;

template<int Dim> bool some_bear(const flow::Manifold<Dim>& m) {
    return std::any_of(m.points.begin(), m.points.begin() + m.count,
                       [](const auto& p) { return p.normal_force > 0; });
}

// Without points and impulses.
template<int Dim> constexpr Slot<Dim> empty_slot() {
    using L = Layout<Dim>;
    Slot<Dim> out;
    for (int i = 0; i < L::kPoints; i++) {
        out.hot[static_cast<std::size_t>(L::point(i)) + L::kGap] = L::kNoPoint;
        out.cold[static_cast<std::size_t>(L::cold_point(i)) + L::kGapAtStart] = L::kNoPoint;
    }
    out.cold[L::kMostImpulse] = L::kNoPoint;
    return out;
}
template<int Dim> constexpr Slot<Dim> kEmptySlot = empty_slot<Dim>();

template<int Lanes, std::size_t Count> void spread_in(const std::array<float, Count>& from, float* to) {
    for (std::size_t f = 0; f < Count; f++) to[f * Lanes] = from[f];
}
template<std::size_t Count> void spread(const std::array<float, Count>& from, float* to, int lanes) {
    switch (lanes) {
    case 16: return spread_in<16>(from, to);
    case 8: return spread_in<8>(from, to);
    case 4: return spread_in<4>(from, to);
    default: return spread_in<1>(from, to);
    }
}

}

template<int Dim> void ContactGroups<Dim>::put(Part& part, std::uint32_t slot, const Slot<Dim>& from) {
    spread(from.hot, part.hot_at(slot), part.lanes());
    spread(from.cold, part.cold_at(slot), part.lanes());
}

// Slots without manifolds, and the flags of all groups.
template<int Dim> void ContactGroups<Dim>::clear(Part& part) {
    for (std::size_t slot = 0; slot < part.manifold_of.size(); slot++) {
        if (part.manifold_of[slot] == Part::kNone)
            put(part, static_cast<std::uint32_t>(slot), kEmptySlot<Dim>);
        if (slot % static_cast<std::size_t>(part.lanes()) == 0)
            part.hot_at(static_cast<std::uint32_t>(slot))[Layout<Dim>::kOfGroup * part.lanes()] = 0;
    }
}

namespace {

// The inverse mass of a body: a number, or if it is locked along some axes a vector, and true.
template<int Dim>
bool fill_mass(float& mass, const Lane& cold, int locked, const flow::Bodies<Dim>& bodies, std::uint32_t i) {
    const Vec<Dim> along = math::inverse_mass(bodies.mass[i].inverse_mass, bodies.free[i].locks);
    const Vec<Dim> freely = math::inverse_mass(bodies.mass[i].inverse_mass, Locks<Dim>{});
    if (along == freely) {
        mass = bodies.mass[i].inverse_mass;
        return false;
    }
    cold.set(locked, along);
    return true;
}

}

template<int Dim>
void ContactGroups<Dim>::fill_slot(Part& part, std::uint32_t slot, const Input& in, std::uint32_t k,
                                   const flow::CentrePose<Dim>& pose_a, const flow::CentrePose<Dim>& pose_b) {
    using L = Layout<Dim>;
    const auto& bodies = in.bodies;
    const auto& m = in.manifolds[k];
    Slot<Dim> filled = kEmptySlot<Dim>;
    const Lane hot{filled.hot.data(), 1},
        cold{filled.cold.data(), 1}; // side by side, before they go to their lane
    hot.set_int(L::kBodyA, static_cast<int>(in.rows[m.body_a]));
    hot.set_int(L::kBodyB, static_cast<int>(in.rows[m.body_b]));
    const bool locks_a = fill_mass(hot[L::kMassA], cold, L::kLockedMassA, bodies, m.body_a),
               locks_b = fill_mass(hot[L::kMassB], cold, L::kLockedMassB, bodies, m.body_b);
    if constexpr (Dim == 2) { // does not change with the pose
        const auto inertia = [&](std::uint32_t i) {
            return bodies.free[i].locks.turn ? 0.0f : bodies.mass[i].inverse_inertia;
        };
        hot[L::kInertiaA] = inertia(m.body_a), hot[L::kInertiaB] = inertia(m.body_b);
    }
    hot[L::kFriction] = m.friction;
    const float load = k < in.loads.size() ? in.loads[k] : 0;
    hot[L::kKnownLoad] = load * std::fabs(dot(m.normal, in.gravity)) * seconds_ /
                         static_cast<float>(std::max(static_cast<int>(m.count), 1));
    hot[L::kSoftness] = k < in.softness.size() ? in.softness[k] : tuning_.softness;
    hot[L::kMostPush] = tuning_.most_thicknesses_a_second * m.thickness;

    const bool is_rare = m.rolling > 0 || m.spinning > 0 || m.is_bounded();
    const int turning = turns(bodies, m.body_a) ? L::kTurnsA : turns(bodies, m.body_b) ? L::kTurnsB : 0;
    hot[L::kExact] = m.exact, hot[L::kUnconverged] = m.unconverged;
    has_unconverged_ = has_unconverged_ || m.unconverged;
    fill_cold(cold, m, pose_a, pose_b);
    cold.set_int(L::kTurns, turning);
    fill_impulses(hot, m, cold.template vector<Dim>(L::kNormalAtStart));
    if (m.is_bounded()) fill_bound(hot, cold, m);

    const auto lanes = static_cast<std::uint32_t>(part.lanes());
    const Lane of_group{part.hot_at(slot / lanes * lanes), part.lanes()};
    int info = std::bit_cast<int>(of_group[L::kOfGroup]);
    info = std::max(info & L::kMostPointsOfGroup, std::max(static_cast<int>(m.count), 1)) |
           (info & ~L::kMostPointsOfGroup) | (is_rare ? L::kRareInGroup : 0) |
           (turning != 0 || m.slip != Vec<Dim>{} ? L::kSlipsInGroup : 0) |
           (locks_a || locks_b ? L::kLocksInGroup : 0) | (m.exact ? L::kExactInGroup : 0) |
           (m.unconverged ? L::kUnconvergedInGroup : 0);
    put(part, slot, filled);
    of_group.set_int(L::kOfGroup, info);
}

template<int Dim> void ContactGroups<Dim>::fill(Part& part, const Input& in) {
    clear(part);
    for (const Place& place : part.places) {
        const auto& m = in.manifolds[place.manifold];
        fill_slot(part, place.slot, in, place.manifold, in.bodies.pose[m.body_a], in.bodies.pose[m.body_b]);
    }
}

// No points and no impulses; the bodies and the flags of the group stay.
template<int Dim> void ContactGroups<Dim>::clear_slot(Part& part, std::uint32_t slot) {
    using L = Layout<Dim>;
    const Lane hot{part.hot_at(slot), part.lanes()}, cold{part.cold_at(slot), part.lanes()};
    for (int f = 0; f < L::kAxial; f++) cold[L::kTurning + f] = 0;
    for (int i = 0; i < L::kPoints; i++) {
        for (int f = 0; f < L::kPointFields; f++) hot[L::point(i) + f] = 0;
        for (int f = 0; f < L::kColdPointFields; f++) cold[L::cold_point(i) + f] = 0;
        hot[L::point(i) + L::kGap] = cold[L::cold_point(i) + L::kGapAtStart] = L::kNoPoint;
    }
}

template<int Dim> void ContactGroups<Dim>::clear(std::uint32_t k) {
    clear_slot(parts_[place_of_[k].part], place_of_[k].slot);
}

template<int Dim>
void ContactGroups<Dim>::replace(const Input& in, std::uint32_t k, const flow::CentrePose<Dim>& pose_a,
                                 const flow::CentrePose<Dim>& pose_b) {
    const auto [part, slot] = place_of_[k];
    fill_slot(parts_[part], slot, in, k, pose_a, pose_b);
}

// Among those that are solved one after another: their bodies may be those of any others.
template<int Dim>
void ContactGroups<Dim>::append(const Input& in, const flow::CentrePose<Dim>& pose_a,
                                const flow::CentrePose<Dim>& pose_b) {
    using L = Layout<Dim>;
    const auto k = static_cast<std::uint32_t>(in.manifolds.size() - 1);
    const auto& m = in.manifolds[k];
    const bool is_fixed =
        !(in.bodies.mass[m.body_a].inverse_mass > 0 && in.bodies.mass[m.body_b].inverse_mass > 0);
    const std::uint32_t number = is_fixed ? kFixedOverflowing : kOverflowing;
    Part& part = parts_[number];
    const auto slot = static_cast<std::uint32_t>(part.groups++);
    const auto count = static_cast<std::size_t>(part.groups);
    part.places.push_back({k, slot}), part.manifold_of.push_back(k);
    part.hot.resize(count * L::kHotFields), part.cold.resize(count * L::kColdFields);
    part.hot_at(slot)[L::kOfGroup] = 0;
    base::make_room(place_of_, k + 1);
    place_of_.resize(k + 1);
    place_of_[k] = {number, slot};
    fill_slot(part, slot, in, k, pose_a, pose_b);
}

template<int Dim> bool ContactGroups<Dim>::turns(const flow::Bodies<Dim>& bodies, std::uint32_t body) const {
    return bodies.mass[body].inverse_mass == 0 &&
           math::magnitude(bodies.velocity[body].angular) * seconds_ > kTurns;
}

template<int Dim>
void ContactGroups<Dim>::fill_impulses(const Lane& hot, const flow::Manifold<Dim>& m,
                                       const Vec<Dim>& normal) const {
    using L = Layout<Dim>;
    const auto across = math::tangents(normal);
    hot.set(L::kNormal, normal);
    for (int i = 0; i < m.count; i++) {
        const auto& p = m.points[static_cast<std::size_t>(i)];
        const int at = L::point(i);
        hot[at + L::kPush] = p.normal_force * seconds_;
        for (std::size_t j = 0; j < across.size(); j++)
            hot[at + L::kAlong + static_cast<int>(j)] = dot(p.friction_force, across[j]) * seconds_;
    }
}

template<int Dim>
void ContactGroups<Dim>::fill_bound(const Lane& hot, const Lane& cold, const flow::Manifold<Dim>& m) const {
    using L = Layout<Dim>;
    const float most = m.most_force * seconds_ / static_cast<float>(std::max(static_cast<int>(m.count), 1));
    cold[L::kMostImpulse] = most;
    for (int i = 0; i < m.count; i++)
        hot[L::point(i) + L::kPush] = std::min(hot[L::point(i) + L::kPush], most);
}

template<int Dim>
void ContactGroups<Dim>::fill_cold(const Lane& cold, const flow::Manifold<Dim>& m,
                                   const flow::CentrePose<Dim>& pose_a,
                                   const flow::CentrePose<Dim>& pose_b) const {
    using L = Layout<Dim>;
    cold.set_int(L::kGuide, static_cast<int>(m.guide));
    cold.set(L::kBetween, pose_b.centre - pose_a.centre);
    cold[L::kSkinA] = m.skin_a, cold[L::kSkinB] = m.skin_b;
    cold[L::kRolling] = m.rolling, cold[L::kSpinning] = m.spinning;
    cold.set(L::kSlip, m.slip), cold.set(L::kSlipNow, m.slip);
    cold[L::kSpread] = m.spread;
    if (some_bear(m)) // what bears nothing resists nothing
        for (int k = 0; k < L::kAxial; k++)
            cold[L::kTurning + k] = math::component(m.turning_torque, k) * seconds_;
    if constexpr (Dim == 3) {
        cold[L::kRimA] = m.rim_a.radius, cold[L::kRimB] = m.rim_b.radius;
        cold.set(L::kRimAxisA, rotate(pose_a.rotation, m.rim_a.axis));
        cold.set(L::kRimAxisB, rotate(pose_b.rotation, m.rim_b.axis));
    }
    Vec<Dim> normal = m.normal;
    for (int i = 0; i < m.count; i++) {
        const auto& p = m.points[static_cast<std::size_t>(i)];
        const Vec<Dim> core_a = rotate(pose_a.rotation, p.core_a), core_b = rotate(pose_b.rotation, p.core_b);
        const flow::Facing<Dim> now = flow::facing(m, core_a, core_b, pose_a, pose_b);
        const int at = L::cold_point(i);
        cold.set(at + L::kCoreA, core_a), cold.set(at + L::kCoreB, core_b);
        cold[at + L::kGapAtStart] = now.separation;
        normal = now.normal;
    }
    cold.set(L::kNormalAtStart, normal);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void ContactGroups<Dim>::put(Part&, std::uint32_t, const Slot<Dim>&);                           \
    template void ContactGroups<Dim>::clear(Part&);                                                          \
    template void ContactGroups<Dim>::clear_slot(Part&, std::uint32_t);                                      \
    template void ContactGroups<Dim>::fill_slot(Part&, std::uint32_t, const Input&, std::uint32_t,           \
                                                const flow::CentrePose<Dim>&, const flow::CentrePose<Dim>&); \
    template bool ContactGroups<Dim>::turns(const flow::Bodies<Dim>&, std::uint32_t) const;                  \
    template void ContactGroups<Dim>::fill_impulses(const Lane&, const flow::Manifold<Dim>&,                 \
                                                    const Vec<Dim>&) const;                                  \
    template void ContactGroups<Dim>::fill_bound(const Lane&, const Lane&, const flow::Manifold<Dim>&)       \
        const;                                                                                               \
    template void ContactGroups<Dim>::fill_cold(const Lane&, const flow::Manifold<Dim>&,                     \
                                                const flow::CentrePose<Dim>&, const flow::CentrePose<Dim>&)  \
        const;                                                                                               \
    template void ContactGroups<Dim>::fill(Part&, const Input&);                                             \
    template void ContactGroups<Dim>::clear(std::uint32_t);                                                  \
    template void ContactGroups<Dim>::replace(const Input&, std::uint32_t, const flow::CentrePose<Dim>&,     \
                                              const flow::CentrePose<Dim>&);                                 \
    template void ContactGroups<Dim>::append(const Input&, const flow::CentrePose<Dim>&,                     \
                                             const flow::CentrePose<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
