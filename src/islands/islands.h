// The graph of islands: bodies that hang together by manifolds, the load of each contact, and how each island
// has to be solved.
// Stage islands. Reads bodies, manifolds and joints; writes the treatment of each island and known loads.
//
// A soft contact gives way under its load in proportion to load / mass * h^2, so an island wants its substeps
// halved until none of its contacts gives way by more than a share of the thickness. The load follows from
// the masses, not from what contacts carried last: each body hands its weight and what it bears to its
// neighbours on the shortest ways to something that cannot be moved. It is known before the first contact has
// been solved, and impacts do not disturb it. Bodies that others cannot move join no islands. Where all that
// a body bears goes through one manifold, since it touches nothing else that is as near to the ground, that
// load is known, and the contact need not give way to find it. O(bodies + manifolds); no allocation once
// warm. Tested by tests/islands/islands_test.cpp.
#pragma once

#include "flow/contact_lists.h"
#include "flow/edges.h"
#include "flow/joints.h"
#include "islands/budget.h"

#include <algorithm>
#include <span>
#include <vector>

namespace astasis::islands {

inline constexpr int kMostLevel = 4;

// The treatment of an island in the solver.
struct Treatment {
    std::uint8_t level = 0;   // its substeps are the world's, doubled so often
    bool unconverged = false; // its contacts have yet to find their load: further passes
    bool firm = false;        // its contacts have less softness
    bool exact = false;       // more iterations of a manifold's points; impacts in the order of their times
    friend bool operator==(const Treatment&, const Treatment&) = default;
};
// Islands with more manifolds are crowds, which get nothing beyond the plain treatment.
inline constexpr std::uint32_t kMostManifolds = 500;
// The softness of contacts whose island wants smaller substeps than it gets.
inline constexpr float kFirmSoftness = 0.06f;
inline constexpr int kPlainPasses = 2, kUnconvergedPasses = 5; // of a substep
// The cost of an exact island's iterations as a multiple of a plain one's.
inline constexpr double kCostOfIterations = 1.5;

// A joint costs as much as so many manifolds: see bench/joints_bench.
inline constexpr std::uint32_t kJointCost = 8;

template<int Dim> class Islands {
public:
    // Joins the bodies and finds depths and loads, and what each island wants. `compliance` is the share of
    // load / mass * substep^2 by which a contact gives way. The first `joint_count` of `joints` are joints,
    // the others join bodies but cost nothing.
    void find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              std::span<const flow::Edge> edges, const flow::ContactLists& lists, const Vec<Dim>& gravity,
              float tick, int substeps, float compliance, std::span<const flow::JointEdge> joints = {},
              std::size_t joint_count = 0);
    // A moving body's island wants substeps at this level at least: after find().
    void want_level(std::uint32_t body, int level) {
        Treatment& wanted = wanted_[parent_[body]];
        wanted.level = std::max(wanted.level, static_cast<std::uint8_t>(level));
    }
    // Grants what the budget allows. `claims` are those by which the islands of each moving body were last
    // decided about, by place: an island keeps its claim until it has changed by a third, or heaps that go to
    // and fro between two treatments would never rest.
    void decide(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges, int substeps, float share,
                Budget& budget, std::vector<std::uint32_t>& claims);

    // The lowest place in the island of each moving body.
    std::span<const std::uint32_t> roots() const { return parent_; }
    // Of a moving body's island, by the body's place.
    const Treatment& treatment_of(std::uint32_t body) const { return treatments_[parent_[body]]; }
    // Of each manifold, the mass that is known to weigh on it.
    std::span<const float> known_loads() const { return known_; }

private:
    std::uint32_t root(std::uint32_t i);
    std::uint32_t root_of(const flow::Bodies<Dim>& bodies, const flow::Edge& e) const;
    template<typename Edge> void join(const flow::Bodies<Dim>& bodies, std::span<const Edge> edges);
    void measure_depths(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges,
                        const flow::ContactLists& lists);
    void hand_down(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges,
                   const flow::ContactLists& lists);
    void want_levels(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                     std::span<const flow::Edge> edges, float tick);
    void find_deficits(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges, float gravity);
    void limit_known_loads(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges);

    // By place: the number of contacts to something that cannot be moved, the mass that a body bears and its
    // own, what is known of it, and the layers of bodies that it bears, itself one.
    std::vector<std::uint32_t> depth_;
    std::vector<float> borne_, surely_borne_;
    std::vector<std::uint32_t> layers_;
    std::vector<float> through_, known_; // by manifold
    std::vector<std::uint32_t> order_;   // bodies by depth
    std::vector<std::uint32_t> parent_;
    // By root: how much load its contacts miss of a tenth of what they bear, its manifolds, what its
    // joints cost, what it wants, what it gets.
    std::vector<float> deficit_;
    std::vector<std::uint32_t> manifolds_, joint_work_;
    std::size_t joints_ = 0;
    std::vector<std::uint32_t> jointed_; // the root of each joint
    std::vector<Treatment> wanted_, treatments_;
    std::vector<std::uint32_t> further_; // roots of islands that want further passes
    std::vector<std::uint8_t> fast_;     // whether something is about to be hit
    float give_ = 0;                     // penetration under a load of one mass on one mass
};

extern template class Islands<2>;
extern template class Islands<3>;

}
