#include "solve/rows.h"

#include "base/room.h"
#include "math/locks.h"
#include "math/numbers.h"

#include <algorithm>
#include <bit>
#include <utility>

namespace astasis::solve {

template<int Dim> RowGroups<Dim>::RowGroups(simd::InstructionSet set) {
    for (Part& part : parts_) part.kernels = &row_kernels<Dim>(simd::InstructionSet::Scalar);
    parts_[kColoured].kernels = &row_kernels<Dim>(set);
}

template<int Dim> float* RowGroups<Dim>::field(const PlaceOf& at, int f) const {
    const auto lanes = static_cast<std::uint32_t>(parts_[at.part].kernels->lanes);
    return parts_[at.part].floats.data() +
           (at.slot / lanes * R::kFields + static_cast<std::uint32_t>(f)) * lanes + at.slot % lanes;
}

template<int Dim>
void RowGroups<Dim>::place(const flow::Bodies<Dim>& bodies, std::span<const RowBlock<Dim>> blocks,
                           std::span<const std::uint32_t> rows, std::size_t row_count) {
    base::make_room(class_of_, blocks.size()), base::make_room(place_of_, blocks.size());
    class_of_.resize(blocks.size()), place_of_.resize(blocks.size());
    colours_.begin(row_count);
    for (std::size_t n = 0; n < blocks.size(); n++) {
        const auto &a = bodies.mass[blocks[n].body_a], &b = bodies.mass[blocks[n].body_b];
        class_of_[n] = colours_.give(rows[blocks[n].body_a], a.inverse_mass > 0, rows[blocks[n].body_b],
                                     b.inverse_mass > 0);
    }
    std::array<std::uint32_t, Colours::kClasses> next{}; // slot of each class, after its number
    for (const std::uint8_t c : class_of_) next[c]++;
    for (Part& part : parts_) part.slots = 0;
    for (std::size_t c = 0; c < Colours::kClasses; c++) { // each begins a group
        Part& part = parts_[part_of(c)];
        const auto lanes = static_cast<std::uint32_t>(part.kernels->lanes);
        const std::uint32_t count = std::exchange(next[c], part.slots);
        part.slots += (count + lanes - 1) / lanes * lanes;
    }
    for (std::size_t n = 0; n < blocks.size(); n++)
        place_of_[n] = {part_of(class_of_[n]), next[class_of_[n]]++};
    for (Part& part : parts_) {
        part.floats.resize(part.slots * static_cast<std::size_t>(R::kFields));
        std::fill_n(part.floats.data(), part.slots * static_cast<std::size_t>(R::kFields), 0.0f);
    }
    for (std::size_t n = 0; n < blocks.size(); n++) {
        const PlaceOf& at = place_of_[n];
        const auto set_int = [](float* to, int value) { *to = std::bit_cast<float>(value); };
        set_int(field(at, R::kBodyA), static_cast<int>(rows[blocks[n].body_a]));
        set_int(field(at, R::kBodyB), static_cast<int>(rows[blocks[n].body_b]));
        const auto set_mass = [&](int f, std::uint32_t i) {
            const Vec<Dim> mass = math::inverse_mass(bodies.mass[i].inverse_mass, bodies.free[i].locks);
            for (int k = 0; k < Dim; k++) *field(at, f + k) = mass[k];
        };
        set_mass(R::kMassA, blocks[n].body_a), set_mass(R::kMassB, blocks[n].body_b);
        const auto lanes = static_cast<std::uint32_t>(parts_[at.part].kernels->lanes);
        float* most = field({at.part, at.slot / lanes * lanes}, R::kMostRows);
        set_int(most, std::max(std::bit_cast<int>(*most), blocks[n].count));
    }
}

template<int Dim> void RowGroups<Dim>::write(const PlaceOf& at, const RowBlock<Dim>& block) const {
    for (int i = 0; i < block.count; i++) {
        const Row<Dim>& row = block.rows[static_cast<std::size_t>(i)];
        const int r = R::row(i);
        for (int k = 0; k < Dim; k++) *field(at, r + R::kAlong + k) = row.along[k];
        for (int k = 0; k < R::kAxial; k++) {
            *field(at, r + R::kTurnA + k) = math::component(row.turn_a, k);
            *field(at, r + R::kTurnB + k) = math::component(row.turn_b, k);
        }
        *field(at, r + R::kWanted) = row.wanted, *field(at, r + R::kFeedback) = row.feedback;
        *field(at, r + R::kLeak) = row.leak;
        *field(at, r + R::kLeast) = row.least, *field(at, r + R::kMost) = row.most;
        *field(at, r + R::kImpulse) = row.impulse;
    }
}

template<int Dim> void RowGroups<Dim>::begin(std::span<const RowBlock<Dim>> blocks, const BodyRows& rows) {
    for (std::size_t n = 0; n < blocks.size(); n++) write(place_of_[n], blocks[n]);
    for (Part& part : parts_) part.kernels->begin(part.floats.data(), part.groups(), rows);
}

template<int Dim> void RowGroups<Dim>::solve(const BodyRows& rows, bool with_feedback) {
    for (Part& part : parts_) part.kernels->solve(part.floats.data(), part.groups(), rows, with_feedback);
}

template<int Dim> void RowGroups<Dim>::give(std::span<RowBlock<Dim>> blocks) const {
    for (std::size_t n = 0; n < blocks.size(); n++)
        for (int i = 0; i < blocks[n].count; i++)
            blocks[n].rows[static_cast<std::size_t>(i)].impulse =
                *field(place_of_[n], R::row(i) + R::kImpulse);
}

template class RowGroups<2>;
template class RowGroups<3>;

}
