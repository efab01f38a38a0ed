// Pictures in space: of the facets that the pen gathered a z-buffer finds what is seen, then each pixel is
// lit and inked, and marks are drawn on top.
#include "paint/camera.h"
#include "paint/figure.h"
#include "paint/raster.h"
#include "paint/space_marks.h"
#include "paint/space_pen.h"

#include "astasis/drawing.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace astasis::paint {
namespace {

constexpr Vec3 kLight{-0.38f, 0.83f, 0.41f}; // towards the light, unit
constexpr double kCrease = 0.8;              // cosine above which two facets of a shape are one face
constexpr int kShadowSide = 1400;

std::vector<Bounds<3>> bounds_seen(const scene::Made<3>& made, const Casts<3>& casts) {
    std::vector<Bounds<3>> out;
    for (const BodyId id : made.world.bodies())
        for (const auto& shape : made.world.shapes(id)) {
            const Bounds<3> b = bounds_of(shape, made.world.pose(id));
            bool seen = true;
            for (int k = 0; k < 3; k++)
                seen = seen && b.high[k] >= made.bounds.low[k] && b.low[k] <= made.bounds.high[k] &&
                       std::isfinite(b.low[k]);
            if (seen) out.push_back(b);
        }
    for (const auto& ray : casts.rays)
        for (const Point<3>& p : {ray.from, ray.from + ray.displacement}) out.push_back({p, p});
    return out;
}

Bounds<3> around(const std::vector<Bounds<3>>& all, const Bounds<3>& otherwise) {
    Bounds<3> out = all.empty() ? otherwise : all[0];
    for (const auto& b : all)
        for (int k = 0; k < 3; k++)
            out.low[k] = std::min(out.low[k], b.low[k]), out.high[k] = std::max(out.high[k], b.high[k]);
    return out;
}

// Shapes that stand still between the eye and the middles of many moving bodies: walls, drawn as outlines
// only.
std::vector<std::uint32_t> screens(const scene::Made<3>& made, const Camera& camera, SpacePen& pen) {
    constexpr double kManyOf = 0.06;
    std::map<std::uint32_t, int> hidden;
    int bodies = 0;
    std::vector<Hit<3>> hits;
    const auto still = [&](BodyId id, std::uint32_t) { return made.world.motion(id) == Motion::Static; };
    for (const BodyId id : made.world.bodies()) {
        if (made.world.motion(id) != Motion::Dynamic) continue;
        bodies++;
        all_hits(made.world, {camera.eye(), made.world.centre_of_mass(id) - camera.eye()}, hits,
                 {.accept = still});
        for (const auto& hit : hits) hidden[pen.number_of(hit.body, hit.shape)]++;
    }
    std::vector<std::uint32_t> out;
    for (const auto& [shape, count] : hidden)
        if (count > kManyOf * bodies) out.push_back(shape);
    return out;
}

class SpaceFigure {
public:
    SpaceFigure(const scene::Scene<3>& scene, const scene::Made<3>& made, const Picture<3>& picture,
                Canvas& canvas)
        : made_(made), picture_(picture), canvas_(canvas), width_(picture.width),
          height_(static_cast<int>(picture.height - kHead - kFoot + 8)),
          seen_(bounds_seen(made, picture.casts)),
          camera_(picture.view, seen_, width_, height_, {0.5 * width_, 0.5 * height_}), pen_(scene, made),
          margin_(margin_text(scene, made, picture)), raster_(width_ * kFiner, height_ * kFiner),
          shadow_(kShadowSide, kShadowSide, -1e300) {}

    void draw() {
        gather();
        rasterise();
        canvas_.clear(kPaper);
        canvas_.image({0, kHead}, width_, height_, pixels());
        canvas_.clip(0, kHead, width_, height_);
        SpaceMarks(made_, picture_, camera_, pen_, raster_, margin_, canvas_).draw(frames_of_walls_);
        canvas_.unclip();
        draw_margin(canvas_, margin_);
    }

private:
    void gather() {
        const Bounds<3> all = around(seen_, made_.bounds);
        const Vec3 size = all.high - all.low;
        const double wide = std::max(size.x, size.z);
        margin_.grid_metres = round_below(wide / 6);
        const Switches& s = picture_.show;
        Shown<3> shown{.centres = s.centres,
                       .velocities = s.velocities,
                       .contacts = s.contacts,
                       .forces = s.forces,
                       .joints = s.joints,
                       .fields = s.fields,
                       .sensors = s.sensors,
                       .links = s.islands,
                       .bounds = s.bounds,
                       .axes = s.axes};
        shown.window = Bounds<3>{all.low - size * 0.12f, all.high + size * 0.12f};
        const double distance = length(camera_.target() - camera_.eye());
        shown.fineness = static_cast<float>(0.3 * distance / camera_.pixels_a_radian());
        const auto name = [&](BodyId id) -> std::string_view { return made_.name_of(id); };
        if (s.names) shown.name = name;
        astasis::draw(made_.world, pen_, shown);
        const bool grounded =
            std::any_of(pen_.facets.begin(), pen_.facets.end(), [](const Facet& f) { return f.ground; });
        if (!grounded) add_sheet(all);
    }

    // The sheet with the squares, under all there is, where the scene has no ground of its own.
    void add_sheet(const Bounds<3>& all) {
        const double y = all.low.y - 0.002 * (all.high.y - all.low.y);
        const double x = 0.1 * (all.high.x - all.low.x), z = 0.1 * (all.high.z - all.low.z);
        pen_.facets.push_back({{0, 1, 0},
                               Raster::kNone,
                               kPaper,
                               true,
                               true,
                               false,
                               false,
                               {{all.low.x - x, y, all.high.z + z},
                                {all.high.x + x, y, all.high.z + z},
                                {all.high.x + x, y, all.low.z - z},
                                {all.low.x - x, y, all.low.z - z}}});
    }

    void rasterise() {
        const auto walls = screens(made_, camera_, pen_);
        const Camera fine = camera_.scaled(kFiner);
        light_middle_ = camera_.target();
        light_right_ = direction(cross(Vec3{0, 1, 0}, kLight), Vec3{1, 0, 0});
        light_up_ = cross(kLight, light_right_);
        const Bounds<3> all = around(seen_, made_.bounds);
        shadow_scale_ = kShadowSide / (1.3 * static_cast<double>(length(all.high - all.low)) + 1e-9);
        light_middle_ = all.low + (all.high - all.low) * 0.5f;
        std::vector<Raster::Corner> corners;
        for (std::uint32_t i = 0; i < pen_.facets.size(); i++) {
            const Facet& f = pen_.facets[i];
            if (std::find(walls.begin(), walls.end(), f.shape) != walls.end()) {
                frames_of_walls_.push_back(f.corners);
                continue;
            }
            corners.clear();
            for (const Point<3>& c : f.corners) {
                const Raster::Corner on = in_light(c);
                corners.push_back(on);
            }
            if (!f.ground) shadow_.draw(corners, i);
            const Point<3>& any = f.corners[0];
            if (dot(f.normal, any - camera_.eye()) >= 0 && !f.ground && !f.mesh) continue; // seen from behind
            corners.clear();
            for (const Point<3>& c : camera_.cut_off_behind(f.corners)) {
                const Camera::Seen s = fine.see(c);
                corners.push_back({s.at.x, s.at.y, 1 / s.depth});
            }
            raster_.draw(corners, i);
        }
    }

    Raster::Corner in_light(const Point<3>& p) const {
        const Vec3 v = p - light_middle_;
        return {0.5 * kShadowSide + dot(v, light_right_) * shadow_scale_,
                0.5 * kShadowSide - dot(v, light_up_) * shadow_scale_, dot(v, kLight)};
    }

    std::vector<std::uint32_t> pixels() const {
        std::vector<std::uint32_t> out;
        out.reserve(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
        const Camera fine = camera_.scaled(kFiner);
        for (int y = 0; y < height_; y++)
            for (int x = 0; x < width_; x++) {
                Colour sum{0, 0, 0};
                for (int k = 0; k < kFiner * kFiner; k++) {
                    const Colour c = colour_at(fine, x * kFiner + k % kFiner, y * kFiner + k / kFiner);
                    sum = {sum.red + c.red, sum.green + c.green, sum.blue + c.blue};
                }
                const double share = 255.0 / (kFiner * kFiner);
                const auto channel = [&](double v) {
                    return static_cast<std::uint32_t>(std::lround(std::clamp(v * share, 0.0, 255.0)));
                };
                out.push_back(channel(sum.red) << 16 | channel(sum.green) << 8 | channel(sum.blue));
            }
        return out;
    }

    Colour colour_at(const Camera& fine, int x, int y) const {
        const std::uint32_t i = raster_.facet(x, y);
        const double ink = ink_at(x, y);
        if (i == Raster::kNone) return mixed(kPaper, kInk, ink);
        const Facet& f = pen_.facets[i];
        const Point<3> at = fine.point({x + 0.5, y + 0.5}, 1 / raster_.near(x, y));
        const Vec3 normal = f.mesh && dot(f.normal, at - camera_.eye()) > 0 ? -f.normal : f.normal;
        double light = std::max<double>(0, dot(normal, kLight));
        if (light > 0 && in_shadow(at, normal)) light *= 0.25;
        Colour c = f.ground   ? mixed(kPaper, f.colour, 0.35)
                   : f.still  ? mixed(f.colour, kPaper, 0.25)
                   : f.asleep ? mixed(f.colour, kPaper, kAsleep)
                              : f.colour;
        c = mixed(kInk, c, f.ground ? 0.80 + 0.22 * light : 0.62 + 0.42 * light);
        if (f.ground) c = mixed(c, kInk, squares_at(fine, f, x, y));
        else if (f.still && !f.mesh && ((x + y) / kFiner) % 9 == 0)
            c = mixed(c, kInk, 0.22);                                                 // section hatching
        if (f.asleep && ((x + y) / kFiner) % 6 < 3) return mixed(c, kInk, 0.3 * ink); // dashed
        return mixed(c, kInk, ink);
    }

    bool in_shadow(const Point<3>& at, Vec3 normal) const {
        // Off the surface by about two cells of the map.
        const Raster::Corner on = in_light(at + normal * static_cast<float>(2.5 / shadow_scale_));
        const int x = static_cast<int>(on.x), y = static_cast<int>(on.y);
        return shadow_.holds(x, y) && shadow_.near(x, y) > on.near + 0.5 / shadow_scale_;
    }

    // How much ink an outline puts on a pixel: all of it where another shape or nothing begins, less at an
    // edge of the shape itself, little between the triangles of a mesh.
    double ink_at(int x, int y) const {
        const std::uint32_t here = raster_.facet(x, y);
        double most = 0;
        for (const auto& [dx, dy] : {std::pair{1, 0}, {0, 1}, {-1, 0}, {0, -1}}) {
            if (!raster_.holds(x + dx, y + dy)) continue;
            const std::uint32_t there = raster_.facet(x + dx, y + dy);
            if (there != here) most = std::max(most, ink_between(here, there));
        }
        return most;
    }
    double ink_between(std::uint32_t a, std::uint32_t b) const {
        const bool none = a == Raster::kNone, other_none = b == Raster::kNone;
        const bool flat = none || pen_.facets[a].ground, other_flat = other_none || pen_.facets[b].ground;
        if (flat && other_flat) return 0.35;
        if (none || other_none) return 0.9;
        const Facet &f = pen_.facets[a], &g = pen_.facets[b];
        if (f.shape != g.shape) return 0.9;
        if (dot(f.normal, g.normal) < kCrease) return 0.6;
        return f.mesh ? 0.18 : 0.0;
    }

    // The lines of the squares, as wide as a pixel wherever they are.
    double squares_at(const Camera& fine, const Facet& f, int x, int y) const {
        const auto on_ground = [&](double px, double py) {
            const Point<3> far = fine.point({px, py}, 1);
            const Vec3 way = far - camera_.eye();
            const float down = dot(way, f.normal);
            return camera_.eye() + way * (dot(f.corners[0] - camera_.eye(), f.normal) /
                                          (std::fabs(down) > 1e-9f ? down : -1e-9f));
        };
        const Point<3> at = on_ground(x + 0.5, y + 0.5), right = on_ground(x + 1.5, y + 0.5),
                       below = on_ground(x + 0.5, y + 1.5);
        double most = 0;
        for (const int k : {0, 2}) {
            const double u = at[k] / margin_.grid_metres;
            const double width =
                (std::fabs(right[k] - at[k]) + std::fabs(below[k] - at[k])) / margin_.grid_metres;
            const double away = std::fabs(u - std::round(u));
            most = std::max(most, std::clamp(1.2 - away / std::max(width, 1e-9), 0.0, 1.0) *
                                      std::clamp(0.25 / std::max(width, 1e-9), 0.0, 1.0));
        }
        return 0.28 * most;
    }

    const scene::Made<3>& made_;
    const Picture<3>& picture_;
    Canvas& canvas_;
    int width_, height_;
    std::vector<Bounds<3>> seen_;
    Camera camera_;
    SpacePen pen_;
    MarginText margin_;
    Raster raster_, shadow_;
    Point<3> light_middle_{};
    Vec3 light_right_{}, light_up_{};
    double shadow_scale_ = 1;
    std::vector<std::vector<Point<3>>> frames_of_walls_;
};

}

void draw_picture(const scene::Scene<3>& scene, const scene::Made<3>& made, const std::filesystem::path& file,
                  PictureKind kind, const Picture<3>& picture) {
    Canvas canvas(picture.width, picture.height, kind, file.string());
    SpaceFigure(scene, made, picture, canvas).draw();
    canvas.finish();
}

}
