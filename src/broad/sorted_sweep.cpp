#include "broad/sorted_sweep.h"

#include "math/numbers.h"

#include <algorithm>

namespace astasis::broad {
namespace {

// The axis along which the centres of bounded colliders spread most.
template<int Dim> int widest_axis(std::span<const flow::Collider<Dim>> colliders) {
    double widest = -1;
    int axis = 0;
    for (int k = 0; k < Dim; k++) {
        double low = 0, high = 0;
        bool any = false;
        for (const auto& c : colliders) {
            const double middle = 0.5 * (c.bounds.low[k] + c.bounds.high[k]);
            if (!math::is_finite(middle)) continue;
            low = any ? std::min(low, middle) : middle;
            high = any ? std::max(high, middle) : middle;
            any = true;
        }
        if (high - low > widest) widest = high - low, axis = k;
    }
    return axis;
}

template<int Dim> bool overlap(const Bounds<Dim>& a, const Bounds<Dim>& b) {
    for (int k = 0; k < Dim; k++)
        if (a.high[k] < b.low[k] || b.high[k] < a.low[k]) return false;
    return true;
}

}

template<int Dim>
void SortedSweep<Dim>::find(std::span<const flow::Collider<Dim>> colliders, std::span<const Motion> motions,
                            std::vector<flow::Pair>& pairs) {
    pairs.clear();
    const int axis = widest_axis(colliders);
    const auto low = [&](std::uint32_t i) { return colliders[i].bounds.low[axis]; };
    order_.resize(colliders.size());
    for (std::uint32_t i = 0; i < order_.size(); i++) order_[i] = i;
    std::sort(order_.begin(), order_.end(), [&](std::uint32_t i, std::uint32_t j) {
        return low(i) != low(j) ? low(i) < low(j) : colliders[i].key < colliders[j].key;
    });

    open_.clear(); // colliders whose interval along the axis has begun and may not have ended
    for (const std::uint32_t i : order_) {
        const auto& c = colliders[i];
        std::erase_if(open_, [&](std::uint32_t j) { return colliders[j].bounds.high[axis] < low(i); });
        for (const std::uint32_t j : open_) {
            const auto& d = colliders[j];
            if (c.body == d.body || !overlap(c.bounds, d.bounds)) continue;
            if (motions[c.body] != Motion::Dynamic && motions[d.body] != Motion::Dynamic) continue;
            pairs.push_back(c.key < d.key ? flow::Pair{i, j} : flow::Pair{j, i});
        }
        open_.push_back(i);
    }
    std::sort(pairs.begin(), pairs.end(), [&](const flow::Pair& p, const flow::Pair& q) {
        const auto pa = colliders[p.a].key, qa = colliders[q.a].key;
        return pa != qa ? pa < qa : colliders[p.b].key < colliders[q.b].key;
    });
}

template class SortedSweep<2>;
template class SortedSweep<3>;

}
