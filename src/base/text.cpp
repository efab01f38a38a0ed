#include "base/text.h"

#include "astasis/error.h"

#include <charconv>

namespace astasis::base {
namespace {

template<typename Number> std::string shortest(Number value) {
    char buffer[48];
    const auto end = std::to_chars(buffer, buffer + sizeof buffer, value).ptr;
    return {buffer, end};
}

}

std::string number(double value) { return shortest(value); }
std::string number(float value) { return shortest(value); }

}

namespace astasis {

Error::Error(std::string field, std::string given, std::string accepted)
    : std::invalid_argument(field + ": given " + given + ", accepted: " + accepted), field_(std::move(field)),
      given_(std::move(given)), accepted_(std::move(accepted)) {}

}
