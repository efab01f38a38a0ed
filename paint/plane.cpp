// Pictures in the plane: a pen on a canvas.
#include "paint/crowding.h"
#include "paint/figure.h"
#include "paint/symbols.h"

#include "astasis/drawing.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace astasis::paint {
namespace {

// What is seen: all bounded shapes that lie within the scene's bounds, and some air around.
Bounds<2> seen_of(const scene::Made<2>& made, const Casts<2>& casts) {
    Bounds<2> v{{INFINITY, INFINITY}, {-INFINITY, -INFINITY}};
    for (const BodyId id : made.world.bodies())
        for (const auto& shape : made.world.shapes(id)) {
            const Bounds<2> b = bounds_of(shape, made.world.pose(id));
            const bool seen = b.high.x >= made.bounds.low.x && b.low.x <= made.bounds.high.x &&
                              b.high.y >= made.bounds.low.y && b.low.y <= made.bounds.high.y;
            if (std::isinf(b.low.x) || !seen) continue;
            v = {{std::min(v.low.x, b.low.x), std::min(v.low.y, b.low.y)},
                 {std::max(v.high.x, b.high.x), std::max(v.high.y, b.high.y)}};
        }
    for (const auto& ray : casts.rays)
        for (const Point<2>& p : {ray.from, ray.from + ray.displacement})
            v = {{std::min(v.low.x, p.x), std::min(v.low.y, p.y)},
                 {std::max(v.high.x, p.x), std::max(v.high.y, p.y)}};
    if (!(v.low.x < v.high.x)) v = made.bounds;
    const double air = 0.04 * std::max(v.high.x - v.low.x, v.high.y - v.low.y);
    return {{v.low.x - air, v.low.y - air}, {v.high.x + air, v.high.y + air}};
}

// The sheet of a figure: metres to pixels.
class Sheet {
public:
    Sheet(const Canvas& canvas, const Bounds<2>& seen) {
        const double width = canvas.width() - 2 * kMargin, height = canvas.height() - kHead - kFoot;
        scale_ = std::min(width / (seen.high.x - seen.low.x), height / (seen.high.y - seen.low.y));
        middle_ = {0.5 * (seen.low.x + seen.high.x), 0.5 * (seen.low.y + seen.high.y)};
        origin_ = {canvas.width() / 2, kHead + height / 2};
        const double half = 0.5 * (canvas.width() + canvas.height()) / scale_;
        window_ = {{middle_.x - half, middle_.y - half}, {middle_.x + half, middle_.y + half}};
    }
    Place operator()(const Point<2>& p) const {
        return {origin_.x + (p.x - middle_.x) * scale_, origin_.y - (p.y - middle_.y) * scale_};
    }
    double scale() const { return scale_; } // pixels a metre
    const Bounds<2>& window() const { return window_; }

private:
    double scale_;
    Point<2> middle_;
    Place origin_;
    Bounds<2> window_;
};

class CanvasPen : public Pen<2> {
public:
    CanvasPen(const scene::Scene<2>& scene, const scene::Made<2>& made, Canvas& canvas, const Sheet& sheet,
              const MarginText& key)
        : scene_(scene), made_(made), canvas_(canvas), sheet_(sheet), key_(key), contacts_(key.contacts),
          forces_(key.contacts) {}

    void line(const Point<2>& from, const Point<2>& to, const Mark<2>& mark) override {
        const Place a = sheet_(from), b = sheet_(to);
        if (mark.meaning == Meaning::Velocity) arrow(a, mark.vector, key_.velocities, kVelocity);
        else if (mark.meaning == Meaning::Force && forces_.takes(a))
            arrow(a, mark.vector, key_.forces, kForce);
        else if (mark.meaning == Meaning::Link) link(a, b, mark.asleep);
        else if (mark.meaning == Meaning::Axis) canvas_.line(a, b, kVelocity, 1.4);
        else if (mark.meaning == Meaning::Surface) surface(a, b, mark);
        else if (mark.meaning == Meaning::Rod) rod(canvas_, a, b);
        else if (mark.meaning == Meaning::Rope) rope(canvas_, a, b);
        else if (mark.meaning == Meaning::Coil) coil(canvas_, a, b);
        else if (mark.meaning == Meaning::Rail) rail(canvas_, a, b);
        else if (mark.motion != Motion::Static)
            canvas_.line(a, b, mark.asleep ? kFaintInk : kInk, 0.8); // a spoke
    }
    void area(std::span<const Point<2>> corners, const Mark<2>& mark) override {
        std::vector<Place> places;
        places.reserve(corners.size());
        for (const Point<2>& c : corners) places.push_back(sheet_(c));
        if (mark.meaning == Meaning::Bounds) {
            for (std::size_t i = 0; i < places.size(); i++)
                canvas_.line(places[i], places[(i + 1) % places.size()], kVelocity, 0.7);
            return;
        }
        if (mark.meaning == Meaning::Field) {
            canvas_.polygon(places);
            canvas_.tint(kField, 0.16);
            return;
        }
        if (mark.meaning == Meaning::Sensor) {
            canvas_.polygon(places);
            canvas_.tint(kSensor, 0.16);
            for (std::size_t i = 0; i < places.size(); i++)
                canvas_.dashed_line(places[i], places[(i + 1) % places.size()], kSensor, 1.1);
            return;
        }
        if (mark.meaning == Meaning::Inside) { // a little higher than it is, or seams show between rows
            for (std::size_t i = places.size() / 2; i < places.size(); i++) places[i].y -= 0.5;
            canvas_.polygon(places);
            canvas_.fill_and_hatch(fill(mark));
            return;
        }
        canvas_.polygon(places);
        if (mark.asleep) canvas_.fill_and_dash(mixed(fill(mark), kPaper, kAsleep));
        else canvas_.fill_and_outline(fill(mark), mark.motion == Motion::Static);
    }
    void point(const Point<2>& at, const Mark<2>& mark) override {
        if (mark.meaning == Meaning::CentreOfMass) {
            const double radius = centre_radius(4.5, sheet_.scale() * width_of_body(made_, mark.body));
            if (key_.show.centres && radius > 0) canvas_.centre_of_mass(sheet_(at), radius);
            return;
        }
        if (mark.meaning == Meaning::Pin) return pin(canvas_, sheet_(at), mark.held);
        if (mark.meaning == Meaning::Weld) return weld(canvas_, sheet_(at));
        if (mark.meaning == Meaning::Attractor) return attractor(canvas_, sheet_(at));
        if (contacts_.takes(sheet_(at)))
            canvas_.open_triangle(sheet_(at), {-mark.vector.x, mark.vector.y}, contacts_.size(6.5), kForce);
    }
    void text(const Point<2>& at, std::string_view text, const Mark<2>& mark) override {
        const Place p = sheet_(at);
        const std::string label(text);
        if (mark.meaning == Meaning::Sensor) return count_in_sensor(canvas_, p, label);
        names_.add(p, label);
    }
    std::size_t draw_names() {
        return names_.draw(canvas_, kHead, canvas_.height() - kFoot);
    } // how many found no room

private:
    Colour fill(const Mark<2>& mark) const { return fill_of_shape(scene_, made_, mark.body, mark.shape); }

    void link(Place a, Place b, bool asleep) {
        if (asleep) canvas_.dashed_line(a, b, kLink, 1.0);
        else canvas_.line(a, b, kLink, 2.0);
    }

    void arrow(Place from, Vec2 quantity, const Arrows& arrows, Colour colour) {
        const Place to{from.x + quantity.x * arrows.pixels, from.y - quantity.y * arrows.pixels};
        if (std::hypot(to.x - from.x, to.y - from.y) > 3) canvas_.arrow(from, to, colour);
    }

    // A line, with a hatched strip on its solid side.
    void surface(Place a, Place b, const Mark<2>& mark) {
        const double depth = 12; // pixels
        const Place in{-mark.vector.x * depth, mark.vector.y * depth};
        const bool tiles =
            std::holds_alternative<TileGrid>(made_.world.shape(mark.body, mark.shape).geometry);
        if (mark.vector != Vec2{} && !tiles) {
            canvas_.polygon({a, b, {b.x + in.x, b.y + in.y}, {a.x + in.x, a.y + in.y}});
            canvas_.fill_and_hatch(fill(mark));
        }
        canvas_.line(a, b, kInk, 1.6);
    }

    const scene::Scene<2>& scene_;
    const scene::Made<2>& made_;
    Canvas& canvas_;
    const Sheet& sheet_;
    const MarginText& key_;
    Thinning contacts_, forces_;
    Names names_;
};

void draw_casts(Canvas& canvas, const Sheet& sheet, const Casts<2>& casts) {
    for (std::size_t i = 0; i < casts.rays.size(); i++) {
        const auto& ray = casts.rays[i];
        const auto& hit = casts.hits[i];
        const Place from = sheet(ray.from), end = sheet(ray.from + ray.displacement);
        const Place at = hit ? sheet(hit->position) : end;
        if (hit) canvas.dashed_line(at, end, kRay, 0.8);
        canvas.line(from, at, kRay, 1.6);
        canvas.dot(from, 2.5, kRay);
        if (!hit) continue;
        canvas.arrow(at, {at.x + hit->normal.x * 22, at.y - hit->normal.y * 22}, kRay);
        canvas.dot(at, 3.2, kRay);
    }
}

void draw_paths(Canvas& canvas, const Sheet& sheet, const std::vector<std::vector<Point<2>>>& paths) {
    for (const auto& path : paths)
        for (std::size_t i = 1; i < path.size(); i++) {
            canvas.line(sheet(path[i - 1]), sheet(path[i]), kRay, 1.0);
            if (i + 1 < path.size()) canvas.dot(sheet(path[i]), 2.6, kRay);
        }
}

std::size_t ways_out_of_sight(const Canvas& canvas, const Sheet& sheet,
                              const std::vector<std::vector<Point<2>>>& paths) {
    return static_cast<std::size_t>(std::count_if(paths.begin(), paths.end(), [&](const auto& path) {
        return std::none_of(path.begin(), path.end(), [&](const Point<2>& p) {
            const Place at = sheet(p);
            return at.x >= 0 && at.x <= canvas.width() && at.y >= kHead &&
                   at.y <= canvas.height() - kFoot + 8;
        });
    }));
}

}

PictureKind kind_of(const std::filesystem::path& path) {
    if (path.extension() == ".png") return PictureKind::Png;
    if (path.extension() == ".svg") return PictureKind::Svg;
    throw std::invalid_argument(path.string() + ": a picture's name ends in .png or .svg");
}

void draw_picture(const scene::Scene<2>& scene, const scene::Made<2>& made, const std::filesystem::path& file,
                  PictureKind kind, const Picture<2>& picture) {
    Canvas canvas(picture.width, picture.height, kind, file.string());
    const Sheet sheet(canvas, seen_of(made, picture.casts));
    MarginText margin = margin_text(scene, made, picture);
    margin.bar_metres = round_below(170 / sheet.scale());
    margin.bar_pixels = margin.bar_metres * sheet.scale();

    const auto name = [&](BodyId id) -> std::string_view { return made.name_of(id); };
    const Switches& s = picture.show;
    Shown<2> shown{.centres = s.centres,
                   .velocities = s.velocities,
                   .contacts = s.contacts,
                   .forces = s.forces,
                   .joints = s.joints,
                   .fields = s.fields,
                   .sensors = s.sensors,
                   .links = s.islands,
                   .bounds = s.bounds,
                   .axes = s.axes,
                   .window = sheet.window(),
                   .fineness = static_cast<float>(0.1 / sheet.scale())};
    if (s.names) shown.name = name;
    canvas.clear(kPaper);
    canvas.clip(0, kHead, canvas.width(), canvas.height() - kFoot - kHead + 8);
    CanvasPen pen(scene, made, canvas, sheet, margin);
    draw(made.world, pen, shown);
    margin.names_left_out = pen.draw_names();
    margin.ways_out_of_sight = ways_out_of_sight(canvas, sheet, picture.paths);
    draw_casts(canvas, sheet, picture.casts);
    if (s.paths) draw_paths(canvas, sheet, picture.paths);
    canvas.unclip();
    draw_margin(canvas, margin);
    canvas.finish();
}

}
