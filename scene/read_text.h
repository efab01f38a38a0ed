// A file as text, bounded.
#pragma once

#include <filesystem>
#include <string>

namespace astasis::scene {

inline constexpr std::size_t kMostBytes = 64u << 20; // of a file

// A regular file; or a pipe, which is read to its end. Throws FileError: no such file, a folder, a device,
// over 64 MiB, unreadable. Nothing of a larger file is read.
std::string read_text(const std::filesystem::path& path);
// The same of a file that another one names: a regular file, as a pipe may never end.
std::string read_named_text(const std::filesystem::path& path);

}
