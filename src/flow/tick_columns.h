// Columns that stages keep for a tick, with a place for each body as Bodies has them.
//
// Only the places of bodies that move or that a manifold names are set: what sleeps costs nothing, however
// much of it there is. O(moving bodies + manifolds).
#pragma once

#include "base/room.h"
#include "flow/contacts.h"

#include <algorithm>

namespace astasis::flow {

template<typename Column, int Dim, typename Manifolds>
void begin_column(Column& column, const Bodies<Dim>& bodies, const Manifolds& manifolds,
                  typename Column::value_type value) {
    base::make_room(column, bodies.size());
    column.resize(bodies.size());
    std::fill_n(column.begin(), bodies.moving, value);
    for (const auto& m : manifolds) column[m.body_a] = column[m.body_b] = value;
}

}
