// Checks that several calls of a world share. Each throws Error with the field that it is given.
#pragma once

#include "astasis/body.h"
#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"

#include <string>

namespace astasis {

inline void check_finite(float value, const char* field, const char* unit) {
    if (!math::is_finite(value))
        throw Error(field, base::number(value), std::string("a finite number (") + unit + ")");
}
template<typename Value> void check_finite(const Value& value, const char* field, const char* unit) {
    if (!math::is_finite(value))
        throw Error(field, base::text_of(value), std::string("finite numbers (") + unit + ")");
}

template<int Dim> void check_free_motion(const FreeMotion<Dim>& free, const std::string& prefix) {
    const auto check = [&](float value, const char* field, const char* unit) {
        if (!(value >= 0) || !math::is_finite(value))
            throw Error(prefix + field, base::number(value),
                        std::string("a finite number, 0 or more (") + unit + ")");
    };
    check(free.linear_damping, "linear_damping", "1/s");
    check(free.angular_damping, "angular_damping", "1/s");
    check(free.drag, "drag", "kg/m");
    if (!math::is_finite(free.gravity_scale))
        throw Error(prefix + "gravity_scale", base::number(free.gravity_scale), "a finite number");
}

}
