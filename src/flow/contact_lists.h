// The manifolds of each body: whoever goes from body to body along its contacts walks these lists.
//
// Those of body i are of_body[first[i]] to of_body[first[i + 1] - 1], in rising order. Good until the
// manifolds change their number or order. O(bodies + manifolds); no allocation once warm.
#pragma once

#include "base/room.h"
#include "flow/contacts.h"

#include <span>

namespace astasis::flow {

class ContactLists {
public:
    template<typename Manifolds> void find(std::size_t bodies, const Manifolds& manifolds) {
        base::make_room(first_, bodies + 1), base::make_room(next_, bodies + 1);
        base::make_room(of_body_, 2 * manifolds.size());
        first_.assign(bodies + 1, 0);
        for (const auto& m : manifolds) first_[m.body_a + 1]++, first_[m.body_b + 1]++;
        for (std::size_t i = 0; i < bodies; i++) first_[i + 1] += first_[i];
        next_.assign(first_.begin(), first_.end() - 1);
        of_body_.resize(2 * manifolds.size());
        for (std::uint32_t k = 0; k < manifolds.size(); k++) {
            of_body_[next_[manifolds[k].body_a]++] = k;
            of_body_[next_[manifolds[k].body_b]++] = k;
        }
    }
    std::span<const std::uint32_t> of(std::uint32_t body) const {
        return std::span(of_body_).subspan(first_[body], first_[body + 1] - first_[body]);
    }

private:
    std::vector<std::uint32_t> first_, next_, of_body_;
};

}
