// The random numbers of scenes: the same on every machine, unlike std's distributions.
#pragma once

#include <cstdint>

namespace astasis::scene {

// SplitMix64 (Steele, Lea, Flood 2014, Fast Splittable Pseudorandom Number Generators).
class Random {
public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    std::uint64_t bits() {
        std::uint64_t z = state_ += 0x9e3779b97f4a7c15u;
        z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9u;
        z = (z ^ (z >> 27)) * 0x94d049bb133111ebu;
        return z ^ (z >> 31);
    }
    // Evenly from -1 to 1.
    double either_way() { return static_cast<double>(bits() >> 11) * 0x1p-52 - 1.0; }

private:
    std::uint64_t state_;
};

}
