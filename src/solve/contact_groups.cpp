#include "solve/contact_groups.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <bit>
#include <cmath>

namespace astasis::solve {
template<int Dim> ContactGroups<Dim>::ContactGroups(simd::InstructionSet set) {
    for (Part& part : parts_) part.kernels = &contact_kernels<Dim>(simd::InstructionSet::Scalar);
    parts_[kColoured].kernels = &contact_kernels<Dim>(set);
}

template<int Dim> float* ContactGroups<Dim>::Part::hot_at(std::uint32_t slot) {
    const auto n = static_cast<std::uint32_t>(lanes());
    return hot.data() + slot / n * Layout<Dim>::kHotFields * n + slot % n;
}
template<int Dim> float* ContactGroups<Dim>::Part::cold_at(std::uint32_t slot) {
    const auto n = static_cast<std::uint32_t>(lanes());
    return cold.data() + slot / n * Layout<Dim>::kColdFields * n + slot % n;
}

namespace {

// The fields of one lane.
struct Lane {
    float* first;
    std::ptrdiff_t stride;

    float& operator[](int field) const { return first[field * stride]; }
    void set_int(int field, int value) const { (*this)[field] = std::bit_cast<float>(value); }
    template<int Dim> Vec<Dim> vector(int field) const {
        Vec<Dim> out;
        for (int k = 0; k < Dim; k++) out[k] = (*this)[field + k];
        return out;
    }
    template<int Dim> void set(int field, const Vec<Dim>& v) const {
        for (int k = 0; k < Dim; k++) (*this)[field + k] = v[k];
    }
};

}

template<int Dim> template<typename Each> void ContactGroups<Dim>::for_each_part(const Each& each) {
    for (Part& part : parts_)
        if (part.groups > 0) each(part);
}

namespace {

// What turns by less in a substep, rad, counts as not turning: what stands there creeps outwards by that
// share of its speed.
constexpr float kTurns = 1e-5f;

constexpr std::uint32_t kNone = ~std::uint32_t{0};

// Of a colour: numbers of points, touching or not.
template<int Dim> constexpr std::size_t kKinds = 2 * static_cast<std::size_t>(flow::kMostPoints<Dim>);

template<int Dim> bool bears(const flow::Manifold<Dim>& m) {
    return std::any_of(m.points.begin(), m.points.begin() + m.count,
                       [](const auto& p) { return p.normal_force > 0; });
}

}

template<int Dim> void ContactGroups<Dim>::colour(const Input& in) {
    const auto& [bodies, manifolds, edges, which, rows, row_count, loads, softness, gravity] = in;
    colours_.begin(row_count);
    class_of_.resize(which.size());
    for (std::size_t n = 0; n < which.size(); n++) {
        const auto& m = edges[which[n]];
        class_of_[n] = colours_.give(rows[m.body_a], bodies.mass[m.body_a].inverse_mass > 0, rows[m.body_b],
                                     bodies.mass[m.body_b].inverse_mass > 0);
    }
    // Those with many points stand together, so that lanes with few do not wait for them; and so do those
    // that do not touch, since a group of them costs next to nothing.
    const auto bucket = [&](std::size_t n) {
        const auto& m = in.edges[in.which[n]];
        return static_cast<std::size_t>(class_of_[n]) * kKinds<Dim> + 2 * (flow::kMostPoints<Dim> - m.count) +
               (m.touches ? 0u : 1u);
    };
    first_of_.assign(Colours::kClasses * kKinds<Dim> + 1, 0);
    for (std::size_t n = 0; n < which.size(); n++) first_of_[bucket(n) + 1]++;
    for (std::size_t b = 0; b + 1 < first_of_.size(); b++) first_of_[b + 1] += first_of_[b];
    sorted_.resize(which.size());
    next_ = first_of_;
    for (std::size_t n = 0; n < which.size(); n++) sorted_[next_[bucket(n)]++] = which[n];
}

// Gives the manifolds of some classes their slots; each class begins a group.
template<int Dim>
void ContactGroups<Dim>::place(std::uint32_t k, std::size_t first_class, std::size_t classes) {
    Part& part = parts_[k];
    part.places.clear();
    const auto lanes = static_cast<std::uint32_t>(part.lanes());
    std::uint32_t slot = 0;
    for (std::size_t c = first_class; c < first_class + classes; c++) {
        for (std::uint32_t n = first_of_[c * kKinds<Dim>]; n < first_of_[(c + 1) * kKinds<Dim>]; n++)
            part.places.push_back({sorted_[n], slot++});
        slot = (slot + lanes - 1) / lanes * lanes;
    }
    part.groups = static_cast<int>(slot / lanes);
    base::make_room(part.manifold_of, slot);
    part.manifold_of.assign(slot, kNone);
    for (const Place& p : part.places) part.manifold_of[p.slot] = p.manifold;
    part.hot.resize(static_cast<std::size_t>(slot) * Layout<Dim>::kHotFields);
    part.cold.resize(static_cast<std::size_t>(slot) * Layout<Dim>::kColdFields);
    for (const Place& p : part.places) place_of_[p.manifold] = {k, p.slot};
}

namespace {

// Without points and impulses.
template<int Dim> constexpr Slot<Dim> empty_slot() {
    using L = Layout<Dim>;
    Slot<Dim> out;
    for (int i = 0; i < L::kPoints; i++) {
        out.hot[static_cast<std::size_t>(L::point(i)) + L::kGap] = L::kNoPoint;
        out.cold[static_cast<std::size_t>(L::cold_point(i)) + L::kGapAtStart] = L::kNoPoint;
    }
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
        if (part.manifold_of[slot] == kNone) put(part, static_cast<std::uint32_t>(slot), kEmptySlot<Dim>);
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

    const bool is_rare = m.rolling > 0 || m.spinning > 0;
    const int turning = turns(bodies, m.body_a) ? L::kTurnsA : turns(bodies, m.body_b) ? L::kTurnsB : 0;
    hot[L::kExact] = m.exact, hot[L::kUnconverged] = m.unconverged;
    has_unconverged_ = has_unconverged_ || m.unconverged;
    fill_cold(cold, m, pose_a, pose_b);
    cold.set_int(L::kTurns, turning);
    fill_impulses(hot, m, cold.template vector<Dim>(L::kNormalAtStart));

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
    Part& part = parts_[kOverflowing];
    const auto k = static_cast<std::uint32_t>(in.manifolds.size() - 1);
    const auto slot = static_cast<std::uint32_t>(part.groups++);
    const auto count = static_cast<std::size_t>(part.groups);
    part.places.push_back({k, slot}), part.manifold_of.push_back(k);
    part.hot.resize(count * L::kHotFields), part.cold.resize(count * L::kColdFields);
    part.hot_at(slot)[L::kOfGroup] = 0;
    base::make_room(place_of_, k + 1);
    place_of_.resize(k + 1);
    place_of_[k] = {kOverflowing, slot};
    fill_slot(part, slot, in, k, pose_a, pose_b);
}

template<int Dim> bool ContactGroups<Dim>::turns(const flow::Bodies<Dim>& bodies, std::uint32_t body) const {
    return bodies.mass[body].inverse_mass == 0 &&
           math::magnitude(bodies.velocity[body].angular) * seconds_ > kTurns;
}

template<int Dim>
template<typename Lane>
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

// Friction at a point, in world axes; `across` are the tangents of the manifold's normal.
template<int Dim>
template<typename Lane>
Vec<Dim> ContactGroups<Dim>::drag(const Lane& hot, const std::array<Vec<Dim>, Dim - 1>& across,
                                  int point) const {
    using L = Layout<Dim>;
    Vec<Dim> out;
    for (std::size_t j = 0; j < across.size(); j++)
        out += across[j] * hot[L::point(point) + L::kAlong + static_cast<int>(j)];
    return out;
}

template<int Dim>
template<typename Lane>
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
    if (astasis::solve::bears(m)) // what bears nothing resists nothing
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

template<int Dim> void ContactGroups<Dim>::begin(const Input& in, const Tuning& tuning, float seconds) {
    for (auto* v : {&sorted_, &first_of_, &next_}) base::make_room(*v, in.which.size());
    base::make_room(class_of_, in.which.size());
    for (Part& part : parts_)
        base::make_room(part.places, in.which.size()), base::make_room(part.fresh, in.which.size());
    tuning_ = tuning;
    seconds_ = seconds;
    is_first_ = true;
    has_unconverged_ = false;
    colour(in);
    base::make_room(place_of_, in.manifolds.size());
    place_of_.resize(in.manifolds.size());
    place(kColoured, 0, 2 * Colours::kOfAKind);
    place(kOverflowing, Colours::kOverflow, 1);
    place(kFixedOverflowing, Colours::kFixedOverflow, 1);
    for_each_part([&](Part& part) { fill(part, in); });
}

// Of `count` approaches within the groups from `first` on.
template<int Dim>
void ContactGroups<Dim>::add_found(const Part& part, std::uint32_t first, int count,
                                   std::vector<Found>& found) const {
    const auto lanes = static_cast<std::uint32_t>(part.lanes());
    for (int i = 0; i < count; i++) {
        const Approach& a = approaches_[static_cast<std::size_t>(i)];
        found.push_back(
            {part.manifold_of[(first + a.group) * lanes + a.lane], a.point, {a.gap, a.speed, a.gained}});
    }
}

template<int Dim>
void ContactGroups<Dim>::classify(std::span<const flow::Manifold<Dim>> manifolds,
                                  std::span<const Found> found, std::vector<Suspect>* suspects) {
    using L = Layout<Dim>;
    for (const Found& f : found) {
        const auto& m = manifolds[f.manifold];
        const Meeting met = meeting(f.closing, seconds_, m);
        const auto [number, slot] = place_of_[f.manifold];
        Part& part = parts_[number];
        const Lane hot{part.hot_at(slot), part.lanes()};
        const int point = static_cast<int>(f.point);
        if (met == Meeting::Within && m.exact) {
            if (suspects != nullptr) suspects->push_back({f.manifold, f.point});
        } else if (const float bounce = met == Meeting::Within ? bounce_speed(f.closing, m) : 0; bounce > 0) {
            const auto lanes = static_cast<std::uint32_t>(part.lanes());
            const Lane cold{part.cold_at(slot), part.lanes()},
                of_group{part.hot_at(slot / lanes * lanes), part.lanes()};
            cold[L::cold_point(point) + L::kBounce] = bounce;
            of_group.set_int(L::kOfGroup, std::bit_cast<int>(of_group[L::kOfGroup]) | L::kBouncesInGroup);
        } else if (met == Meeting::Later) {
            // Its way is shorter than its speed at the end of the substep says, by which passes would stop
            // it.
            float& gap = hot[L::point(point) + L::kGap];
            gap = std::max(gap, f.closing.speed * seconds_);
        }
    }
}

template<int Dim> void ContactGroups<Dim>::refresh(const BodyRows& rows, std::vector<Found>& found) {
    found.clear();
    const When when = is_first_ ? When::SameSubstep : When::NextSubstep;
    is_first_ = false;
    for_each_part([&](Part& part) {
        const std::size_t points = static_cast<std::size_t>(part.groups) *
                                   static_cast<std::size_t>(part.lanes()) * Layout<Dim>::kPoints;
        base::make_room(approaches_, points);
        approaches_.resize(points);
        add_found(part, 0,
                  part.kernels->refresh(part.from(0), part.groups, rows, seconds_, when, approaches_.data()),
                  found);
    });
    // In the order of the manifolds, whatever the number of lanes.
    std::sort(found.begin(), found.end(), [](const Found& a, const Found& b) {
        return a.manifold != b.manifold ? a.manifold < b.manifold : a.point < b.point;
    });
}

template<int Dim>
void ContactGroups<Dim>::refresh_some(const BodyRows& rows, std::span<const std::uint32_t> which,
                                      std::vector<Found>& found) {
    found.clear();
    approaches_.resize(std::max<std::size_t>(
        approaches_.size(), static_cast<std::size_t>(parts_[kColoured].lanes()) * Layout<Dim>::kPoints));
    for (Part& part : parts_) part.fresh.assign(static_cast<std::size_t>(part.groups), 0);
    for (const std::uint32_t m : which) { // a group is done once, whoever of it is asked for
        Part& part = parts_[place_of_[m].part];
        const std::uint32_t group = place_of_[m].slot / static_cast<std::uint32_t>(part.lanes());
        if (part.fresh[group]) continue;
        part.fresh[group] = 1;
        add_found(
            part, group,
            part.kernels->refresh(part.from(group), 1, rows, seconds_, When::SameSubstep, approaches_.data()),
            found);
    }
}

template<int Dim> void ContactGroups<Dim>::warm_start(const BodyRows& rows) {
    for_each_part([&](Part& part) { part.kernels->warm_start(part.from(0), part.groups, rows); });
}

template<int Dim> void ContactGroups<Dim>::solve(const BodyRows& rows, Pass pass) {
    for_each_part(
        [&](Part& part) { part.kernels->solve(part.from(0), part.groups, rows, tuning_, seconds_, pass); });
}

template<int Dim> void ContactGroups<Dim>::give_forces(flow::Manifold<Dim>& m, std::uint32_t k) const {
    using L = Layout<Dim>;
    const auto [part, slot] = place_of_[k];
    const Lane hot{parts_[part].hot_at(slot), parts_[part].lanes()};
    const float rate = 1 / seconds_;
    const auto across = math::tangents(hot.template vector<Dim>(L::kNormal));
    for (int i = 0; i < m.count; i++) {
        auto& p = m.points[static_cast<std::size_t>(i)];
        p.normal_force = hot[L::point(i) + L::kPush] * rate;
        p.friction_force = drag(hot, across, i) * rate;
    }
}

template<int Dim> bool ContactGroups<Dim>::bears(std::uint32_t k) const {
    using L = Layout<Dim>;
    const auto [part, slot] = place_of_[k];
    const Lane hot{parts_[part].hot_at(slot), parts_[part].lanes()};
    for (int i = 0; i < L::kPoints; i++)
        if (hot[L::point(i) + L::kPush] > 0) return true;
    return false;
}

template<int Dim> void ContactGroups<Dim>::hand_over(flow::Manifold<Dim>& m, std::uint32_t k) const {
    using L = Layout<Dim>;
    give_forces(m, k);
    const auto [part, slot] = place_of_[k];
    const Lane cold{parts_[part].cold_at(slot), parts_[part].lanes()};
    for (int j = 0; j < L::kAxial; j++)
        math::component(m.turning_torque, j) = cold[L::kTurning + j] / seconds_;
    for (int i = 0; i < m.count; i++)
        m.points[static_cast<std::size_t>(i)].tick_impulse +=
            cold.template vector<Dim>(L::cold_point(i) + L::kSum);
}

template<int Dim> void ContactGroups<Dim>::end(std::span<flow::Manifold<Dim>> manifolds) const {
    for (const Part& part : parts_)
        for (const Place& p : part.places) end(manifolds[p.manifold], part, p.slot);
}

template<int Dim>
void ContactGroups<Dim>::end(flow::Manifold<Dim>& m, const Part& part, std::uint32_t slot) const {
    using L = Layout<Dim>;
    const Lane hot{const_cast<Part&>(part).hot_at(slot), part.lanes()},
        cold{const_cast<Part&>(part).cold_at(slot), part.lanes()};
    m.normal = hot.template vector<Dim>(L::kNormal);
    const auto across = math::tangents(m.normal);
    bool some_bounced = false;
    for (int i = 0; i < m.count; i++) {
        auto& p = m.points[static_cast<std::size_t>(i)];
        const float push = hot[L::point(i) + L::kPush];
        const Vec<Dim> friction = drag(hot, across, i);
        p.separation = hot[L::point(i) + L::kGap];
        const bool bounced = cold[L::cold_point(i) + L::kBounce] > 0; // no guess of the next tick's
        some_bounced = some_bounced || bounced;
        p.normal_force = bounced ? 0 : push / seconds_;
        p.friction_force = bounced ? Vec<Dim>{} : friction / seconds_;
        p.tick_impulse +=
            cold.template vector<Dim>(L::cold_point(i) + L::kSum) + (m.normal * push + friction);
    }
    for (int j = 0; j < L::kAxial; j++)
        math::component(m.turning_torque, j) = some_bounced ? 0 : cold[L::kTurning + j] / seconds_;
}

template class ContactGroups<2>;
template class ContactGroups<3>;

}
