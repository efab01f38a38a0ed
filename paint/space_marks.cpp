#include "paint/space_marks.h"

#include "paint/symbols.h"

#include <algorithm>
#include <cmath>

namespace astasis::paint {

void SpaceMarks::draw(const std::vector<std::vector<Point<3>>>& frames_of_walls) {
    draw_frames(frames_of_walls);
    draw_sensors();
    draw_joints();
    draw_marks();
    draw_casts();
    if (picture_.show.paths) draw_paths();
    margin_.names_left_out = names_.draw(canvas_, kHead, canvas_.height() - kFoot);
    margin_.ways_out_of_sight = ways_out_of_sight();
}
std::size_t SpaceMarks::ways_out_of_sight() const {
    const auto in_sight = [&](const Point<3>& p) {
        const Place at = on_canvas(p);
        return camera_.see(p).depth > kClosest && at.x >= 0 && at.x <= canvas_.width() && at.y >= kHead &&
               at.y <= canvas_.height() - kFoot + 8;
    };
    return static_cast<std::size_t>(
        std::count_if(picture_.paths.begin(), picture_.paths.end(),
                      [&](const auto& path) { return std::none_of(path.begin(), path.end(), in_sight); }));
}

Place SpaceMarks::on_canvas(const Point<3>& p) const {
    const Camera::Seen s = camera_.see(p);
    return {s.at.x, s.at.y + kHead};
}
// Whether nothing opaque lies before a point, give or take a share of its depth.
bool SpaceMarks::is_seen(const Point<3>& p) const {
    constexpr double kSlack = 0.004;
    const Camera::Seen s = camera_.see(p);
    const int x = static_cast<int>(s.at.x * kFiner), y = static_cast<int>(s.at.y * kFiner);
    return s.depth > kClosest && raster_.holds(x, y) && raster_.near(x, y) * s.depth < 1 + kSlack;
}
void SpaceMarks::line(const Point<3>& a, const Point<3>& b, Colour colour, double width) {
    const std::vector<Point<3>> ends = camera_.cut_off_behind({a, b});
    if (ends.size() >= 2) canvas_.line(on_canvas(ends[0]), on_canvas(ends[1]), colour, width);
}

void SpaceMarks::draw_frames(const std::vector<std::vector<Point<3>>>& frames_of_walls) {
    for (const auto& corners : frames_of_walls)
        for (std::size_t i = 0; i < corners.size(); i++)
            line(corners[i], corners[(i + 1) % corners.size()], kFaintInk, 0.8);
    for (const auto& corners : pen_.frames)
        for (std::size_t i = 0; i < corners.size(); i++)
            line(corners[i], corners[(i + 1) % corners.size()], kVelocity, 0.6);
    for (const auto& corners : pen_.regions)
        for (std::size_t i = 0; i < corners.size(); i++)
            line(corners[i], corners[(i + 1) % corners.size()], kField, 1.0);
}

// The facets of a sensor that face the eye, with their edges if they are few.
void SpaceMarks::draw_sensors() {
    constexpr std::size_t kManyCorners = 8;
    for (const auto& pane : pen_.panes) {
        if (!(dot(camera_.eye() - pane.corners[0], pane.mark.vector) > 0)) continue;
        const std::vector<Point<3>> seen = camera_.cut_off_behind(pane.corners);
        if (seen.size() < 3) continue;
        std::vector<Place> places(seen.size());
        std::transform(seen.begin(), seen.end(), places.begin(),
                       [&](const Point<3>& p) { return on_canvas(p); });
        canvas_.polygon(places);
        canvas_.tint(kSensor, 0.16);
        const bool is_round = std::holds_alternative<Sphere>(shape_of(pane.mark)) ||
                              std::holds_alternative<Capsule3>(shape_of(pane.mark));
        if (is_round || places.size() > kManyCorners) continue;
        for (std::size_t i = 0; i < places.size(); i++)
            canvas_.dashed_line(places[i], places[(i + 1) % places.size()], kSensor, 1.1);
    }
    for (const auto& spot : pen_.spots)
        if (spot.mark.meaning == Meaning::Sensor && camera_.see(spot.at).depth > kClosest) {
            count_in_sensor(canvas_, on_canvas(spot.at), spot.text);
        }
}
const Geometry<3>& SpaceMarks::shape_of(const Mark<3>& mark) const {
    return made_.world.shape(mark.body, mark.shape).geometry;
}

void SpaceMarks::draw_joints() {
    using Symbol = void (*)(Canvas&, Place, Place);
    const auto between = [&](const SpacePen::Line& l, Symbol symbol) {
        const std::vector<Point<3>> ends = camera_.cut_off_behind({l.from, l.to});
        if (ends.size() >= 2) symbol(canvas_, on_canvas(ends[0]), on_canvas(ends[1]));
    };
    for (const auto& l : pen_.lines) {
        if (l.mark.meaning == Meaning::Rod) between(l, rod);
        if (l.mark.meaning == Meaning::Rope) between(l, rope);
        if (l.mark.meaning == Meaning::Coil) between(l, coil);
        if (l.mark.meaning == Meaning::Rail) between(l, rail);
    }
    for (const auto& spot : pen_.spots) { // they show through the bodies that they are inside of
        if (camera_.see(spot.at).depth <= kClosest) continue;
        if (spot.mark.meaning == Meaning::Pin) pin(canvas_, on_canvas(spot.at), spot.mark.held);
        if (spot.mark.meaning == Meaning::Weld) weld(canvas_, on_canvas(spot.at));
        if (spot.mark.meaning == Meaning::Attractor) attractor(canvas_, on_canvas(spot.at));
    }
}

void SpaceMarks::draw_marks() {
    const double metres_a_pixel = length(camera_.target() - camera_.eye()) / camera_.pixels_a_radian();
    for (const auto& spot : pen_.spots) {
        if (margin_.show.centres && spot.mark.meaning == Meaning::CentreOfMass && shows_itself(spot)) {
            const double width = width_of_body(made_, spot.mark.body) * camera_.pixels_a_radian();
            if (const double radius = centre_radius(3.6, width / camera_.see(spot.at).depth); radius > 0)
                canvas_.centre_of_mass(on_canvas(spot.at), radius);
        }
        if (spot.mark.meaning == Meaning::Name && shows_itself(spot))
            names_.add(on_canvas(spot.at), spot.text);
    }
    for (const auto& l : pen_.lines) {
        if (l.mark.meaning == Meaning::Link) line(l.from, l.to, kLink, l.mark.asleep ? 0.9 : 1.8);
        if (l.mark.meaning == Meaning::Axis) line(l.from, l.to, kVelocity, 1.2);
        const bool force = l.mark.meaning == Meaning::Force;
        if (!force && l.mark.meaning != Meaning::Velocity) continue;
        const Arrows& arrows = force ? margin_.forces : margin_.velocities;
        if (!force && !shows_itself({l.from, l.mark, {}})) continue;
        if (force && (!is_seen(l.from) || !forces_.takes(on_canvas(l.from)))) continue;
        const Place from = on_canvas(l.from);
        const Place to =
            on_canvas(l.from + l.mark.vector * static_cast<float>(arrows.pixels * metres_a_pixel));
        if (std::hypot(to.x - from.x, to.y - from.y) > 4) canvas_.arrow(from, to, force ? kForce : kVelocity);
    }
    for (const auto& spot : pen_.spots)
        if (spot.mark.meaning == Meaning::Contact) draw_contact(spot, metres_a_pixel);
}

// Whether the body itself is what is seen at this point of it.
bool SpaceMarks::shows_itself(const SpacePen::Spot& spot) const {
    const Camera::Seen s = camera_.see(spot.at);
    const int x = static_cast<int>(s.at.x * kFiner), y = static_cast<int>(s.at.y * kFiner);
    if (s.depth <= kClosest || !raster_.holds(x, y) || raster_.facet(x, y) == Raster::kNone) return false;
    const std::uint32_t seen = pen_.facets[raster_.facet(x, y)].shape;
    const auto numbers = made_.world.shape_numbers(spot.mark.body);
    return std::any_of(numbers.begin(), numbers.end(),
                       [&](std::uint32_t k) { return pen_.known_number(spot.mark.body, k) == seen; });
}

void SpaceMarks::draw_contact(const SpacePen::Spot& spot, double metres_a_pixel) {
    const Place at = on_canvas(spot.at);
    if (!is_seen(spot.at) || !contacts_.takes(at)) return;
    const Place along = on_canvas(spot.at - spot.mark.vector * static_cast<float>(10 * metres_a_pixel));
    const double x = along.x - at.x, y = along.y - at.y, n = std::hypot(x, y);
    if (n < 1) canvas_.dot(at, contacts_.size(2.5), kForce);
    else canvas_.open_triangle(at, {x / n, y / n}, contacts_.size(6), kForce);
}

void SpaceMarks::draw_casts() {
    const auto& casts = picture_.casts;
    for (std::size_t i = 0; i < casts.rays.size(); i++) {
        const auto& ray = casts.rays[i];
        const auto& hit = casts.hits[i];
        const Point<3> end = ray.from + ray.displacement, at = hit ? hit->position : end;
        draw_ray(ray.from, at, hit.has_value(), end);
        if (!hit) continue;
        const double metres_a_pixel = length(camera_.target() - camera_.eye()) / camera_.pixels_a_radian();
        const Place p = on_canvas(at),
                    q = on_canvas(at + hit->normal * static_cast<float>(26 * metres_a_pixel));
        canvas_.arrow(p, q, kRay);
        canvas_.dot(p, 3, kRay);
    }
}
void SpaceMarks::draw_paths() {
    for (const auto& path : picture_.paths)
        for (std::size_t i = 1; i < path.size(); i++) {
            line(path[i - 1], path[i], kRay, 1.0);
            if (i + 1 < path.size()) canvas_.dot(on_canvas(path[i]), 2.6, kRay);
        }
}
// In pieces: full where it is seen, dashed where something is before it.
void SpaceMarks::draw_ray(const Point<3>& from, const Point<3>& to, bool hit, const Point<3>& end) {
    constexpr int kPieces = 80;
    for (int i = 0; i < kPieces; i++) {
        const Vec3 way = to - from;
        const Point<3> a = from + way * (static_cast<float>(i) / kPieces),
                       b = from + way * (static_cast<float>(i + 1) / kPieces);
        const bool seen = is_seen(a) && is_seen(b);
        if (seen || i % 2 == 0) line(a, b, kRay, seen ? 1.8 : 0.8);
    }
    if (hit) canvas_.dashed_line(on_canvas(to), on_canvas(end), kRay, 0.5);
    canvas_.dot(on_canvas(from), 2.5, kRay);
}

}
