#include "record/paths.h"

#include "astasis/queries.h"

#include <algorithm>

namespace astasis::record {

template<int Dim> void Paths<Dim>::tick(const World<Dim>& world) {
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic || world.is_asleep(id) || world.shapes(id).empty()) continue;
        std::vector<Point<Dim>> way;
        for (const WayPoint<Dim>& at : world.way_of(id)) way.push_back(at.centre);
        float width = thickness_of(world.shapes(id)[0]);
        for (const auto& shape : world.shapes(id)) width = std::min(width, thickness_of(shape));
        if (way.size() > 2 || length(way.back() - way.front()) > width) all_.push_back(std::move(way));
    }
}

template class Paths<2>;
template class Paths<3>;

}
