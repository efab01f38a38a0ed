// A world's state as a value.
#include "world/state.h"

namespace astasis {

// Everything is a value but where colliders find their shapes: in the rows of the copy.
template<int Dim> std::unique_ptr<typename World<Dim>::State> World<Dim>::State::copy() const {
    auto out = std::make_unique<State>(*this);
    for (const Row& row : out->rows)
        for (std::size_t k = 0; k < row.shapes.size(); k++)
            out->colliders[row.colliders[k]].spec = &row.shapes[k];
    return out;
}

template<int Dim> Snapshot<Dim> World<Dim>::save() const {
    state_->refuse_in_tick();
    return Snapshot<Dim>(state_->copy());
}
template<int Dim> void World<Dim>::restore(const Snapshot<Dim>& snapshot) {
    state_->refuse_in_tick();
    const bool timing = state_->timing;
    auto hooks = std::move(state_->hooks);
    state_ = snapshot.state_->copy();
    state_->timing = timing, state_->hooks = std::move(hooks);
}
template<int Dim> std::uint64_t Snapshot<Dim>::ticks() const noexcept { return state_->ticks; }

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::unique_ptr<World<Dim>::State> World<Dim>::State::copy() const;                             \
    template Snapshot<Dim> World<Dim>::save() const;                                                         \
    template void World<Dim>::restore(const Snapshot<Dim>&);                                                 \
    template class Snapshot<Dim>;
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
