// Shapes of scene files that are made of many points: polylines, tiles, height fields, meshes.
#pragma once

#include "scene/read_geometry.h"

#include "astasis/error.h"

#include <vector>

namespace astasis::scene {

template<int Dim> std::vector<Vec<Dim>> points_of(const Cursor& c, const char* what) {
    std::vector<Vec<Dim>> out;
    for (const Cursor& item : c.items(what)) out.push_back(vec<Dim>(item));
    return out;
}

// What the library refuses becomes a fault at this place of the file.
template<typename Make> auto refused_here(const Cursor& c, const Make& make) {
    try {
        return make();
    } catch (const Error& e) {
        c.fail_because(e.what());
    }
}

Geometry<2> read_polyline(const Cursor& c);
Geometry<2> read_tiles(const Cursor& c);
Geometry<3> read_height_field(const Cursor& c);
Geometry<3> read_mesh(const Cursor& c);

}
