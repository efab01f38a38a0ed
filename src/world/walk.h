// The parts of each type in a world's bytes, in one order for writing and for reading, with their names.
//
// A number that is read is refused outside of its range, with the name of its field: a bool is 0 or 1, an
// enumerator one of its type, a float finite unless it is passed loosely. Ranges of specs, and what refers to
// something else, are checked when all is there: check_state.cpp.
#pragma once

#include "base/text.h"
#include "math/numbers.h"
#include "shape/facets.h"
#include "world/state.h"

#include <type_traits>
#include <utility>

namespace astasis {

// The names of so many fields, with a blank between two.
template<std::size_t Count> struct FieldNames {
    const char* text;
    consteval FieldNames(const char* names) : text(names) { // NOLINT(google-explicit-constructor)
        std::size_t count = 1;
        for (const char* c = names; *c != 0; c++) count += *c == ' ';
        if (count != Count) throw "as many names as values"; // does not compile
    }
};

// The last enumerator of each type.
template<typename E> inline constexpr E kLast{};
template<> inline constexpr Motion kLast<Motion> = Motion::Dynamic;
template<> inline constexpr Sweep kLast<Sweep> = Sweep::Everything;
template<> inline constexpr Mixing kLast<Mixing> = Mixing::Larger;
template<> inline constexpr flow::Guide kLast<flow::Guide> = flow::Guide::World;
template<> inline constexpr flow::JointKind kLast<flow::JointKind> = flow::JointKind::Tow;

// Walks over the values of a state in one order, with a ByteWriter or a ByteReader.
template<typename Archive> class Walk {
public:
    explicit Walk(Archive& archive) : archive_(archive) {}

    template<Number T> void operator()(T& x) {
        archive_(x);
        if constexpr (Archive::kReads) check(x);
    }
    template<typename T, typename Each> void operator()(std::vector<T>& list, const Each& each) {
        archive_(list, each);
    }
    template<typename T> void operator()(std::vector<T>& list) {
        archive_(list, [this](T& item) { (*this)(item); });
    }
    template<typename T> void operator()(std::optional<T>& value) {
        bool has = value.has_value();
        (*this)(has);
        if constexpr (Archive::kReads) {
            value.reset();
            if (has) value.emplace();
        }
        if (has) (*this)(*value);
    }
    // Several in a row.
    template<typename... T> void all(std::type_identity_t<FieldNames<sizeof...(T)>> names, T&... values) {
        [[maybe_unused]] std::size_t k = 0;
        (named(names.text, k++, [&] { (*this)(values); }), ...);
    }
    // The same of numbers that may be infinite, or anything that a tick made of them.
    template<typename... T>
    void all_loosely(std::type_identity_t<FieldNames<sizeof...(T)>> names, T&... values) {
        const bool before = std::exchange(loosely_, true);
        all(names, values...);
        loosely_ = before;
    }
    // A list whose items have parts, or a part of its own.
    template<typename T, typename Each>
    void list(FieldNames<1> name, std::vector<T>& list, const Each& each) {
        named(name.text, 0, [&] { archive_(list, each); });
    }
    template<typename Pass> void part(FieldNames<1> name, const Pass& pass) { named(name.text, 0, pass); }

    void operator()(Vec2& v) { all("x y", v.x, v.y); }
    void operator()(Vec3& v) { all("x y z", v.x, v.y, v.z); }
    void operator()(Point<2>& p) { all("x y", p.x, p.y); }
    void operator()(Point<3>& p) { all("x y z", p.x, p.y, p.z); }
    void operator()(Rotation<2>& r) { all("c s", r.c, r.s); }
    void operator()(Rotation<3>& r) { all("w x y z", r.w, r.x, r.y, r.z); }
    void operator()(math::Sym3& m) {
        all("xx xy xz yy", m.xx, m.xy, m.xz, m.yy);
        all("yz zz", m.yz, m.zz);
    }
    void operator()(BodyId& id) { all("index generation", id.index, id.generation); }
    void operator()(MaterialId& id) { all("index generation", id.index, id.generation); }
    template<int Dim> void operator()(Pose<Dim>& p) { all("position rotation", p.position, p.rotation); }
    template<int Dim> void operator()(Placement<Dim>& p) { all("position rotation", p.position, p.rotation); }

    void operator()(Material& m) {
        all("friction restitution tangential_restitution rolling_resistance", m.friction, m.restitution,
            m.tangential_restitution, m.rolling_resistance);
        all("spinning_resistance friction_mixing restitution_mixing", m.spinning_resistance,
            m.friction_mixing, m.restitution_mixing);
    }
    void operator()(MassProperties<2>& m) { all("mass centre inertia", m.mass, m.centre, m.inertia); }
    void operator()(MassProperties<3>& m) {
        all("mass centre moments products", m.mass, m.centre, m.moments, m.products);
    }
    void operator()(Locks<2>& l) { all("x y turn", l.x, l.y, l.turn); }
    void operator()(Locks<3>& l) {
        all("x y z", l.x, l.y, l.z);
        all("turn_x turn_y turn_z", l.turn_x, l.turn_y, l.turn_z);
    }
    template<int Dim> void operator()(FreeMotion<Dim>& f) {
        all("linear_damping angular_damping drag gravity_scale locks", f.linear_damping, f.angular_damping,
            f.drag, f.gravity_scale, f.locks);
    }
    template<int Dim> void operator()(Thrust<Dim>& t) {
        all("force torque at turns_with_body", t.force, t.torque, t.at, t.turns_with_body);
    }

    template<int Dim> void operator()(Ball<Dim>& s) { all("radius", s.radius); }
    template<int Dim> void operator()(Box<Dim>& s) {
        Vec<Dim> size = s.full_size();
        float rounding = s.rounding();
        all("size rounding", size, rounding);
        if constexpr (Archive::kReads) {
            if constexpr (Dim == 2) s = Box2::sized(size.x, size.y).rounded(rounding);
            else s = Box3::sized(size.x, size.y, size.z).rounded(rounding);
        }
    }
    template<int Dim> void operator()(HalfSpace<Dim>& s) { all("outward", s.outward); }
    template<int Dim> void operator()(Capsule<Dim>& s) { all("from to radius", s.from, s.to, s.radius); }
    void operator()(Polygon& s) { all("corners rounding", s.corners, s.rounding); }
    void operator()(Segment& s) { all("from to", s.from, s.to); }
    void operator()(Cylinder& s) { all("from to radius", s.from, s.to, s.radius); }
    void operator()(TileGrid& s) { all("columns rows cell solid", s.columns, s.rows, s.cell, s.solid); }
    void operator()(HeightField& s) {
        all("columns rows pitch heights", s.columns, s.rows, s.pitch, s.heights);
    }
    template<int Dim> void operator()(ShapeSpec<Dim>& s) {
        geometry(s.geometry);
        all("material shared density placement surface_velocity", s.material, s.shared, s.density,
            s.placement, s.surface_velocity);
        all("layers collides_with group is_sensor tag user_data", s.layers, s.collides_with, s.group,
            s.is_sensor, s.tag, s.user_data);
    }

    template<int Dim> void operator()(flow::CentrePose<Dim>& p) {
        all("centre rotation", p.centre, p.rotation);
    }
    template<int Dim> void operator()(flow::Velocity<Dim>& v) { all("linear angular", v.linear, v.angular); }
    template<int Dim> void operator()(flow::Push<Dim>& p) { all("force torque", p.force, p.torque); }
    void operator()(math::Principal<2>&) {}
    void operator()(math::Principal<3>& p) { all("frame moments", p.frame, p.moments); }
    template<int Dim> void operator()(flow::Mass<Dim>& m) {
        all("mass inverse_mass inertia inverse_inertia centre principal isotropic", m.mass, m.inverse_mass,
            m.inertia, m.inverse_inertia, m.centre, m.principal, m.isotropic);
    }
    template<int Dim> void operator()(flow::Stillness<Dim>& s) {
        all("since ticks leaving", s.since, s.ticks, s.leaving);
        all_loosely("way size reach", s.way, s.size, s.reach);
        all("kept_awake", s.kept_awake);
    }
    template<int Dim> void operator()(flow::Rim<Dim>& r) { all("radius axis", r.radius, r.axis); }
    template<int Dim> void operator()(flow::ManifoldPoint<Dim>& p) {
        all("core_a core_b separation feature", p.core_a, p.core_b, p.separation, p.feature);
        all("normal_force friction_force tick_impulse", p.normal_force, p.friction_force, p.tick_impulse);
    }
    template<int Dim> void operator()(flow::RelativePose<Dim>& p) {
        all("centre rotation", p.centre, p.rotation);
    }
    template<int Dim> void operator()(flow::Manifold<Dim>& m) {
        const bool before = std::exchange(loosely_, true); // a tick made all its numbers
        all("key_a key_b shape_a shape_b body_a body_b", m.key_a, m.key_b, m.shape_a, m.shape_b, m.body_a,
            m.body_b);
        all("guide count passed_by normal local_normal skin_a skin_b rim_a rim_b", m.guide, m.count,
            m.passed_by, m.normal, m.local_normal, m.skin_a, m.skin_b, m.rim_a, m.rim_b);
        all("friction restitution tangential_restitution rolling spinning", m.friction, m.restitution,
            m.tangential_restitution, m.rolling, m.spinning);
        all("slip turning_torque thickness spread", m.slip, m.turning_torque, m.thickness, m.spread);
        all("found may_keep", m.found, m.may_keep);
        if constexpr (Archive::kReads)
            if (m.count > m.points.size())
                archive_.refuse(std::to_string(m.count) + " points",
                                "up to " + std::to_string(m.points.size()));
        for (std::size_t i = 0; i < m.count; i++) (*this)(m.points[i]);
        loosely_ = before;
    }
    void operator()(FieldId& id) { all("index generation", id.index, id.generation); }
    template<int Dim> void operator()(Bounds<Dim>& b) { all_loosely("low high", b.low, b.high); }
    template<int Dim> void operator()(UniformField<Dim>& f) { all("acceleration", f.acceleration); }
    template<int Dim> void operator()(Attraction<Dim>& f) {
        all("centre body strength softening pulls_back", f.centre, f.body, f.strength, f.softening,
            f.pulls_back);
    }
    template<int Dim> void operator()(MutualAttraction<Dim>& f) {
        all("constant softening", f.constant, f.softening);
    }
    template<int Dim> void operator()(Wind<Dim>& f) {
        all("velocity drag damping", f.velocity, f.drag, f.damping);
    }
    template<int Dim> void operator()(Buoyancy<Dim>& f) {
        all("level density flow damping", f.level, f.density, f.flow, f.damping);
    }
    template<int Dim> void operator()(OwnField<Dim>&) {} // code has no bytes
    template<int Dim> void operator()(Field<Dim>& f) {
        any_of(f.kind);
        all("within acts_on", f.within, f.acts_on);
    }
    void operator()(JointId& id) { all("index generation", id.index, id.generation); }
    void operator()(Angle& a) {
        double in_radians = a.in_radians();
        all("in_radians", in_radians);
        if constexpr (Archive::kReads) a = radians(in_radians);
    }
    void operator()(Springing& s) {
        all("frequency damping_ratio stiffness damping", s.frequency, s.damping_ratio, s.stiffness,
            s.damping);
    }
    void operator()(Limits& l) {
        all_loosely("lower upper", l.lower, l.upper);
        all("restitution spring", l.restitution, l.spring);
    }
    void operator()(Motor& m) {
        all_loosely("most", m.most);
        all("speed target spring", m.speed, m.target, m.spring);
    }
    template<int Dim> void operator()(Joined<Dim>& j) {
        all("a b at on_a on_b", j.a, j.b, j.at, j.on_a, j.on_b);
        all("collide", j.collide);
        all_loosely("breaking_force breaking_torque", j.breaking_force, j.breaking_torque);
        all("user_data", j.user_data);
    }
    void operator()(Hinge<2>& s) { all("joins limits motor", s.joins, s.limits, s.motor); }
    void operator()(Hinge<3>& s) { all("joins axis limits motor", s.joins, s.axis, s.limits, s.motor); }
    template<int Dim> void operator()(Slider<Dim>& s) {
        all("joins axis limits motor", s.joins, s.axis, s.limits, s.motor);
    }
    template<int Dim> void operator()(Weld<Dim>& s) { all("joins", s.joins); }
    template<int Dim> void operator()(Rod<Dim>& s) { all("joins length", s.joins, s.length); }
    template<int Dim> void operator()(Rope<Dim>& s) {
        all("joins length spring", s.joins, s.length, s.spring);
    }
    template<int Dim> void operator()(Spring<Dim>& s) {
        all("joins length spring limits", s.joins, s.length, s.spring, s.limits);
    }
    void operator()(Wheel<2>& s) {
        all("joins up suspension travel drive", s.joins, s.up, s.suspension, s.travel, s.drive);
    }
    void operator()(Wheel<3>& s) {
        all("joins up axle suspension travel drive steering", s.joins, s.up, s.axle, s.suspension, s.travel,
            s.drive, s.steering);
    }
    template<int Dim> void operator()(Pulley<Dim>& s) {
        all("joins over_a over_b ratio length", s.joins, s.over_a, s.over_b, s.ratio, s.length);
    }
    void operator()(Gear<2>& s) { all("joins ratio", s.joins, s.ratio); }
    void operator()(Gear<3>& s) { all("joins ratio axis_a axis_b", s.joins, s.ratio, s.axis_a, s.axis_b); }
    template<int Dim> void operator()(Tow<Dim>& s) {
        all("joins target most spring", s.joins, s.target, s.most, s.spring);
    }
    void operator()(BallJoint& s) {
        all("joins axis cone_axis cone twist friction", s.joins, s.axis, s.cone_axis, s.cone, s.twist,
            s.friction);
    }
    void operator()(Universal& s) {
        all("joins axis_a axis_b limits_a limits_b motor_a motor_b", s.joins, s.axis_a, s.axis_b, s.limits_a,
            s.limits_b, s.motor_a, s.motor_b);
    }
    template<typename... Kinds> void any_of(std::variant<Kinds...>& one) {
        auto kind = static_cast<std::uint8_t>(one.index());
        pass_kind(kind, sizeof...(Kinds));
        std::uint8_t k = 0;
        const auto pass = [&]<typename Kind>(Kind*) {
            if (k++ != kind) return;
            if constexpr (Archive::kReads) one = Kind{};
            (*this)(std::get<Kind>(one));
        };
        (pass(static_cast<Kinds*>(nullptr)), ...);
    }
    void operator()(flow::JointAxis& a) {
        all("limits motor", a.limits, a.motor);
        all_loosely("position", a.position);
    }
    template<int Dim> void operator()(flow::Joint<Dim>& j) {
        all("kind collide broken body_a body_b", j.kind, j.collide, j.broken, j.body_a, j.body_b);
        all("at_a at_b turn_a turn_b fixed start_a start_b over_a over_b", j.at_a, j.at_b, j.turn_a, j.turn_b,
            j.fixed, j.start_a, j.start_b, j.over_a, j.over_b);
        all("length ratio friction", j.length, j.ratio, j.friction);
        all_loosely("breaking_force breaking_torque", j.breaking_force, j.breaking_torque);
        for (auto& axis : j.axes) all("axis", axis);
        const auto each = [&](auto& loads) {
            for (float& x : loads) all_loosely("load", x);
        };
        each(j.load), each(j.load_before);
        all_loosely("force torque", j.force, j.torque);
        each(j.motor_load), each(j.stop_load);
    }
    void operator()(flow::MaterialPair& p) { all("a b material", p.a, p.b, p.material); }

private:
    template<typename... Kinds> void geometry(std::variant<Kinds...>& shape) {
        auto kind = static_cast<std::uint8_t>(shape.index());
        pass_kind(kind, sizeof...(Kinds));
        std::size_t k = 0;
        ((k++ == kind ? alternative<Kinds>(shape) : void()), ...);
    }
    template<typename Kind, typename Any> void alternative(Any& shape) {
        if constexpr (std::is_same_v<Kind, Polyline>) polyline(shape);
        else if constexpr (std::is_same_v<Kind, TriangleMesh>) mesh(shape);
        else if constexpr (std::is_same_v<Kind, Hull>) hull(shape);
        else if constexpr (Archive::kReads) {
            Kind made = blank(static_cast<Kind*>(nullptr));
            (*this)(made);
            shape = std::move(made);
        } else (*this)(std::get<Kind>(shape));
    }
    template<typename Kind> static Kind blank(Kind*) { return {}; }
    static Box2 blank(Box2*) { return Box2::sized(1, 1); }
    static Box3 blank(Box3*) { return Box3::sized(1, 1, 1); }

    // Data that shapes share are written once.
    template<typename Any> void polyline(Any& shape) {
        if constexpr (Archive::kReads) {
            bool closed = false, two_sided = false;
            std::vector<Vec2> corners;
            all("closed two_sided corners", closed, two_sided, corners);
            archive_.made([&] {
                const Polyline line = closed ? Polyline::closed(corners) : Polyline::open(corners);
                shape = two_sided ? line.two_sided() : line;
            });
        } else {
            const auto& line = std::get<Polyline>(shape);
            bool closed = line.is_closed(), two_sided = line.is_two_sided();
            auto corners = line.corners();
            all("closed two_sided corners", closed, two_sided, corners);
        }
    }
    template<typename Any> void mesh(Any& shape) {
        bool two_sided = false, first = false;
        std::uint32_t number = 0;
        if constexpr (Archive::kReads) {
            all("two_sided number first", two_sided, number, first);
            if (first) {
                std::vector<Vec3> corners;
                all("corners", corners);
                std::vector<TriangleMesh::Triangle> triangles(corners.size() / 3);
                for (std::uint32_t i = 0; i < triangles.size(); i++)
                    triangles[i] = {3 * i, 3 * i + 1, 3 * i + 2};
                archive_.made([&] { meshes_.push_back(TriangleMesh::of(corners, triangles)); });
                numbers_of_meshes_.push_back(number);
            }
            const TriangleMesh& made = known(meshes_, numbers_of_meshes_, number);
            shape = two_sided ? made.two_sided() : made;
        } else {
            const auto& given = std::get<TriangleMesh>(shape);
            two_sided = given.is_two_sided();
            std::tie(number, first) = archive_.number_of(&given.surface());
            all("two_sided number first", two_sided, number, first);
            if (!first) return;
            std::vector<Vec3> corners;
            for (int i = 0; i < given.triangle_count(); i++)
                for (const Vec3 corner : given.triangle(i)) corners.push_back(corner);
            all("corners", corners);
        }
    }
    template<typename Any> void hull(Any& shape) {
        float rounding = 0;
        bool first = false;
        std::uint32_t number = 0;
        if constexpr (Archive::kReads) {
            all("rounding number first", rounding, number, first);
            if (first) {
                shape::Facets f;
                facets(f);
                archive_.made([&] { shape::check_facets(f); });
                hulls_.push_back(shape::HullOf::facets(std::move(f), 0));
                numbers_of_hulls_.push_back(number);
            }
            const Hull& made = known(hulls_, numbers_of_hulls_, number);
            archive_.made([&] { shape = made.grown(rounding); });
        } else {
            const auto& given = std::get<Hull>(shape);
            rounding = given.rounding();
            std::tie(number, first) = archive_.number_of(&given.facets());
            all("rounding number first", rounding, number, first);
            auto f = given.facets();
            if (first) facets(f);
        }
    }
    void facets(shape::Facets& f) {
        all("corners normals loops loop_begin", f.corners, f.normals, f.loops, f.loop_begin);
        all("around around_begin", f.around, f.around_begin);
    }
    template<typename T>
    const T& known(const std::vector<T>& things, const std::vector<std::uint32_t>& numbers,
                   std::uint32_t number) {
        for (std::size_t i = 0; i < numbers.size(); i++)
            if (numbers[i] == number) return things[i];
        archive_.refuse("number " + std::to_string(number) + " of what shapes share", "one that came before");
    }

    template<typename Pass> void named(const char* names, std::size_t k, const Pass& pass) {
        if constexpr (Archive::kReads) archive_.enter(names, k);
        pass();
        if constexpr (Archive::kReads) archive_.leave();
    }
    template<Number T> void check(const T& x) const {
        if constexpr (std::is_enum_v<T>) {
            if (x > kLast<T>)
                archive_.refuse(std::to_string(static_cast<unsigned>(x)),
                                "0 to " + std::to_string(static_cast<unsigned>(kLast<T>)));
        } else if constexpr (std::is_floating_point_v<T>) {
            if (!loosely_ && !math::is_finite(x)) archive_.refuse(base::number(x), "a finite number");
        }
    }
    void pass_kind(std::uint8_t& kind, std::size_t kinds) {
        all("kind", kind);
        if constexpr (Archive::kReads)
            if (kind >= kinds)
                archive_.refuse("kind " + std::to_string(kind), "0 to " + std::to_string(kinds - 1));
    }

    Archive& archive_;
    bool loosely_ = false;
    std::vector<TriangleMesh> meshes_;
    std::vector<Hull> hulls_;
    std::vector<std::uint32_t> numbers_of_meshes_, numbers_of_hulls_;
};

}
