// The order of drawing, back to front: bodies that stand still, bodies that move, velocities, contacts, the
// margin.
#include "paint/plane.h"

#include "paint/canvas.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace astasis::paint {
namespace {

constexpr double kMargin = 28, kFoot = 74, kHead = 52; // pixels
constexpr double kLongestArrow = 64;
constexpr double kSlowest = 0.5; // m/s that the longest velocity arrow stands for at least

// What is seen: all bounded shapes that lie within the scene's bounds, and a strip of the ground below.
struct View {
    double left, right, low, high;
};

View view_of(const scene::Made<2>& made) {
    View v{INFINITY, -INFINITY, INFINITY, -INFINITY};
    for (const BodyId id : made.world.bodies())
        for (const auto& shape : made.world.shapes(id)) {
            const Bounds<2> b = bounds_of(shape, made.world.pose(id));
            const bool seen = b.high.x >= made.bounds.low.x && b.low.x <= made.bounds.high.x &&
                              b.high.y >= made.bounds.low.y && b.low.y <= made.bounds.high.y;
            if (std::isinf(b.low.x) || !seen) continue;
            v = {std::min(v.left, b.low.x), std::max(v.right, b.high.x), std::min(v.low, b.low.y),
                 std::max(v.high, b.high.y)};
        }
    if (!(v.left < v.right))
        v = {made.bounds.low.x, made.bounds.high.x, made.bounds.low.y, made.bounds.high.y};
    const double air = 0.04 * std::max(v.right - v.left, v.high - v.low);
    return {v.left - air, v.right + air, v.low - air, v.high + air};
}

// 1, 2 or 5 times a power of ten, the largest that is not above `most`.
double round_below(double most) {
    const double power = std::pow(10.0, std::floor(std::log10(most)));
    return most >= 5 * power ? 5 * power : most >= 2 * power ? 2 * power : power;
}

class Figure {
public:
    Figure(const scene::Scene<2>& scene, const scene::Made<2>& made, Canvas& canvas)
        : scene_(scene), made_(made), canvas_(canvas) {
        const View v = view_of(made);
        const double width = canvas.width() - 2 * kMargin, height = canvas.height() - kHead - kFoot;
        scale_ = std::min(width / (v.right - v.left), height / (v.high - v.low));
        middle_ = {0.5 * (v.left + v.right), 0.5 * (v.low + v.high)};
        origin_ = {canvas.width() / 2, kHead + height / 2};
    }

    void draw() {
        canvas_.clear(kPaper);
        canvas_.clip(0, kHead, canvas_.width(), canvas_.height() - kFoot - kHead + 8);
        for (const bool still : {true, false})
            for (const BodyId id : made_.world.bodies())
                if ((made_.world.motion(id) == Motion::Static) == still) draw_body(id, still);
        draw_velocities();
        draw_contacts();
        canvas_.unclip();
        draw_margin();
    }

private:
    Place place(const Point<2>& p) const {
        return {origin_.x + (p.x - middle_.x) * scale_, origin_.y - (p.y - middle_.y) * scale_};
    }

    Colour fill(BodyId id, std::size_t shape) const {
        const std::string& material = made_.materials[made_.world.user_data(id)][shape];
        const auto found = scene_.materials.find(material);
        return fill_of(found == scene_.materials.end() ? "" : found->second.fill);
    }

    void draw_body(BodyId id, bool still) {
        const Pose<2> pose = made_.world.pose(id);
        const auto shapes = made_.world.shapes(id);
        for (std::size_t i = 0; i < shapes.size(); i++) {
            const auto& s = shapes[i];
            const Point<2> at = to_world(pose, s.placement.position);
            const Rotation<2> turn = pose.rotation * s.placement.rotation;
            if (const auto* ball = std::get_if<Circle>(&s.geometry)) {
                canvas_.circle(place(at), ball->radius * scale_);
                canvas_.fill_and_outline(fill(id, i), still);
                if (!still)
                    canvas_.line(place(at), place(at + rotate(turn, Vec2{ball->radius, 0})), kInk, 0.8);
            } else if (const auto* capsule = std::get_if<Capsule2>(&s.geometry)) {
                draw_outline({capsule->from, capsule->to}, capsule->radius, at, turn, fill(id, i), still);
            } else if (const auto* box = std::get_if<Box2>(&s.geometry)) {
                const float x = 0.5f * box->full_size().x - box->rounding();
                const float y = 0.5f * box->full_size().y - box->rounding();
                draw_outline({{x, -y}, {x, y}, {-x, y}, {-x, -y}}, box->rounding(), at, turn, fill(id, i),
                             still);
            } else if (const auto* polygon = std::get_if<Polygon>(&s.geometry)) {
                draw_outline(polygon->corners, polygon->rounding, at, turn, fill(id, i), still);
            } else if (const auto* segment = std::get_if<Segment>(&s.geometry)) {
                canvas_.line(place(at + rotate(turn, segment->from)), place(at + rotate(turn, segment->to)),
                             kInk, 1.6);
            } else if (const auto* line = std::get_if<Polyline>(&s.geometry)) {
                draw_polyline(*line, at, turn, fill(id, i));
            } else if (const auto* grid = std::get_if<TileGrid>(&s.geometry)) {
                draw_tiles(*grid, at, turn, fill(id, i));
            } else if (const auto* half = std::get_if<HalfPlane>(&s.geometry)) {
                draw_ground(at, rotate(turn, half->outward), fill(id, i));
            }
        }
        if (made_.world.motion(id) == Motion::Dynamic)
            canvas_.centre_of_mass(place(made_.world.centre_of_mass(id)), 4.5);
    }

    void draw_outline(const std::vector<Vec2>& corners, float radius, const Point<2>& at, Rotation<2> turn,
                      Colour colour, bool still) {
        std::vector<Place> places;
        places.reserve(corners.size());
        for (const Vec2 c : corners) places.push_back(place(at + rotate(turn, c)));
        canvas_.rounded_polygon(places, radius * scale_);
        canvas_.fill_and_outline(colour, still);
    }

    // The line, with a hatched strip on its solid side; of a two-sided one nothing is solid.
    void draw_polyline(const Polyline& line, const Point<2>& at, Rotation<2> turn, Colour colour) {
        const std::vector<Vec2> corners = line.corners();
        const std::size_t sides = line.is_closed() ? corners.size() : corners.size() - 1;
        for (std::size_t i = 0; i < sides; i++) {
            const Vec2 from = corners[i], to = corners[(i + 1) % corners.size()];
            if (!line.is_two_sided()) draw_strip(at + rotate(turn, from), at + rotate(turn, to), colour);
        }
        for (std::size_t i = 0; i < sides; i++)
            canvas_.line(place(at + rotate(turn, corners[i])),
                         place(at + rotate(turn, corners[(i + 1) % corners.size()])), kInk, 1.6);
    }

    // Hatching on the left of the way from a to b.
    void draw_strip(const Point<2>& a, const Point<2>& b, Colour colour) {
        const double depth = 10; // pixels
        const Place p = place(a), q = place(b);
        const double x = q.x - p.x, y = q.y - p.y, n = std::hypot(x, y);
        if (!(n > 0)) return;
        const Place in{y / n * depth, -x / n * depth};
        canvas_.polygon({p, q, {q.x + in.x, q.y + in.y}, {p.x + in.x, p.y + in.y}});
        canvas_.fill_and_hatch(colour);
    }

    // Runs of solid cells row by row, without lines between them; then the walls.
    void draw_tiles(const TileGrid& grid, const Point<2>& at, Rotation<2> turn, Colour colour) {
        const auto corner = [&](int column, double row) {
            return place(at +
                         rotate(turn, Vec2{static_cast<float>(column), static_cast<float>(row)} * grid.cell));
        };
        for (int row = 0; row < grid.rows; row++)
            for (int from = 0; from < grid.columns; from++) {
                if (!grid.is_solid(from, row)) continue;
                int to = from;
                while (grid.is_solid(to, row)) to++;
                const double top =
                    row + 1 +
                    (grid.is_solid(from, row + 1) ? 0.5 / (scale_ * grid.cell) : 0); // or seams show
                canvas_.polygon({corner(from, row), corner(to, row), corner(to, top), corner(from, top)});
                canvas_.fill_and_hatch(colour);
                from = to;
            }
        for (int row = 0; row <= grid.rows; row++)
            for (int column = 0; column <= grid.columns; column++) {
                const bool here = grid.is_solid(column, row);
                if (here != grid.is_solid(column, row - 1))
                    canvas_.line(corner(column, row), corner(column + 1, row), kInk, 1.4);
                if (here != grid.is_solid(column - 1, row))
                    canvas_.line(corner(column, row), corner(column, row + 1), kInk, 1.4);
            }
    }

    // A line as far as the picture goes, with a hatched strip below it.
    void draw_ground(const Point<2>& at, Vec2 outward, Colour colour) {
        const double far = (canvas_.width() + canvas_.height()) / scale_;
        const auto along = Vec2{-outward.y, outward.x} * static_cast<float>(far);
        // Begin near the middle of the picture, wherever on the line the shape's origin is.
        const Vec2 to_middle = Point<2>{middle_.x, middle_.y} - at;
        const Point<2> near = at + (to_middle - outward * dot(to_middle, outward));
        const Place a = place(near + along), b = place(near - along);
        const double depth = 14; // pixels
        const Place down{-outward.x * depth, outward.y * depth};
        canvas_.polygon({a, b, {b.x + down.x, b.y + down.y}, {a.x + down.x, a.y + down.y}});
        canvas_.fill_and_hatch(colour);
        canvas_.line(a, b, kInk, 1.6);
    }

    void draw_velocities() {
        double fastest = 0;
        for (const BodyId id : made_.world.bodies())
            fastest = std::max<double>(fastest, length(made_.world.velocity(id)));
        // The fastest body has the longest arrow; but what creeps is not made to look fast.
        fastest = std::max(fastest, kSlowest);
        velocity_unit_ = round_below(fastest);
        const double pixels = kLongestArrow / fastest;
        velocity_pixels_ = pixels * velocity_unit_;
        for (const BodyId id : made_.world.bodies()) {
            const Vec2 v = made_.world.velocity(id);
            if (length(v) * pixels < 3) continue;
            const Place from = place(made_.world.centre_of_mass(id));
            canvas_.arrow(from, {from.x + v.x * pixels, from.y - v.y * pixels}, kVelocity);
        }
    }

    void draw_contacts() {
        const auto contacts = made_.world.contacts();
        const double tick = scene_.world.tick;
        double strongest = 0;
        for (const auto& c : contacts) strongest = std::max(strongest, length(c.impulse) / tick);
        if (strongest > 0) {
            force_unit_ = round_below(strongest);
            force_pixels_ = kLongestArrow / strongest * force_unit_;
        }
        for (const auto& c : contacts) {
            const Place at = place(c.position);
            if (strongest > 0) {
                const double pixels = kLongestArrow / strongest / tick;
                const Place to{at.x + c.impulse.x * pixels, at.y - c.impulse.y * pixels};
                if (std::hypot(to.x - at.x, to.y - at.y) > 3) canvas_.arrow(at, to, kForce);
            }
            canvas_.open_triangle(at, {-c.normal.x, c.normal.y}, 6.5, kForce);
        }
        contact_count_ = contacts.size();
    }

    void draw_margin() {
        const World<2>& world = made_.world;
        canvas_.text({kMargin, 32}, scene_.title.empty() ? "Scene" : scene_.title, 19, kInk);
        canvas_.text_right(
            {canvas_.width() - kMargin, 32},
            fmt::format("t = {:.3f} s    tick {}    seed {}", world.time(), world.ticks(), scene_.seed), 14,
            kInk);
        const double line = canvas_.height() - 30;
        canvas_.line({kMargin, canvas_.height() - kFoot + 18},
                     {canvas_.width() - kMargin, canvas_.height() - kFoot + 18}, kFaintInk, 0.6);
        const double metres = round_below(170 / scale_);
        canvas_.scale_bar({kMargin, line + 2}, metres * scale_, fmt::format("{:g} m", metres));

        double x = kMargin + 260;
        canvas_.centre_of_mass({x, line - 4}, 5.5);
        x = canvas_.text({x + 14, line}, "centre of mass", 13, kInk) + 34;
        canvas_.open_triangle({x, line - 8}, {0, 1}, 8, kForce);
        x = canvas_.text({x + 14, line}, fmt::format("contact ({})", contact_count_), 13, kInk) + 34;
        if (force_pixels_ > 0) {
            canvas_.arrow({x, line - 4}, {x + force_pixels_, line - 4}, kForce);
            x = canvas_.text({x + force_pixels_ + 10, line}, fmt::format("force, {:g} N", force_unit_), 13,
                             kInk) +
                34;
        }
        if (velocity_pixels_ > 0) {
            canvas_.arrow({x, line - 4}, {x + velocity_pixels_, line - 4}, kVelocity);
            canvas_.text({x + velocity_pixels_ + 10, line}, fmt::format("velocity, {:g} m/s", velocity_unit_),
                         13, kInk);
        }
    }

    const scene::Scene<2>& scene_;
    const scene::Made<2>& made_;
    Canvas& canvas_;
    double scale_ = 1; // pixels a metre
    Place middle_{}, origin_{};
    double force_unit_ = 0, force_pixels_ = 0, velocity_unit_ = 0, velocity_pixels_ = 0;
    std::size_t contact_count_ = 0;
};

}

PictureKind kind_of(const std::filesystem::path& path) {
    if (path.extension() == ".png") return PictureKind::Png;
    if (path.extension() == ".svg") return PictureKind::Svg;
    throw std::invalid_argument(path.string() + ": a picture's name ends in .png or .svg");
}

void draw_plane(const scene::Scene<2>& scene, const scene::Made<2>& made, const std::filesystem::path& file,
                PictureKind kind, const PictureOptions& options) {
    Canvas canvas(options.width, options.height, kind, file.string());
    Figure(scene, made, canvas).draw();
    canvas.finish();
}

}
