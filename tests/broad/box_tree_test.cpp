#include "broad/box_tree.h"

#include "support/dims.h"

#include <cmath>

namespace astasis {
namespace {

using broad::Beam;
using broad::Box;
using broad::BoxTree;
using test::Numbers;

template<typename T> class BoxTreeTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(BoxTreeTest, test::Dimensions);

template<int D> Box<D> random_box(Numbers& n, double spread, double size) {
    const Vec<D> low = n.template vec<D>(-spread, spread);
    return {low, low + n.template vec<D>(0, size)};
}

// What a beam enters, by cutting its way with one slab after another.
template<int D> bool enters(const Beam<D>& beam, const Box<D>& box) {
    double from = 0, to = 1;
    for (int k = 0; k < D; k++)
        for (const double side : {-1.0, 1.0}) { // side * (x - edge) <= 0
            const double edge = side < 0 ? box.low[k] - static_cast<double>(beam.half[k])
                                         : box.high[k] + static_cast<double>(beam.half[k]);
            const double at = side * (beam.from[k] - edge), slope = side * beam.way[k];
            if (slope == 0 && at > 0) return false;
            if (slope > 0) to = std::min(to, -at / slope);
            if (slope < 0) from = std::max(from, -at / slope);
        }
    return from <= to;
}

TYPED_TEST(BoxTreeTest, FindsWhatBruteForceFinds) {
    constexpr int D = TypeParam::value;
    Numbers n(3);
    BoxTree<D> tree;
    std::vector<Box<D>> boxes(400);
    std::vector<std::uint32_t> leaf(400, BoxTree<D>::kNone);
    std::size_t met = 0, entered = 0;
    for (int round = 0; round < 5000; round++) {
        const auto i = static_cast<std::uint32_t>(n.in(0, 400));
        if (leaf[i] != BoxTree<D>::kNone) tree.remove(leaf[i]), leaf[i] = BoxTree<D>::kNone;
        if (n.in(0, 1) < 0.8) boxes[i] = random_box<D>(n, 5, 1), leaf[i] = tree.insert(i, boxes[i]);
        if (round % 500 == 499) tree.build();

        const Box<D> window = random_box<D>(n, 5, 2);
        const Beam<D> beam{Point<D>{} + n.template vec<D>(-6, 6),
                           round % 7 == 0 ? Vec<D>{n.f(-9, 9)} : n.template vec<D>(-9, 9),
                           round % 2 == 0 ? Vec<D>{} : n.template vec<D>(0, 0.5)};
        std::vector<int> want(400), got(400), want_on_way(400), got_on_way(400);
        for (std::uint32_t k = 0; k < 400; k++) {
            if (leaf[k] == BoxTree<D>::kNone) continue;
            want[k] = meet(boxes[k], window), met += static_cast<std::size_t>(want[k]);
            want_on_way[k] = enters(beam, boxes[k]), entered += static_cast<std::size_t>(want_on_way[k]);
        }
        tree.query(window, [&](std::uint32_t k) { got[k]++; });
        double most = 1;
        tree.follow(beam, most, [&](std::uint32_t k, double now) {
            got_on_way[k]++;
            return now;
        });
        ASSERT_EQ(got, want);
        ASSERT_EQ(got_on_way, want_on_way);
    }
    EXPECT_GT(met, 4000u);
    EXPECT_GT(entered, 4000u);
}

// A row, a stack of equal boxes, and a line that comes in order: what makes careless trees into lists.
TYPED_TEST(BoxTreeTest, StaysLowWhateverTheOrder) {
    constexpr int D = TypeParam::value;
    constexpr int kCount = 10000;
    for (const int kind : {0, 1, 2}) {
        BoxTree<D> tree;
        Numbers n(5);
        for (int i = 0; i < kCount; i++) {
            Box<D> box = random_box<D>(n, 100, 1);
            if (kind == 1)
                box = {Vec<D>{static_cast<float>(i)}, Vec<D>{static_cast<float>(i)} + test::all<D>(0.9f)};
            if (kind == 2) box = {Vec<D>{}, test::all<D>(1)};
            tree.insert(static_cast<std::uint32_t>(i), box);
        }
        EXPECT_LT(tree.height(), 3 * std::log2(kCount)) << "kind " << kind;
        tree.build();
        EXPECT_LE(tree.height(), std::ceil(std::log2(kCount))) << "kind " << kind;
    }
}

// The nodes that a query looks at grow as the logarithm of what is in the tree.
TYPED_TEST(BoxTreeTest, VisitsGrowAsTheLogarithm) {
    constexpr int D = TypeParam::value;
    const auto visits = [](int count) {
        Numbers n(11);
        BoxTree<D> tree;
        const double spread = 0.5 * std::pow(count, 1.0 / D); // one box a metre, each way
        for (int i = 0; i < count; i++)
            tree.insert(static_cast<std::uint32_t>(i), random_box<D>(n, spread, 1));
        double sum = 0;
        for (int i = 0; i < 2000; i++)
            sum += static_cast<double>(tree.query(random_box<D>(n, 0.8 * spread, 1), [](std::uint32_t) {}));
        return sum / 2000;
    };
    const double few = visits(8000), many = visits(128000);
    EXPECT_LT(many / few, 1.15 * std::log2(128000) / std::log2(8000)) << few << " and " << many;
}

}
}
