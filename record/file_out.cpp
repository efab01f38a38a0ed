#include "record/file_out.h"

#include <cerrno>
#include <fcntl.h>
#include <system_error>
#include <unistd.h>

namespace astasis::record {

namespace fs = std::filesystem;

namespace {

// A file of its own beside the target, under a name that nothing has.
fs::path new_beside(const fs::path& target, const fs::path& given) {
    constexpr int kMost = 1000;
    for (int n = 0; n < kMost; n++) {
        fs::path part = target;
        part += n == 0 ? std::string(".part") : ".part" + std::to_string(n);
        const int file = ::open(part.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666);
        if (file >= 0) {
            ::close(file);
            return part;
        }
        if (errno != EEXIST) break;
    }
    throw WriteError(given.string() + ": cannot be written: " + std::generic_category().message(errno));
}

// Whether it is written straight: a pipe or a device; /dev/stdout too, whatever it leads to.
bool is_straight(const fs::path& path) {
    std::error_code error;
    const fs::path whole = fs::absolute(path, error).lexically_normal();
    const std::string text = whole.string();
    if (text.starts_with("/dev/std") || text.starts_with("/dev/fd/") || text.starts_with("/proc/"))
        return true;
    return fs::exists(path, error) && !fs::is_regular_file(path, error) && !fs::is_directory(path, error);
}

}

fs::path target_of(const fs::path& path) {
    constexpr int kMostLinks = 40;
    fs::path out = path;
    std::error_code error;
    if (is_straight(path)) return path;
    for (int n = 0; n < kMostLinks && fs::is_symlink(out, error); n++) {
        const fs::path to = fs::read_symlink(out, error);
        if (error) break;
        out = to.is_absolute() ? to : out.parent_path() / to;
    }
    return out;
}

FileOut::FileOut(fs::path path) : path_(std::move(path)), target_(target_of(path_)) {
    std::error_code error;
    if (path_.empty()) throw WriteError("an output file has an empty name");
    if (fs::is_directory(target_, error))
        throw WriteError(path_.string() + ": is a folder; give the name of a file");
    const fs::path folder = target_.has_parent_path() ? target_.parent_path() : fs::path(".");
    if (!fs::is_directory(folder, error))
        throw WriteError(path_.string() + ": there is no folder " + folder.string());
    const bool exists = fs::exists(target_, error);
    if (exists && ::access(target_.c_str(), W_OK) != 0)
        throw WriteError(path_.string() + ": is protected against writing");
    is_through_ = is_straight(path_);
    part_ = is_through_ ? target_ : new_beside(target_, path_);
    if (exists && !is_through_) fs::permissions(part_, fs::status(target_, error).permissions(), error);
    out_.open(part_, is_through_ ? std::ios::binary | std::ios::out : std::ios::binary | std::ios::trunc);
    if (!out_) throw WriteError(path_.string() + ": cannot be written");
}

FileOut::~FileOut() {
    if (part_.empty() || is_through_) return;
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
    if (out_ && !is_through_) fs::rename(part_, target_, error);
    if (!out_ || error)
        throw WriteError(path_.string() + ": could not be written in full; is the disk full?");
    part_.clear();
}

}
