// Colouring of constraints: those of one colour write to different bodies, so that they can be solved side by
// side.
//
// Colours are given greedily, in order; of each kind anew: between bodies that can both be moved, and between
// one that can and one that cannot. What finds none left, at a body with dozens of neighbours, overflows.
// O(1) each.
#pragma once

#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace astasis::solve {

class Colours {
public:
    static constexpr std::size_t kOfAKind = 24;
    // Classes: the colours between moving bodies, those with others, and the overflow of both.
    static constexpr std::size_t kOverflow = 2 * kOfAKind, kFixedOverflow = kOverflow + 1,
                                 kClasses = kOverflow + 2;

    void begin(std::size_t row_count) {
        for (auto& taken : taken_) taken.assign(row_count, 0);
    }
    // The class of what acts on the bodies of two rows; a row counts only if its body can be moved.
    std::uint8_t give(std::uint32_t row_a, bool a_moves, std::uint32_t row_b, bool b_moves) {
        constexpr std::uint32_t kAll = (1u << kOfAKind) - 1;
        const std::size_t fixed = a_moves && b_moves ? 0 : 1;
        auto& taken = taken_[fixed];
        std::uint32_t used = 0;
        if (a_moves) used |= taken[row_a];
        if (b_moves) used |= taken[row_b];
        if (used == kAll) return static_cast<std::uint8_t>(kOverflow + fixed);
        const auto colour = static_cast<std::size_t>(std::countr_one(used));
        if (a_moves) taken[row_a] |= 1u << colour;
        if (b_moves) taken[row_b] |= 1u << colour;
        return static_cast<std::uint8_t>(fixed * kOfAKind + colour);
    }

private:
    std::array<std::vector<std::uint32_t>, 2> taken_; // colours of each row, of both kinds
};

}
