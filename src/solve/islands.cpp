#include "solve/islands.h"

#include "base/room.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// A contact may give way by this share of the thinner shape's thickness before its island takes more
// substeps. From the trials in docs/decisions/solver.md.
constexpr float kMostGive = 5e-4f;
constexpr std::uint32_t kNowhere = ~std::uint32_t{0};

template<int Dim> bool moves(const flow::Bodies<Dim>& bodies, std::uint32_t i) {
    return bodies.mass[i].inverse_mass > 0;
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
    through_.assign(manifolds.size(), 0);
    for (std::size_t n = order_.size(); n-- > 0;) {
        const std::uint32_t i = order_[n];
        borne_[i] += bodies.mass[i].mass * std::fabs(bodies.free[i].gravity_scale);
        const auto other = [&](std::uint32_t k) {
            const auto& m = manifolds[k];
            return m.body_a == i ? m.body_b : m.body_a;
        };
        int holders = 0;
        for (const std::uint32_t k : lists.of(i)) holders += depth_[other(k)] < depth_[i];
        const float each = borne_[i] / static_cast<float>(std::max(holders, 1));
        for (const std::uint32_t k : lists.of(i))
            if (depth_[other(k)] < depth_[i]) through_[k] = each, borne_[other(k)] += each;
    }
}

template<int Dim>
void Islands<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        const flow::ContactLists& lists, const Vec<Dim>& gravity, float seconds, float give) {
    for (auto* v : {&parent_, &order_}) base::make_room(*v, bodies.moving);
    base::make_room(through_, manifolds.size());
    join(bodies, manifolds);
    measure_depths(bodies, manifolds, lists);
    hand_down(bodies, manifolds, lists);
    doublings_.assign(bodies.moving, 0);
    const float fall = give * length(gravity) * seconds * seconds;
    for (std::size_t k = 0; k < manifolds.size(); k++) {
        const auto& m = manifolds[k];
        const float lightest =
            std::max(bodies.mass[m.body_a].inverse_mass, bodies.mass[m.body_b].inverse_mass);
        float gives = fall * through_[k] * lightest;
        std::uint8_t doublings = 0;
        for (; doublings < kMostDoublings && gives > kMostGive * m.thickness; doublings++) gives *= 0.25f;
        if (doublings == 0) continue;
        std::uint8_t& of_island = doublings_[root(moves(bodies, m.body_a) ? m.body_a : m.body_b)];
        of_island = std::max(of_island, doublings);
    }
    for (std::uint32_t i = 0; i < doublings_.size(); i++)
        parent_[i] = root(i), doublings_[i] = doublings_[parent_[i]];
}

template class Islands<2>;
template class Islands<3>;

}
