// Which facet is nearest at each pixel: a z-buffer.
//
// Our own hundred lines, not a graphics library: no driver and no display are needed, and a picture has the
// same bytes on every machine.
#pragma once

#include "paint/canvas.h"

#include <cstdint>
#include <span>
#include <vector>

namespace astasis::paint {

class Raster {
public:
    static constexpr std::uint32_t kNone = 0xffffffffu;
    // A corner in the image. `near` is larger for what is nearer and straight along every line of the image:
    // for a pinhole one over the depth, for a parallel view minus the depth.
    struct Corner {
        double x, y, near;
    };

    Raster(int width, int height, double farthest = 0)
        : width_(width), height_(height), near_(cells(), farthest), facet_(cells(), kNone) {}
    int width() const { return width_; }
    int height() const { return height_; }

    // A convex area; takes the pixels whose middles it covers and where it is nearest.
    void draw(std::span<const Corner> corners, std::uint32_t facet);

    std::uint32_t facet(int x, int y) const { return facet_[cell(x, y)]; }
    double near(int x, int y) const { return near_[cell(x, y)]; }
    bool holds(int x, int y) const { return x >= 0 && y >= 0 && x < width_ && y < height_; }

private:
    std::size_t cells() const { return static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_); }
    std::size_t cell(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
    }
    void triangle(const Corner& a, const Corner& b, const Corner& c, std::uint32_t facet);

    int width_, height_;
    std::vector<double> near_;
    std::vector<std::uint32_t> facet_;
};

}
