// The functions that fuzzers call: each takes any bytes and ends the program if a promise of the library
// breaks.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace astasis::fuzz {

using Input = std::span<const std::uint8_t>;

void scene(Input input); // a scene file, read, made and stepped
void mesh(Input input);  // an OBJ or a file of rays
void bytes(Input input); // a snapshot whose sum is put right
void calls(Input input); // a sequence of public calls of a world

}
