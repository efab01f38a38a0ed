#include "broad/box_tree.h"

#include "base/room.h"

namespace astasis::broad {

template<int Dim> double Beam<Dim>::entry(const Box<Dim>& box, double most) const {
    constexpr double kMiss = 2;
    double enter = 0, leave = most;
    for (int k = 0; k < Dim; k++) {
        const double low = static_cast<double>(box.low[k]) - half[k] - from[k];
        const double high = static_cast<double>(box.high[k]) + half[k] - from[k];
        if (way[k] == 0) {
            if (low > 0 || high < 0) return kMiss;
            continue;
        }
        const double inverse = 1.0 / way[k];
        const double a = low * inverse, b = high * inverse;
        enter = std::max(enter, std::min(a, b));
        leave = std::min(leave, std::max(a, b));
    }
    return enter <= leave ? enter : kMiss;
}

template<int Dim> std::uint32_t BoxTree<Dim>::new_node() {
    if (free_.empty()) {
        nodes_.emplace_back();
        return static_cast<std::uint32_t>(nodes_.size() - 1);
    }
    const std::uint32_t i = free_.back();
    free_.pop_back();
    nodes_[i] = {};
    return i;
}

template<int Dim> std::uint32_t BoxTree<Dim>::insert(std::uint32_t item, const Box<Dim>& box) {
    const std::uint32_t leaf = new_node();
    nodes_[leaf].box = box;
    nodes_[leaf].child[1] = item;
    leaves_++;
    if (root_ == kNone) return root_ = leaf;

    const std::uint32_t sibling = sibling_for(box), parent = nodes_[sibling].parent, joint = new_node();
    nodes_[joint].parent = parent;
    nodes_[joint].child = {sibling, leaf};
    nodes_[sibling].parent = nodes_[leaf].parent = joint;
    if (parent == kNone) root_ = joint;
    else replace_child(parent, sibling, joint);
    refit(joint);
    return leaf;
}

// The node beside which a box makes the tree grow least. What all nodes above it grow by is paid whichever
// child is taken; so go down while that costs less than a new node here.
template<int Dim> std::uint32_t BoxTree<Dim>::sibling_for(const Box<Dim>& box) const {
    std::uint32_t at = root_;
    while (!nodes_[at].is_leaf()) {
        const Node& n = nodes_[at];
        const float here = extent(joined(n.box, box)), grown = here - extent(n.box);
        std::array<float, 2> down{};
        for (std::size_t c = 0; c < 2; c++) {
            const Node& child = nodes_[n.child[c]];
            down[c] = grown + extent(joined(child.box, box)) - (child.is_leaf() ? 0 : extent(child.box));
        }
        if (here < down[0] && here < down[1]) break;
        const bool lower = nodes_[n.child[1]].height < nodes_[n.child[0]].height; // breaks ties
        at = n.child[down[1] < down[0] || (down[1] == down[0] && lower) ? 1 : 0];
    }
    return at;
}

template<int Dim> void BoxTree<Dim>::remove(std::uint32_t leaf) {
    const std::uint32_t joint = nodes_[leaf].parent;
    free_.push_back(leaf);
    leaves_--;
    if (joint == kNone) {
        root_ = kNone;
        return;
    }
    const auto& child = nodes_[joint].child;
    const std::uint32_t sibling = child[0] == leaf ? child[1] : child[0], parent = nodes_[joint].parent;
    nodes_[sibling].parent = parent;
    free_.push_back(joint);
    if (parent == kNone) {
        root_ = sibling;
        return;
    }
    replace_child(parent, joint, sibling);
    refit(parent);
}

template<int Dim>
void BoxTree<Dim>::replace_child(std::uint32_t parent, std::uint32_t from, std::uint32_t to) {
    auto& child = nodes_[parent].child;
    child[child[0] == from ? 0 : 1] = to;
}

// The box and height of an inner node from its children.
template<int Dim> void BoxTree<Dim>::measure(std::uint32_t node) {
    Node& n = nodes_[node];
    const Node &a = nodes_[n.child[0]], &b = nodes_[n.child[1]];
    n.box = joined(a.box, b.box);
    n.height = 1 + std::max(a.height, b.height);
}

template<int Dim> void BoxTree<Dim>::refit(std::uint32_t node) {
    for (; node != kNone; node = nodes_[node].parent) {
        const Box<Dim> box = nodes_[node].box;
        const std::int32_t height = nodes_[node].height;
        measure(node);
        turn_round(node);
        // Nothing above sees a difference.
        const Node& n = nodes_[node];
        if (n.height == height && n.box.low == box.low && n.box.high == box.high) return;
    }
}

// Swaps a child with a child of the other where that makes the other's box smaller: the best such swap. Of
// swaps that change no box, one that makes the tree lower.
template<int Dim> void BoxTree<Dim>::turn_round(std::uint32_t node) {
    float best = 0;
    int lowest = nodes_[node].height;
    std::uint32_t up = kNone, down = kNone; // to be swapped: `down` is a child of node, `up` a grandchild
    for (std::size_t c = 0; c < 2; c++) {
        const std::uint32_t high = nodes_[node].child[c], other = nodes_[node].child[1 - c];
        if (nodes_[high].is_leaf()) continue;
        for (std::size_t g = 0; g < 2; g++) {
            const std::uint32_t rises = nodes_[high].child[g], stays = nodes_[high].child[1 - g];
            const float gain =
                extent(nodes_[high].box) - extent(joined(nodes_[stays].box, nodes_[other].box));
            const int height =
                1 + std::max(1 + std::max(nodes_[stays].height, nodes_[other].height), nodes_[rises].height);
            if (gain > best || (gain == best && height < lowest))
                best = gain, lowest = height, up = rises, down = other;
        }
    }
    if (up == kNone) return;
    const std::uint32_t high = nodes_[up].parent;
    replace_child(node, down, up);
    replace_child(high, up, down);
    nodes_[up].parent = node;
    nodes_[down].parent = high;
    measure(high);
    measure(node);
}

template<int Dim> void BoxTree<Dim>::build() {
    if (leaves_ < 2) return;
    built_.clear(), open_.clear();
    base::make_room(built_, leaves_), base::make_room(open_, leaves_), base::make_room(free_, 2 * leaves_);
    open_.push_back(root_);
    while (!open_.empty()) {
        const std::uint32_t i = open_.back();
        open_.pop_back();
        if (nodes_[i].is_leaf()) {
            built_.push_back(i);
            continue;
        }
        open_.push_back(nodes_[i].child[0]), open_.push_back(nodes_[i].child[1]);
        free_.push_back(i);
    }
    root_ = build_half(built_, 0, built_.size());
    nodes_[root_].parent = kNone;
}

template<int Dim>
std::uint32_t BoxTree<Dim>::build_half(std::vector<std::uint32_t>& leaves, std::size_t begin,
                                       std::size_t end) {
    if (end - begin == 1) return leaves[begin];
    const auto middle = [&](std::uint32_t i, int axis) {
        return nodes_[i].box.low[axis] + nodes_[i].box.high[axis];
    };
    int axis = 0;
    float widest = -1;
    for (int k = 0; k < Dim; k++) {
        float low = middle(leaves[begin], k), high = low;
        for (std::size_t i = begin; i < end; i++)
            low = std::min(low, middle(leaves[i], k)), high = std::max(high, middle(leaves[i], k));
        if (high - low > widest) widest = high - low, axis = k;
    }
    const std::size_t half = begin + (end - begin) / 2;
    const auto at = [&](std::size_t i) { return leaves.begin() + static_cast<std::ptrdiff_t>(i); };
    std::nth_element(at(begin), at(half), at(end), [&](std::uint32_t i, std::uint32_t j) {
        const float a = middle(i, axis), b = middle(j, axis);
        return a != b ? a < b : nodes_[i].child[1] < nodes_[j].child[1];
    });
    const std::uint32_t first = build_half(leaves, begin, half), second = build_half(leaves, half, end);
    const std::uint32_t joint = new_node();
    nodes_[joint].child = {first, second};
    nodes_[first].parent = nodes_[second].parent = joint;
    measure(joint);
    return joint;
}

template struct Beam<2>;
template struct Beam<3>;
template class BoxTree<2>;
template class BoxTree<3>;

}
