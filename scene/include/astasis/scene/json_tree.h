// JSON as a tree that remembers where each value stood, so that every complaint can give line, column and
// path. Strict: duplicate keys are refused. Reads text, knows nothing of scenes.
#pragma once

#include <cstddef>
#include <filesystem>
#include <stdexcept>
#include <string>
#include <vector>

namespace astasis::scene {

// A fault in a scene file. what() reads "FILE:LINE:COLUMN: PATH: given VALUE, accepted: SENTENCE".
class FileError : public std::runtime_error {
    using std::runtime_error::runtime_error;
};

struct Member;

struct Node {
    enum class Kind { Null, Bool, Number, String, Array, Object };
    Kind kind = Kind::Null;
    bool boolean = false;
    bool integral = false; // a number written without fraction and exponent
    double number = 0;
    std::string text;            // of a string; of a number as it was written
    std::vector<Node> items;     // of an array
    std::vector<Member> members; // of an object, in the file's order
    std::size_t offset = 0;      // where it starts in the file

    const Node* find(const std::string& key) const;
};

struct Member {
    std::string name;
    Node node;
};

struct Document {
    std::string file; // as it is named in messages
    std::string text;
    Node root;
    mutable std::vector<std::filesystem::path> others; // files that were read for it
    mutable std::vector<std::size_t> line_begins;      // in `text`, once a place has been asked for

    // Throws FileError about `node`, which stands at `path`, with its value as the file has it.
    [[noreturn]] void fail(const Node& node, const std::string& path, const std::string& accepted) const;
    // The same without a value: what is missing, or wrong with the whole.
    [[noreturn]] void fail_at(const Node& node, const std::string& path, const std::string& message) const;
    // "FILE:LINE:COLUMN". O(size) the first time, then O(log lines).
    std::string place(std::size_t offset) const;
    std::string value_of(const Node& node) const;
};

// Throws FileError if `text` is not JSON, has a key twice in one object, or nests deeper than 64 levels, or
// has more than 4000000 values. O(size).
Document parse(std::string file, std::string text);

}
