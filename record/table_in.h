// Tables that a run wrote, read back: CSV (RFC 4180), or what --watch printed.
#pragma once

#include <filesystem>
#include <fstream>
#include <string>
#include <vector>

namespace astasis::record {

class TableIn {
public:
    // Throws scene::FileError: no such file, or one that holds no table.
    explicit TableIn(std::filesystem::path path);

    const std::vector<std::string>& columns() const { return columns_; }
    // The number of a column; columns().size() if there is none.
    std::size_t column(const std::string& name) const;
    // The cells of the next row, as many as there are columns. False at the end of the table. Throws
    // FileError for a row with more or less.
    bool next(std::vector<std::string>& cells);
    std::size_t line() const { return line_; }
    // A cell as a number. Throws FileError if it is none.
    double number(const std::vector<std::string>& cells, std::size_t column) const;

private:
    bool read_line(std::string& text);
    std::vector<std::string> split(const std::string& text);
    std::vector<std::string> split_watched(const std::string& text) const;

    std::filesystem::path path_;
    std::ifstream in_;
    std::vector<std::string> columns_;
    std::string watched_;              // the body of a table of one
    std::size_t line_ = 0, names_ = 0; // names_: the width of the names of --watch; 0 of CSV
    bool is_watch_ = false;
};

}
