#include "fuzz/targets.h"

#include "support/forged.h"

#include "astasis/astasis.h"

#include <cstdlib>

namespace astasis::fuzz {
namespace {

constexpr std::size_t kDimensionInHead = 12;

void demand(bool holds) {
    if (!holds) std::abort();
}

template<int D> void restore(const std::vector<std::byte>& forged) {
    static const auto before = World<D>().fingerprint();
    World<D> world;
    try {
        world.restore_bytes(forged);
    } catch (const Error& e) {
        demand(e.field().rfind("bytes", 0) == 0);
        demand(world.fingerprint() == before);
        return;
    }
    if (world.bodies().size() > 60) return;
    // A snapshot that is accepted is a state like others: it comes back as it is, and goes on the same.
    World<D> other;
    const auto again = world.save_bytes();
    other.restore_bytes(again);
    demand(other.save_bytes() == again);
    for (int k = 0; k < 2; k++) world.step(), other.step();
    demand(world.fingerprint() == other.fingerprint());
    static_cast<void>(world.contacts()), static_cast<void>(world.energy());
}

}

void bytes(Input input) {
    std::vector<std::byte> forged(input.size());
    for (std::size_t i = 0; i < input.size(); i++) forged[i] = static_cast<std::byte>(input[i]);
    test::put_sum_right(forged);
    const bool plane = forged.size() > kDimensionInHead && forged[kDimensionInHead] == std::byte{2};
    if (plane) restore<2>(forged);
    else restore<3>(forged);
}

}
