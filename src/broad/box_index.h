// Which colliders may be where: a tree of those that stand still, one of those that move, a list of those
// without end.
// Stage broad. Kept from tick to tick.
// (1) A collider's box in its tree holds its bounds, and how far they may come within the tick; it is fatter
// than that, so that what rests, and what moves little, leaves the trees alone. (2) What had to be put anew
// since the last clear_fresh() is fresh: only that can meet anything new.
// How fat: docs/performance.md, "How fat a box is".
#pragma once

#include "broad/box_tree.h"
#include "flow/contacts.h"

#include <span>

namespace astasis::broad {

struct Fattening {
    float margin = 0.1f; // on all sides, as a share of the mean side of the bounds
    float ahead = 8;     // ticks of motion
};

template<int Dim> class BoxIndex {
public:
    // Puts a collider where its bounds now are, whether it is new or has left its box.
    void put(std::uint32_t collider, const flow::Collider<Dim>& c, bool moving);
    // Puts it only if its bounds have left its box, or if that has become far too wide: what was fast once
    // would have pairs with all about it as long as it lies there.
    void keep(std::uint32_t collider, const flow::Collider<Dim>& c, bool moving) {
        const Entry& e = entries_[collider];
        const Bounds<Dim> reached = flow::reached(c);
        const bool ended = e.where == Where::Endless && is_finite(box_around(reached));
        if (ended || !holds(e.box, reached) || is_far_too_wide(e, c, reached)) put(collider, c, moving);
    }
    void take(std::uint32_t collider);
    void reserve(std::size_t colliders);
    // Builds anew what many colliders came into since it was last built. Changes no answer.
    void balance();

    std::span<const std::uint32_t> fresh() const { return fresh_; }
    bool is_fresh(std::uint32_t collider) const { return entries_[collider].fresh; }
    void clear_fresh();
    const Box<Dim>& box(std::uint32_t collider) const { return entries_[collider].box; }
    std::size_t puts() const { return puts_; } // so far
    void set_fattening(const Fattening& f) { fattening_ = f; }

    // Calls found(collider) for each that may meet the box. Return the number of tree nodes looked at.
    template<typename Found> std::size_t query_moving(const Box<Dim>& box, const Found& found) const {
        for (const std::uint32_t c : endless_) found(c);
        return moving_.tree.query(box, found);
    }
    template<typename Found> std::size_t query(const Box<Dim>& box, const Found& found) const {
        return still_.tree.query(box, found) + query_moving(box, found);
    }
    // Calls found(collider, most) for each that the beam may enter: see BoxTree::follow.
    template<typename Found> std::size_t follow(const Beam<Dim>& beam, const Found& found) const {
        double most = 1;
        for (const std::uint32_t c : endless_) most = found(c, most);
        std::size_t visits = still_.tree.follow(beam, most, found);
        visits += moving_.tree.follow(beam, most, found);
        return visits;
    }

private:
    enum class Where : std::uint8_t { Nowhere, Still, Moving, Endless };
    struct Entry {
        Box<Dim> box{};
        float sides = 0; // their sum
        std::uint32_t node = 0;
        Where where = Where::Nowhere;
        bool fresh = false;
    };
    struct Grown {
        BoxTree<Dim> tree;
        std::size_t came = 0; // for the first time, since it was built
    };

    // Against the sides that its box would have if it were put now.
    bool is_far_too_wide(const Entry& e, const flow::Collider<Dim>& c, const Bounds<Dim>& reached) const {
        constexpr float kFar = 1.25f; // times as wide as a new one
        if (e.where != Where::Moving) return false;
        float sides = 0, ahead = 0;
        for (int k = 0; k < Dim; k++) {
            sides += static_cast<float>(reached.high[k] - reached.low[k]);
            ahead += c.drift[k] < 0 ? -c.drift[k] : c.drift[k];
        }
        return e.sides > kFar * (sides * (1 + 2 * fattening_.margin) + ahead * fattening_.ahead);
    }
    Box<Dim> fattened(const flow::Collider<Dim>& c, bool moving) const;
    void leave(std::uint32_t collider);
    Grown& grown(Where where) { return where == Where::Still ? still_ : moving_; }

    std::vector<Entry> entries_; // by collider
    std::vector<std::uint32_t> endless_, fresh_;
    Grown still_, moving_;
    Fattening fattening_;
    std::size_t puts_ = 0;
};

extern template class BoxIndex<2>;
extern template class BoxIndex<3>;

}
