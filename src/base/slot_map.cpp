#include "base/slot_map.h"

#include <utility>

namespace astasis::base {

template<typename Id> Id SlotMap<Id>::add() {
    std::uint32_t index;
    if (free_.empty()) {
        index = static_cast<std::uint32_t>(slots_.size());
        slots_.emplace_back();
    } else {
        index = free_.back();
        free_.pop_back();
    }
    slots_[index].place = static_cast<std::uint32_t>(ids_.size());
    ids_.push_back({index, slots_[index].generation});
    return ids_.back();
}

template<typename Id> std::uint32_t SlotMap<Id>::remove(Id id) {
    Slot& slot = slots_[id.index];
    const std::uint32_t gap = slot.place;
    ids_[gap] = ids_.back();
    slots_[ids_[gap].index].place = gap;
    ids_.pop_back();
    slot.place = kNone;
    slot.generation++;
    free_.push_back(id.index);
    return gap;
}

template<typename Id> void SlotMap<Id>::swap(std::uint32_t i, std::uint32_t j) {
    std::swap(ids_[i], ids_[j]);
    slots_[ids_[i].index].place = i;
    slots_[ids_[j].index].place = j;
}

template<typename Id> std::uint32_t SlotMap<Id>::place(Id id) const noexcept {
    if (id.index >= slots_.size() || slots_[id.index].generation != id.generation) return kNone;
    return slots_[id.index].place;
}

template<typename Id> bool SlotMap<Id>::is_whole() const {
    if (ids_.size() + free_.size() != slots_.size()) return false;
    for (std::size_t i = 0; i < ids_.size(); i++)
        if (place(ids_[i]) != i) return false;
    std::vector<bool> seen(slots_.size());
    for (const std::uint32_t i : free_) {
        if (i >= slots_.size() || slots_[i].place != kNone || seen[i]) return false;
        seen[i] = true;
    }
    return true;
}

template class SlotMap<BodyId>;
template class SlotMap<MaterialId>;
template class SlotMap<JointId>;
template class SlotMap<FieldId>;

}
