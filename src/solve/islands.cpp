#include "solve/islands.h"

#include "base/room.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// A contact may give way by this share of the thinner shape's thickness before its island takes more
// substeps. From the trials in docs/decisions/solver.md.
constexpr float kMostGive = 5e-4f;
// Contacts that carried less than this share of what they bear have not found their load. With a half, a
// tower that topples goes to and fro between both ways of solving.
constexpr float kFound = 0.1f;
// What hangs on nothing and overlaps by more than this share of the thickness is pushed apart, by speeds that
// are to be taken back: a pass leaves a part of them in every substep, and a column that loses its floor
// falls with gaps.
constexpr float kOverlap = 1e-5f;
// Of the load of a contact that bears more layers of bodies than this less is certain, by this share for each
// time as many more, up to so many times (docs/decisions/solver.md).
constexpr float kLayers = 20, kLessSure = 1.0f / 9, kTallest = 3;
constexpr std::uint32_t kNowhere = ~std::uint32_t{0};

template<int Dim> bool moves(const flow::Bodies<Dim>& bodies, std::uint32_t i) {
    return bodies.mass[i].inverse_mass > 0;
}

// The inverse mass of the lighter one.
template<int Dim> float lightest(const flow::Bodies<Dim>& bodies, const flow::Manifold<Dim>& m) {
    return std::max(bodies.mass[m.body_a].inverse_mass, bodies.mass[m.body_b].inverse_mass);
}

template<int Dim> bool touches(const flow::Manifold<Dim>& m) {
    return std::any_of(m.points.begin(), m.points.begin() + m.count,
                       [&](const auto& p) { return p.separation <= 0 || p.normal_force > 0; });
}

template<int Dim> bool overlaps(const flow::Manifold<Dim>& m) {
    return std::any_of(m.points.begin(), m.points.begin() + m.count,
                       [&](const auto& p) { return p.separation < -kOverlap * m.thickness; });
}

}

template<int Dim> std::uint32_t Islands<Dim>::root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
}

// The root of an island is its lowest place, so that islands do not depend on the order of contacts.
template<int Dim>
void Islands<Dim>::join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds) {
    parent_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = i;
    for (const auto& m : manifolds) {
        if (!moves(bodies, m.body_a) || !moves(bodies, m.body_b)) continue;
        const std::uint32_t a = root(m.body_a), b = root(m.body_b);
        if (a < b) parent_[b] = a;
        else parent_[a] = b;
    }
}

// Breadth first from all that cannot be moved.
template<int Dim>
void Islands<Dim>::measure_depths(const flow::Bodies<Dim>& bodies,
                                  std::span<const flow::Manifold<Dim>> manifolds,
                                  const flow::ContactLists& lists) {
    flow::begin_column(depth_, bodies, manifolds, kNowhere);
    order_.clear();
    for (const auto& m : manifolds) {
        const bool a = moves(bodies, m.body_a), b = moves(bodies, m.body_b);
        if (a == b) continue;
        const std::uint32_t held = a ? m.body_a : m.body_b;
        depth_[a ? m.body_b : m.body_a] = 0;
        if (depth_[held] == kNowhere) depth_[held] = 1, order_.push_back(held);
    }
    for (std::size_t n = 0; n < order_.size(); n++) {
        const std::uint32_t i = order_[n];
        for (const std::uint32_t k : lists.of(i)) {
            const auto& m = manifolds[k];
            const std::uint32_t other = m.body_a == i ? m.body_b : m.body_a;
            if (depth_[other] != kNowhere) continue;
            depth_[other] = depth_[i] + 1;
            order_.push_back(other);
        }
    }
}

// From the farthest to the nearest.
template<int Dim>
void Islands<Dim>::hand_down(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                             const flow::ContactLists& lists) {
    flow::begin_column(borne_, bodies, manifolds, 0.0f);
    flow::begin_column(surely_, bodies, manifolds, 0.0f);
    flow::begin_column(layers_, bodies, manifolds, 1u);
    through_.assign(manifolds.size(), 0), certain_.assign(manifolds.size(), 0);
    for (std::size_t n = order_.size(); n-- > 0;) {
        const std::uint32_t i = order_[n];
        const float own = bodies.mass[i].mass * std::fabs(bodies.free[i].gravity_scale);
        borne_[i] += own, surely_[i] += own;
        const auto other = [&](std::uint32_t k) {
            const auto& m = manifolds[k];
            return m.body_a == i ? m.body_b : m.body_a;
        };
        int holders = 0, touched = 0, beside = 0;
        for (const std::uint32_t k : lists.of(i)) {
            const bool is_holder = depth_[other(k)] < depth_[i], touches_it = touches(manifolds[k]);
            holders += is_holder, touched += is_holder && touches_it;
            beside += touches_it && depth_[other(k)] == depth_[i];
        }
        // Of depth 1, all holders are one ground.
        const float surely = beside == 0 && (touched == 1 || depth_[i] == 1) ? surely_[i] : 0;
        const float each = borne_[i] / static_cast<float>(std::max(holders, 1));
        for (const std::uint32_t k : lists.of(i))
            if (depth_[other(k)] < depth_[i]) {
                through_[k] = each, borne_[other(k)] += each;
                if (touches(manifolds[k])) certain_[k] = surely, surely_[other(k)] += surely;
                layers_[other(k)] = std::max(layers_[other(k)], layers_[i] + 1);
            }
    }
}

// `fall` is how much a contact gives way for a load of one mass.
template<int Dim>
void Islands<Dim>::count_substeps(const flow::Bodies<Dim>& bodies,
                                  std::span<const flow::Manifold<Dim>> manifolds, float fall) {
    for (std::size_t k = 0; k < manifolds.size(); k++) {
        const auto& m = manifolds[k];
        float gives = fall * through_[k] * lightest(bodies, m);
        std::uint8_t doublings = 0;
        for (; doublings < kMostDoublings && gives > kMostGive * m.thickness; doublings++) gives *= 0.25f;
        if (doublings == 0) continue;
        std::uint8_t& of_island = efforts_[root(moves(bodies, m.body_a) ? m.body_a : m.body_b)].doublings;
        of_island = std::max(of_island, doublings);
    }
}

// Passes hand loads on by about a body, and towers whose contacts are firmer than that follows sway for ever;
// and so do contacts that even the most substeps leave too soft: a cube of 10 t on one of 1 kg. They need
// their leak, and less of their load counts as certain.
template<int Dim>
void Islands<Dim>::hold_back(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                             float fall) {
    for (std::size_t k = 0; k < manifolds.size(); k++) {
        if (!(certain_[k] > 0)) continue;
        const auto& m = manifolds[k];
        const int doublings = efforts_[root(moves(bodies, m.body_a) ? m.body_a : m.body_b)].doublings;
        const float gives = std::ldexp(fall * through_[k] * lightest(bodies, m), -2 * doublings);
        const std::uint32_t layers = layers_[depth_[m.body_a] > depth_[m.body_b] ? m.body_a : m.body_b];
        const float tall = std::clamp(static_cast<float>(layers) / kLayers, 1.0f, kTallest);
        certain_[k] *= std::min(1.0f, kMostGive * m.thickness / gives) * (1 - kLessSure * (tall - 1));
    }
}

template<int Dim>
void Islands<Dim>::weigh(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                         float gravity) {
    wanting_.assign(bodies.moving, 0);
    for (std::size_t k = 0; k < manifolds.size(); k++) {
        const auto& m = manifolds[k];
        const std::uint32_t held = moves(bodies, m.body_a) ? m.body_a : m.body_b;
        if (depth_[held] == kNowhere && overlaps(m)) wanting_[root(held)] = 1;
        if (!(through_[k] > 0)) continue;
        float missing = kFound * gravity * through_[k];
        for (int i = 0; i < m.count; i++) missing -= m.points[static_cast<std::size_t>(i)].normal_force;
        wanting_[root(held)] += missing;
    }
    for (std::uint32_t i = 0; i < efforts_.size(); i++) efforts_[i].unsettled = wanting_[i] > 0;
}

template<int Dim>
void Islands<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        const flow::ContactLists& lists, const Vec<Dim>& gravity, float seconds, float give) {
    for (auto* v : {&parent_, &order_}) base::make_room(*v, bodies.moving);
    for (auto* v : {&through_, &certain_}) base::make_room(*v, manifolds.size());
    join(bodies, manifolds);
    measure_depths(bodies, manifolds, lists);
    hand_down(bodies, manifolds, lists);
    efforts_.assign(bodies.moving, {});
    const float fall = give * length(gravity) * seconds * seconds;
    count_substeps(bodies, manifolds, fall);
    hold_back(bodies, manifolds, fall);
    weigh(bodies, manifolds, length(gravity));
    for (auto& of_doublings : taken_) of_doublings[0] = of_doublings[1] = false;
    for (std::uint32_t i = 0; i < efforts_.size(); i++) {
        parent_[i] = root(i), efforts_[i] = efforts_[parent_[i]];
        taken_[efforts_[i].doublings][efforts_[i].unsettled ? 1 : 0] = true;
    }
}

template class Islands<2>;
template class Islands<3>;

}
