// Islands: bodies that hang together by contacts, and how hard each has to be solved: how many times more
// substeps it needs than others, and whether its contacts still have to find their load.
//
// A soft contact gives way under its load in proportion to load / mass * h^2, so an island takes so many
// substeps, the world's own, two to sixteen times as many, that none of its contacts gives by more than a
// share of the thickness. The load is what the masses say, not what the contacts carried last: each body
// hands its weight and what it bears to its neighbours on the shortest ways to something that cannot be
// moved. It is known before the first contact has been solved, and impacts and the change of substeps itself
// do not disturb it. Bodies that others cannot move join no islands; what hangs together but touches none of
// them bears nothing. Where all that a body bears goes through one manifold, since it touches nothing else
// that is as near to the ground, that load is certain, and the contact need not give way to find it. O(bodies
// + manifolds).
#pragma once

#include "flow/contact_lists.h"

#include <span>
#include <vector>

namespace astasis::solve {

inline constexpr int kMostDoublings = 4;

// How hard an island is solved.
struct Effort {
    std::uint8_t doublings = 0; // of the world's own substeps
    // What its contacts carried last is less than a tenth of what they have to bear: what has just come
    // together or was added so. A pass spreads a load by about one body, and what is borne too late turns and
    // sinks meanwhile. Or it hangs on nothing and overlaps: what pushes it apart is taken back as slowly.
    bool unsettled = false;
    friend bool operator==(const Effort&, const Effort&) = default;
};

template<int Dim> class Islands {
public:
    // `give` is how much a contact gives way for a load of one mass and a substep of `seconds`: share of
    // load / mass * seconds^2.
    void find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              const flow::ContactLists& lists, const Vec<Dim>& gravity, float seconds, float give);
    // Of a moving body's island, by the body's place.
    std::span<const Effort> efforts() const { return efforts_; }
    bool some_take(const Effort& effort) const { return taken_[effort.doublings][effort.unsettled ? 1 : 0]; }
    // Of each manifold, the mass that weighs on it for certain.
    std::span<const float> certain_loads() const { return certain_; }
    // The lowest place in the island of each moving body.
    std::span<const std::uint32_t> roots() const { return parent_; }

private:
    std::uint32_t root(std::uint32_t i);
    void join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds);
    void measure_depths(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        const flow::ContactLists& lists);
    void hand_down(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                   const flow::ContactLists& lists);
    void count_substeps(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        float fall);
    void hold_back(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                   float fall);
    void weigh(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
               float gravity);

    // By place: the number of contacts to something that cannot be moved, the mass that a body bears and its
    // own.
    std::vector<std::uint32_t> depth_;
    std::vector<float> borne_;
    std::vector<float> surely_;  // of borne_, what is certain
    std::vector<float> through_; // the mass that weighs on each manifold
    std::vector<float> certain_;
    std::vector<std::uint32_t> layers_; // of bodies that each bears, itself one
    std::vector<std::uint32_t> order_;  // bodies by depth
    std::vector<std::uint32_t> parent_;
    std::vector<float> wanting_; // what the contacts of each island miss of a tenth of their load, by root
    std::vector<Effort> efforts_;
    bool taken_[kMostDoublings + 1][2]{};
};

extern template class Islands<2>;
extern template class Islands<3>;

}
