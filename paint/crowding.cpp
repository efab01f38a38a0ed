#include "paint/crowding.h"

#include <algorithm>
#include <cmath>

namespace astasis::paint {

bool Thinning::takes(Place at) {
    if (!is_many_) return true;
    const auto cell = [](double v) {
        return static_cast<std::uint32_t>(static_cast<int>(std::floor(v / kSpot)));
    };
    return taken_.insert(std::uint64_t{cell(at.x)} << 32 | cell(at.y)).second;
}

bool Names::is_free(const Box& box) const {
    return std::none_of(taken_.begin(), taken_.end(), [&](const Box& other) {
        return box.left < other.right && box.right > other.left && box.top < other.bottom &&
               box.bottom > other.top;
    });
}

std::size_t Names::draw(Canvas& canvas, double top, double bottom) {
    constexpr double kSize = 11, kGap = 6;
    std::size_t left_out = 0;
    for (const Name& name : wanted_) {
        const double width = canvas.width_of(name.text, kSize);
        bool done = false;
        // Right above, left above, right below, left below.
        for (const double up : {1.0, -1.0})
            for (const double side : {1.0, -1.0}) {
                if (done) continue;
                const Place at{side > 0 ? name.at.x + kGap : name.at.x - kGap - width,
                               up > 0 ? name.at.y - kGap : name.at.y + kGap + kSize};
                const Box box{at.x - 1, at.y - kSize, at.x + width + 1, at.y + 3};
                const bool is_on =
                    box.left >= 0 && box.right <= canvas.width() && box.top >= top && box.bottom <= bottom;
                if (!is_on || !is_free(box)) continue;
                canvas.label(at, name.text, kSize);
                taken_.push_back(box), done = true;
            }
        left_out += !done;
    }
    return left_out;
}

double centre_radius(double usual, double body_width) {
    constexpr double kShare = 0.3, kLeast = 1.5;
    const double radius = std::min(usual, kShare * body_width);
    return radius < kLeast ? 0 : radius;
}

}
