#include "paint/camera.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace astasis::paint {
namespace {

constexpr double kAngle = 0.5;            // radians from top to bottom: a calm perspective
constexpr Vec3 kFrom{0.52f, 0.62f, 1.0f}; // from the right, above and the front
constexpr double kAir = 1.04;

std::array<Point<3>, 8> corners_of(const Bounds<3>& b) {
    std::array<Point<3>, 8> out;
    for (std::size_t i = 0; i < 8; i++)
        out[i] = {i & 1 ? b.high.x : b.low.x, i & 2 ? b.high.y : b.low.y, i & 4 ? b.high.z : b.low.z};
    return out;
}

}

Camera::Camera(const View& view, const std::vector<Bounds<3>>& seen, double width, double height,
               Place middle)
    : middle_(middle) {
    focal_ = 0.5 * height / std::tan(0.5 * view.angle.value_or(kAngle));
    Bounds<3> all{{-1, 0, -1}, {1, 1, 1}};
    if (!seen.empty()) all = seen[0];
    for (const auto& b : seen)
        for (int k = 0; k < 3; k++)
            all.low[k] = std::min(all.low[k], b.low[k]), all.high[k] = std::max(all.high[k], b.high[k]);
    target_ = view.target.value_or(all.low + (all.high - all.low) * 0.5f);
    eye_ = view.eye.value_or(target_ + kFrom);
    aim();
    if (!view.eye) frame(seen.empty() ? std::vector<Bounds<3>>{all} : seen, width, height);
}

void Camera::aim() {
    ahead_ = direction(target_ - eye_, Vec3{0, 0, -1});
    right_ = direction(cross(ahead_, Vec3{0, 1, 0}), Vec3{1, 0, 0});
    up_ = cross(right_, ahead_);
}

// Moves the eye along and across the view until all corners fit: how far back each corner asks for is known
// once the middle is, and the middle once the distance is; a few rounds settle both.
void Camera::frame(const std::vector<Bounds<3>>& seen, double width, double height) {
    const double across = 0.5 * width / focal_ / kAir, upwards = 0.5 * height / focal_ / kAir;
    for (int round = 0; round < 8; round++) {
        double back = 0, left = 1e300, right = -1e300, low = 1e300, high = -1e300;
        for (const auto& b : seen)
            for (const Point<3>& c : corners_of(b)) {
                const Vec3 from_target = c - target_;
                const double x = dot(from_target, right_), y = dot(from_target, up_),
                             z = dot(from_target, ahead_);
                back = std::max({back, std::fabs(x) / across - z, std::fabs(y) / upwards - z});
            }
        eye_ = target_ - ahead_ * static_cast<float>(back);
        for (const auto& b : seen)
            for (const Point<3>& c : corners_of(b)) {
                const Vec3 v = c - eye_;
                const double depth = std::max<double>(dot(v, ahead_), 1e-9);
                left = std::min(left, dot(v, right_) / depth),
                right = std::max(right, dot(v, right_) / depth);
                low = std::min(low, dot(v, up_) / depth), high = std::max(high, dot(v, up_) / depth);
            }
        const auto shift = [&](double a, double b) { return static_cast<float>(0.5 * (a + b) * back); };
        target_ = target_ + (right_ * shift(left, right) + up_ * shift(low, high));
        eye_ = target_ - ahead_ * static_cast<float>(back);
    }
}

Camera::Seen Camera::see(const Point<3>& p) const {
    const Vec3 v = p - eye_;
    const double depth = dot(v, ahead_), k = focal_ / depth;
    return {{middle_.x + dot(v, right_) * k, middle_.y - dot(v, up_) * k}, depth};
}

Point<3> Camera::point(Place at, double depth) const {
    const auto x = static_cast<float>((at.x - middle_.x) / focal_ * depth);
    const auto y = static_cast<float>((middle_.y - at.y) / focal_ * depth);
    return eye_ + (ahead_ * static_cast<float>(depth) + right_ * x + up_ * y);
}

Camera Camera::scaled(double factor) const {
    Camera out = *this;
    out.focal_ *= factor;
    out.middle_ = {middle_.x * factor, middle_.y * factor};
    return out;
}

std::vector<Point<3>> Camera::cut_off_behind(const std::vector<Point<3>>& corners) const {
    std::vector<Point<3>> out;
    const auto depth = [&](const Point<3>& p) {
        return static_cast<double>(dot(p - eye_, ahead_)) - kClosest;
    };
    for (std::size_t i = 0; i < corners.size(); i++) {
        const Point<3>&a = corners[i], &b = corners[(i + 1) % corners.size()];
        const double p = depth(a), q = depth(b);
        if (p >= 0) out.push_back(a);
        if ((p >= 0) != (q >= 0)) out.push_back(a + (b - a) * static_cast<float>(p / (p - q)));
    }
    return out;
}

}
