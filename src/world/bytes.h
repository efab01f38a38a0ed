// Values to bytes and back: one description of each type, used in both ways.
//
// A pass is given each number of a value in turn; the writer appends it, the reader puts the next one there.
// Little-endian, without padding, so that equal values give equal bytes on every machine.
#pragma once

#include "astasis/error.h"
#include "base/hash.h"

#include <algorithm>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <type_traits>
#include <vector>

namespace astasis {

template<typename T>
concept Number = std::is_arithmetic_v<T> || std::is_enum_v<T>;

// The unsigned integer of a number's size.
template<std::size_t Size>
using BitsOf =
    std::conditional_t<Size == 1, std::uint8_t,
                       std::conditional_t<Size == 2, std::uint16_t,
                                          std::conditional_t<Size == 4, std::uint32_t, std::uint64_t>>>;

// Values that several others share are passed once, and told by a number from then on.
class Sharing {
public:
    // The number under which something shared is known, and whether this is the first time.
    std::pair<std::uint32_t, bool> number_of(const void* shared) {
        for (std::uint32_t i = 0; i < shared_.size(); i++)
            if (shared_[i] == shared) return {i, false};
        shared_.push_back(shared);
        return {static_cast<std::uint32_t>(shared_.size() - 1), true};
    }

private:
    std::vector<const void*> shared_;
};

class ByteWriter : public Sharing {
public:
    static constexpr bool kReads = false;
    std::vector<std::byte> bytes;

    template<Number T> void operator()(T& value) {
        const auto bits = std::bit_cast<BitsOf<sizeof(T)>>(value);
        for (std::size_t i = 0; i < sizeof(T); i++)
            bytes.push_back(static_cast<std::byte>(static_cast<std::uint64_t>(bits) >> (8 * i)));
    }
    template<typename T, typename Each> void operator()(std::vector<T>& list, const Each& each) {
        auto size = static_cast<std::uint64_t>(list.size());
        (*this)(size);
        for (T& item : list) each(item);
    }
};

// Hashes what a ByteWriter would write. Zeros lose their sign, which means nothing.
class Hasher : public Sharing {
public:
    static constexpr bool kReads = false;

    template<Number T> void operator()(T& value) {
        if constexpr (std::is_floating_point_v<T>) hash_.add(value + T{0});
        else hash_.add(std::uint64_t{std::bit_cast<BitsOf<sizeof(T)>>(value)});
    }
    template<typename T, typename Each> void operator()(std::vector<T>& list, const Each& each) {
        hash_.add(std::uint64_t{list.size()});
        for (T& item : list) each(item);
    }
    std::uint64_t value() const { return hash_.value(); }

private:
    base::Hash hash_;
};

class ByteReader {
public:
    static constexpr bool kReads = true;
    explicit ByteReader(std::span<const std::byte> bytes) : left_(bytes) {}

    template<Number T> void operator()(T& value) {
        need(sizeof(T));
        std::uint64_t bits = 0;
        for (std::size_t i = 0; i < sizeof(T); i++) bits |= static_cast<std::uint64_t>(left_[i]) << (8 * i);
        if constexpr (std::is_same_v<T, bool>)
            if (bits > 1) refuse("a byte of " + std::to_string(bits), "0 or 1");
        value = std::bit_cast<T>(static_cast<BitsOf<sizeof(T)>>(bits));
        left_ = left_.subspan(sizeof(T));
    }
    template<typename T, typename Each> void operator()(std::vector<T>& list, const Each& each) {
        std::uint64_t size = 0;
        (*this)(size);
        need(size); // each item has a byte at least: no list is longer than what is left
        list.clear();
        list.reserve(std::min(size, left_.size() / sizeof(T) + 1)); // what a wrong size asks for is small
        for (std::uint64_t i = 0; i < size; i++) {
            path_.push_back({nullptr, i});
            list.emplace_back();
            each(list.back());
            path_.pop_back();
        }
    }
    bool at_end() const { return left_.empty(); }

    // The field that is being read: the k-th of the names that one string holds. Until leave().
    void enter(const char* names, std::size_t k) { path_.push_back({names, k}); }
    void leave() { path_.pop_back(); }
    // Throws Error about it.
    [[noreturn]] void refuse(const std::string& given, const std::string& accepted) const {
        throw Error(field(), given, accepted);
    }
    // Calls what makes a value of what was read; what that refuses is refused here.
    template<typename Make> void made(const Make& make) const {
        try {
            make();
        } catch (const Error& e) {
            throw Error(field() + "." + e.field(), e.given(), e.accepted());
        }
    }

private:
    struct Step {
        const char* names; // null: an item of a list
        std::uint64_t number;
    };
    std::string field() const;
    void need(std::uint64_t bytes) const {
        if (bytes > left_.size())
            refuse("a snapshot that ends too early", "all the bytes that save_bytes gave");
    }
    std::span<const std::byte> left_;
    std::vector<Step> path_;
};

}
