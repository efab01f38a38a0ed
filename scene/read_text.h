// The text of a file, or why there is none.
#pragma once

#include <filesystem>
#include <string>

namespace astasis::scene {

// Throws FileError: no such file, a folder, unreadable, over 64 MiB.
std::string read_text(const std::filesystem::path& path);

}
