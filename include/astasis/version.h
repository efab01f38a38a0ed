// The version of the library.
#pragma once

namespace astasis {

inline constexpr const char* kVersion = "0.1.0";

}
