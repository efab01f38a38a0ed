// Room in vectors that change their length a little from tick to tick.
#pragma once

#include <cstddef>

namespace astasis::base {

// Makes room for `count` elements, and for half as many more when it has to be made at all: assign() and
// reserve() alone take exactly what they need, and would allocate again at the next larger count.
template<typename Vector> void make_room(Vector& v, std::size_t count) {
    if (v.capacity() < count) v.reserve(count + count / 2);
}

}
