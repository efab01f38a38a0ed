// Sensors, joints, marks, rays and ways, drawn on top of a picture in space.
#pragma once

#include "paint/camera.h"
#include "paint/crowding.h"
#include "paint/figure.h"
#include "paint/space_pen.h"

namespace astasis::paint {

inline constexpr int kFiner = 2; // pixels are cut in so many, each way, against jagged edges

class SpaceMarks {
public:
    // The raster has the facets of the pen, kFiner times as fine as the canvas, which begins kHead lower.
    SpaceMarks(const scene::Made<3>& made, const Picture<3>& picture, const Camera& camera,
               const SpacePen& pen, const Raster& raster, MarginText& margin, Canvas& canvas)
        : made_(made), picture_(picture), camera_(camera), pen_(pen), raster_(raster), margin_(margin),
          canvas_(canvas), contacts_(margin.contacts), forces_(margin.contacts) {}
    // Walls that are drawn as outlines come first.
    void draw(const std::vector<std::vector<Point<3>>>& frames_of_walls);

private:
    Place on_canvas(const Point<3>& p) const;
    bool is_seen(const Point<3>& p) const;
    void line(const Point<3>& a, const Point<3>& b, Colour colour, double width);
    void draw_frames(const std::vector<std::vector<Point<3>>>& frames_of_walls);
    void draw_sensors();
    const Geometry<3>& shape_of(const Mark<3>& mark) const;
    void draw_joints();
    void draw_marks();
    bool shows_itself(const SpacePen::Spot& spot) const;
    void draw_contact(const SpacePen::Spot& spot, double metres_a_pixel);
    void draw_casts();
    void draw_paths();
    std::size_t ways_out_of_sight() const;
    void draw_ray(const Point<3>& from, const Point<3>& to, bool hit, const Point<3>& end);

    const scene::Made<3>& made_;
    const Picture<3>& picture_;
    const Camera& camera_;
    const SpacePen& pen_;
    const Raster& raster_;
    MarginText& margin_; // learns what found no room and is out of sight
    Canvas& canvas_;
    Thinning contacts_, forces_;
    Names names_;
};

}
