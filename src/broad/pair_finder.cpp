#include "broad/pair_finder.h"

#include "base/radix_sort.h"

#include <algorithm>

namespace astasis::broad {
namespace {

// Whether a box and what a collider may reach meet.
template<int Dim> bool meet(const Bounds<Dim>& p, const flow::Collider<Dim>& c) {
    for (int k = 0; k < Dim; k++) {
        if (p.high[k] < c.bounds.low[k] + std::min(c.drift[k], 0.0f) - c.slack) return false;
        if (p.low[k] > c.bounds.high[k] + std::max(c.drift[k], 0.0f) + c.slack) return false;
    }
    return true;
}

}

// What may meet collider i within a box goes to found_.
template<int Dim>
template<typename Left>
void PairFinder<Dim>::search(std::uint32_t i, const Box<Dim>& box,
                             std::span<const flow::Collider<Dim>> colliders, std::span<const Motion> motions,
                             const BoxIndex<Dim>& index, std::size_t awake, const Left& left) {
    const auto& c = colliders[i];
    const Motion motion = motions[c.body];
    const auto add = [&](std::uint32_t j) {
        const auto& d = colliders[j];
        if (c.body >= awake && d.body >= awake) return;
        if (c.body == d.body || !(motion == Motion::Dynamic || motions[d.body] == Motion::Dynamic)) return;
        if (left(j) || !may_touch(*c.spec, *d.spec)) return;
        const bool first = c.key < d.key;
        found_.push_back(
            {first ? c.key : d.key, first ? d.key : c.key, first ? flow::Pair{i, j} : flow::Pair{j, i}});
    };
    // What sleeps lies with the static ones: what is static need not see it, what is driven must.
    visits_ += motion == Motion::Static ? index.query_moving(box, add) : index.query(box, add);
}

template<int Dim>
void PairFinder<Dim>::find(std::span<const flow::Collider<Dim>> colliders, std::span<const Motion> motions,
                           std::span<const std::uint32_t> moving, BoxIndex<Dim>& index,
                           std::vector<flow::Pair>& pairs, std::size_t awake) {
    for (const std::uint32_t i : moving) index.keep(i, colliders[i], true);
    index.balance();

    found_.clear();
    visits_ = 0;
    for (const std::uint32_t i : index.fresh())
        search(i, index.box(i), colliders, motions, index, awake, [&](std::uint32_t j) {
            return j < i && index.is_fresh(j) && motions[colliders[j].body] != Motion::Static;
        });
    const auto by_keys = [](const Kept& p, const Kept& q) {
        return p.key_a != q.key_a ? p.key_a < q.key_a : p.key_b < q.key_b;
    };
    constexpr std::size_t kFew = 500; // that comparisons sort as fast
    if (found_.size() < kFew) {
        std::sort(found_.begin(), found_.end(), by_keys);
    } else {
        std::uint64_t most = 0;
        for (const Kept& p : found_) most = std::max(most, p.key_b);
        base::radix_sort(found_, merged_, most, [](const Kept& p) { return p.key_b; });
        base::radix_sort(found_, merged_, most, [](const Kept& p) { return p.key_a; });
    }
    found_.erase(std::unique(found_.begin(), found_.end(),
                             [](const Kept& p, const Kept& q) { return p.pair == q.pair; }),
                 found_.end());

    // What is fresh has been found again, or has gone.
    const auto gone = [&](std::uint32_t i, std::uint64_t key) {
        return colliders[i].spec == nullptr || colliders[i].key != key || index.is_fresh(i);
    };
    std::erase_if(kept_, [&](const Kept& p) { return gone(p.pair.a, p.key_a) || gone(p.pair.b, p.key_b); });
    if (!found_.empty()) {
        merged_.clear();
        std::merge(kept_.begin(), kept_.end(), found_.begin(), found_.end(), std::back_inserter(merged_),
                   by_keys);
        kept_.swap(merged_);
    }
    index.clear_fresh();

    pairs.clear();
    Bounds<Dim> of_a; // pairs of one key stand together
    std::uint32_t a = ~std::uint32_t{0};
    for (const Kept& p : kept_) {
        if (p.pair.a != a) a = p.pair.a, of_a = flow::reached(colliders[a]);
        if (meet(of_a, colliders[p.pair.b])) pairs.push_back(p.pair);
    }
}

template class PairFinder<2>;
template class PairFinder<3>;

}
