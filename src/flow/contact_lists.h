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
        base::make_room(all_, 2 * manifolds.size());
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
    std::span<const std::uint32_t> of(std::uint32_t body) const {
        return std::span(all_).subspan(lists_[body].first, lists_[body].count);
    }

private:
    struct List {
        std::uint32_t first = 0, count = 0, room = 0;
    };
    std::vector<List> lists_;
    std::vector<std::uint32_t> all_;
};

}
