// The ways of swept bodies through a run, for pictures: from impact to impact within each tick.
#pragma once

#include "astasis/world.h"

#include <vector>

namespace astasis::record {

template<int Dim> class Paths {
public:
    // After each tick: of each body that met something on its way, or came farther than its own width.
    void tick(const World<Dim>& world);
    // Places of centres of mass: where a tick began, of each impact in it, where it ended.
    const std::vector<std::vector<Point<Dim>>>& all() const { return all_; }

private:
    std::vector<std::vector<Point<Dim>>> all_;
};

extern template class Paths<2>;
extern template class Paths<3>;

}
