#include "record/table_in.h"

#include "astasis/scene/json_tree.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <sstream>
#include <system_error>

namespace astasis::record {
namespace {

constexpr std::size_t kTimeWidth = 10; // of the first column of --watch

std::vector<std::string> words_of(const std::string& text) {
    std::istringstream in(text);
    std::vector<std::string> out;
    for (std::string word; in >> word;) out.push_back(word);
    return out;
}
std::string trimmed(const std::string& text) {
    const auto from = text.find_first_not_of(' '), to = text.find_last_not_of(' ');
    return from == std::string::npos ? std::string() : text.substr(from, to - from + 1);
}

}

TableIn::TableIn(std::filesystem::path path) : path_(std::move(path)) {
    std::error_code error;
    const std::string name = path_.string();
    if (!std::filesystem::exists(path_, error)) throw scene::FileError(name + ": there is no such file");
    if (std::filesystem::is_directory(path_, error))
        throw scene::FileError(name + ": is a folder, not a table");
    in_.open(path_, std::ios::binary);
    std::string head;
    if (!in_ || !read_line(head)) throw scene::FileError(name + ": is empty or cannot be read");
    const auto time = head.find("time_s ");
    is_watch_ = time != std::string::npos && time + 6 >= kTimeWidth && head.find(" x_m") != std::string::npos;
    if (is_watch_) {
        names_ = time + 6 - kTimeWidth;
        watched_ = trimmed(head.substr(0, names_));
        columns_ = words_of(head.substr(names_));
        columns_.insert(columns_.begin(), "body");
    } else {
        columns_ = split(head);
    }
    if (column("time_s") == columns_.size())
        throw scene::FileError(name + ":1: holds no column time_s; a chart takes what astasis run wrote with "
                                      "--csv, --measures-csv, --events-csv, --impacts-csv or --watch");
}

std::size_t TableIn::column(const std::string& name) const {
    return static_cast<std::size_t>(std::find(columns_.begin(), columns_.end(), name) - columns_.begin());
}

// A line, or several where a quoted cell goes on.
bool TableIn::read_line(std::string& text) {
    const auto is_open = [](const std::string& t) { return std::count(t.begin(), t.end(), '"') % 2 != 0; };
    if (!std::getline(in_, text)) return false;
    line_++;
    for (std::string more; is_open(text) && std::getline(in_, more); line_++) text += "\n" + more;
    if (!text.empty() && text.back() == '\r') text.pop_back();
    return true;
}

std::vector<std::string> TableIn::split(const std::string& text) {
    std::vector<std::string> out(1);
    bool quoted = false;
    for (std::size_t k = 0; k < text.size(); k++) {
        const bool doubled = quoted && text[k] == '"' && k + 1 < text.size() && text[k + 1] == '"';
        if (doubled) out.back() += '"', k++;
        else if (text[k] == '"') quoted = !quoted;
        else if (text[k] == ',' && !quoted) out.emplace_back();
        else out.back() += text[k];
    }
    return out;
}

std::vector<std::string> TableIn::split_watched(const std::string& text) const {
    std::vector<std::string> out = words_of(text.substr(std::min(names_, text.size())));
    const std::string name = trimmed(text.substr(0, names_));
    out.insert(out.begin(), name.empty() ? watched_ : name);
    return out;
}

bool TableIn::next(std::vector<std::string>& cells) {
    std::string text;
    while (read_line(text)) {
        if (is_watch_ && trimmed(text).empty()) return false; // the summary follows
        if (text.empty()) continue;
        if (is_watch_ && text.ends_with("not there")) continue;
        cells = is_watch_ ? split_watched(text) : split(text);
        if (cells.size() == columns_.size()) return true;
        throw scene::FileError(fmt::format("{}:{}: given {} cells, accepted: {}, as in the head",
                                           path_.string(), line_, cells.size(), columns_.size()));
    }
    return false;
}

double TableIn::number(const std::vector<std::string>& cells, std::size_t column) const {
    const std::string& text = cells[column];
    double value = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    if (read.ec == std::errc() && read.ptr == text.data() + text.size()) return value;
    throw scene::FileError(fmt::format("{}:{}: {}: given \"{}\", accepted: a number", path_.string(), line_,
                                       columns_[column], text));
}

}
