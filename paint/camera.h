// Where a picture in space is seen from: a pinhole with an upright image.
#pragma once

#include "paint/canvas.h"
#include "paint/picture.h"

#include "astasis/measures.h"

namespace astasis::paint {

inline constexpr double kClosest = 1e-3; // m: nothing nearer to the eye is drawn

class Camera {
public:
    // Looks at what lies in `seen` as the view wishes; the image is width by height pixels with its middle at
    // `middle`.
    Camera(const View& view, const std::vector<Bounds<3>>& seen, double width, double height, Place middle);

    struct Seen {
        Place at;
        double depth; // along the view, m; not above 0 behind the eye
    };
    Seen see(const Point<3>& p) const;
    // The point at a depth under a place of the image.
    Point<3> point(Place at, double depth) const;
    const Point<3>& eye() const { return eye_; }
    const Point<3>& target() const { return target_; }
    Vec3 right() const { return right_; }
    Vec3 up() const { return up_; }
    Vec3 ahead() const { return ahead_; }
    double pixels_a_radian() const { return focal_; } // and a metre at a depth of 1 m
    Camera scaled(double factor) const;               // the same view in an image that much larger
    // Of a line or an area what lies before the eye (Sutherland and Hodgman 1974).
    std::vector<Point<3>> cut_off_behind(const std::vector<Point<3>>& corners) const;

private:
    void aim();
    void frame(const std::vector<Bounds<3>>& seen, double width, double height);

    Point<3> eye_{}, target_{};
    Vec3 right_{}, up_{}, ahead_{};
    double focal_ = 1;
    Place middle_;
};

}
