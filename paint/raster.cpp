#include "paint/raster.h"

#include <algorithm>
#include <cmath>

namespace astasis::paint {

void Raster::draw(std::span<const Corner> corners, std::uint32_t facet) {
    for (std::size_t i = 2; i < corners.size(); i++) triangle(corners[0], corners[i - 1], corners[i], facet);
}

// Row by row between the edges; `near` is a plane over the image.
void Raster::triangle(const Corner& a, const Corner& b, const Corner& c, std::uint32_t facet) {
    const double area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
    if (area == 0) return;
    const double slope_x = ((b.near - a.near) * (c.y - a.y) - (c.near - a.near) * (b.y - a.y)) / area;
    const double slope_y = ((c.near - a.near) * (b.x - a.x) - (b.near - a.near) * (c.x - a.x)) / area;
    const double top = std::min({a.y, b.y, c.y}), bottom = std::max({a.y, b.y, c.y});
    const int first = static_cast<int>(std::ceil(std::clamp(top - 0.5, 0.0, double(height_))));
    const int last = static_cast<int>(std::floor(std::clamp(bottom - 0.5, -1.0, height_ - 1.0)));
    for (int row = first; row <= last; row++) {
        const double y = row + 0.5;
        double left = 1e300, right = -1e300;
        const auto cross = [&](const Corner& p, const Corner& q) {
            if ((p.y <= y) == (q.y <= y)) return;
            const double x = p.x + (q.x - p.x) * (y - p.y) / (q.y - p.y);
            left = std::min(left, x), right = std::max(right, x);
        };
        cross(a, b), cross(b, c), cross(c, a);
        if (left > right) continue;
        const int from = static_cast<int>(std::ceil(std::clamp(left - 0.5, 0.0, double(width_))));
        const int to = static_cast<int>(std::floor(std::clamp(right - 0.5, -1.0, width_ - 1.0)));
        for (int column = from; column <= to; column++) {
            const double near = a.near + slope_x * (column + 0.5 - a.x) + slope_y * (y - a.y);
            const std::size_t i = cell(column, row);
            if (near <= near_[i]) continue;
            near_[i] = near;
            facet_[i] = facet;
        }
    }
}

}
