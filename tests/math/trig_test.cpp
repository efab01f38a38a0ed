#include "math/trig.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace astasis::math {
namespace {

TEST(Trig, SineAndCosineAgreeWithLibmOverManyTurns) {
    std::mt19937_64 bits(1);
    for (const double range : {1.0, 10.0, 1000.0, 1e5}) {
        std::uniform_real_distribution<double> any(-range, range);
        for (int i = 0; i < 20000; i++) {
            const double x = any(bits);
            const SinCos t = sin_cos(x);
            ASSERT_NEAR(t.sin, std::sin(x), 4e-16 + 2e-17 * range) << x;
            ASSERT_NEAR(t.cos, std::cos(x), 4e-16 + 2e-17 * range) << x;
        }
    }
}

TEST(Trig, QuarterTurnsAreExact) {
    EXPECT_EQ(sin_cos(0).sin, 0.0);
    EXPECT_EQ(sin_cos(0).cos, 1.0);
    EXPECT_EQ(sin_cos(M_PI / 2).sin, 1.0);
    EXPECT_EQ(sin_cos(-M_PI / 2).sin, -1.0);
    EXPECT_EQ(sin_cos(M_PI).cos, -1.0);
}

TEST(Trig, ArcTangentAgreesWithLibmInAllQuadrants) {
    std::mt19937_64 bits(2);
    std::normal_distribution<double> any;
    for (int i = 0; i < 50000; i++) {
        const double y = any(bits), x = any(bits) * std::exp(5 * any(bits));
        ASSERT_NEAR(arc_tangent(y, x), std::atan2(y, x), 6e-16) << y << " / " << x;
    }
    EXPECT_EQ(arc_tangent(0, 0), 0.0);
    EXPECT_DOUBLE_EQ(arc_tangent(0, -1), M_PI);
}

TEST(Trig, ExponentialAgreesWithLibm) {
    std::mt19937_64 bits(3);
    std::uniform_real_distribution<double> any(-690, 0);
    for (int i = 0; i < 20000; i++) {
        const double x = i % 2 ? any(bits) : any(bits) / 690;
        ASSERT_NEAR(exponential(x) / std::exp(x), 1.0, 5e-16) << x;
    }
    EXPECT_EQ(exponential(0), 1.0);
    EXPECT_EQ(exponential(-1e9), 0.0);
}

}
}
