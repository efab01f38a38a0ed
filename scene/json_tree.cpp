#include "astasis/scene/json_tree.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iterator>
#include <unordered_set>
#include <utility>

namespace astasis::scene {
namespace {

constexpr std::size_t kDeepest = 64;
constexpr std::size_t kMostValues = 4'000'000; // about 100 bytes of memory each

// Reads the text and counts, so that the handler knows how far the parser has come.
class Counting {
public:
    using iterator_category = std::input_iterator_tag;
    using value_type = char;
    using difference_type = std::ptrdiff_t;
    using pointer = const char*;
    using reference = const char&;

    Counting(const char* at, const char** shared) : at_(at), shared_(shared) {}
    reference operator*() const { return *at_; }
    Counting& operator++() {
        ++at_;
        *shared_ = at_;
        return *this;
    }
    Counting operator++(int) {
        Counting old = *this;
        ++*this;
        return old;
    }
    bool operator==(const Counting& other) const { return at_ == other.at_; }
    bool operator!=(const Counting& other) const { return at_ != other.at_; }

private:
    const char* at_;
    const char** shared_;
};

// Why a text is not JSON, in words of our own; the parser's tells the case.
const char* plain_reason(const std::string& why) {
    static constexpr std::pair<const char*, const char*> kReasons[] = {
        {"number overflow", "this number is too large"},
        {"unexpected end of input", "the text ends here, in the middle of an object, a list or a value"},
        {"missing closing quote", "a string begins that no double quote ends"},
        {"control character",
         "a line break or another control character stands in a string; there it is \\n"},
        {"ill-formed UTF-8", "this is not UTF-8"},
        {"invalid string", "a backslash in a string stands before none of \" \\ / b f n r t u"},
        {"invalid number", "this is no number of JSON, which are as 0.5, -3 or 2e-4"},
        {"; expected end of input", "the scene has ended before this"},
        {"invalid literal",
         "no value begins like this: strings stand in double quotes, and there are no comments"},
        {"; expected ':'", "a colon is missing behind a key"},
        {"; expected string literal",
         "a key in double quotes is wanted here; behind the last entry stands no comma"},
        {"; expected ']'", "a comma or ] is wanted here"},
        {"; expected '}'", "a comma or } is wanted here"},
        {"parsing value", "a value is wanted here; behind the last entry stands no comma"}};
    for (const auto& [mark, reason] : kReasons)
        if (why.find(mark) != std::string::npos) return reason;
    return "this cannot be read";
}

// Builds the tree. A value starts where, after the end of the one before, white space, commas and brackets
// end.
class Builder {
public:
    Builder(Document& document, const char*& read) : document_(document), read_(read) {}

    bool null() { return value(Node::Kind::Null); }
    bool boolean(bool b) {
        return value(Node::Kind::Bool, [&](Node& n) { n.boolean = b; });
    }
    bool number_integer(std::int64_t i) { return number(static_cast<double>(i), true); }
    bool number_unsigned(std::uint64_t u) { return number(static_cast<double>(u), true); }
    bool number_float(double d, const std::string&) { return number(d, false); }
    bool string(std::string& s) {
        return value(Node::Kind::String, [&](Node& n) { n.text = s; });
    }
    bool binary(std::string&) { return false; }
    bool binary(std::vector<std::uint8_t>&) { return false; }
    bool start_object(std::size_t) { return open(Node::Kind::Object); }
    bool start_array(std::size_t) { return open(Node::Kind::Array); }
    bool end_object() { return close(); }
    bool end_array() { return close(); }
    bool key(std::string& k) {
        Node marker;
        marker.offset = start();
        if (!keys_.back().insert(k).second)
            document_.fail_at(marker, "key \"" + k + "\"",
                              "stands twice in one object; each key may stand once");
        key_ = k;
        end_ = offset();
        return true;
    }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception& e) {
        Node marker;
        marker.offset = offset() > 0 ? offset() - 1 : 0;
        document_.fail_at(marker, "not JSON", plain_reason(e.what()));
    }

private:
    std::size_t offset() const { return static_cast<std::size_t>(read_ - document_.text.data()); }
    std::size_t start() const {
        std::size_t i = end_;
        while (i < document_.text.size() && std::string_view(" \t\r\n,:]}").find(document_.text[i]) < 8) i++;
        return i;
    }
    Node& place() {
        if (++values_ > kMostValues) {
            Node marker;
            marker.offset = start();
            document_.fail_at(marker, "this value", "is one more than the 4000000 that a file may have");
        }
        if (stack_.empty()) return document_.root;
        Node& parent = *stack_.back();
        if (parent.kind == Node::Kind::Array) return parent.items.emplace_back();
        parent.members.push_back({key_, {}});
        return parent.members.back().node;
    }
    template<typename Fill> bool value(Node::Kind kind, const Fill& fill) {
        const std::size_t from = start();
        Node& n = place();
        n.kind = kind;
        n.offset = from;
        fill(n);
        end_ = offset();
        return true;
    }
    bool value(Node::Kind kind) {
        return value(kind, [](Node&) {});
    }
    bool number(double d, bool integral) {
        return value(Node::Kind::Number, [&](Node& n) {
            n.number = d;
            n.integral = integral;
            const auto past = document_.text.find_first_not_of("+-.0123456789eE", n.offset);
            n.text = document_.text.substr(n.offset, past == std::string::npos ? past : past - n.offset);
        });
    }
    bool open(Node::Kind kind) {
        const std::size_t from = start();
        Node marker;
        marker.offset = from;
        if (stack_.size() == kDeepest) document_.fail_at(marker, "nesting", "is deeper than 64 levels");
        Node& n = place();
        n.kind = kind;
        n.offset = from;
        stack_.push_back(&n); // stays valid: its parent grows only after it is closed
        keys_.emplace_back();
        end_ = offset();
        return true;
    }
    bool close() {
        stack_.pop_back(), keys_.pop_back();
        end_ = offset();
        return true;
    }

    Document& document_;
    const char*& read_;
    std::vector<Node*> stack_;
    std::vector<std::unordered_set<std::string>> keys_; // of each that is open
    std::size_t values_ = 0;
    std::string key_;
    std::size_t end_ = 0;
};

}

const Node* Node::find(const std::string& key) const {
    for (const auto& [name, node] : members)
        if (name == key) return &node;
    return nullptr;
}

std::string Document::place(std::size_t offset) const {
    if (line_begins.empty()) {
        line_begins.push_back(0);
        for (std::size_t i = 0; i < text.size(); i++)
            if (text[i] == '\n') line_begins.push_back(i + 1);
    }
    offset = std::min(offset, text.size());
    const auto line = std::upper_bound(line_begins.begin(), line_begins.end(), offset);
    return file + ":" + std::to_string(line - line_begins.begin()) + ":" +
           std::to_string(offset - *(line - 1) + 1);
}

std::string Document::value_of(const Node& node) const {
    switch (node.kind) {
    case Node::Kind::Null: return "null";
    case Node::Kind::Bool: return node.boolean ? "true" : "false";
    case Node::Kind::Number: return node.text;
    case Node::Kind::String:
        return "\"" + (node.text.size() > 60 ? node.text.substr(0, 60) + "..." : node.text) + "\"";
    case Node::Kind::Array: return "a list of " + std::to_string(node.items.size());
    case Node::Kind::Object: return "an object";
    }
    return {};
}

void Document::fail(const Node& node, const std::string& path, const std::string& accepted) const {
    throw FileError(place(node.offset) + ": " + path + ": given " + value_of(node) +
                    ", accepted: " + accepted);
}

void Document::fail_at(const Node& node, const std::string& path, const std::string& message) const {
    throw FileError(place(node.offset) + ": " + path + ": " + message);
}

Document parse(std::string file, std::string text) {
    Document document{std::move(file), std::move(text), {}, {}, {}};
    const char* read = document.text.data();
    Builder builder(document, read);
    const Counting first(document.text.data(), &read),
        last(document.text.data() + document.text.size(), &read);
    if (document.text.find_first_not_of(" \t\r\n") == std::string::npos)
        document.fail_at(document.root, "the file",
                         "is empty; a scene is a JSON object (docs/scene-format.md)");
    nlohmann::json::sax_parse(first, last, &builder);
    return document;
}

}
