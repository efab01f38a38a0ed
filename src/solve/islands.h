// Islands: bodies that hang together by contacts, and how many times more substeps each needs than others.
//
// A soft contact gives way under its load in proportion to load / mass * h^2, so an island takes so many substeps,
// two, four or eight times those of the world, that none of its contacts gives by more than a share of the
// thickness: under the load of the tick before, and under what a heavy body that rests on a light one will put on
// it. Bodies that others cannot move join no islands. O(bodies + manifolds).
#pragma once

#include "flow/contacts.h"

#include <span>
#include <vector>

namespace astasis::solve {

inline constexpr int kMostDoublings = 3;

template<int Dim> class Islands {
public:
    // `give` is how much a contact gives way for a load of one mass and a substep of `seconds`: share of
    // load / mass * seconds^2.
    void find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              const Vec<Dim>& gravity, float seconds, float give);
    // How often the substeps of a moving body's island are doubled, by the body's place.
    std::span<const std::uint8_t> doublings() const { return doublings_; }

private:
    std::uint32_t root(std::uint32_t i);
    void join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds);
    float need(const flow::Bodies<Dim>& bodies, const flow::Manifold<Dim>& manifold,
               const Vec<Dim>& gravity) const;

    std::vector<std::uint32_t> parent_, touched_;
    std::vector<std::uint8_t> doublings_;
};

extern template class Islands<2>;
extern template class Islands<3>;

}
