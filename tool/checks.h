// Checks of options that say what they accept.
#pragma once

#include <CLI/CLI.hpp>

#include <charconv>
#include <cstdint>
#include <string>

namespace astasis::tool {

// The argument parser's own range texts print bounds with hundreds of digits.
template<typename Number> CLI::Validator between(Number low, Number high, const std::string& text) {
    return {[=](const std::string& given) -> std::string {
                Number value{};
                const char* const end = given.data() + given.size();
                const auto read = std::from_chars(given.data(), end, value);
                if (read.ec == std::errc() && read.ptr == end && value >= low && value <= high) return {};
                return "given " + given + ", accepted: " + text;
            },
            ""};
}
inline CLI::Validator number_between(double low, double high, const std::string& text) {
    return between<double>(low, high, text);
}
inline CLI::Validator whole_between(std::uint64_t low, std::uint64_t high, const std::string& text) {
    return between<std::uint64_t>(low, high, text);
}

}
