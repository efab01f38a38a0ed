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

template<typename Id> class SlotMap {
public:
    static constexpr std::uint32_t kNone = 0xffffffffu;

    void reserve(std::size_t things) { slots_.reserve(things), free_.reserve(things), ids_.reserve(things); }
    Id add();                                    // its place is size() - 1 afterwards
    std::uint32_t remove(Id id);                 // the place that the last thing now takes
    void swap(std::uint32_t i, std::uint32_t j); // two things that change places
    std::uint32_t place(Id id) const noexcept;   // kNone if stale
    bool contains(Id id) const noexcept { return place(id) != kNone; }
    std::size_t size() const noexcept { return ids_.size(); }
    std::span<const Id> ids() const noexcept { return ids_; }
    // Whether slots, places and free slots agree, which those of bytes need not. O(slots).
    bool is_whole() const;
    // All that it consists of, for being kept as bytes and taken from them.
    template<typename Pass> void pass_all(Pass& pass) {
        pass(slots_, [&](Slot& slot) { pass(slot.place), pass(slot.generation); });
        pass(free_, [&](std::uint32_t& i) { pass(i); });
        pass(ids_, [&](Id& id) { pass(id.index), pass(id.generation); });
    }

private:
    struct Slot {
        std::uint32_t place = kNone;
        std::uint32_t generation = 0;
    };
    std::vector<Slot> slots_;
    std::vector<std::uint32_t> free_;
    std::vector<Id> ids_;
};

extern template class SlotMap<BodyId>;
extern template class SlotMap<MaterialId>;
extern template class SlotMap<JointId>;
extern template class SlotMap<FieldId>;

}
