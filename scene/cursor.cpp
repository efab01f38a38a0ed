#include "scene/cursor.h"

#include "scene/nearest.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <string_view>

namespace astasis::scene {
namespace {

std::string listed(std::span<const char* const> words) {
    std::string out;
    for (const char* w : words) out += (out.empty() ? "" : ", ") + std::string(w);
    return out;
}

std::string unknown_key(const std::string& key, std::span<const char* const> known) {
    const std::string meant = suggestion(key, known);
    return "unknown key" + meant + (meant.empty() ? "; known here: " : " Known here: ") + listed(known);
}

}

void Cursor::only(std::span<const char* const> known) const {
    if (node_->kind != Node::Kind::Object) fail("an object with some of the keys " + listed(known));
    for (const auto& [key, node] : node_->members)
        if (std::find(known.begin(), known.end(), std::string_view(key)) == known.end())
            document_->fail_at(node, path_ + "." + key, unknown_key(key, known));
}

Cursor Cursor::at(const char* key) const {
    const Node* found = node_->find(key);
    if (!found) document_->fail_at(*node_, path_, std::string("the key \"") + key + "\" is missing");
    return {*document_, *found, path_ + "." + key};
}

std::vector<std::pair<std::string, Cursor>> Cursor::members() const {
    if (node_->kind != Node::Kind::Object) fail("an object of names and their values");
    std::vector<std::pair<std::string, Cursor>> out;
    for (const auto& [key, node] : node_->members)
        out.emplace_back(key, Cursor(*document_, node, path_ + "." + key));
    return out;
}

std::vector<Cursor> Cursor::items(const char* what) const {
    if (node_->kind != Node::Kind::Array) fail(what);
    std::vector<Cursor> out;
    for (std::size_t i = 0; i < node_->items.size(); i++)
        out.push_back(Cursor(*document_, node_->items[i], path_ + "[" + std::to_string(i) + "]"));
    return out;
}

double Cursor::number(const Range& range) const {
    if (node_->kind != Node::Kind::Number) fail(range.sentence);
    const double n = node_->number;
    if (std::fabs(n) > kFloatMost) fail(std::string(range.sentence) + ", and none beyond 3e38");
    if (n < range.low || n > range.high || (n == range.low && !range.low_itself) ||
        (n == range.high && !range.high_itself))
        fail(range.sentence);
    return n;
}

bool Cursor::truth() const {
    if (node_->kind != Node::Kind::Bool) fail("true or false");
    return node_->boolean;
}

std::uint64_t Cursor::whole(std::uint64_t low, std::uint64_t high) const {
    const std::string sentence = "a whole number from " + std::to_string(low) + " to " + std::to_string(high);
    if (node_->kind != Node::Kind::Number || !node_->integral) fail(sentence);
    std::uint64_t value = 0; // from the text: a double holds only 53 bits of it
    const char* end = node_->text.data() + node_->text.size();
    const auto read = std::from_chars(node_->text.data(), end, value);
    if (read.ec != std::errc{} || read.ptr != end || value < low || value > high) fail(sentence);
    return value;
}

std::string Cursor::string(const char* what) const {
    if (node_->kind != Node::Kind::String || node_->text.empty()) fail(what);
    return node_->text;
}

std::string Cursor::one_of(std::span<const char* const> words) const {
    const bool known = node_->kind == Node::Kind::String &&
                       std::find(words.begin(), words.end(), std::string_view(node_->text)) != words.end();
    if (!known) {
        const bool is_word = node_->kind == Node::Kind::String;
        fail("one of " + listed(words) + (is_word ? suggestion(node_->text, words) : std::string()));
    }
    return node_->text;
}

double Cursor::angle(bool per_second) const {
    const char* accepted = per_second ? "a turning speed with its unit, as \"90 deg/s\" or \"1.5 rad/s\""
                                      : "an angle with its unit, as \"30 deg\" or \"0.5 rad\"";
    if (node_->kind != Node::Kind::String) fail(accepted);
    std::string_view text = node_->text;
    double value = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    text.remove_prefix(static_cast<std::size_t>(read.ptr - text.data()));
    while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
    if (read.ec != std::errc{} || !(value >= -1e9 && value <= 1e9)) fail(accepted);
    if (text == (per_second ? "deg/s" : "deg")) return degrees(value).in_radians();
    if (text == (per_second ? "rad/s" : "rad")) return value;
    fail(accepted);
}

void Cursor::read_numbers(std::span<double> out, const Range& range) const {
    const std::string accepted =
        "a list of " + std::to_string(out.size()) + " values, each " + std::string(range.sentence);
    if (node_->kind != Node::Kind::Array || node_->items.size() != out.size()) fail(accepted);
    const auto all = items("");
    for (std::size_t i = 0; i < out.size(); i++) out[i] = all[i].number(range);
}

}
