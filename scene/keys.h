// The keys of scene files, object by object. The reader accepts just these; a test holds the schema to them.
#pragma once

#include <string_view>

namespace astasis::scene::keys {

inline constexpr const char* kScene[] = {
    "$schema",    "astasis_scene", "title",    "dimension", "gravity",   "ticks_per_second",
    "substeps",   "seed",          "duration", "bounds",    "materials", "between",
    "extra_work", "sleeping",      "bodies",   "joints",    "fields",    "timeline"};
inline constexpr const char* kBounds[] = {"from", "to"};
// What a material and a pair of materials may say of surfaces.
inline constexpr const char* kMaterial[] = {"friction",
                                            "restitution",
                                            "tangential_restitution",
                                            "rolling_resistance",
                                            "spinning_resistance",
                                            "friction_mixing",
                                            "restitution_mixing",
                                            "density",
                                            "fill"};
inline constexpr const char* kBetween[] = {"materials",          "friction",
                                           "restitution",        "tangential_restitution",
                                           "rolling_resistance", "spinning_resistance"};
inline constexpr const char* kBody[] = {
    "name",           "motion",          "at",     "turn",      "velocity", "spin",
    "linear_damping", "angular_damping", "mass",   "shapes",    "repeat",   "spread",
    "drag",           "gravity_scale",   "locked", "may_sleep", "asleep",   "sweep"};
inline constexpr const char* kShape[] = {
    "shape",    "radius",  "size", "from",      "to",     "corners",       "rounding", "outward",
    "material", "at",      "turn", "two_sided", "closed", "tiles",         "cell",     "points",
    "pitch",    "heights", "file", "triangles", "layers", "collides_with", "group",    "surface_velocity",
    "sensor",   "tag"};
// Of shapes of every kind.
inline constexpr std::string_view kEveryShape[] = {
    "shape", "material",         "at",     "turn", "layers", "collides_with",
    "group", "surface_velocity", "sensor", "tag"};
inline constexpr const char* kJoint[] = {"joint",     "name",      "body",           "to",
                                         "row",       "at",        "at_body",        "at_to",
                                         "collide",   "axis",      "axis_to",        "limits",
                                         "limits_to", "motor",     "motor_to",       "length",
                                         "spring",    "up",        "axle",           "suspension",
                                         "travel",    "drive",     "steering",       "over",
                                         "over_to",   "ratio",     "target",         "most",
                                         "cone",      "cone_axis", "breaking_force", "breaking_torque",
                                         "twist",     "friction"};
inline constexpr std::string_view kEveryJoint[] = {
    "joint",   "name",           "body",           "to", "row", "at", "at_body", "at_to",
    "collide", "breaking_force", "breaking_torque"};
inline constexpr const char* kLimits[] = {"lower", "upper", "restitution", "spring"};
inline constexpr const char* kMotor[] = {"most", "speed", "target", "spring"};
inline constexpr const char* kSpringing[] = {"frequency", "damping_ratio", "stiffness", "damping"};
inline constexpr const char* kField[] = {
    "field",      "within",   "acts_on",  "acceleration", "at",      "body",  "strength", "softening",
    "pulls_back", "constant", "velocity", "drag",         "damping", "level", "density",  "flow"};
inline constexpr std::string_view kEveryField[] = {"field", "within", "acts_on"};
inline constexpr const char* kAction[] = {"action",
                                          "time",
                                          "every",
                                          "from",
                                          "until",
                                          "count",
                                          "entered",
                                          "left",
                                          "body",
                                          "where_free",
                                          "impulse",
                                          "on",
                                          "velocity",
                                          "spin",
                                          "material",
                                          "friction",
                                          "restitution",
                                          "tangential_restitution",
                                          "rolling_resistance",
                                          "spinning_resistance",
                                          "gravity",
                                          "joint",
                                          "axis",
                                          "motor"};
inline constexpr std::string_view kEveryAction[] = {"action", "time",  "every",   "from",
                                                    "until",  "count", "entered", "left"};
inline constexpr const char* kRays[] = {"astasis_rays", "rays"};
inline constexpr const char* kRay[] = {"from", "to"};
inline constexpr const char* kRepeat[] = {"count", "pitch"};
inline constexpr const char* kSpread[] = {"at", "turn", "velocity"};
inline constexpr const char* kTurn[] = {"axis", "angle"};
inline constexpr const char* kSpin[] = {"axis", "rate"};

inline constexpr const char* kPlaneAxes[] = {"x", "y", "turn"};
inline constexpr const char* kSpaceAxes[] = {"x", "y", "z", "turn x", "turn y", "turn z"};
inline constexpr const char* kSweeps[] = {"none", "static only", "everything"};
inline constexpr const char* kMixings[] = {"smaller", "product", "geometric mean", "mean", "larger"};
inline constexpr const char* kMotions[] = {"static", "kinematic", "dynamic"};
inline constexpr const char* kFills[] = {"kraft", "clay", "moss", "sky", "plum", "sand", "slate", "brick"};

}
