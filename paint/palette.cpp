#include "paint/palette.h"

#include <utility>

namespace astasis::paint {

Colour mixed(Colour a, Colour b, double share) {
    return {a.red + (b.red - a.red) * share, a.green + (b.green - a.green) * share,
            a.blue + (b.blue - a.blue) * share};
}

Colour fill_of(std::string_view name) {
    static constexpr std::pair<std::string_view, Colour> kFills[] = {
        {"kraft", {0.86, 0.73, 0.53}}, {"clay", {0.85, 0.52, 0.34}},  {"moss", {0.52, 0.62, 0.36}},
        {"sky", {0.56, 0.77, 0.89}},   {"plum", {0.60, 0.45, 0.62}},  {"sand", {0.93, 0.88, 0.76}},
        {"slate", {0.66, 0.70, 0.73}}, {"brick", {0.64, 0.27, 0.22}},
    };
    for (const auto& [known, colour] : kFills)
        if (known == name) return colour;
    return kFills[0].second;
}

}
