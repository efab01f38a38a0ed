#include "broad/box_index.h"

namespace astasis::broad {

// Of what stands still only what rounding might take away from a ray that grazes it.
constexpr float kStillMargin = 1e-4f;

template<int Dim> Box<Dim> BoxIndex<Dim>::fattened(const flow::Collider<Dim>& c, bool moving) const {
    Bounds<Dim> b = flow::reached(c);
    double sum = 0;
    for (int k = 0; k < Dim; k++) sum += b.high[k] - b.low[k];
    const double margin = (moving ? fattening_.margin : kStillMargin) * (sum / Dim);
    for (int k = 0; k < Dim; k++) {
        const double ahead = moving ? static_cast<double>(c.drift[k]) * fattening_.ahead : 0.0;
        b.low[k] += std::min(ahead, 0.0) - margin;
        b.high[k] += std::max(ahead, 0.0) + margin;
    }
    return box_around(b);
}

template<int Dim> void BoxIndex<Dim>::put(std::uint32_t collider, const flow::Collider<Dim>& c, bool moving) {
    if (collider >= entries_.size()) entries_.resize(collider + 1);
    Entry& e = entries_[collider];
    const Where before = e.where;
    if (before != Where::Nowhere) leave(collider);
    e.box = fattened(c, moving);
    e.sides = 0;
    for (int k = 0; k < Dim; k++)
        e.sides += static_cast<float>(e.box.high[k]) - static_cast<float>(e.box.low[k]);
    e.where = !is_finite(e.box) ? Where::Endless : moving ? Where::Moving : Where::Still;
    if (e.where == Where::Endless) {
        endless_.push_back(collider);
    } else {
        Grown& to = grown(e.where);
        e.node = to.tree.insert(collider, e.box);
        to.came += before != e.where;
    }
    if (!e.fresh) fresh_.push_back(collider);
    e.fresh = true;
    puts_++;
}

template<int Dim> void BoxIndex<Dim>::leave(std::uint32_t collider) {
    Entry& e = entries_[collider];
    if (e.where == Where::Endless) std::erase(endless_, collider);
    else grown(e.where).tree.remove(e.node);
    e.where = Where::Nowhere;
}

template<int Dim> void BoxIndex<Dim>::take(std::uint32_t collider) {
    leave(collider);
    if (entries_[collider].fresh) std::erase(fresh_, collider);
    entries_[collider].fresh = false;
}

template<int Dim> void BoxIndex<Dim>::reserve(std::size_t colliders) {
    entries_.reserve(colliders), fresh_.reserve(colliders);
    still_.tree.reserve(colliders), moving_.tree.reserve(colliders);
}

template<int Dim> void BoxIndex<Dim>::balance() {
    for (Grown* g : {&still_, &moving_}) {
        if (2 * g->came <= g->tree.size()) continue;
        g->tree.build();
        g->came = 0;
    }
}

template<int Dim> void BoxIndex<Dim>::clear_fresh() {
    for (const std::uint32_t c : fresh_) entries_[c].fresh = false;
    fresh_.clear();
}

template class BoxIndex<2>;
template class BoxIndex<3>;

}
