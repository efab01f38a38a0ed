// Limits of scenes, checked before anything is made: files come from strangers.
#pragma once

#include "astasis/scene/scene.h"

namespace astasis::scene {

inline constexpr std::uint64_t kMostMemory = 1'000'000'000; // bytes

// About the memory that a body of these shapes takes while it moves, with its joints and contacts left out.
template<int Dim> std::uint64_t bytes_of(const std::vector<ShapeSpec<Dim>>& shapes);

// Sums what a file asks for; each call throws Error when that is more than kMostMemory.
template<int Dim> class Asked {
public:
    void add_bodies(std::uint64_t count, const std::vector<ShapeSpec<Dim>>& shapes);
    void add_joints(std::uint64_t count);

private:
    void check() const;
    std::uint64_t bodies_ = 0, shapes_ = 0, joints_ = 0, bytes_ = 0;
};

// Throws Error if the bounds of so many shapes overlap that their contacts would take more than kMostMemory:
// those of the dynamic bodies given with all others, beside `before` pairs. Returns the number of those
// pairs. O(bodies log shapes + pairs).
template<int Dim>
std::uint64_t check_pairs(const World<Dim>& world, std::span<const BodyId> ids, std::uint64_t before);

}
