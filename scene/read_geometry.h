// Shapes of scene files, and the numbers they are made of.
#pragma once

#include "scene/cursor.h"

#include "astasis/shapes.h"

namespace astasis::scene {

inline float number(const Cursor& c, const Range& range) { return static_cast<float>(c.number(range)); }

template<int Dim> Vec<Dim> vec(const Cursor& c, const Range& range = kAnyNumber) {
    const auto n = c.numbers<Dim>(range);
    Vec<Dim> out{};
    for (int i = 0; i < Dim; i++) out[i] = static_cast<float>(n[static_cast<std::size_t>(i)]);
    return out;
}

// The geometry of a shape: its kind and the keys of that kind. Refuses keys that belong to other kinds.
template<int Dim> Geometry<Dim> read_geometry(const Cursor& shape);

}
