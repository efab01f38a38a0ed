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

template<int Dim> template<typename Each> void ContactGroups<Dim>::for_each_part(const Each& each) {
    for (Part& part : parts_)
        if (part.groups > 0) each(part);
}

namespace {

// Of a colour: numbers of points, touching or not.
template<int Dim> constexpr std::size_t kKinds = 2 * static_cast<std::size_t>(flow::kMostPoints<Dim>);

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
    // Each class begins a group: how many slots stay empty differs from tick to tick more than how many are
    // taken.
    const std::size_t most = part.places.size() + std::min(classes, part.places.size()) * (lanes - 1);
    base::make_room(part.manifold_of, most), base::make_room(approaches_, most * Layout<Dim>::kPoints);
    part.hot.make_room(most * Layout<Dim>::kHotFields), part.cold.make_room(most * Layout<Dim>::kColdFields);
    part.manifold_of.assign(slot, Part::kNone);
    for (const Place& p : part.places) part.manifold_of[p.slot] = p.manifold;
    part.hot.resize(std::size_t{slot} * Layout<Dim>::kHotFields);
    part.cold.resize(std::size_t{slot} * Layout<Dim>::kColdFields);
    for (const Place& p : part.places) place_of_[p.manifold] = {k, p.slot};
}

// Friction at a point, in world axes; `across` are the tangents of the manifold's normal.
template<int Dim>
Vec<Dim> ContactGroups<Dim>::drag(const Lane& hot, const std::array<Vec<Dim>, Dim - 1>& across,
                                  int point) const {
    using L = Layout<Dim>;
    Vec<Dim> out;
    for (std::size_t j = 0; j < across.size(); j++)
        out += across[j] * hot[L::point(point) + L::kAlong + static_cast<int>(j)];
    return out;
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
    base::make_room(place_of_, in.manifolds.size() + 2 * in.bodies.moving);
    place_of_.resize(in.manifolds.size());
    place(kColoured, 0, 2 * Colours::kOfAKind);
    place(kOverflowing, Colours::kOverflow, 1);
    place(kFixedOverflowing, Colours::kFixedOverflow, 1);
    for (const auto number :
         {kOverflowing, kFixedOverflowing}) { // have those that come within the tick behind
        Part& part = parts_[number];
        const std::size_t with_added = static_cast<std::size_t>(part.groups) + in.bodies.moving;
        base::make_room(part.manifold_of, with_added), base::make_room(part.places, with_added);
        part.hot.make_room(with_added * Layout<Dim>::kHotFields);
        part.cold.make_room(with_added * Layout<Dim>::kColdFields);
    }
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
                                  std::span<const Found> found, std::vector<ImpactCandidate>* candidates,
                                  std::vector<Found>* to_passes) {
    using L = Layout<Dim>;
    for (const Found& f : found) {
        const auto& m = manifolds[f.manifold];
        const Meeting met = meeting(f.closing, seconds_, m);
        if (to_passes != nullptr && met == Meeting::Within && !m.exact) to_passes->push_back(f);
        const auto [number, slot] = place_of_[f.manifold];
        Part& part = parts_[number];
        const Lane hot{part.hot_at(slot), part.lanes()};
        const int point = static_cast<int>(f.point);
        if (met == Meeting::Within && m.exact) {
            if (candidates != nullptr) candidates->push_back({f.manifold, f.point});
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
