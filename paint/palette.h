// The colours of Astasis: warm paper, dark ink, eight fills that stay apart for colour-blind eyes (they
// differ in lightness as well as in hue).
#pragma once

#include <string_view>

namespace astasis::paint {

struct Colour {
    double red, green, blue;
};

inline constexpr Colour kPaper{0.973, 0.949, 0.902};
inline constexpr Colour kInk{0.165, 0.149, 0.133};
inline constexpr Colour kFaintInk{0.56, 0.53, 0.49};
inline constexpr Colour kForce{0.75, 0.20, 0.12};
inline constexpr Colour kRay{0.10, 0.45, 0.30};
inline constexpr Colour kLink{0.55, 0.25, 0.55};
inline constexpr Colour kField{0.10, 0.42, 0.55};
inline constexpr Colour kVelocity{0.05, 0.36, 0.62};
inline constexpr Colour kSensor{0.72, 0.46, 0.04};

// The first with a share of the second.
Colour mixed(Colour a, Colour b, double share);
// The colour of a fill's name in a scene file; of an unknown name, that of kraft.
Colour fill_of(std::string_view name);

}
