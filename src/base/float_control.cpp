#include "base/float_control.h"

#include <bit>

#if defined(__x86_64__)
#include <immintrin.h>
#elif !defined(__aarch64__)
#error "Astasis runs on x86-64 and aarch64"
#endif

namespace astasis::base {
namespace {

#if defined(__x86_64__)
constexpr std::uint64_t kDefault = 0x1f80; // exceptions masked, round to nearest, denormals kept
std::uint64_t get() noexcept { return _mm_getcsr(); }
void set(std::uint64_t value) noexcept { _mm_setcsr(static_cast<unsigned>(value)); }
#else
constexpr std::uint64_t kDefault = 0;
std::uint64_t get() noexcept {
    std::uint64_t value;
    asm volatile("mrs %0, fpcr" : "=r"(value));
    return value;
}
void set(std::uint64_t value) noexcept { asm volatile("msr fpcr, %0" : : "r"(value)); }
#endif

}

FloatControl::FloatControl() noexcept : saved_(get()) { set(kDefault); }
FloatControl::~FloatControl() { set(saved_); }

bool arithmetic_is_exact() noexcept {
    // (1 + 2^-12)^2 - 1 is 2^-11 when the product is rounded first, and 2^-11 + 2^-24 when it is not.
    volatile float a = 1.0f + 0x1p-12f, c = -1.0f;
    return std::bit_cast<std::uint32_t>(a * a + c) == std::bit_cast<std::uint32_t>(0x1p-11f);
}

}
