// The manifolds of each body: whoever goes from body to body along its contacts walks these lists.
//
// Those of a body stand in rising order; of a body that neither moves nor is named by a manifold there is no
// list to ask for. Good until the manifolds change their number or order. O(moving bodies + manifolds); no
// allocation once warm.
#pragma once

#include "flow/tick_columns.h"

#include <span>

namespace astasis::flow {

class ContactLists {
public:
    template<int Dim, typename Manifolds> void find(const Bodies<Dim>& bodies, const Manifolds& manifolds) {
        begin_column(lists_, bodies, manifolds, List{});
        added_.clear();
        base::make_room(added_, 4 * bodies.moving), base::make_room(all_, 2 * manifolds.size());
        for (const auto& m : manifolds) lists_[m.body_a].room++, lists_[m.body_b].room++;
        std::uint32_t next = 0;
        all_.resize(2 * manifolds.size());
        for (std::uint32_t k = 0; k < manifolds.size(); k++)
            for (const std::uint32_t body : {manifolds[k].body_a, manifolds[k].body_b}) {
                List& list = lists_[body];
                if (list.count == 0) list.first = next, next += list.room;
                all_[list.first + list.count++] = k;
            }
    }
    // Manifold k, which has come since, behind those of a body that moves or is named by one. O(1).
    void add(std::uint32_t body, std::uint32_t k) {
        added_.push_back({k, lists_[body].last_added});
        lists_[body].last_added = static_cast<std::uint32_t>(added_.size());
    }
    // Calls visit(k) for each manifold of a body.
    template<typename Visit> void for_each(std::uint32_t body, const Visit& visit) const {
        const List& list = lists_[body];
        for (std::uint32_t n = 0; n < list.count; n++) visit(all_[list.first + n]);
        for_each_added(body, visit);
    }
    template<typename Visit> void for_each_added(std::uint32_t body, const Visit& visit) const {
        for (std::uint32_t n = lists_[body].last_added; n != 0; n = added_[n - 1].before)
            visit(added_[n - 1].manifold);
    }
    std::span<const std::uint32_t> of(std::uint32_t body) const { // without those added
        return std::span(all_).subspan(lists_[body].first, lists_[body].count);
    }

private:
    struct List {
        std::uint32_t first = 0, count = 0, room = 0;
        std::uint32_t last_added = 0; // 1 + place in added_
    };
    struct Added {
        std::uint32_t manifold, before;
    };
    std::vector<Added> added_;
    std::vector<List> lists_;
    std::vector<std::uint32_t> all_;
};

}
