// The kinds of picture files.
#pragma once

#include <filesystem>

namespace astasis::paint {

enum class PictureKind { Png, Svg };

// By the ending of the name. Throws std::invalid_argument for another ending.
PictureKind kind_of(const std::filesystem::path& path);

}
