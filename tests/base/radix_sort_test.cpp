// Sorting by whole numbers against comparisons.
#include "base/radix_sort.h"

#include "support/scenes.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

namespace astasis {
namespace {

struct Numbered {
    std::uint64_t key;
    std::size_t place;
    friend bool operator==(const Numbered&, const Numbered&) = default;
};

TEST(RadixSort, SortsAndKeepsTheOrderOfEquals) {
    test::Numbers n(3);
    std::vector<Numbered> scratch;
    for (int round = 0; round < 500; round++) {
        const auto count = static_cast<std::size_t>(n.in(0, 300));
        const auto most = static_cast<std::uint64_t>(std::pow(2.0, n.in(0, 63)));
        std::vector<Numbered> values;
        for (std::size_t i = 0; i < count; i++)
            values.push_back({static_cast<std::uint64_t>(n.in(0, 1) * static_cast<double>(most)), i});
        std::vector<Numbered> sorted = values;
        std::stable_sort(sorted.begin(), sorted.end(), [](auto& p, auto& q) { return p.key < q.key; });
        base::radix_sort(values, scratch, most, [](const Numbered& v) { return v.key; });
        ASSERT_EQ(values, sorted) << "round " << round << ", most " << most;
    }
}

}
}
