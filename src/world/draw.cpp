// Tells a pen what is in a world.
#include "astasis/drawing.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "shape/measure.h"
#include "shape/outline.h"

#include <algorithm>
#include <array>
#include <utility>

namespace astasis {
namespace {

template<int Dim> struct Axes;
template<> struct Axes<2> { static constexpr std::array<Vec2, 2> kUnit{{{1, 0}, {0, 1}}}; };
template<> struct Axes<3> { static constexpr std::array<Vec3, 3> kUnit{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}; };

template<int Dim> bool is_finite(const Bounds<Dim>& b) {
    return math::is_finite(b.low) && math::is_finite(b.high);
}

template<int Dim> Bounds<Dim> window_around(const World<Dim>& world) {
    Bounds<Dim> out{};
    bool any = false;
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id)) {
            const Bounds<Dim> b = bounds_of(shape, world.pose(id));
            if (!is_finite(b)) continue;
            for (int k = 0; k < Dim; k++) {
                out.low[k] = any ? std::min(out.low[k], b.low[k]) : b.low[k];
                out.high[k] = any ? std::max(out.high[k], b.high[k]) : b.high[k];
            }
            any = true;
        }
    for (int k = 0; k < Dim; k++) {
        const double half = 0.5 * (out.high[k] - out.low[k]) + (any ? 0 : 10);
        out.low[k] -= half, out.high[k] += half;
    }
    return out;
}

template<int Dim> class Telling {
public:
    Telling(const World<Dim>& world, Pen<Dim>& pen, const Shown<Dim>& shown)
        : world_(world), pen_(pen), shown_(shown),
          window_(shown.window ? *shown.window : window_around(world)) {}

    void bodies(bool still) {
        for (const BodyId id : world_.bodies()) {
            if ((world_.motion(id) == Motion::Static) != still) continue;
            mark_ = {};
            mark_.body = id, mark_.motion = world_.motion(id), mark_.asleep = world_.is_asleep(id);
            for (std::size_t k = 0; k < world_.shapes(id).size(); k++) {
                mark_.shape = world_.shape_numbers(id)[k];
                if (!world_.shapes(id)[k].is_sensor) shape(world_.shapes(id)[k]);
            }
            mark_.shape = 0;
            if (shown_.axes) axes(id);
            if (shown_.centres && mark_.motion == Motion::Dynamic)
                pen_.point(world_.centre_of_mass(id), meaning(Meaning::CentreOfMass));
            if (shown_.name) pen_.text(world_.centre_of_mass(id), shown_.name(id), meaning(Meaning::Name));
        }
    }
    void sensors() {
        for (const BodyId id : world_.bodies())
            for (const std::uint32_t number : world_.shape_numbers(id)) {
                const ShapeSpec<Dim>& s = world_.shape(id, number);
                if (!s.is_sensor) continue;
                mark_ = {};
                mark_.body = id, mark_.motion = world_.motion(id), mark_.shape = number;
                shape(s);
                const Bounds<Dim> bounds = bounds_of(s, world_.pose(id));
                pen_.text(bounds.low + (bounds.high - bounds.low) * 0.5f,
                          std::to_string(world_.shapes_in(id, number).size()), meaning(Meaning::Sensor));
            }
    }
    void velocities() {
        for (const BodyId id : world_.bodies()) {
            const Vec<Dim> v = world_.velocity(id);
            if (v == Vec<Dim>{}) continue;
            mark_.body = id, mark_.motion = world_.motion(id), mark_.shape = 0;
            const Point<Dim> at = world_.centre_of_mass(id);
            pen_.line(at, at + v * shown_.metres_a_second, meaning(Meaning::Velocity, v));
        }
    }
    // One line for each pair of dynamic bodies that touch.
    void links() {
        std::vector<std::pair<BodyId, BodyId>> pairs;
        for (const auto& c : world_.contacts())
            if (world_.motion(c.body_a) == Motion::Dynamic && world_.motion(c.body_b) == Motion::Dynamic)
                pairs.emplace_back(c.body_a, c.body_b);
        const auto before = [](const auto& p, const auto& q) {
            return p.first.index != q.first.index ? p.first.index < q.first.index
                                                  : p.second.index < q.second.index;
        };
        std::sort(pairs.begin(), pairs.end(), before);
        pairs.erase(std::unique(pairs.begin(), pairs.end()), pairs.end());
        mark_ = {};
        mark_.motion = Motion::Dynamic;
        for (const auto& [a, b] : pairs) {
            mark_.body = b, mark_.asleep = world_.is_asleep(a) && world_.is_asleep(b);
            pen_.line(world_.centre_of_mass(a), world_.centre_of_mass(b), meaning(Meaning::Link));
        }
    }
    // On whom the force at a contact is shown, so that what bears always pushes the same way.
    bool acts_on_second(const Contact<Dim>& c) const {
        const bool a_moves = world_.motion(c.body_a) == Motion::Dynamic;
        const bool b_moves = world_.motion(c.body_b) == Motion::Dynamic;
        if (a_moves != b_moves) return b_moves;
        return dot(c.normal, world_.settings().gravity) <= 0;
    }
    void contacts() {
        const auto contacts = world_.contacts();
        const auto per_second = static_cast<float>(1 / world_.settings().tick);
        for (const auto& c : contacts) {
            const bool on_b = acts_on_second(c);
            mark_.body = on_b ? c.body_b : c.body_a, mark_.shape = on_b ? c.shape_b : c.shape_a;
            mark_.motion = world_.motion(mark_.body);
            const Vec<Dim> force = c.impulse * (on_b ? per_second : -per_second);
            if (shown_.forces && force != Vec<Dim>{})
                pen_.line(c.position, c.position + force * shown_.metres_a_newton,
                          meaning(Meaning::Force, force));
        }
        for (const auto& c : contacts) {
            mark_.body = c.body_b, mark_.motion = world_.motion(c.body_b), mark_.shape = c.shape_b;
            if (shown_.contacts) pen_.point(c.position, meaning(Meaning::Contact, c.normal));
        }
    }
    void joints() {
        for (const JointId id : world_.joints()) {
            const JointState<Dim> state = world_.joint_state(id);
            if (state.broken) continue;
            const Joint<Dim>& joint = world_.joint(id);
            const Joined<Dim>& joins =
                std::visit([](const auto& kind) -> const Joined<Dim>& { return kind.joins; }, joint);
            mark_ = {};
            mark_.body = joins.a, mark_.motion = world_.motion(joins.a),
            mark_.asleep = world_.is_asleep(joins.a);
            mark_.joint = id, mark_.held = !joins.b;
            std::visit([&](const auto& kind) { tell(kind, state); }, joint);
        }
    }
    void regions() {
        mark_ = {};
        for (const FieldId id : world_.fields()) {
            const Field<Dim>& field = world_.field(id);
            std::optional<Bounds<Dim>> region = field.within;
            if (const auto* fluid = std::get_if<Buoyancy<Dim>>(&field.kind)) {
                if (!region) region = window_;
                region->high.y = std::min(region->high.y, fluid->level);
            }
            if (region && region->low.y < region->high.y) box(*region, Meaning::Field);
        }
    }
    void attractors() {
        mark_ = {};
        for (const FieldId id : world_.fields())
            if (const auto* pull = std::get_if<Attraction<Dim>>(&world_.field(id).kind))
                pen_.point(pull->body ? world_.centre_of_mass(*pull->body) : pull->centre,
                           meaning(Meaning::Attractor));
    }

private:
    // The symbols of a joint, by its kind; what turns about a point has a pin there.
    template<typename Kind> void tell(const Kind&, const JointState<Dim>& s) {
        pen_.point(s.anchor_a, meaning(Meaning::Pin));
    }
    void tell(const Weld<Dim>&, const JointState<Dim>& s) { pen_.point(s.anchor_a, meaning(Meaning::Weld)); }
    void tell(const Slider<Dim>&, const JointState<Dim>& s) { rail(s); }
    void tell(const Wheel<Dim>&, const JointState<Dim>& s) {
        rail(s);
        pen_.point(s.anchor_a, meaning(Meaning::Pin));
    }
    void tell(const Rod<Dim>&, const JointState<Dim>& s) { between(s, Meaning::Rod); }
    void tell(const Rope<Dim>&, const JointState<Dim>& s) { between(s, Meaning::Rope); }
    void tell(const Spring<Dim>&, const JointState<Dim>& s) { between(s, Meaning::Coil); }
    void tell(const Tow<Dim>&, const JointState<Dim>& s) { between(s, Meaning::Coil); }
    void tell(const Gear<Dim>&, const JointState<Dim>&) {} // its wheels have pins
    void tell(const Pulley<Dim>& j, const JointState<Dim>& s) {
        const Mark<Dim>& mark = meaning(Meaning::Rope);
        pen_.line(s.anchor_a, j.over_a, mark), pen_.line(j.over_a, j.over_b, mark);
        pen_.line(j.over_b, s.anchor_b, mark);
    }
    void between(const JointState<Dim>& s, Meaning what) { pen_.line(s.anchor_a, s.anchor_b, meaning(what)); }
    // About twice as long as the body is wide.
    void rail(const JointState<Dim>& s) {
        float reach = 0.1f;
        for (const auto& shape : world_.shapes(mark_.body)) {
            const float width = thickness_of(shape);
            if (math::is_finite(width)) reach = std::max(reach, width);
        }
        const Vec<Dim> way = s.directions[0] * reach;
        pen_.line(s.anchor_a - way, s.anchor_a + way, meaning(Meaning::Rail, s.directions[0]));
    }

    const Mark<Dim>& meaning(Meaning m, Vec<Dim> vector = {}) {
        mark_.meaning = m, mark_.vector = vector;
        return mark_;
    }

    void shape(const ShapeSpec<Dim>& s) {
        const Pose<Dim> pose = world_.pose(mark_.body);
        const Point<Dim> at = to_world(pose, s.placement.position);
        const Rotation<Dim> turn = pose.rotation * s.placement.rotation;
        if (shown_.shapes) {
            if (const auto* half = std::get_if<HalfSpace<Dim>>(&s.geometry))
                ground(at, rotate(turn, half->outward));
            else outline(s, at, turn);
        }
        const Bounds<Dim> bounds = bounds_of(s, pose);
        if (shown_.bounds && is_finite(bounds)) box(bounds);
    }

    void outline(const ShapeSpec<Dim>& s, const Point<Dim>& at, const Rotation<Dim>& turn) {
        shape::outline(s.geometry, shown_.fineness, outline_);
        for (const auto& area : outline_.areas) {
            corners_.clear();
            for (std::size_t i = area.begin; i < area.end; i++)
                corners_.push_back(at + rotate(turn, outline_.corners[i]));
            const Meaning what = s.is_sensor   ? Meaning::Sensor
                                 : area.inside ? Meaning::Inside
                                               : Meaning::Shape;
            pen_.area(corners_, meaning(what, rotate(turn, area.normal)));
        }
        if (s.is_sensor) return;
        for (const auto& line : outline_.lines)
            pen_.line(at + rotate(turn, line.from), at + rotate(turn, line.to),
                      meaning(line.spoke ? Meaning::Spoke : Meaning::Surface, rotate(turn, line.out)));
    }

    // The line or plane of a half-space, as far as the window goes.
    void ground(const Point<2>& at, Vec2 outward) {
        const auto [near, reach] = in_window(at, outward);
        const Vec2 along = Vec2{-outward.y, outward.x} * reach;
        pen_.line(near + along, near - along, meaning(Meaning::Surface, outward));
    }
    void ground(const Point<3>& at, Vec3 outward) {
        const auto [near, reach] = in_window(at, outward);
        const Vec3 side =
            direction(cross(outward, std::fabs(outward.x) < 0.7f ? Vec3{1, 0, 0} : Vec3{0, 1, 0}), {});
        const Vec3 u = side * reach, v = cross(outward, side) * reach;
        corners_.assign({near - u - v, near + u - v, near + u + v, near - u + v});
        pen_.area(corners_, meaning(Meaning::Shape, outward));
    }
    // The point of a plane nearest to the window's middle, and how far the window reaches from there.
    std::pair<Point<Dim>, float> in_window(const Point<Dim>& at, Vec<Dim> outward) const {
        const Vec<Dim> size = window_.high - window_.low;
        const Vec<Dim> to_middle = (window_.low + size * 0.5f) - at;
        return {at + (to_middle - outward * dot(to_middle, outward)), 0.75f * length(size)};
    }

    void box(const Bounds<2>& b, Meaning what = Meaning::Bounds) {
        corners_.assign({b.low, {b.high.x, b.low.y}, b.high, {b.low.x, b.high.y}});
        pen_.area(corners_, meaning(what));
    }
    void box(const Bounds<3>& b, Meaning what = Meaning::Bounds) {
        const auto corner = [&](int i) {
            return Point<3>{i & 1 ? b.high.x : b.low.x, i & 2 ? b.high.y : b.low.y,
                            i & 4 ? b.high.z : b.low.z};
        };
        static constexpr int kFaces[6][4] = {{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4},
                                             {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}};
        for (int f = 0; f < 6; f++) {
            corners_.clear();
            for (const int i : kFaces[f]) corners_.push_back(corner(i));
            const Vec3 axis = Axes<3>::kUnit[static_cast<std::size_t>(f / 2)];
            pen_.area(corners_, meaning(what, f % 2 == 0 ? -axis : axis));
        }
    }

    // As long as the body's shortest reach, so that they stay inside of what is drawn.
    void axes(BodyId id) {
        const Pose<Dim> pose = world_.pose(id);
        float size = 1;
        for (const auto& s : world_.shapes(id)) {
            const float thickness = thickness_of(s);
            if (math::is_finite(thickness)) size = std::min(size, 0.5f * thickness);
        }
        for (const Vec<Dim>& axis : Axes<Dim>::kUnit) {
            const Vec<Dim> way = rotate(pose.rotation, axis);
            pen_.line(pose.position, pose.position + way * size, meaning(Meaning::Axis, way));
        }
    }

    const World<Dim>& world_;
    Pen<Dim>& pen_;
    const Shown<Dim>& shown_;
    Bounds<Dim> window_;
    Mark<Dim> mark_;
    shape::Outline<Dim> outline_;
    std::vector<Point<Dim>> corners_;
};

}

template<int Dim> void draw(const World<Dim>& world, Pen<Dim>& pen, const Shown<Dim>& shown) {
    if (!(shown.fineness > 0)) throw Error("fineness", base::number(shown.fineness), "above 0 (m)");
    Telling<Dim> telling(world, pen, shown);
    if (shown.fields) telling.regions();
    telling.bodies(true);
    telling.bodies(false);
    if (shown.sensors) telling.sensors();
    if (shown.fields) telling.attractors();
    if (shown.joints) telling.joints();
    if (shown.links) telling.links();
    if (shown.velocities) telling.velocities();
    if (shown.contacts || shown.forces) telling.contacts();
}

template void draw(const World<2>&, Pen<2>&, const Shown<2>&);
template void draw(const World<3>&, Pen<3>&, const Shown<3>&);

}
