// Slots with generations: turns an id into the place of a thing in dense arrays, and refuses ids of what is
// gone.
//
// (1) place(id) is the index of the thing in the dense arrays; ids()[place] is the id back.
// (2) Removing moves the last thing into the gap: the owner of the arrays does the same.
// (3) Freed slots are used again last in, first out, so that equal edits give equal ids.
// Tested by tests/base/base_test.cpp.
#pragma once

#include "astasis/ids.h"

#include <span>
#include <vector>

namespace astasis::base {

class SlotMap {
public:
    static constexpr std::uint32_t kNone = 0xffffffffu;

    void reserve(std::size_t things) { slots_.reserve(things), free_.reserve(things), ids_.reserve(things); }
    BodyId add();                                  // its place is size() - 1 afterwards
    std::uint32_t remove(BodyId id);               // the place that the last thing now takes
    void swap(std::uint32_t i, std::uint32_t j);   // two things that change places
    std::uint32_t place(BodyId id) const noexcept; // kNone if stale
    std::size_t size() const noexcept { return ids_.size(); }
    std::span<const BodyId> ids() const noexcept { return ids_; }

private:
    struct Slot {
        std::uint32_t place = kNone;
        std::uint32_t generation = 0;
    };
    std::vector<Slot> slots_;
    std::vector<std::uint32_t> free_;
    std::vector<BodyId> ids_;
};

}
