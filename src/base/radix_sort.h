// Sorts by whole numbers, digit by digit, from the lowest (Knuth, The Art of Computer Programming, vol. 3,
// sect. 5.2.5): stable, and of few comparisons' cost where the numbers are small. O(n digits).
#pragma once

#include "base/room.h"

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <utility>
#include <vector>

namespace astasis::base {

// By key(value), of which no more than `most` occurs; `scratch` keeps its room from call to call.
template<typename Value, typename Key>
void radix_sort(std::vector<Value>& values, std::vector<Value>& scratch, std::uint64_t most, const Key& key) {
    constexpr int kBits = 11;
    constexpr std::size_t kDigits = std::size_t{1} << kBits;
    make_room(scratch, values.size());
    scratch.resize(values.size());
    Value *from = values.data(), *to = scratch.data();
    for (int shift = 0; shift < 64 && most >> shift != 0; shift += kBits) {
        const auto digit = [&](const Value& v) {
            return static_cast<std::size_t>(key(v) >> shift) & (kDigits - 1);
        };
        std::array<std::uint32_t, kDigits + 1> first{};
        for (std::size_t i = 0; i < values.size(); i++) first[digit(from[i]) + 1]++;
        for (std::size_t d = 0; d < kDigits; d++) first[d + 1] += first[d];
        for (std::size_t i = 0; i < values.size(); i++) to[first[digit(from[i])]++] = from[i];
        std::swap(from, to);
    }
    if (from != values.data()) std::copy_n(from, values.size(), values.data()); // each keeps its room
}

}
