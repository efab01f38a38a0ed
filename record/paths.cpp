#include "record/paths.h"

#include "astasis/queries.h"

#include <algorithm>

namespace astasis::record {

template<int Dim> void Paths<Dim>::tick(const World<Dim>& world) {
    const auto impacts = world.swept_impacts();
    for (const BodyId id : world.bodies()) {
        if (world.motion(id) != Motion::Dynamic || world.is_asleep(id) || world.shapes(id).empty()) continue;
        std::vector<Point<Dim>> way{to_world(world.previous_pose(id), world.mass(id).centre)};
        for (const auto& impact : impacts)
            if (impact.body == id) way.push_back(impact.centre);
            else if (impact.other == id && impact.other_swept) way.push_back(impact.other_centre);
        way.push_back(world.centre_of_mass(id));
        float width = thickness_of(world.shapes(id)[0]);
        for (const auto& shape : world.shapes(id)) width = std::min(width, thickness_of(shape));
        if (way.size() > 2 || length(way.back() - way.front()) > width) all_.push_back(std::move(way));
    }
}

template class Paths<2>;
template class Paths<3>;

}
