// Bytes of a world that were altered, with a sum that is right: what a checksum does not find.
#pragma once

#include "base/hash.h"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace astasis::test {

inline constexpr std::size_t kHeadOfBytes = 32, kSizeInHead = 16, kSumInHead = 24;

inline void put_number(std::vector<std::byte>& bytes, std::size_t at, std::uint64_t value, std::size_t size) {
    for (std::size_t i = 0; i < size && at + i < bytes.size(); i++)
        bytes[at + i] = static_cast<std::byte>(value >> (8 * i));
}
inline void put_sum_right(std::vector<std::byte>& bytes) {
    if (bytes.size() < kHeadOfBytes) return;
    base::Hash hash;
    for (std::size_t i = kHeadOfBytes; i < bytes.size(); i += 8) {
        std::uint64_t word = 0;
        for (std::size_t k = 0; k < 8 && i + k < bytes.size(); k++)
            word |= static_cast<std::uint64_t>(bytes[i + k]) << (8 * k);
        hash.add(word);
    }
    put_number(bytes, kSizeInHead, bytes.size() - kHeadOfBytes, 8);
    put_number(bytes, kSumInHead, hash.value(), 8);
}

}
