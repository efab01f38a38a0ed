#include "scene/read_text.h"

#include "astasis/scene/json_tree.h"

#include <fstream>
#include <sstream>

namespace astasis::scene {

std::string read_text(const std::filesystem::path& path) {
    constexpr std::uintmax_t kMostBytes = 64u << 20;
    std::error_code error;
    const std::string name = path.string();
    const auto status = std::filesystem::status(path, error);
    if (!std::filesystem::exists(status)) throw FileError(name + ": there is no such file");
    if (std::filesystem::is_directory(status)) throw FileError(name + ": is a folder; give a file in it");
    std::ifstream in(path, std::ios::binary);
    std::string text(static_cast<std::size_t>(std::min(kMostBytes, std::filesystem::file_size(path, error))),
                     '\0');
    if (error) { // a pipe has no size
        std::stringstream all;
        all << in.rdbuf();
        text = all.str();
    } else if (std::filesystem::file_size(path, error) > kMostBytes) {
        throw FileError(name + ": has over 64 MiB; a scene is smaller (bodies can be repeated on a grid)");
    } else {
        in.read(text.data(), static_cast<std::streamsize>(text.size()));
    }
    if (!in && !in.eof()) throw FileError(name + ": cannot be read");
    return text;
}

}
