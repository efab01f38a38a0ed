// The one exception of the library: bad input, refused with a sentence, where it enters.
#pragma once

#include <stdexcept>
#include <string>

namespace astasis {

// Thrown by whatever checks what a user passes. The call that threw has changed nothing. Stepping never
// throws.
class Error : public std::invalid_argument {
public:
    Error(std::string field, std::string given, std::string accepted);
    const std::string& field() const { return field_; }       // what was wrong, as "shapes[0].density"
    const std::string& given() const { return given_; }       // the value that was passed
    const std::string& accepted() const { return accepted_; } // what would have been right

private:
    std::string field_, given_, accepted_;
};

}
