#include "broad/sorted_sweep.h"

#include "support/dims.h"

#include <set>

namespace astasis {
namespace {

using test::Numbers;

template<typename T> class SortedSweepTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SortedSweepTest, test::Dimensions);

template<int D> bool overlap(const Bounds<D>& a, const Bounds<D>& b) {
    for (int k = 0; k < D; k++)
        if (a.high[k] < b.low[k] || b.high[k] < a.low[k]) return false;
    return true;
}

TYPED_TEST(SortedSweepTest, FindsThePairsThatAllPairsFind) {
    constexpr int D = TypeParam::value;
    Numbers n(7);
    broad::SortedSweep<D> sweep;
    std::size_t seen = 0;
    for (int round = 0; round < 300; round++) {
        const int count = static_cast<int>(n.in(0, 60));
        std::vector<flow::Collider<D>> colliders;
        std::vector<Motion> motions;
        for (int i = 0; i < count; i++) {
            flow::Collider<D> c;
            c.key = static_cast<std::uint64_t>((i * 37) % count + (count % 37 == 0 ? i * count : 0));
            c.body = static_cast<std::uint32_t>(i / 2);
            const Point<D> at = Point<D>{} + n.template vec<D>(-3, 3);
            const bool endless = n.in(0, 1) < 0.05;
            const Vec<D> half = endless ? test::all<D>(INFINITY) : n.template vec<D>(0.05, 1);
            c.bounds = {at - half, at + half};
            colliders.push_back(c);
            if (i % 2 == 0) motions.push_back(n.in(0, 1) < 0.3 ? Motion::Static : Motion::Dynamic);
        }
        std::set<std::pair<std::uint64_t, std::uint64_t>> want;
        for (const auto& a : colliders)
            for (const auto& b : colliders)
                if (a.key < b.key && a.body != b.body && overlap(a.bounds, b.bounds) &&
                    (motions[a.body] == Motion::Dynamic || motions[b.body] == Motion::Dynamic))
                    want.insert({a.key, b.key});
        std::vector<flow::Pair> pairs;
        sweep.find(colliders, motions, pairs);
        std::vector<std::pair<std::uint64_t, std::uint64_t>> got;
        for (const auto& p : pairs) got.push_back({colliders[p.a].key, colliders[p.b].key});
        ASSERT_TRUE(std::is_sorted(got.begin(), got.end()));
        ASSERT_EQ(got, (std::vector<std::pair<std::uint64_t, std::uint64_t>>(want.begin(), want.end())));
        seen += got.size();
    }
    EXPECT_GT(seen, 5000u);
}

}
}
