// Rows in groups of blocks that write to different bodies, as the kernels want them (solve/row_kernels.h).
//
// O(blocks); nothing is allocated once warm.
#pragma once

#include "solve/aligned.h"
#include "solve/colours.h"
#include "solve/row_kernels.h"

#include <span>

namespace astasis::solve {

// A constraint on two bodies' velocities: see row_kernels.h for the meaning of each number.
template<int Dim> struct Row {
    Vec<Dim> along{};
    Axial<Dim> turn_a{}, turn_b{};
    float wanted = 0, feedback = 0; // m/s, or rad/s where along is 0
    float leak = 0; // 0 is rigid, which a chain that bears a hundred times its links does not stand; below 1
    float least = -1e30f, most = 1e30f, impulse = 0; // N s, N m s
};

template<int Dim> struct RowBlock {
    static constexpr int kRows = RowLayout<Dim>::kRows;
    std::uint32_t body_a = 0, body_b = 0;
    int count = 0;
    std::array<Row<Dim>, kRows> rows{};
};

template<int Dim> class RowGroups {
public:
    explicit RowGroups(simd::InstructionSet set);
    // Gives each block its place; its bodies stand at `rows`, and row 0 is that of all that never moves.
    void place(const flow::Bodies<Dim>& bodies, std::span<const RowBlock<Dim>> blocks,
               std::span<const std::uint32_t> rows, std::size_t row_count);
    // At the beginning of a substep: the same blocks, as they are where the bodies are now. The bodies are
    // given their impulses.
    void begin(std::span<const RowBlock<Dim>> blocks, const BodyRows& rows);
    void solve(const BodyRows& rows, bool with_feedback);
    // The impulses so far.
    void give(std::span<RowBlock<Dim>> blocks) const;

private:
    using R = RowLayout<Dim>;
    struct Part { // lanes side by side, or one alone
        const RowKernels<Dim>* kernels = nullptr;
        Floats floats;
        std::uint32_t slots = 0;
        int groups() const { return static_cast<int>(slots) / kernels->lanes; }
    };
    struct PlaceOf {
        std::uint32_t part, slot;
    };
    float* field(const PlaceOf& at, int f) const;
    void write(const PlaceOf& at, const RowBlock<Dim>& block) const;

    enum : std::uint32_t { kOverflowing, kColoured, kFixedOverflowing, kParts }; // in the order of solving
    static std::uint32_t part_of(std::size_t of_class) {
        return of_class == Colours::kOverflow        ? kOverflowing
               : of_class == Colours::kFixedOverflow ? kFixedOverflowing
                                                     : kColoured;
    }
    mutable std::array<Part, kParts> parts_;
    Colours colours_;
    std::vector<std::uint8_t> class_of_;
    std::vector<PlaceOf> place_of_;
};

extern template class RowGroups<2>;
extern template class RowGroups<3>;

}
