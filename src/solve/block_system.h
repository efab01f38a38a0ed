// A symmetric positive system of small dense blocks, solved directly: the joints of an assembly, each coupled
// with those that share a body with it.
//
// Blocks are eliminated in the order of the fewest neighbours, those of equal count by their number: chains
// and trees are eliminated from their ends and fill nothing in, so that time and memory are O(blocks); k
// joints on one body cost O(k^3) among themselves (George and Liu 1981, Computer Solution of Large Sparse
// Positive Definite Systems, ch. 5). A row that those before it imply already, its pivot below kImplied of
// its own entry, is left out: its unknown is 0. In double, one block after the other: no order depends on
// anything but the blocks' numbers. Nothing is allocated while the structure stays. Tested by
// tests/solve/block_system_test.cpp against dense elimination.
#pragma once

#include <algorithm>
#include <cstdint>
#include <span>
#include <vector>

namespace astasis::solve {

// Calls with a count that the compiler knows where it is one of the common joints', else with 0.
template<typename Call> void with_size(std::uint32_t size, const Call& call) {
    switch (size) {
    case 1: return call.template operator()<1>();
    case 2: return call.template operator()<2>();
    case 3: return call.template operator()<3>();
    case 5: return call.template operator()<5>();
    case 6: return call.template operator()<6>();
    default: return call.template operator()<0>();
    }
}
// A count that is N unless N is 0.
template<std::uint32_t N> constexpr std::uint32_t known(std::uint32_t n) { return N == 0 ? n : N; }

class BlockSystem {
public:
    // As large a share of a row's own entry as is left of it at least, where it is not implied: what rounding
    // of positions leaves of a row that is, is far below.
    static constexpr double kImplied = 1e-6;

    struct Block {
        std::uint32_t size = 0;  // rows, 1 to 8
        std::uint32_t first = 0; // its first row among all
    };
    struct Couple {
        std::uint32_t a, b; // blocks, a < b
    };
    // The structure: which blocks there are and which are coupled, each pair once.
    void set_structure(std::span<const Block> blocks, std::span<const Couple> couples);

    // Parts that are not coupled with one another: each is filled, factored and solved by itself.
    std::size_t part_count() const { return part_first_.size() - 1; }
    std::span<const std::uint32_t> blocks_of(std::size_t part) const {
        return std::span<const std::uint32_t>(order_).subspan(part_first_[part],
                                                              part_first_[part + 1] - part_first_[part]);
    }

    // Entries are filled by fill(row block i, column block j, to): `to` has size(i) rows of size(j) numbers,
    // all to be written, but of i = j only the lower triangle counts. Block pairs that are not coupled are
    // not asked for.
    template<typename Fill> void fill(std::size_t part, const Fill& fill) {
        for (std::uint32_t n = part_first_[part]; n < part_first_[part + 1]; n++) {
            const Node& node = nodes_[n];
            double* const diagonal = values_.data() + node.diagonal;
            fill(order_[n], order_[n], diagonal);
            // Elimination compares what it leaves of an entry with what that was.
            for (std::uint32_t i = 0; i < node.size; i++)
                values_[node.inverse + i] = diagonal[i * node.size + i];
            for (std::uint32_t k = node.first_link; k < nodes_[n + 1].first_link; k++) {
                const Link& link = links_[k];
                double* to = values_.data() + link.values;
                if (link.is_coupled) fill(order_[link.node], order_[n], to);
                else std::fill_n(to, nodes_[link.node].size * node.size, 0.0);
            }
        }
    }
    void factor(std::size_t part);
    // Solves for one right side, which is overwritten with the unknowns, by row.
    void solve(std::size_t part, std::span<double> x) const;
    // Multiplications of factoring all parts, for prices.
    std::uint64_t work() const { return work_; }

private:
    struct Node {                        // of the order of elimination
        std::uint32_t size, first;       // rows
        std::uint32_t diagonal, inverse; // places in values_
        std::uint32_t first_link, first_update;
    };
    struct Link {
        std::uint32_t node; // later in the order
        std::uint32_t values;
        bool is_coupled; // else it is filled in by elimination
    };
    void find_order(std::span<const Block> blocks, std::span<const Couple> couples);
    template<std::uint32_t N> void eliminate(std::uint32_t node);
    template<std::uint32_t N> void take_out(std::uint32_t node, double* x) const;
    template<std::uint32_t N> void put_in(std::uint32_t node, double* x) const;
    void lay_out(std::span<const Block> blocks, std::span<const Couple> couples);

    std::vector<std::uint32_t> order_, part_first_{0};
    std::vector<Node> nodes_; // and one behind the last
    std::vector<Link> links_;
    std::vector<std::uint32_t> updates_; // places of the blocks that each pair of a node's links changes
    std::vector<double> values_;
    std::vector<std::vector<std::uint32_t>> later_; // of each block: those that come after it
    std::uint64_t work_ = 0;
};

}
