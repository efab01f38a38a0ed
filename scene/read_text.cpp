#include "scene/read_text.h"

#include "astasis/scene/json_tree.h"

#include <fstream>

namespace astasis::scene {
namespace {

std::string read(const std::filesystem::path& path, bool pipes) {
    std::error_code error;
    const std::string name = path.string();
    const auto status = std::filesystem::status(path, error);
    const auto too_large = [&] {
        return FileError(name + ": has over 64 MiB; a scene is smaller (bodies can be repeated on a grid)");
    };
    if (!std::filesystem::exists(status)) throw FileError(name + ": there is no such file");
    if (std::filesystem::is_directory(status)) throw FileError(name + ": is a folder; give a file in it");
    const bool is_regular = std::filesystem::is_regular_file(status);
    if (!is_regular && !(pipes && std::filesystem::is_fifo(status)))
        throw FileError(name + ": is no regular file; give one" + (pipes ? ", or a pipe" : ""));
    if (is_regular && std::filesystem::file_size(path, error) > kMostBytes) throw too_large();
    std::ifstream in(path, std::ios::binary);
    // Not by its size: a file may grow while it is read, and a pipe has none.
    std::string text;
    constexpr std::size_t kPart = 1 << 16;
    while (in) {
        const std::size_t have = text.size();
        text.resize(have + kPart);
        in.read(text.data() + have, kPart);
        text.resize(have + static_cast<std::size_t>(in.gcount()));
        if (text.size() > kMostBytes) throw too_large();
    }
    if (!in.eof()) throw FileError(name + ": cannot be read");
    return text;
}

}

std::string read_text(const std::filesystem::path& path) { return read(path, true); }
std::string read_named_text(const std::filesystem::path& path) { return read(path, false); }

}
