// A place in a document while it is read: typed values with their range checked, or a FileError that names
// the place.
#pragma once

#include "astasis/scene/json_tree.h"

#include "astasis/rotation.h"

#include <array>
#include <limits>
#include <span>

namespace astasis::scene {

// The numbers that a field accepts, and how to say so.
struct Range {
    double low, high;
    bool low_itself, high_itself; // whether the ends are accepted
    const char* sentence;
};
inline constexpr double kFloatMost = 3.0e38;
inline constexpr Range kAnyNumber{-kFloatMost, kFloatMost, true, true, "a number"};
inline constexpr Range kPositive{0, kFloatMost, false, true, "a number above 0"};
inline constexpr Range kNotNegative{0, kFloatMost, true, true, "a number, 0 or more"};
inline constexpr Range kShare{0, 1, true, true, "a number from 0 to 1"};

class Cursor {
public:
    explicit Cursor(const Document& document) : Cursor(document, document.root, "$") {}

    const Node& node() const { return *node_; }
    const std::string& path() const { return path_; }
    const Document& document() const { return *document_; }

    // The members of an object. Refuses anything that is not an object, and keys that are not among `known`.
    void only(std::span<const char* const> known) const;
    bool has(const char* key) const { return node_->find(key) != nullptr; }
    Cursor at(const char* key) const; // refuses what is missing
    std::vector<std::pair<std::string, Cursor>> members() const;
    std::vector<Cursor> items(const char* what) const;

    double number(const Range& range) const;
    bool truth() const; // true or false
    std::uint64_t whole(std::uint64_t low, std::uint64_t high) const;
    std::string string(const char* what) const;
    std::string one_of(std::span<const char* const> words) const;
    // "30 deg" or "0.5 rad", in radians; with `per_second`, "30 deg/s" or "0.5 rad/s".
    double angle(bool per_second) const;
    template<int Dim> std::array<double, Dim> numbers(const Range& range) const {
        std::array<double, Dim> out{};
        read_numbers(out, range);
        return out;
    }

    [[noreturn]] void fail(const std::string& accepted) const { document_->fail(*node_, path_, accepted); }
    [[noreturn]] void fail_because(const std::string& message) const {
        document_->fail_at(*node_, path_, message);
    }

private:
    Cursor(const Document& document, const Node& node, std::string path)
        : document_(&document), node_(&node), path_(std::move(path)) {}
    void read_numbers(std::span<double> out, const Range& range) const;

    const Document* document_;
    const Node* node_;
    std::string path_;
};

}
