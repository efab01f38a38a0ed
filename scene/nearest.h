// The word that someone may have meant.
#pragma once

#include <span>
#include <string>
#include <string_view>

namespace astasis::scene {

// The nearest of the words by the letters that are put in, left out, changed or swapped with their neighbour
// (Damerau 1964), or nothing if none is as near as a third of its length.
std::string nearest(std::string_view given, std::span<const std::string> words);
// "; did you mean "X"?", or nothing.
std::string suggestion(std::string_view given, std::span<const char* const> words);

}
