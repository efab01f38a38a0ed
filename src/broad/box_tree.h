// A tree of boxes that come, move and go: finds what meets a box, or what a box meets on its way.
// Stage broad.
// (1) Each leaf is one item; each inner node has two children, whose boxes it goes round. (2) A node's number
// stays its own while its leaf lives. (3) What a query finds does not depend on the order of insertion; the
// order in which it finds it does.
// Insertion descends to where the tree's whole extent grows least (Goldsmith and Salmon 1987, Automatic
// Creation of Object Hierarchies for Ray Tracing), and on the way back turns nodes round where that makes the
// tree smaller (Kensler 2008, Tree Rotations for Improving Bounding Volume Hierarchies). O(log n) insertion,
// removal and query on what is spread in space; build() O(n log n). No allocation but when the tree grows.
// Tested against brute force by tests/broad/box_tree_test.cpp.
#pragma once

#include "broad/box.h"

#include <array>
#include <cstdint>
#include <vector>

namespace astasis::broad {

// A way that a box of half size `half` takes: its middle goes from `from` by `way`. A ray if half is zero.
template<int Dim> struct Beam {
    Point<Dim> from{};
    Vec<Dim> way{}, half{};
    // The share of the way at which it enters the box, or 2 if it misses it within the way's first `most`.
    double entry(const Box<Dim>& box, double most) const;
};

template<int Dim> class BoxTree {
public:
    static constexpr std::uint32_t kNone = 0xffffffffu;

    // Returns the item's node. The box must be finite.
    std::uint32_t insert(std::uint32_t item, const Box<Dim>& box);
    void remove(std::uint32_t leaf);
    void reserve(std::size_t items) { nodes_.reserve(2 * items); }
    // Builds the tree anew from its leaves, by halves: after many items came at once.
    void build();
    std::size_t size() const { return leaves_; }
    const Box<Dim>& box(std::uint32_t leaf) const { return nodes_[leaf].box; }
    int height() const { return root_ == kNone ? 0 : nodes_[root_].height; }

    // Calls found(item) for each item whose box meets this one. Returns the number of nodes looked at.
    template<typename Found> std::size_t query(const Box<Dim>& box, const Found& found) const {
        return root_ == kNone ? 0 : query_from(root_, box, found);
    }
    // Calls found(item, most) for each item whose box the beam enters within the share `most` of its way,
    // the nearer half of the tree first. Found returns the new `most`: 0 or less to stop.
    template<typename Found>
    std::size_t follow(const Beam<Dim>& beam, double& most, const Found& found) const {
        if (root_ == kNone || beam.entry(nodes_[root_].box, most) > 1) return 1;
        return follow_from(root_, beam, most, found);
    }

private:
    struct Node {
        Box<Dim> box{};
        std::uint32_t parent = kNone;
        std::array<std::uint32_t, 2> child{kNone, kNone}; // of a leaf: none, and its item
        std::int32_t height = 0;                          // of a leaf 0
        bool is_leaf() const { return height == 0; }
    };
    // Deep enough for any tree that insertion makes; a deeper one goes on by recursion.
    static constexpr std::size_t kStack = 64;

    std::uint32_t new_node();
    std::uint32_t sibling_for(const Box<Dim>& box) const;
    void refit(std::uint32_t node);
    void turn_round(std::uint32_t node);
    void replace_child(std::uint32_t parent, std::uint32_t from, std::uint32_t to);
    void measure(std::uint32_t node);
    std::uint32_t build_half(std::vector<std::uint32_t>& leaves, std::size_t begin, std::size_t end);

    template<typename Found>
    std::size_t query_from(std::uint32_t start, const Box<Dim>& box, const Found& found) const {
        std::array<std::uint32_t, kStack> stack;
        std::size_t depth = 0, visits = 0;
        stack[depth++] = start;
        while (depth > 0) {
            const Node& n = nodes_[stack[--depth]];
            visits++;
            if (!meet(n.box, box)) continue;
            if (n.is_leaf()) {
                found(n.child[1]);
            } else if (depth + 2 > kStack) {
                for (const std::uint32_t c : n.child) visits += query_from(c, box, found);
            } else {
                stack[depth++] = n.child[1], stack[depth++] = n.child[0];
            }
        }
        return visits;
    }
    template<typename Found>
    std::size_t follow_from(std::uint32_t start, const Beam<Dim>& beam, double& most,
                            const Found& found) const {
        struct Waiting {
            std::uint32_t node;
            double entry;
        };
        std::array<Waiting, kStack> stack;
        std::size_t depth = 0, visits = 0;
        stack[depth++] = {start, 0};
        while (depth > 0) {
            const Waiting w = stack[--depth];
            if (w.entry > most) continue;
            const Node& n = nodes_[w.node];
            visits++;
            if (n.is_leaf()) {
                most = found(n.child[1], most);
                continue;
            }
            std::array<double, 2> entry{};
            for (std::size_t c = 0; c < 2; c++) entry[c] = beam.entry(nodes_[n.child[c]].box, most);
            const std::size_t near = entry[1] < entry[0] ? 1 : 0;
            for (const std::size_t c : {1 - near, near}) {
                if (entry[c] > 1) continue;
                if (depth < kStack) stack[depth++] = {n.child[c], entry[c]};
                else visits += follow_from(n.child[c], beam, most, found);
            }
        }
        return visits;
    }

    std::vector<Node> nodes_;
    std::vector<std::uint32_t> free_;
    std::vector<std::uint32_t> built_, open_; // room for build()
    std::uint32_t root_ = kNone;
    std::size_t leaves_ = 0;
};

extern template struct Beam<2>;
extern template struct Beam<3>;
extern template class BoxTree<2>;
extern template class BoxTree<3>;

}
