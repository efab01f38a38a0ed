// Rows of every instruction set: the same bits, the same as in double precision, and a chain that hangs from
// them.
#include "solve/rows.h"

#include "math/inertia.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "solve/aligned.h"
#include "support/dims.h"

#include <cstring>

namespace astasis {
namespace {

template<typename T> class RowsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(RowsTest, test::Dimensions);

std::vector<simd::InstructionSet> available() {
    std::vector<simd::InstructionSet> out;
    for (const auto set : {simd::InstructionSet::Scalar, simd::InstructionSet::Sse2,
                           simd::InstructionSet::Avx2, simd::InstructionSet::Avx512})
        if (simd::is_available(set)) out.push_back(set);
    return out;
}

constexpr int axials(int dim) { return dim == 2 ? 1 : 3; }

// Bodies and their rows of floats; body 0 cannot be moved, and each body's row is its place.
template<int D> struct Rig {
    static constexpr std::size_t kRow = static_cast<std::size_t>(solve::Layout<D>::kRow);
    flow::Bodies<D> bodies;
    solve::Floats velocity, inertia;
    std::vector<std::uint32_t> rows;

    explicit Rig(std::size_t count) {
        bodies.moving = count;
        bodies.mass.resize(count), bodies.free.resize(count), bodies.pose.resize(count);
        for (solve::Floats* f : {&velocity, &inertia}) {
            f->resize(count * kRow);
            std::fill_n(f->data(), count * kRow, 0.0f);
        }
        for (std::uint32_t i = 0; i < count; i++) rows.push_back(i);
    }
    void set_mass(std::size_t i, float mass, const math::Inertia<D>& inverse_inertia) {
        bodies.mass[i].mass = mass, bodies.mass[i].inverse_mass = 1 / mass;
        float* f = inertia.data() + i * kRow;
        if constexpr (D == 2) f[0] = inverse_inertia;
        else std::memcpy(f, &inverse_inertia, 6 * sizeof(float)); // xx, xy, xz, yy, yz, zz
    }
    float* linear(std::size_t i) { return velocity.data() + i * kRow; }
    float* angular(std::size_t i) { return velocity.data() + i * kRow + (D == 2 ? 2 : 4); }
    solve::BodyRows body_rows() { return {velocity.data(), nullptr, nullptr, inertia.data()}; }
};

template<int D> math::Inertia<D> some_inertia(test::Numbers& n) {
    if constexpr (D == 2) return n.f(0.5, 20);
    else return {n.f(5, 20), n.f(-2, 2), n.f(-2, 2), n.f(5, 20), n.f(-2, 2), n.f(5, 20)};
}

template<int D> Rig<D> some_rig(test::Numbers& n, std::size_t count) {
    Rig<D> rig(count);
    for (std::size_t i = 1; i < count; i++) {
        rig.set_mass(i, n.f(0.2, 5), some_inertia<D>(n));
        rig.bodies.free[i].locks.x = n.in(0, 1) < 0.1;
        for (int k = 0; k < D; k++) rig.linear(i)[k] = n.f(-3, 3);
        for (int k = 0; k < axials(D); k++) rig.angular(i)[k] = n.f(-3, 3);
    }
    return rig;
}

template<int D> solve::RowBlock<D> some_block(test::Numbers& n, std::uint32_t a, std::uint32_t b) {
    solve::RowBlock<D> block{.body_a = a, .body_b = b};
    block.count = 1 + static_cast<int>(n.in(0, solve::RowBlock<D>::kRows - 0.01));
    for (int i = 0; i < block.count; i++) {
        auto& row = block.rows[static_cast<std::size_t>(i)];
        if (n.in(0, 1) < 0.7) row.along = n.vec<D>(-1, 1);
        for (int k = 0; k < axials(D); k++)
            math::component(row.turn_a, k) = n.f(-1, 1), math::component(row.turn_b, k) = n.f(-1, 1);
        row.wanted = n.f(-1, 1), row.feedback = n.f(-1, 1), row.leak = n.f(0, 0.5);
        if (n.in(0, 1) < 0.5) row.least = n.f(-0.5, 0), row.most = n.f(0, 0.5);
        row.impulse = std::clamp(n.f(-0.3, 0.3), row.least, row.most);
    }
    return block;
}

TYPED_TEST(RowsTest, AllSetsGiveTheSameBits) {
    constexpr int D = TypeParam::value;
    for (std::uint64_t seed = 0; seed < 20; seed++) {
        std::vector<std::vector<float>> results;
        for (const auto set : available()) {
            test::Numbers n(seed);
            Rig<D> rig = some_rig<D>(n, 90);
            std::vector<solve::RowBlock<D>> blocks;
            for (int k = 0; k < 300; k++) { // body 1 has more than there are colours
                const auto a = static_cast<std::uint32_t>(k % 5 == 0 ? 1 : n.in(0, 90));
                const auto b = static_cast<std::uint32_t>(n.in(2, 90));
                if (a != b) blocks.push_back(some_block<D>(n, a, b));
            }
            solve::RowGroups<D> groups(set);
            groups.place(rig.bodies, blocks, rig.rows, rig.rows.size());
            groups.begin(blocks, rig.body_rows());
            for (int pass = 0; pass < 4; pass++) groups.solve(rig.body_rows(), pass % 2 == 0);
            groups.give(blocks);
            std::vector<float> out(rig.velocity.data(), rig.velocity.data() + rig.rows.size() * rig.kRow);
            for (const auto& block : blocks)
                for (int i = 0; i < block.count; i++)
                    out.push_back(block.rows[static_cast<std::size_t>(i)].impulse);
            results.push_back(std::move(out));
        }
        for (const auto& other : results) ASSERT_EQ(results[0], other) << "seed " << seed;
    }
}

// The same in double precision, from what row_kernels.h says and nothing else.
template<int D> struct Slowly {
    std::array<std::array<double, D>, 2> v{}, inverse_mass{};
    std::array<std::array<double, 3>, 2> w{};
    std::array<std::array<std::array<double, 3>, 3>, 2> inverse_inertia{};

    Slowly(Rig<D>& rig, const solve::RowBlock<D>& block) {
        const std::uint32_t bodies[]{block.body_a, block.body_b};
        for (std::size_t s = 0; s < 2; s++) {
            const auto& mass = rig.bodies.mass[bodies[s]];
            for (std::size_t k = 0; k < D; k++) {
                v[s][k] = rig.linear(bodies[s])[k];
                inverse_mass[s][k] =
                    k == 0 && rig.bodies.free[bodies[s]].locks.x ? 0.0 : double{mass.inverse_mass};
            }
            for (std::size_t k = 0; k < axials(D); k++) w[s][k] = rig.angular(bodies[s])[k];
            const float* f = rig.inertia.data() + bodies[s] * rig.kRow;
            const int at[3][3]{{0, 1, 2}, {1, 3, 4}, {2, 4, 5}};
            for (std::size_t i = 0; i < axials(D); i++)
                for (std::size_t j = 0; j < axials(D); j++) inverse_inertia[s][i][j] = f[at[i][j]];
        }
    }
    std::array<double, 3> turned(std::size_t s, const Axial<D>& turn) const {
        std::array<double, 3> out{};
        for (std::size_t i = 0; i < axials(D); i++)
            for (std::size_t j = 0; j < axials(D); j++)
                out[i] += inverse_inertia[s][i][j] * math::component(turn, static_cast<int>(j));
        return out;
    }
    void gain(const solve::Row<D>& row, double j) {
        for (std::size_t s = 0; s < 2; s++) {
            const double sign = s == 0 ? -1 : 1;
            for (std::size_t k = 0; k < D; k++)
                v[s][k] += sign * j * inverse_mass[s][k] * row.along[static_cast<int>(k)];
            const auto turning = turned(s, s == 0 ? row.turn_a : row.turn_b);
            for (std::size_t k = 0; k < 3; k++) w[s][k] += sign * j * turning[k];
        }
    }
    double speed(const solve::Row<D>& row) const {
        double out = 0;
        for (std::size_t k = 0; k < D; k++) out += row.along[static_cast<int>(k)] * (v[1][k] - v[0][k]);
        for (std::size_t k = 0; k < axials(D); k++)
            out += math::component(row.turn_b, static_cast<int>(k)) * w[1][k] -
                   math::component(row.turn_a, static_cast<int>(k)) * w[0][k];
        return out;
    }
    double meets(const solve::Row<D>& row) const { // the speed that an impulse of one gives
        Slowly pushed = *this;
        pushed.gain(row, 1);
        return pushed.speed(row) - speed(row);
    }
};

TYPED_TEST(RowsTest, OnePassIsWhatDoublePrecisionGives) {
    constexpr int D = TypeParam::value;
    int bounded = 0;
    for (const auto set : available()) {
        test::Numbers n(7);
        for (int k = 0; k < 5000; k++) {
            Rig<D> rig = some_rig<D>(n, 3);
            std::vector<solve::RowBlock<D>> blocks{some_block<D>(n, k % 4 == 0 ? 0 : 1, 2)};
            Slowly<D> exact(rig, blocks[0]);
            auto expected = blocks[0];
            for (int i = 0; i < expected.count; i++)
                exact.gain(expected.rows[static_cast<std::size_t>(i)],
                           expected.rows[static_cast<std::size_t>(i)].impulse);
            std::array<double, 6> impulses{};
            const bool with_feedback = k % 2 == 0;
            for (int i = 0; i < expected.count; i++) {
                const auto& row = expected.rows[static_cast<std::size_t>(i)];
                const double leak = with_feedback ? row.leak : 0,
                             wanted = row.wanted + (with_feedback ? row.feedback : 0);
                const double softly = row.impulse +
                                      (1 - leak) * (wanted - exact.speed(row)) / exact.meets(row) -
                                      leak * row.impulse;
                const double now = std::clamp(softly, double{row.least}, double{row.most});
                bounded += now != softly;
                exact.gain(row, now - row.impulse);
                impulses[static_cast<std::size_t>(i)] = now;
            }
            solve::RowGroups<D> groups(set);
            groups.place(rig.bodies, blocks, rig.rows, rig.rows.size());
            groups.begin(blocks, rig.body_rows());
            groups.solve(rig.body_rows(), with_feedback);
            groups.give(blocks);
            double size = 1;
            for (const double j : impulses) size = std::max(size, std::fabs(j));
            for (int i = 0; i < expected.count; i++)
                ASSERT_NEAR(blocks[0].rows[static_cast<std::size_t>(i)].impulse,
                            impulses[static_cast<std::size_t>(i)], 1e-4 * size)
                    << k;
            for (std::size_t s = 0; s < 2; s++)
                for (int j = 0; j < D; j++)
                    ASSERT_NEAR(rig.linear(s == 0 ? blocks[0].body_a : 2)[j],
                                exact.v[s][static_cast<std::size_t>(j)], 1e-4 * size * 5)
                        << k;
        }
    }
    EXPECT_GT(bounded, 2000);
}

// Fifty links of a kilogram and a load of a hundred hang from what cannot be moved, each by a pin, and swing.
template<int D> struct Chain {
    static constexpr int kLinks = 50;
    static constexpr double kLength = 0.2, kG = 9.81; // m, of a link; m/s2
    Rig<D> rig{kLinks + 2};
    std::vector<solve::RowBlock<D>> pins;
    solve::RowGroups<D> groups{simd::best()};
    double energy_at_start = 0;

    static float mass(std::size_t i) { return i == kLinks + 1 ? 100.0f : 1.0f; }
    Chain() {
        for (std::size_t i = 1; i < rig.rows.size(); i++) {
            const float inverse = 12 / (mass(i) * static_cast<float>(kLength * kLength));
            if constexpr (D == 2) rig.set_mass(i, mass(i), inverse);
            else rig.set_mass(i, mass(i), {inverse, 0, 0, inverse, 0, inverse});
            rig.bodies.pose[i].centre.y = -kLength * (static_cast<double>(i) - 0.5);
            pins.push_back({.body_a = static_cast<std::uint32_t>(i - 1),
                            .body_b = static_cast<std::uint32_t>(i),
                            .count = D});
        }
        groups.place(rig.bodies, pins, rig.rows, rig.rows.size());
    }
    // From a body's centre to its upper or lower end.
    Vec<D> end(std::size_t i, float side) const {
        return rotate(rig.bodies.pose[i].rotation,
                      Vec<D>{0, i == 0 ? 0 : side * static_cast<float>(kLength / 2)});
    }
    Vec<D> gap(std::size_t i) const { // of the pin above body i
        return (rig.bodies.pose[i].centre - rig.bodies.pose[i - 1].centre) + (end(i, 1) - end(i - 1, -1));
    }
    void substep(double seconds) {
        for (std::size_t i = 1; i < rig.rows.size(); i++) {
            rig.linear(i)[1] -= static_cast<float>(kG * seconds);
            const Vec<D> apart = gap(i);
            for (int k = 0; k < D; k++) {
                auto& row = pins[i - 1].rows[static_cast<std::size_t>(k)];
                row.along = Vec<D>{}, row.along[k] = 1;
                row.turn_a = cross(end(i - 1, -1), row.along), row.turn_b = cross(end(i, 1), row.along);
                row.leak = 0.12f;
                row.feedback = -0.15f * apart[k] / static_cast<float>(seconds);
            }
        }
        groups.begin(pins, rig.body_rows());
        groups.solve(rig.body_rows(), true);
        for (std::size_t i = 1; i < rig.rows.size(); i++) {
            auto& pose = rig.bodies.pose[i];
            for (int k = 0; k < D; k++) pose.centre[k] += seconds * rig.linear(i)[k];
            Axial<D> turn{};
            for (int k = 0; k < axials(D); k++)
                math::component(turn, k) = static_cast<float>(seconds) * rig.angular(i)[k];
            pose.rotation = math::turned_by(pose.rotation, turn);
        }
        groups.solve(rig.body_rows(), false);
        groups.give(pins);
    }
    double energy() {
        double sum = 0;
        for (std::size_t i = 1; i < rig.rows.size(); i++) {
            sum += mass(i) * kG * rig.bodies.pose[i].centre.y;
            for (int k = 0; k < D; k++) sum += 0.5 * mass(i) * rig.linear(i)[k] * rig.linear(i)[k];
            for (int k = 0; k < axials(D); k++)
                sum += 0.5 * mass(i) * kLength * kLength / 12 * rig.angular(i)[k] * rig.angular(i)[k];
        }
        return sum;
    }
};

TYPED_TEST(RowsTest, AChainHoldsAHundredTimesItsLinks) {
    constexpr int D = TypeParam::value;
    constexpr int kSubsteps = 64;
    constexpr double kSubstep = 1.0 / 60 / kSubsteps;
    Chain<D> still;
    std::vector<double> borne(still.pins.size());
    for (int tick = 0; tick < 240; tick++)
        for (int k = 0; k < kSubsteps; k++) {
            still.substep(kSubstep);
            if (tick < 120) continue; // it bounces a little on its pins
            for (std::size_t i = 0; i < borne.size(); i++)
                borne[i] += still.pins[i].rows[1].impulse / kSubstep / (120.0 * kSubsteps);
        }
    double stretched = 0, worst = 0;
    for (std::size_t i = 0; i < borne.size(); i++) {
        stretched += length(still.gap(i + 1));
        // Each pin bears all that hangs from it.
        const double below = (100 + static_cast<double>(Chain<D>::kLinks - i)) * 9.81;
        worst = std::max(worst, std::fabs(borne[i] / below - 1));
    }
    EXPECT_LT(worst, 1e-3);
    EXPECT_LT(stretched, 1e-3 * 0.2 * Chain<D>::kLinks);

    Chain<D> swinging;
    for (std::size_t i = 1; i < swinging.rig.rows.size(); i++)
        swinging.rig.linear(i)[0] = 0.1f * static_cast<float>(i) - 0.05f; // turning as one about the top
    for (std::size_t i = 1; i < swinging.rig.rows.size(); i++) swinging.rig.angular(i)[D == 2 ? 0 : 2] = 0.5f;
    const double before = swinging.energy();
    double most = before, widest = 0;
    for (int k = 0; k < 240 * kSubsteps; k++) {
        swinging.substep(kSubstep);
        most = std::max(most, swinging.energy());
        for (std::size_t i = 1; i < swinging.rig.rows.size(); i++)
            widest = std::max(widest, double{length(swinging.gap(i))});
    }
    EXPECT_LT(most, before + 1e-4 * 1300); // J; it swings with 1300
    EXPECT_GT(swinging.energy(), before - 0.02 * 1300);
    EXPECT_LT(widest, 1e-3);
}

}
}
