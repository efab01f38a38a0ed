// The time line of scene files.
#pragma once

#include "astasis/scene/scene.h"
#include "scene/cursor.h"

#include <unordered_map>

namespace astasis::scene {

// The scene has its bodies, joints and materials already: a name that it has not is refused.
// The places of names in the lists of a scene, the first that has each.
struct Names {
    std::unordered_map<std::string, std::size_t> bodies, joints, spawned;
};

template<int Dim> void read_timeline(const Cursor& timeline, Scene<Dim>& scene, Names& names);

}
