// Scratch memory that holds nothing that lasts: its copies are empty, so that a copy of its owner is small.
#pragma once

namespace astasis::base {

template<typename T> struct Scratch : T {
    Scratch() = default;
    Scratch(const Scratch&) : T() {}
    Scratch& operator=(const Scratch&) { return *this; }
    Scratch(Scratch&&) noexcept = default;
    Scratch& operator=(Scratch&&) noexcept = default;
    ~Scratch() = default;
};

}
