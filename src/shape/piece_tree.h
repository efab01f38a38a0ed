// A tree of boxes over pieces that never move: built once, asked often.
//
// Halves by the median of the middles along the widest axis, until few pieces remain; nodes lie in the order
// in which they are visited. Build O(n log n), query O(log n + found).
#pragma once

#include "astasis/vec.h"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace astasis::shape {

template<int Dim> class PieceTree {
public:
    struct Box {
        Vec<Dim> low, high;
    };

    PieceTree() = default;
    explicit PieceTree(const std::vector<Box>& boxes) {
        order_.reserve(boxes.size());
        for (std::uint32_t i = 0; i < boxes.size(); i++) order_.push_back(i);
        if (!boxes.empty()) build(boxes, 0, static_cast<std::uint32_t>(boxes.size()));
    }

    // Calls found(piece) for each piece whose leaf meets the box; the caller looks closer.
    template<typename Found> void query(const Box& box, const Found& found) const {
        for (std::uint32_t i = 0; i < nodes_.size();) {
            const Node& n = nodes_[i];
            if (!meet(n.box, box)) {
                i = n.skip;
                continue;
            }
            for (std::uint32_t k = n.begin; k < n.end; k++) found(order_[k]);
            i++;
        }
    }
    Box bounds() const { return nodes_.empty() ? Box{} : nodes_[0].box; }

private:
    static constexpr std::uint32_t kLeaf = 4;
    struct Node {
        Box box;
        std::uint32_t skip;               // the node that follows where this one's box is not met
        std::uint32_t begin = 0, end = 0; // pieces of a leaf; none of an inner node
    };

    static bool meet(const Box& a, const Box& b) {
        for (int k = 0; k < Dim; k++)
            if (a.high[k] < b.low[k] || b.high[k] < a.low[k]) return false;
        return true;
    }

    void build(const std::vector<Box>& boxes, std::uint32_t begin, std::uint32_t end) {
        const std::size_t at = nodes_.size();
        Box box = boxes[order_[begin]];
        for (std::uint32_t i = begin; i < end; i++)
            for (int k = 0; k < Dim; k++) {
                box.low[k] = std::min(box.low[k], boxes[order_[i]].low[k]);
                box.high[k] = std::max(box.high[k], boxes[order_[i]].high[k]);
            }
        nodes_.push_back({box, 0});
        if (end - begin <= kLeaf) {
            nodes_[at].begin = begin, nodes_[at].end = end;
        } else {
            int axis = 0;
            for (int k = 1; k < Dim; k++)
                if (box.high[k] - box.low[k] > box.high[axis] - box.low[axis]) axis = k;
            const std::uint32_t half = begin + (end - begin) / 2;
            const auto middle = [&](std::uint32_t i) { return boxes[i].low[axis] + boxes[i].high[axis]; };
            std::sort(order_.begin() + begin, order_.begin() + end, [&](std::uint32_t i, std::uint32_t j) {
                return middle(i) != middle(j) ? middle(i) < middle(j) : i < j;
            });
            build(boxes, begin, half);
            build(boxes, half, end);
        }
        nodes_[at].skip = static_cast<std::uint32_t>(nodes_.size());
    }

    std::vector<std::uint32_t> order_;
    std::vector<Node> nodes_;
};

}
