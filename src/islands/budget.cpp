#include "islands/budget.h"

#include <algorithm>

namespace astasis::islands {

void Budget::begin(std::uint64_t plain, float share, std::size_t moving_bodies) {
    claims_.clear();
    cost_ = {};
    cost_.plain = plain;
    const auto part = [share](std::uint64_t units) {
        return static_cast<std::uint64_t>(static_cast<double>(share) * static_cast<double>(units));
    };
    left_ = part(std::max(kLeastAllowance, plain));
    most_for_one_ = part(kLeastAllowance);
    sweeps_left_ = kPlainSweeps + moving_bodies;
    updates_left_ = static_cast<std::uint64_t>(kPlainUpdates * static_cast<double>(plain));
}

void Budget::sort() {
    std::sort(claims_.begin(), claims_.end(), [](const Claim& a, const Claim& b) {
        return a.cost != b.cost ? a.cost < b.cost : a.island < b.island;
    });
}

bool Budget::buy_update() {
    if (updates_left_ < kContactUpdatePrice) return buy(cost_.updates, kContactUpdatePrice);
    updates_left_ -= kContactUpdatePrice;
    cost_.plain += kContactUpdatePrice;
    return true;
}

bool Budget::buy_sweep() {
    if (sweeps_left_ == 0) return buy(cost_.impacts, kSweepPrice);
    sweeps_left_--;
    cost_.plain += kSweepPrice;
    return true;
}

bool Budget::buy(WorkBought& kind, std::uint64_t units) {
    if (units > left_) {
        kind.refused += units;
        return false;
    }
    left_ -= units;
    kind.spent += units;
    return true;
}

}
