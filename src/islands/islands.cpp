#include "islands/islands.h"

#include "base/room.h"

#include <algorithm>
#include <cmath>

namespace astasis::islands {
namespace {

// A contact may give way by this share of the thinner shape's thickness before its island wants more
// substeps. From the trials in docs/decisions/loads.md.
constexpr float kMostGive = 5e-4f;
// Contacts that carried less than this share of what they bear have not found their load. With a half, a
// tower that topples goes to and fro between both treatments.
constexpr float kFound = 0.1f;
// An island without support whose shapes overlap by more than this share of the thickness is pushed apart at
// speeds that later passes take back: one pass leaves a part of them in every substep, and a column that
// loses its floor falls with gaps.
constexpr float kOverlap = 1e-5f;
// An approach within the tick by more than this share of the thickness is a hit: twice what a load leaves.
constexpr float kFast = 0.05f;
// A contact that bears more layers of bodies than kLayers knows less of its load, by kLessKnown for each time
// as many more, up to kTallest times (docs/decisions/loads.md).
constexpr float kLayers = 20, kLessKnown = 1.0f / 9, kTallest = 3;
// An island keeps its claim while the present one differs by no more than this share of it.
constexpr double kSameClaim = 1.0 / 3;
constexpr std::uint32_t kNowhere = ~std::uint32_t{0};

template<int Dim> bool moves(const flow::Bodies<Dim>& bodies, std::uint32_t i) {
    return bodies.mass[i].inverse_mass > 0;
}

// The inverse mass of the lighter one.
template<int Dim> float lightest(const flow::Bodies<Dim>& bodies, const flow::Edge& m) {
    return std::max(bodies.mass[m.body_a].inverse_mass, bodies.mass[m.body_b].inverse_mass);
}

// Whether the two come nearer within the tick by more than kFast of the thinner one's thickness, and meet in
// it.
enum class Approach : std::uint8_t { Slow, Fast, Meets };
template<int Dim>
Approach approach(const flow::Bodies<Dim>& bodies, const flow::Manifold<Dim>& m, float tick) {
    const auto &a = bodies.velocity[m.body_a], &b = bodies.velocity[m.body_b];
    Approach out = Approach::Slow;
    if (!(flow::most_passing_speed(bodies, m.body_a, a, m.body_b, b) * tick > kFast * m.thickness))
        return out;
    for (std::size_t i = 0; i < m.count; i++) {
        const auto& p = m.points[i];
        const Vec<Dim> arm_a = rotate(bodies.pose[m.body_a].rotation, p.core_a),
                       arm_b = rotate(bodies.pose[m.body_b].rotation, p.core_b);
        const Vec<Dim> v = (a.linear + cross(a.angular, arm_a)) - (b.linear + cross(b.angular, arm_b));
        const float way = tick * dot(v, m.normal);
        if (!(way > kFast * m.thickness)) continue;
        if (way > p.separation) return Approach::Meets;
        out = Approach::Fast;
    }
    return out;
}

}

template<int Dim> std::uint32_t Islands<Dim>::root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
}

// The root of an island is its lowest place, so that islands do not depend on the order of contacts.
template<int Dim>
template<typename Edge>
void Islands<Dim>::join(const flow::Bodies<Dim>& bodies, std::span<const Edge> edges) {
    for (const auto& m : edges) {
        if (m.body_b == flow::kWorld || !moves(bodies, m.body_a) || !moves(bodies, m.body_b)) continue;
        const std::uint32_t a = root(m.body_a), b = root(m.body_b);
        if (a < b) parent_[b] = a;
        else parent_[a] = b;
    }
}

// Breadth first from all that cannot be moved.
template<int Dim>
void Islands<Dim>::measure_depths(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges,
                                  const flow::ContactLists& lists) {
    flow::begin_column(depth_, bodies, edges, kNowhere);
    order_.clear();
    for (const auto& m : edges) {
        const bool a = moves(bodies, m.body_a), b = moves(bodies, m.body_b);
        if (a == b) continue;
        const std::uint32_t held = a ? m.body_a : m.body_b;
        depth_[a ? m.body_b : m.body_a] = 0;
        if (depth_[held] == kNowhere) depth_[held] = 1, order_.push_back(held);
    }
    for (std::size_t n = 0; n < order_.size(); n++) {
        const std::uint32_t i = order_[n];
        for (const std::uint32_t k : lists.of(i)) {
            const auto& m = edges[k];
            const std::uint32_t other = m.body_a == i ? m.body_b : m.body_a;
            if (depth_[other] != kNowhere) continue;
            depth_[other] = depth_[i] + 1;
            order_.push_back(other);
        }
    }
}

// From the farthest to the nearest.
template<int Dim>
void Islands<Dim>::hand_down(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges,
                             const flow::ContactLists& lists) {
    flow::begin_column(borne_, bodies, edges, 0.0f);
    flow::begin_column(surely_borne_, bodies, edges, 0.0f);
    flow::begin_column(layers_, bodies, edges, 1u);
    through_.assign(edges.size(), 0), known_.assign(edges.size(), 0);
    for (std::size_t n = order_.size(); n-- > 0;) {
        const std::uint32_t i = order_[n];
        const float own = bodies.mass[i].mass * std::fabs(bodies.free[i].gravity_scale);
        borne_[i] += own, surely_borne_[i] += own;
        const auto other = [&](std::uint32_t k) {
            const auto& m = edges[k];
            return m.body_a == i ? m.body_b : m.body_a;
        };
        int holders = 0, touched = 0, beside = 0;
        for (const std::uint32_t k : lists.of(i)) {
            const bool is_holder = depth_[other(k)] < depth_[i], touches_it = edges[k].touches;
            holders += is_holder, touched += is_holder && touches_it;
            beside += touches_it && depth_[other(k)] == depth_[i];
        }
        // All holders of a body of depth 1 are one ground.
        const float surely = beside == 0 && (touched == 1 || depth_[i] == 1) ? surely_borne_[i] : 0;
        const float each = borne_[i] / static_cast<float>(std::max(holders, 1));
        for (const std::uint32_t k : lists.of(i))
            if (depth_[other(k)] < depth_[i]) {
                through_[k] = each, borne_[other(k)] += each;
                if (edges[k].touches) known_[k] = surely, surely_borne_[other(k)] += surely;
                layers_[other(k)] = std::max(layers_[other(k)], layers_[i] + 1);
            }
    }
}

// The root of the island of a manifold, one of whose bodies can be moved.
template<int Dim>
std::uint32_t Islands<Dim>::root_of(const flow::Bodies<Dim>& bodies, const flow::Edge& m) const {
    return parent_[moves(bodies, m.body_a) ? m.body_a : m.body_b];
}

template<int Dim>
void Islands<Dim>::want_levels(const flow::Bodies<Dim>& bodies,
                               std::span<const flow::Manifold<Dim>> manifolds,
                               std::span<const flow::Edge> edges, float tick) {
    for (std::size_t k = 0; k < edges.size(); k++) {
        const auto& m = edges[k];
        const std::uint32_t island = root_of(bodies, m);
        manifolds_[island]++;
        const Approach how = approach(bodies, manifolds[k], tick);
        if (how == Approach::Meets) fast_[island] = 1;
        if (how != Approach::Slow && !m.touches) continue; // in flight: it bears nothing yet
        float gives = give_ * through_[k] * lightest(bodies, m);
        std::uint8_t level = 0;
        for (; level < kMostLevel && gives > kMostGive * m.thickness; level++) gives *= 0.25f;
        wanted_[island].level = std::max(wanted_[island].level, level);
    }
    // Bodies of different levels cannot meet within a tick. What is hit may come to others in it, so all that
    // is about to be hit has the world's substeps; loads do not show in so short a time.
    for (std::uint32_t i = 0; i < wanted_.size(); i++)
        if (fast_[i]) wanted_[i].level = 0, wanted_[i].firm = true;
}

template<int Dim>
void Islands<Dim>::find_deficits(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges,
                                 float gravity) {
    for (std::size_t k = 0; k < edges.size(); k++) {
        const auto& m = edges[k];
        const std::uint32_t held = moves(bodies, m.body_a) ? m.body_a : m.body_b, island = parent_[held];
        if (depth_[held] == kNowhere && m.nearest < -kOverlap * m.thickness) deficit_[island] = 1;
        if (!(through_[k] > 0)) continue;
        deficit_[island] += kFound * gravity * through_[k] - m.force;
    }
    // Joints and contacts are solved in turn, and find each other's loads by further passes.
    for (const std::uint32_t i : jointed_)
        if (manifolds_[i] > 0) deficit_[i] = 1;
    for (std::uint32_t i = 0; i < wanted_.size(); i++) wanted_[i].unconverged = deficit_[i] > 0;
    for (const std::uint32_t i : jointed_) joint_work_[i] += kJointCost;
}

// A pass hands a load on by about one body, and towers whose contacts are firmer than that follows sway for
// ever; so do contacts that even the most substeps leave too soft: a cube of 10 t on one of 1 kg. They need
// their softness, and less of their load counts as known.
template<int Dim>
void Islands<Dim>::limit_known_loads(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges) {
    for (std::size_t k = 0; k < edges.size(); k++) {
        if (!(known_[k] > 0)) continue;
        const auto& m = edges[k];
        const int level = treatments_[root_of(bodies, m)].level;
        const float gives = std::ldexp(give_ * through_[k] * lightest(bodies, m), -2 * level);
        const std::uint32_t layers = layers_[depth_[m.body_a] > depth_[m.body_b] ? m.body_a : m.body_b];
        const float tall = std::clamp(static_cast<float>(layers) / kLayers, 1.0f, kTallest);
        known_[k] *= std::min(1.0f, kMostGive * m.thickness / gives) * (1 - kLessKnown * (tall - 1));
    }
}

template<int Dim>
void Islands<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        std::span<const flow::Edge> edges, const flow::ContactLists& lists,
                        const Vec<Dim>& gravity, float tick, int substeps, float compliance,
                        std::span<const flow::JointEdge> joints, std::size_t joint_count) {
    const float seconds = tick / static_cast<float>(substeps);
    base::make_room(fast_, bodies.moving), base::make_room(joint_work_, bodies.moving);
    for (auto* v : {&parent_, &order_, &manifolds_, &further_}) base::make_room(*v, bodies.moving);
    for (auto* v : {&through_, &known_}) base::make_room(*v, edges.size());
    for (auto* v : {&wanted_, &treatments_}) base::make_room(*v, bodies.moving);
    base::make_room(deficit_, bodies.moving);
    parent_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = i;
    join(bodies, edges);
    join(bodies, joints);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = root(i);
    measure_depths(bodies, edges, lists);
    hand_down(bodies, edges, lists);
    give_ = compliance * length(gravity) * seconds * seconds;
    wanted_.assign(bodies.moving, {}), treatments_.assign(bodies.moving, {});
    manifolds_.assign(bodies.moving, 0), deficit_.assign(bodies.moving, 0);
    fast_.assign(bodies.moving, 0), joint_work_.assign(bodies.moving, 0);
    want_levels(bodies, manifolds, edges, tick);
    joints_ = joint_count;
    jointed_.clear();
    base::make_room(jointed_, joint_count);
    for (const flow::JointEdge& e : joints.first(joint_count))
        jointed_.push_back(
            parent_[e.body_a < bodies.moving && moves(bodies, e.body_a) ? e.body_a : e.body_b]);
    find_deficits(bodies, edges, length(gravity));
}

template<int Dim>
void Islands<Dim>::decide(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges, int substeps,
                          float share, Budget& budget, std::vector<std::uint32_t>& claims) {
    const auto plain = [&](std::uint64_t count) {
        return count * static_cast<std::uint64_t>(substeps) * kPlainPasses;
    };
    // Of so many passes at a level, beyond the plain treatment.
    const auto passes = [&](std::uint32_t island, int level, int count) {
        const auto a_pass = kCostOfIterations * manifolds_[island] + joint_work_[island];
        return static_cast<std::uint64_t>(std::ldexp(a_pass * substeps * count, level));
    };
    const auto cost = [&](std::uint32_t island, int level) {
        return passes(island, level, kPlainPasses) - plain(manifolds_[island] + joint_work_[island]);
    };
    budget.begin(plain(edges.size() + kJointCost * joints_), share, bodies.moving);
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (parent_[i] != i) continue;
        treatments_[i].exact = manifolds_[i] == 0 && share > 0; // it may meet something within the tick
        if (manifolds_[i] + joint_work_[i] == 0) continue;
        const std::uint64_t now = std::min(cost(i, wanted_[i].level), std::uint64_t{0xffffffff});
        if (std::fabs(static_cast<double>(now) - claims[i]) > kSameClaim * claims[i])
            claims[i] = static_cast<std::uint32_t>(now);
        if (manifolds_[i] <= kMostManifolds) budget.claim(i, claims[i]);
        treatments_[i].firm = wanted_[i].firm || wanted_[i].level > 0;
    }
    further_.clear();
    const auto wanted = [&](std::uint32_t island) { return int{wanted_[island].level}; };
    budget.grant(wanted, cost, [&](std::uint32_t island, int level) {
        treatments_[island] = wanted_[island];
        treatments_[island].exact = true;
        treatments_[island].firm = wanted_[island].firm || level < wanted_[island].level;
        treatments_[island].level = static_cast<std::uint8_t>(level);
        // An island wants further passes in one tick and not in the next: were they part of its claim,
        // islands would take turns in being refused, and none would stand.
        if (wanted_[island].unconverged) further_.push_back(island);
    });
    for (const std::uint32_t island : further_)
        treatments_[island].unconverged =
            budget.buy_passes(passes(island, treatments_[island].level, kUnconvergedPasses - kPlainPasses));
    limit_known_loads(bodies, edges);
    for (std::uint32_t i = 0; i < bodies.moving; i++) claims[i] = claims[parent_[i]];
}

template class Islands<2>;
template class Islands<3>;

}
