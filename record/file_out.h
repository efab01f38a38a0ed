// Files that appear whole or not at all: written under another name beside, renamed at the end. Links are
// followed to what they name; pipes and devices are written straight.
#pragma once

#include <filesystem>
#include <fstream>
#include <stdexcept>
#include <string>
#include <string_view>

namespace astasis::record {

// A file that cannot be written; what() names it and says why.
class WriteError : public std::runtime_error {
    using std::runtime_error::runtime_error;
};

// The file that a path names, through links; it may not be there yet.
std::filesystem::path target_of(const std::filesystem::path& path);

class FileOut {
public:
    // Throws WriteError if the folder does not exist, the path is a folder or protected, or nothing can be
    // written there.
    explicit FileOut(std::filesystem::path path);
    ~FileOut(); // without finish(): nothing is left
    FileOut(const FileOut&) = delete;
    FileOut& operator=(const FileOut&) = delete;

    const std::filesystem::path& path() const { return path_; }
    const std::filesystem::path& part() const { return part_; } // where to write until finish()
    void write(std::string_view text);
    // Throws WriteError if anything could not be written.
    void finish();

private:
    std::filesystem::path path_, target_, part_;
    bool is_through_ = false; // written straight
    std::ofstream out_;
};

}
