// Block systems against dense elimination, for random structures; and rows that others imply.
#include "solve/block_system.h"

#include "support/scenes.h"

#include <Eigen/Dense>
#include <gtest/gtest.h>

namespace astasis {
namespace {

using solve::BlockSystem;

// A positive matrix whose blocks are coupled as a random graph says: J J^T + 1, where each couple shares
// columns.
struct Random {
    std::vector<BlockSystem::Block> blocks;
    std::vector<BlockSystem::Couple> couples;
    Eigen::MatrixXd matrix;

    Random(test::Numbers& n, std::uint32_t count, double density) {
        std::uint32_t rows = 0;
        for (std::uint32_t i = 0; i < count; i++) {
            const auto size = static_cast<std::uint32_t>(n.in(1, 8.99));
            blocks.push_back({size, rows});
            rows += size;
        }
        matrix = Eigen::MatrixXd::Identity(rows, rows);
        for (std::uint32_t a = 0; a < count; a++)
            for (std::uint32_t b = a + 1; b < count; b++) {
                const bool next = b == a + 1 && n.in(0, 1) < 0.8; // most are chains
                if (!next && !(n.in(0, 1) < density)) continue;
                couples.push_back({a, b});
                Eigen::MatrixXd share = Eigen::MatrixXd::Zero(rows, 3);
                for (const std::uint32_t i : {a, b})
                    for (std::uint32_t r = 0; r < blocks[i].size; r++)
                        for (int c = 0; c < 3; c++) share(blocks[i].first + r, c) = n.in(-1, 1);
                matrix += share * share.transpose();
            }
    }
    void fill(BlockSystem& system, std::size_t part) const {
        system.fill(part, [&](std::uint32_t i, std::uint32_t k, double* to) {
            for (std::uint32_t r = 0; r < blocks[i].size; r++)
                for (std::uint32_t c = 0; c < blocks[k].size; c++)
                    to[r * blocks[k].size + c] = matrix(blocks[i].first + r, blocks[k].first + c);
        });
    }
};

TEST(BlockSystem, SolvesAsDenseEliminationDoes) {
    test::Numbers n(1);
    for (int k = 0; k < 400; k++) {
        const auto count = static_cast<std::uint32_t>(n.in(1, 25));
        const Random made(n, count, n.in(0, 0.15));
        BlockSystem system;
        system.set_structure(made.blocks, made.couples);
        Eigen::VectorXd right = Eigen::VectorXd::NullaryExpr(made.matrix.rows(), [&] { return n.in(-1, 1); });
        std::vector<double> x(right.data(), right.data() + right.size());
        std::size_t blocks = 0;
        for (std::size_t part = 0; part < system.part_count(); part++) {
            blocks += system.blocks_of(part).size();
            made.fill(system, part);
            system.factor(part);
            system.solve(part, x);
        }
        ASSERT_EQ(blocks, count);
        const Eigen::VectorXd wanted = made.matrix.ldlt().solve(right);
        for (Eigen::Index i = 0; i < wanted.size(); i++)
            ASSERT_NEAR(x[static_cast<std::size_t>(i)], wanted[i], 1e-9);
    }
}

// A chain of n blocks takes work in proportion to n, a ring as well, and a star n blocks on its middle.
TEST(BlockSystem, ChainsAndRingsTakeLinearWork) {
    const auto work = [](std::uint32_t count, bool ring) {
        std::vector<BlockSystem::Block> blocks;
        std::vector<BlockSystem::Couple> couples;
        for (std::uint32_t i = 0; i < count; i++) {
            blocks.push_back({3, 3 * i});
            if (i > 0) couples.push_back({i - 1, i});
        }
        if (ring) couples.push_back({0, count - 1});
        BlockSystem system;
        system.set_structure(blocks, couples);
        return static_cast<double>(system.work());
    };
    for (const bool ring : {false, true}) EXPECT_NEAR(work(2000, ring) / work(1000, ring), 2, 0.02);
    EXPECT_LT(work(1000, true) / work(1000, false), 3.5);
}

TEST(BlockSystem, LeavesOutRowsThatOthersImply) {
    // Three rows of which the third is the sum of the others.
    const std::vector<BlockSystem::Block> blocks{{2, 0}, {1, 2}};
    const std::vector<BlockSystem::Couple> couples{{0, 1}};
    Eigen::Matrix3d rows;
    rows << 1, 0, 2, 0, 1, -1, 1, 1, 1;
    const Eigen::Matrix3d matrix = rows * rows.transpose();
    BlockSystem system;
    system.set_structure(blocks, couples);
    ASSERT_EQ(system.part_count(), 1u);
    system.fill(0, [&](std::uint32_t i, std::uint32_t k, double* to) {
        for (std::uint32_t r = 0; r < blocks[i].size; r++)
            for (std::uint32_t c = 0; c < blocks[k].size; c++)
                to[r * blocks[k].size + c] = matrix(blocks[i].first + r, blocks[k].first + c);
    });
    system.factor(0);
    const Eigen::Vector3d asked = matrix * Eigen::Vector3d(0.3, -0.2, 0.7);
    std::vector<double> x(asked.data(), asked.data() + 3);
    system.solve(0, x);
    const Eigen::Vector3d got = matrix * Eigen::Vector3d(x[0], x[1], x[2]);
    EXPECT_LT((got - asked).norm(), 1e-9) << "what is asked agrees with itself, and is given";
    EXPECT_EQ(std::count(x.begin(), x.end(), 0.0), 1) << "by the others alone";
}

}
}
