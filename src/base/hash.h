// FNV-1a over the bits of numbers (Fowler, Noll, Vo): the fingerprint of a state.
#pragma once

#include <bit>
#include <cstdint>

namespace astasis::base {

class Hash {
public:
    void add(std::uint64_t bits) {
        for (int i = 0; i < 8; i++) value_ = (value_ ^ ((bits >> (8 * i)) & 0xff)) * 0x100000001b3u;
    }
    void add(double x) { add(std::bit_cast<std::uint64_t>(x)); }
    void add(float x) { add(std::uint64_t{std::bit_cast<std::uint32_t>(x)}); }
    std::uint64_t value() const { return value_; }

private:
    std::uint64_t value_ = 0xcbf29ce484222325u;
};

}
