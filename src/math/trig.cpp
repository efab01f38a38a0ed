#include "math/trig.h"

#include <bit>
#include <cmath>
#include <cstdint>
#include <initializer_list>

namespace astasis::math {
namespace {

constexpr double kPi = 3.14159265358979323846;

// pi/2 in two parts: the first has 33 significant bits, so that its product with a small integer is exact.
constexpr double kHalfPiHigh = 0x1.921fb544p+0;
constexpr double kHalfPiLow = 0x1.0b4611a626331p-34;
constexpr double kLn2High = 0x1.62e42feep-1;
constexpr double kLn2Low = 0x1.a39ef35793c76p-33;

// x - x^3/3! + ... up to x^15, for |x| <= pi/4.
double sine_series(double x) {
    const double t = x * x;
    double sum = -1.0 / 1307674368000.0;
    sum = sum * t + 1.0 / 6227020800.0;
    sum = sum * t - 1.0 / 39916800.0;
    sum = sum * t + 1.0 / 362880.0;
    sum = sum * t - 1.0 / 5040.0;
    sum = sum * t + 1.0 / 120.0;
    sum = sum * t - 1.0 / 6.0;
    return x + x * (t * sum);
}

// 1 - x^2/2! + ... up to x^16, for |x| <= pi/4.
double cosine_series(double x) {
    const double t = x * x;
    double sum = 1.0 / 20922789888000.0;
    sum = sum * t - 1.0 / 87178291200.0;
    sum = sum * t + 1.0 / 479001600.0;
    sum = sum * t - 1.0 / 3628800.0;
    sum = sum * t + 1.0 / 40320.0;
    sum = sum * t - 1.0 / 720.0;
    sum = sum * t + 1.0 / 24.0;
    return (1.0 - 0.5 * t) + (t * t) * sum;
}

// t - t^3/3 + ... up to t^21, for |t| <= tan(pi/16).
double arc_tangent_series(double t) {
    const double u = t * t;
    double sum = 1.0 / 21.0;
    sum = 1.0 / 19.0 - u * sum;
    sum = 1.0 / 17.0 - u * sum;
    sum = 1.0 / 15.0 - u * sum;
    sum = 1.0 / 13.0 - u * sum;
    sum = 1.0 / 11.0 - u * sum;
    sum = 1.0 / 9.0 - u * sum;
    sum = 1.0 / 7.0 - u * sum;
    sum = 1.0 / 5.0 - u * sum;
    sum = 1.0 / 3.0 - u * sum;
    return t - t * (u * sum);
}

}

SinCos sin_cos(double radians) {
    const double turns = std::floor(radians * (2.0 / kPi) + 0.5);
    const double x = (radians - turns * kHalfPiHigh) - turns * kHalfPiLow;
    const double s = sine_series(x), c = cosine_series(x);
    const double quarter = turns - 4.0 * std::floor(turns * 0.25); // 0, 1, 2, 3
    const bool swapped = quarter == 1.0 || quarter == 3.0;
    const double sine = swapped ? c : s, cosine = swapped ? s : c;
    return {quarter >= 2.0 ? -sine : sine, quarter == 1.0 || quarter == 2.0 ? -cosine : cosine};
}

double arc_tangent(double y, double x) {
    const double ay = std::fabs(y), ax = std::fabs(x);
    const double larger = ax < ay ? ay : ax, smaller = ax < ay ? ax : ay;
    if (larger == 0.0) return 0.0;
    // Halving the angle twice brings it below pi/16: tan(a/2) = t / (1 + sqrt(1 + t^2)).
    double t = smaller / larger;
    t = t / (1.0 + std::sqrt(1.0 + t * t));
    t = t / (1.0 + std::sqrt(1.0 + t * t));
    double angle = 4.0 * arc_tangent_series(t);
    if (ax < ay) angle = kPi / 2 - angle;
    if (x < 0.0) angle = kPi - angle;
    return y < 0.0 ? -angle : angle;
}

double exponential(double x) {
    if (!(x > -700.0)) return 0.0;
    const double power = std::floor(x * 1.4426950408889634 + 0.5);
    const double r = (x - power * kLn2High) - power * kLn2Low;
    double sum = 1.0 / 6227020800.0;
    for (const double inverse_factorial :
         {1.0 / 479001600.0, 1.0 / 39916800.0, 1.0 / 3628800.0, 1.0 / 362880.0, 1.0 / 40320.0, 1.0 / 5040.0,
          1.0 / 720.0, 1.0 / 120.0, 1.0 / 24.0, 1.0 / 6.0, 0.5, 1.0, 1.0})
        sum = sum * r + inverse_factorial;
    const auto exponent = static_cast<std::uint64_t>(static_cast<std::int64_t>(power) + 1023);
    return sum * std::bit_cast<double>(exponent << 52);
}

}
