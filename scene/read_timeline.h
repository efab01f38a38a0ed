// The time line of scene files.
#pragma once

#include "astasis/scene/scene.h"
#include "scene/cursor.h"

namespace astasis::scene {

// The scene has its bodies, joints and materials already: a name that it has not is refused.
template<int Dim> void read_timeline(const Cursor& timeline, Scene<Dim>& scene);

}
