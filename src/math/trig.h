// Exact trigonometry: sine, cosine, arctangent and exponential that give the same bits on every machine.
//
// libm's differ between processors. These use only + - * / sqrt and floor on doubles, with an error of about
// 2e-16 relative to 1; arguments beyond 1e5 radians lose accuracy in proportion. Method: reduction to a short
// interval (Cody and Waite 1980, Software Manual for the Elementary Functions), then the Taylor series, whose
// next term is below 1e-16 there. Tested by tests/math/trig_test.cpp.
#pragma once

namespace astasis::math {

struct SinCos {
    double sin, cos;
};

SinCos sin_cos(double radians);
double arc_tangent(double y, double x); // of y/x in the right quadrant, -pi to pi; 0 for (0, 0)
double exponential(double x);           // e^x for x <= 0; 0 below -700

}
