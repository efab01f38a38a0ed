#include "solve/contact_groups.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"

#include <algorithm>
#include <bit>

namespace astasis::solve {
namespace {

constexpr std::size_t kColours = 24; // of each kind: manifolds between moving bodies, and with others
constexpr std::size_t kOverflow = 2 * kColours, kFixedOverflow = kOverflow + 1, kClasses = kOverflow + 2;

}

template<int Dim> ContactGroups<Dim>::ContactGroups(simd::InstructionSet set) {
    coloured_.kernels = &contact_kernels<Dim>(set);
    overflow_.kernels = fixed_overflow_.kernels = &contact_kernels<Dim>(simd::InstructionSet::Scalar);
}

template<int Dim> float& ContactGroups<Dim>::Part::at(std::uint32_t slot, int field) {
    const auto lanes = static_cast<std::uint32_t>(kernels->lanes);
    return floats.data()[(slot / lanes * Layout<Dim>::kFields + static_cast<std::uint32_t>(field)) * lanes +
                         slot % lanes];
}
template<int Dim> float ContactGroups<Dim>::Part::at(std::uint32_t slot, int field) const {
    const auto lanes = static_cast<std::uint32_t>(kernels->lanes);
    return floats.data()[(slot / lanes * Layout<Dim>::kFields + static_cast<std::uint32_t>(field)) * lanes +
                         slot % lanes];
}
template<int Dim> void ContactGroups<Dim>::Part::set_int(std::uint32_t slot, int field, int value) {
    at(slot, field) = std::bit_cast<float>(value);
}
template<int Dim> void ContactGroups<Dim>::Part::set(std::uint32_t slot, int field, const Vec<Dim>& v) {
    for (int k = 0; k < Dim; k++) at(slot, field + k) = v[k];
}

template<int Dim> template<typename Each> void ContactGroups<Dim>::for_each_part(const Each& each) {
    for (Part* part : {&overflow_, &coloured_, &fixed_overflow_})
        if (part->groups > 0) each(*part);
}

template<int Dim>
void ContactGroups<Dim>::colour(const flow::Bodies<Dim>& bodies,
                                std::span<const flow::Manifold<Dim>> manifolds,
                                std::span<const std::uint32_t> which, std::size_t row_count,
                                std::span<const std::uint32_t> rows) {
    constexpr std::size_t kMost = flow::kMostPoints<Dim>;
    for (auto& taken : taken_) taken.assign(row_count, 0);
    class_of_.resize(which.size());
    constexpr std::uint32_t kAll = (1u << kColours) - 1;
    for (std::size_t n = 0; n < which.size(); n++) {
        const auto& m = manifolds[which[n]];
        const bool a_moves = bodies.mass[m.body_a].inverse_mass > 0,
                   b_moves = bodies.mass[m.body_b].inverse_mass > 0;
        const std::size_t fixed = a_moves && b_moves ? 0 : 1;
        auto& taken = taken_[fixed];
        std::uint32_t used = 0;
        if (a_moves) used |= taken[rows[m.body_a]];
        if (b_moves) used |= taken[rows[m.body_b]];
        if (used == kAll) {
            class_of_[n] = static_cast<std::uint8_t>(kOverflow + fixed);
            continue;
        }
        const auto c = static_cast<std::size_t>(std::countr_one(used));
        if (a_moves) taken[rows[m.body_a]] |= 1u << c;
        if (b_moves) taken[rows[m.body_b]] |= 1u << c;
        class_of_[n] = static_cast<std::uint8_t>(fixed * kColours + c);
    }
    // Those with many points stand together, so that lanes with few do not wait for them.
    const auto bucket = [&](std::size_t n) {
        return static_cast<std::size_t>(class_of_[n]) * kMost + (kMost - manifolds[which[n]].count);
    };
    first_of_.assign(kClasses * kMost + 1, 0);
    for (std::size_t n = 0; n < which.size(); n++) first_of_[bucket(n) + 1]++;
    for (std::size_t b = 0; b + 1 < first_of_.size(); b++) first_of_[b + 1] += first_of_[b];
    sorted_.resize(which.size());
    next_ = first_of_;
    for (std::size_t n = 0; n < which.size(); n++) sorted_[next_[bucket(n)]++] = which[n];
}

// Gives the manifolds of some classes their slots; each class begins a group.
template<int Dim> void ContactGroups<Dim>::place(Part& part, std::size_t first_class, std::size_t classes) {
    constexpr std::size_t kMost = flow::kMostPoints<Dim>;
    part.places.clear();
    const auto lanes = static_cast<std::uint32_t>(part.kernels->lanes);
    std::uint32_t slot = 0;
    for (std::size_t c = first_class; c < first_class + classes; c++) {
        for (std::uint32_t n = first_of_[c * kMost]; n < first_of_[(c + 1) * kMost]; n++)
            part.places.push_back({sorted_[n], slot++});
        slot = (slot + lanes - 1) / lanes * lanes;
    }
    part.groups = static_cast<int>(slot / lanes);
    part.floats.resize(static_cast<std::size_t>(slot) * Layout<Dim>::kFields);
}

template<int Dim>
void ContactGroups<Dim>::fill(Part& part, const flow::Bodies<Dim>& bodies,
                              std::span<const flow::Manifold<Dim>> manifolds,
                              std::span<const std::uint32_t> rows) {
    using L = Layout<Dim>;
    const auto lanes = static_cast<std::uint32_t>(part.kernels->lanes);
    const std::size_t group = static_cast<std::size_t>(L::kFields) * lanes;
    std::fill_n(part.floats.data(), group * static_cast<std::size_t>(part.groups), 0.0f);
    for (int g = 0; g < part.groups; g++)
        for (int i = 0; i < L::kPoints; i++)
            std::fill_n(part.floats.data() + group * static_cast<std::size_t>(g) +
                            static_cast<std::size_t>(L::point(i) + L::kGapAtStart) * lanes,
                        lanes, L::kNoPoint);

    for (const Place& place : part.places) {
        const auto& m = manifolds[place.manifold];
        const std::uint32_t s = place.slot;
        part.set_int(s, L::kBodyA, static_cast<int>(rows[m.body_a]));
        part.set_int(s, L::kBodyB, static_cast<int>(rows[m.body_b]));
        part.set_int(s, L::kGuide, static_cast<int>(m.guide));
        part.set_int(s, L::kCount, m.count);
        const auto &pose_a = bodies.pose[m.body_a], &pose_b = bodies.pose[m.body_b];
        part.set(s, L::kBetween, pose_b.centre - pose_a.centre);
        part.at(s, L::kSkinA) = m.skin_a, part.at(s, L::kSkinB) = m.skin_b;
        const auto mass = [&](std::uint32_t i) {
            return math::inverse_mass(bodies.mass[i].inverse_mass, bodies.free[i].locks);
        };
        part.set(s, L::kMassA, mass(m.body_a)), part.set(s, L::kMassB, mass(m.body_b));
        if constexpr (Dim == 2) { // does not change with the pose
            const auto inertia = [&](std::uint32_t i) {
                return bodies.free[i].locks.turn ? 0.0f : bodies.mass[i].inverse_inertia;
            };
            part.at(s, L::kInertiaA) = inertia(m.body_a), part.at(s, L::kInertiaB) = inertia(m.body_b);
        }
        part.at(s, L::kFriction) = m.friction;
        part.at(s, L::kRolling) = m.rolling, part.at(s, L::kSpinning) = m.spinning;
        part.set(s, L::kSlip, m.slip);
        part.at(s, L::kMostPush) = tuning_.most_thicknesses_a_second * m.thickness;
        if constexpr (Dim == 2) part.at(s, L::kTurning) = m.turning_torque * seconds_;
        else part.set(s, L::kTurning, m.turning_torque * seconds_);
        if constexpr (Dim == 3) {
            part.at(s, L::kRimA) = m.rim_a.radius, part.at(s, L::kRimB) = m.rim_b.radius;
            part.set(s, L::kRimAxisA, rotate(pose_a.rotation, m.rim_a.axis));
            part.set(s, L::kRimAxisB, rotate(pose_b.rotation, m.rim_b.axis));
        }
        Vec<Dim> normal = m.normal;
        for (int i = 0; i < m.count; i++) {
            const auto& p = m.points[i];
            const flow::PointNow<Dim> now = flow::evaluate(m, p, bodies);
            const int at = L::point(i);
            part.set(s, at + L::kCoreA, rotate(pose_a.rotation, p.core_a));
            part.set(s, at + L::kCoreB, rotate(pose_b.rotation, p.core_b));
            part.at(s, at + L::kGapAtStart) = now.separation;
            part.at(s, at + L::kPush) = p.normal_force * seconds_;
            part.set(s, at + L::kDrag, p.friction_force * seconds_);
            normal = now.normal;
        }
        part.set(s, L::kNormalAtStart, normal);
    }
}

template<int Dim>
void ContactGroups<Dim>::begin(const flow::Bodies<Dim>& bodies,
                               std::span<const flow::Manifold<Dim>> manifolds,
                               std::span<const std::uint32_t> which, std::span<const std::uint32_t> rows,
                               std::size_t row_count, const Tuning& tuning, float seconds) {
    for (auto* v : {&sorted_, &first_of_, &next_}) base::make_room(*v, which.size());
    base::make_room(class_of_, which.size());
    for (Part* part : {&coloured_, &overflow_, &fixed_overflow_}) base::make_room(part->places, which.size());
    tuning_ = tuning;
    seconds_ = seconds;
    colour(bodies, manifolds, which, row_count, rows);
    place(coloured_, 0, 2 * kColours);
    place(overflow_, kOverflow, 1);
    place(fixed_overflow_, kFixedOverflow, 1);
    for (Part* part : {&coloured_, &overflow_, &fixed_overflow_}) fill(*part, bodies, manifolds, rows);
}

template<int Dim>
void ContactGroups<Dim>::refresh(const BodyRows& rows, std::span<const flow::Manifold<Dim>> manifolds,
                                 std::vector<Suspect>& suspects) {
    suspects.clear();
    for_each_part([&](Part& part) {
        const auto lanes = static_cast<std::uint32_t>(part.kernels->lanes);
        approaches_.resize(static_cast<std::size_t>(part.groups) * lanes * Layout<Dim>::kPoints);
        const int found =
            part.kernels->refresh(part.floats.data(), part.groups, rows, seconds_, approaches_.data());
        for (int i = 0; i < found; i++) {
            const Approach& a = approaches_[static_cast<std::size_t>(i)];
            const std::uint32_t slot = a.group * lanes + a.lane;
            const auto place = std::lower_bound(part.places.begin(), part.places.end(), slot,
                                                [](const Place& p, std::uint32_t s) { return p.slot < s; });
            if (is_impact({a.gap, a.speed, a.gained}, seconds_, manifolds[place->manifold].thickness))
                suspects.push_back({place->manifold, a.point});
        }
    });
    // In the order of the manifolds, whatever the number of lanes.
    std::sort(suspects.begin(), suspects.end(), [](const Suspect& a, const Suspect& b) {
        return a.manifold != b.manifold ? a.manifold < b.manifold : a.point < b.point;
    });
}

template<int Dim> void ContactGroups<Dim>::warm_start(const BodyRows& rows) {
    for_each_part([&](Part& part) { part.kernels->warm_start(part.floats.data(), part.groups, rows); });
}

template<int Dim> void ContactGroups<Dim>::solve(const BodyRows& rows, bool with_feedback) {
    for_each_part([&](Part& part) {
        part.kernels->solve(part.floats.data(), part.groups, rows, tuning_, seconds_, with_feedback);
    });
}

template<int Dim> void ContactGroups<Dim>::finish() {
    for_each_part([&](Part& part) { part.kernels->finish(part.floats.data(), part.groups); });
}

template<int Dim> void ContactGroups<Dim>::give_forces(std::span<flow::Manifold<Dim>> manifolds) const {
    using L = Layout<Dim>;
    const float rate = 1 / seconds_;
    for (const Part* part : {&overflow_, &coloured_, &fixed_overflow_})
        for (const Place& place : part->places) {
            auto& m = manifolds[place.manifold];
            for (int i = 0; i < m.count; i++) {
                auto& p = m.points[i];
                const int at = L::point(i);
                p.normal_force = part->at(place.slot, at + L::kPush) * rate;
                for (int k = 0; k < Dim; k++)
                    p.friction_force[k] = part->at(place.slot, at + L::kDrag + k) * rate;
            }
        }
}

template<int Dim> void ContactGroups<Dim>::end(std::span<flow::Manifold<Dim>> manifolds) const {
    using L = Layout<Dim>;
    give_forces(manifolds);
    for (const Part* part : {&overflow_, &coloured_, &fixed_overflow_})
        for (const Place& place : part->places) {
            auto& m = manifolds[place.manifold];
            for (int k = 0; k < Dim; k++) m.normal[k] = part->at(place.slot, L::kNormal + k);
            for (int k = 0; k < math::kAxialSize<Dim>; k++)
                math::component(m.turning_torque, k) = part->at(place.slot, L::kTurning + k) / seconds_;
            for (int i = 0; i < m.count; i++) {
                auto& p = m.points[i];
                const int at = L::point(i);
                p.separation = part->at(place.slot, at + L::kGap);
                for (int k = 0; k < Dim; k++) p.tick_impulse[k] += part->at(place.slot, at + L::kSum + k);
            }
        }
}

template class ContactGroups<2>;
template class ContactGroups<3>;

}
