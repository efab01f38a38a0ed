// Sorts what was added behind a sorted vector into it.
#pragma once

#include "base/room.h"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace astasis::base {

// Room for merge_tail(), kept from call to call.
template<typename T> struct MergeRoom {
    std::vector<T> tail;
    std::vector<std::uint32_t> order;
};

// `items` are sorted up to `sorted`; all are after it. Equal ones keep their order, those of the tail come
// last. O(n + t log t), from the first place on that something comes to; no allocation once warm.
template<typename T, typename Less>
void merge_tail(std::vector<T>& items, std::size_t sorted, MergeRoom<T>& room, const Less& less) {
    const std::size_t count = items.size() - sorted;
    make_room(room.tail, count), make_room(room.order, count);
    room.tail.assign(items.begin() + static_cast<std::ptrdiff_t>(sorted), items.end());
    room.order.clear();
    for (std::uint32_t i = 0; i < count; i++) room.order.push_back(i);
    std::sort(room.order.begin(), room.order.end(), [&](std::uint32_t i, std::uint32_t j) {
        const T &p = room.tail[i], &q = room.tail[j];
        return less(p, q) || (!less(q, p) && i < j);
    });
    std::size_t to = items.size(), from = sorted;
    for (std::size_t n = count; n > 0;) {
        const T& next = room.tail[room.order[n - 1]];
        if (from > 0 && less(next, items[from - 1])) items[--to] = items[--from];
        else items[--to] = next, n--;
    }
}

}
