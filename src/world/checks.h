// Checks that several calls of a world share. Each throws Error with the field that it is given.
#pragma once

#include "astasis/body.h"
#include "astasis/error.h"
#include "astasis/world.h"
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

template<int Dim> void check_world(const WorldSpec<Dim>& spec, const std::string& prefix) {
    check_finite(spec.gravity, (prefix + "gravity").c_str(), "m/s2");
    if (!(spec.tick >= 1e-5) || !(spec.tick <= 1))
        throw Error(prefix + "tick", base::number(spec.tick), "1e-5 to 1 (seconds); 1/60 is usual");
    if (spec.substeps < 1 || spec.substeps > 64)
        throw Error(prefix + "substeps", std::to_string(spec.substeps), "1 to 64");
    if (!(spec.extra_work >= 0) || !(spec.extra_work <= 1000))
        throw Error(prefix + "extra_work", base::number(spec.extra_work), "0 to 1000; 1 is usual");
}

inline void check_event_kinds(const EventKinds& kinds) {
    if (!(kinds.least_speed >= 0) || !math::is_finite(kinds.least_speed))
        throw Error("least_speed", base::number(kinds.least_speed), "a finite number, 0 or more (m/s)");
}

inline void check_motion(Motion motion) {
    if (motion > Motion::Dynamic)
        throw Error("motion", std::to_string(static_cast<int>(motion)), "Static, Kinematic or Dynamic");
}
inline void check_sweep(Sweep sweep) {
    if (sweep > Sweep::Everything)
        throw Error("sweep", std::to_string(static_cast<int>(sweep)), "None, StaticOnly or Everything");
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
