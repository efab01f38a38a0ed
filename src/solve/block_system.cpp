#include "solve/block_system.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>

namespace astasis::solve {
namespace {

constexpr std::uint32_t kMostRows = 8;

// Sizes that the compiler knows are unrolled: N is that of a block, M that of another that is coupled with
// it; 0 is one that it does not know.

// L L^T of a dense block in place, and the inverses of L's diagonal; implied rows have an inverse of 0.
template<std::uint32_t N> void factor_block(double* m, std::uint32_t size, double* inverse) {
    const std::uint32_t n = known<N>(size);
    double own[kMostRows];
    for (std::uint32_t i = 0; i < n; i++) own[i] = inverse[i]; // see factor(): its entry before elimination
    for (std::uint32_t j = 0; j < n; j++) {
        double pivot = m[j * n + j];
        for (std::uint32_t k = 0; k < j; k++) pivot -= m[j * n + k] * m[j * n + k];
        const bool implied = !(pivot > BlockSystem::kImplied * own[j]);
        inverse[j] = implied ? 0 : 1 / std::sqrt(pivot);
        for (std::uint32_t i = j + 1; i < n; i++) {
            double sum = m[i * n + j];
            for (std::uint32_t k = 0; k < j; k++) sum -= m[i * n + k] * m[j * n + k];
            m[i * n + j] = sum * inverse[j];
        }
    }
}

// Rows of `m`, each of n numbers, times the inverse of L^T.
template<std::uint32_t N, std::uint32_t M>
void divide_rows(double* m, std::uint32_t others, const double* l, std::uint32_t size,
                 const double* inverse) {
    const std::uint32_t n = known<N>(size), rows = known<M>(others);
    for (std::uint32_t r = 0; r < rows; r++) {
        double* row = m + std::size_t{r} * n;
        for (std::uint32_t j = 0; j < n; j++) {
            double sum = row[j];
            for (std::uint32_t k = 0; k < j; k++) sum -= row[k] * l[j * n + k];
            row[j] = sum * inverse[j];
        }
    }
}

// m -= p q^T, of p's rows and q's rows, each of n numbers.
template<std::uint32_t N, std::uint32_t M>
void subtract_product(double* m, const double* p, std::uint32_t others_p, const double* q,
                      std::uint32_t others_q, std::uint32_t size) {
    const std::uint32_t n = known<N>(size), rows_p = known<M>(others_p), rows_q = known<M>(others_q);
    for (std::uint32_t i = 0; i < rows_p; i++)
        for (std::uint32_t j = 0; j < rows_q; j++) {
            double sum = 0;
            for (std::uint32_t k = 0; k < n; k++) sum += p[i * n + k] * q[j * n + k];
            m[i * rows_q + j] -= sum;
        }
}

// The two ways through a block: x = L^-1 x, and x = L^-T x.
template<std::uint32_t N>
void solve_down(double* x, const double* l, const double* inverse, std::uint32_t size) {
    const std::uint32_t n = known<N>(size);
    for (std::uint32_t j = 0; j < n; j++) {
        double sum = x[j];
        for (std::uint32_t k = 0; k < j; k++) sum -= l[j * n + k] * x[k];
        x[j] = sum * inverse[j];
    }
}
template<std::uint32_t N>
void solve_up(double* x, const double* l, const double* inverse, std::uint32_t size) {
    const std::uint32_t n = known<N>(size);
    for (std::uint32_t j = n; j-- > 0;) {
        double sum = x[j];
        for (std::uint32_t k = j + 1; k < n; k++) sum -= l[k * n + j] * x[k];
        x[j] = sum * inverse[j];
    }
}
// y -= m x, and x -= m^T y, of m with `others` rows of n numbers.
template<std::uint32_t N, std::uint32_t M>
void take_down(double* y, std::uint32_t others, const double* m, const double* x, std::uint32_t size) {
    const std::uint32_t n = known<N>(size), rows = known<M>(others);
    for (std::uint32_t i = 0; i < rows; i++) {
        double sum = 0;
        for (std::uint32_t k = 0; k < n; k++) sum += m[i * n + k] * x[k];
        y[i] -= sum;
    }
}
template<std::uint32_t N, std::uint32_t M>
void take_up(double* x, std::uint32_t size, const double* m, const double* y, std::uint32_t others) {
    const std::uint32_t n = known<N>(size), rows = known<M>(others);
    for (std::uint32_t i = 0; i < rows; i++)
        for (std::uint32_t k = 0; k < n; k++) x[k] -= m[i * n + k] * y[i];
}

// Calls with the size of another block if it is that of a first, whose size is known.
template<std::uint32_t N, typename Call> void with_other(std::uint32_t size, const Call& call) {
    if constexpr (N > 0)
        if (size == N) return call.template operator()<N>();
    call.template operator()<0>();
}
}

void BlockSystem::set_structure(std::span<const Block> blocks, std::span<const Couple> couples) {
    find_order(blocks, couples);
    lay_out(blocks, couples);
}

// Parts one after the other, by their lowest block; in each the block with the fewest neighbours is
// eliminated next, which couples its neighbours with one another.
void BlockSystem::find_order(std::span<const Block> blocks, std::span<const Couple> couples) {
    const std::size_t n = blocks.size();
    std::vector<std::set<std::uint32_t>> near(n);
    for (const Couple& c : couples) near[c.a].insert(c.b), near[c.b].insert(c.a);
    std::vector<std::uint32_t> part_of(n, 0), stack;
    std::uint32_t parts = 0;
    for (std::uint32_t i = 0; i < n; i++) {
        if (part_of[i] != 0) continue;
        part_of[i] = ++parts;
        stack.push_back(i);
        while (!stack.empty()) {
            const std::uint32_t k = stack.back();
            stack.pop_back();
            for (const std::uint32_t other : near[k])
                if (part_of[other] == 0) part_of[other] = parts, stack.push_back(other);
        }
    }
    // Part, degree and block: the next to go stands first.
    std::set<std::tuple<std::uint32_t, std::size_t, std::uint32_t>> left;
    for (std::uint32_t i = 0; i < n; i++) left.insert({part_of[i], near[i].size(), i});
    order_.clear(), part_first_.clear(), later_.assign(n, {});
    while (!left.empty()) {
        const auto [part, degree, block] = *left.begin();
        left.erase(left.begin());
        if (part > part_first_.size()) part_first_.push_back(static_cast<std::uint32_t>(order_.size()));
        order_.push_back(block);
        const auto& its = near[block];
        later_[block].assign(its.begin(), its.end());
        for (const std::uint32_t i : its) {
            left.erase({part, near[i].size(), i});
            near[i].erase(block);
            for (const std::uint32_t other : its)
                if (other != i) near[i].insert(other);
            left.insert({part, near[i].size(), i});
        }
    }
    part_first_.push_back(static_cast<std::uint32_t>(order_.size()));
    if (n == 0) part_first_.assign(1, 0);
}

void BlockSystem::lay_out(std::span<const Block> blocks, std::span<const Couple> couples) {
    const std::size_t n = blocks.size();
    std::vector<std::uint32_t> node_of(n);
    for (std::uint32_t k = 0; k < n; k++) node_of[order_[k]] = k;
    std::set<std::pair<std::uint32_t, std::uint32_t>> coupled;
    for (const Couple& c : couples) coupled.insert(std::minmax(node_of[c.a], node_of[c.b]));
    nodes_.clear(), links_.clear(), updates_.clear();
    std::uint32_t values = 0;
    for (std::uint32_t k = 0; k < n; k++) {
        const Block& b = blocks[order_[k]];
        nodes_.push_back({b.size, b.first, values, values + b.size * b.size,
                          static_cast<std::uint32_t>(links_.size()), 0});
        values += b.size * b.size + b.size;
        const std::size_t first = links_.size();
        for (const std::uint32_t other : later_[order_[k]]) {
            const std::uint32_t node = node_of[other];
            links_.push_back({node, 0, coupled.contains({k, node})});
        }
        std::sort(links_.begin() + static_cast<std::ptrdiff_t>(first), links_.end(),
                  [](const Link& p, const Link& q) { return p.node < q.node; });
        for (std::size_t l = first; l < links_.size(); l++)
            links_[l].values = values, values += blocks[order_[links_[l].node]].size * b.size;
    }
    nodes_.push_back({0, 0, values, values, static_cast<std::uint32_t>(links_.size()), 0});
    work_ = 0;
    const auto place = [&](std::uint32_t column, std::uint32_t row) {
        for (std::uint32_t l = nodes_[column].first_link; l < nodes_[column + 1].first_link; l++)
            if (links_[l].node == row) return links_[l].values;
        return 0u; // elimination has coupled them
    };
    for (std::uint32_t k = 0; k < n; k++) {
        nodes_[k].first_update = static_cast<std::uint32_t>(updates_.size());
        const std::uint64_t size = nodes_[k].size;
        work_ += size * size * size / 3;
        for (std::uint32_t p = nodes_[k].first_link; p < nodes_[k + 1].first_link; p++) {
            work_ += nodes_[links_[p].node].size * size * size / 2;
            for (std::uint32_t q = nodes_[k].first_link; q <= p; q++) {
                const std::uint32_t i = links_[p].node, j = links_[q].node;
                updates_.push_back(i == j ? nodes_[i].diagonal : place(j, i));
                work_ += std::size_t{nodes_[i].size} * nodes_[j].size * size;
            }
        }
    }
    nodes_[n].first_update = static_cast<std::uint32_t>(updates_.size());
    values_.assign(values, 0);
}

void BlockSystem::factor(std::size_t part) {
    for (std::uint32_t n = part_first_[part]; n < part_first_[part + 1]; n++)
        with_size(nodes_[n].size, [&]<std::uint32_t N>() { eliminate<N>(n); });
}

template<std::uint32_t N> void BlockSystem::eliminate(std::uint32_t n) {
    const Node& node = nodes_[n];
    double* const values = values_.data();
    double *m = values + node.diagonal, *inverse = values + node.inverse;
    factor_block<N>(m, node.size, inverse);
    const Link *const first = links_.data() + node.first_link, *const end =
                                                                   links_.data() + nodes_[n + 1].first_link;
    const std::uint32_t* update = updates_.data() + node.first_update;
    for (const Link* p = first; p != end; p++) {
        const std::uint32_t size_p = nodes_[p->node].size;
        double* const of_p = values + p->values;
        with_other<N>(size_p,
                      [&]<std::uint32_t M>() { divide_rows<N, M>(of_p, size_p, m, node.size, inverse); });
        for (const Link* q = first; q <= p; q++) {
            const std::uint32_t size_q = nodes_[q->node].size;
            with_other<N>(size_p == size_q ? size_p : 0, [&]<std::uint32_t M>() {
                subtract_product<N, M>(values + *update++, of_p, size_p, values + q->values, size_q,
                                       node.size);
            });
        }
    }
}

void BlockSystem::solve(std::size_t part, std::span<double> x) const {
    for (std::uint32_t n = part_first_[part]; n < part_first_[part + 1]; n++)
        with_size(nodes_[n].size, [&]<std::uint32_t N>() { take_out<N>(n, x.data()); });
    for (std::uint32_t n = part_first_[part + 1]; n-- > part_first_[part];)
        with_size(nodes_[n].size, [&]<std::uint32_t N>() { put_in<N>(n, x.data()); });
}

template<std::uint32_t N> void BlockSystem::take_out(std::uint32_t n, double* x) const {
    const double* const values = values_.data();
    const Node& node = nodes_[n];
    double* const own = x + node.first;
    solve_down<N>(own, values + node.diagonal, values + node.inverse, node.size);
    for (std::uint32_t p = node.first_link; p < nodes_[n + 1].first_link; p++) {
        const Node& other = nodes_[links_[p].node];
        with_other<N>(other.size, [&]<std::uint32_t M>() {
            take_down<N, M>(x + other.first, other.size, values + links_[p].values, own, node.size);
        });
    }
}

template<std::uint32_t N> void BlockSystem::put_in(std::uint32_t n, double* x) const {
    const double* const values = values_.data();
    const Node& node = nodes_[n];
    double* const own = x + node.first;
    for (std::uint32_t p = node.first_link; p < nodes_[n + 1].first_link; p++) {
        const Node& other = nodes_[links_[p].node];
        with_other<N>(other.size, [&]<std::uint32_t M>() {
            take_up<N, M>(own, node.size, values + links_[p].values, x + other.first, other.size);
        });
    }
    solve_up<N>(own, values + node.diagonal, values + node.inverse, node.size);
}

}
