// How a quantity is spread over bodies.
#pragma once

#include "astasis/function_ref.h"
#include "astasis/world.h"

#include <cstddef>
#include <vector>

namespace astasis {

// Counts of values in bins of one width; a bin holds its lower end, the last one both of its ends.
struct Histogram {
    double low = 0, high = 0;
    std::vector<std::size_t> counts{};
    std::size_t below = 0, above = 0; // values outside of low to high

    double width() const { return (high - low) / static_cast<double>(counts.size()); }
    std::size_t total() const; // of all values, outside ones too
    // The share of all values that a bin has, per unit of the quantity: what a law's density is compared
    // with.
    double density(std::size_t bin) const;
};

// Throws Error for bins of 0, a range that is not finite or not rising, or a value that is not a number.
Histogram histogram_of(std::span<const double> values, double low, double high, std::size_t bins);

// Of all dynamic bodies, in the order of World::bodies(). O(bodies).
template<int Dim>
std::vector<double> values_of(const World<Dim>& world, FunctionRef<double(BodyId)> quantity);

}
