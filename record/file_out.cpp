#include "record/file_out.h"

#include <system_error>

namespace astasis::record {

namespace fs = std::filesystem;

FileOut::FileOut(fs::path path) : path_(std::move(path)), part_(path_) {
    part_ += ".part";
    std::error_code error;
    if (path_.empty()) throw WriteError("an output file has an empty name");
    if (fs::is_directory(path_, error))
        throw WriteError(path_.string() + ": is a folder; give the name of a file");
    const fs::path folder = path_.has_parent_path() ? path_.parent_path() : fs::path(".");
    if (!fs::is_directory(folder, error))
        throw WriteError(path_.string() + ": there is no folder " + folder.string());
    out_.open(part_, std::ios::binary | std::ios::trunc);
    if (!out_) throw WriteError(path_.string() + ": cannot be written");
}

FileOut::~FileOut() {
    if (part_.empty()) return;
    out_.close();
    std::error_code error;
    fs::remove(part_, error);
}

void FileOut::write(std::string_view text) {
    out_.write(text.data(), static_cast<std::streamsize>(text.size()));
}

void FileOut::finish() {
    out_.close();
    std::error_code error;
    if (out_) fs::rename(part_, path_, error);
    if (!out_ || error)
        throw WriteError(path_.string() + ": could not be written in full; is the disk full?");
    part_.clear();
}

}
