// The pixels of a PNG.
#pragma once

#include "paint/palette.h"

#include <cairo.h>

#include <cstdlib>
#include <filesystem>

namespace astasis::test {

class Pixels {
public:
    explicit Pixels(const std::filesystem::path& file)
        : surface_(cairo_image_surface_create_from_png(file.c_str())) {}
    ~Pixels() { cairo_surface_destroy(surface_); }
    Pixels(const Pixels&) = delete;
    Pixels& operator=(const Pixels&) = delete;
    int width() const { return cairo_image_surface_get_width(surface_); }
    int height() const { return cairo_image_surface_get_height(surface_); }
    bool is(int x, int y, paint::Colour c) const {
        const auto* row =
            cairo_image_surface_get_data(surface_) + y * cairo_image_surface_get_stride(surface_);
        const auto near = [&](int channel, double want) {
            return std::abs(row[4 * x + channel] - 255 * want) < 2.5;
        };
        return near(2, c.red) && near(1, c.green) && near(0, c.blue);
    }

    paint::Colour at(int x, int y) const {
        const auto* pixel =
            cairo_image_surface_get_data(surface_) + y * cairo_image_surface_get_stride(surface_) + 4 * x;
        return {pixel[2] / 255.0, pixel[1] / 255.0, pixel[0] / 255.0};
    }

private:
    cairo_surface_t* surface_;
};

}
