// The parts of each type in a world's bytes, in one order for writing and for reading.
#pragma once

#include "shape/facets.h"
#include "world/state.h"

namespace astasis {

[[noreturn]] inline void contradiction() {
    throw Error("bytes", "a snapshot that contradicts itself", "all the bytes that save_bytes gave");
}

// Walks over the values of a state in one order, with a ByteWriter or a ByteReader.
template<typename Archive> class Walk {
public:
    explicit Walk(Archive& archive) : archive_(archive) {}

    template<Number T> void operator()(T& x) { archive_(x); }
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
    template<typename A, typename B, typename... More> void all(A& a, B& b, More&... more) {
        (*this)(a), (*this)(b);
        ((*this)(more), ...);
    }

    void operator()(Vec2& v) { all(v.x, v.y); }
    void operator()(Vec3& v) { all(v.x, v.y, v.z); }
    void operator()(Point<2>& p) { all(p.x, p.y); }
    void operator()(Point<3>& p) { all(p.x, p.y, p.z); }
    void operator()(Rotation<2>& r) { all(r.c, r.s); }
    void operator()(Rotation<3>& r) { all(r.w, r.x, r.y, r.z); }
    void operator()(math::Sym3& m) {
        all(m.xx, m.xy, m.xz, m.yy);
        all(m.yz, m.zz);
    }
    void operator()(BodyId& id) { all(id.index, id.generation); }
    void operator()(MaterialId& id) { all(id.index, id.generation); }
    template<int Dim> void operator()(Pose<Dim>& p) { all(p.position, p.rotation); }
    template<int Dim> void operator()(Placement<Dim>& p) { all(p.position, p.rotation); }

    void operator()(Material& m) {
        all(m.friction, m.restitution, m.tangential_restitution, m.rolling_resistance);
        all(m.spinning_resistance, m.friction_mixing, m.restitution_mixing);
    }
    void operator()(MassProperties<2>& m) { all(m.mass, m.centre, m.inertia); }
    void operator()(MassProperties<3>& m) { all(m.mass, m.centre, m.moments, m.products); }
    void operator()(Locks<2>& l) { all(l.x, l.y, l.turn); }
    void operator()(Locks<3>& l) {
        all(l.x, l.y, l.z);
        all(l.turn_x, l.turn_y, l.turn_z);
    }
    template<int Dim> void operator()(FreeMotion<Dim>& f) {
        all(f.linear_damping, f.angular_damping, f.drag, f.gravity_scale, f.locks);
    }
    template<int Dim> void operator()(Thrust<Dim>& t) { all(t.force, t.torque, t.at, t.turns_with_body); }

    template<int Dim> void operator()(Ball<Dim>& s) { (*this)(s.radius); }
    template<int Dim> void operator()(Box<Dim>& s) {
        Vec<Dim> size = s.full_size();
        float rounding = s.rounding();
        all(size, rounding);
        if constexpr (Archive::kReads) {
            if constexpr (Dim == 2) s = Box2::sized(size.x, size.y).rounded(rounding);
            else s = Box3::sized(size.x, size.y, size.z).rounded(rounding);
        }
    }
    template<int Dim> void operator()(HalfSpace<Dim>& s) { (*this)(s.outward); }
    template<int Dim> void operator()(Capsule<Dim>& s) { all(s.from, s.to, s.radius); }
    void operator()(Polygon& s) { all(s.corners, s.rounding); }
    void operator()(Segment& s) { all(s.from, s.to); }
    void operator()(Cylinder& s) { all(s.from, s.to, s.radius); }
    void operator()(TileGrid& s) { all(s.columns, s.rows, s.cell, s.solid); }
    void operator()(HeightField& s) { all(s.columns, s.rows, s.pitch, s.heights); }
    template<int Dim> void operator()(ShapeSpec<Dim>& s) {
        geometry(s.geometry);
        all(s.material, s.shared, s.density, s.placement, s.surface_velocity);
        all(s.layers, s.collides_with, s.group, s.is_sensor, s.tag, s.user_data);
    }

    template<int Dim> void operator()(flow::CentrePose<Dim>& p) { all(p.centre, p.rotation); }
    template<int Dim> void operator()(flow::Velocity<Dim>& v) { all(v.linear, v.angular); }
    template<int Dim> void operator()(flow::Push<Dim>& p) { all(p.force, p.torque); }
    void operator()(math::Principal<2>&) {}
    void operator()(math::Principal<3>& p) { all(p.frame, p.moments); }
    template<int Dim> void operator()(flow::Mass<Dim>& m) {
        all(m.mass, m.inverse_mass, m.inertia, m.inverse_inertia, m.centre, m.principal, m.isotropic);
    }
    template<int Dim> void operator()(flow::Stillness<Dim>& s) {
        all(s.since, s.ticks, s.leaving, s.way, s.size, s.reach, s.kept_awake);
    }
    template<int Dim> void operator()(flow::Rim<Dim>& r) { all(r.radius, r.axis); }
    template<int Dim> void operator()(flow::ManifoldPoint<Dim>& p) {
        all(p.core_a, p.core_b, p.separation, p.feature);
        all(p.normal_force, p.friction_force, p.tick_impulse);
    }
    template<int Dim> void operator()(flow::RelativePose<Dim>& p) { all(p.centre, p.rotation); }
    template<int Dim> void operator()(flow::Manifold<Dim>& m) {
        all(m.key_a, m.key_b, m.shape_a, m.shape_b, m.body_a, m.body_b);
        all(m.guide, m.count, m.passed_by, m.normal, m.local_normal, m.skin_a, m.skin_b, m.rim_a, m.rim_b);
        all(m.friction, m.restitution, m.tangential_restitution, m.rolling, m.spinning);
        all(m.slip, m.turning_torque, m.thickness, m.spread);
        all(m.found, m.may_keep);
        if (m.count > m.points.size()) contradiction();
        for (std::size_t i = 0; i < m.count; i++) (*this)(m.points[i]);
    }
    void operator()(FieldId& id) { all(id.index, id.generation); }
    template<int Dim> void operator()(Bounds<Dim>& b) { all(b.low, b.high); }
    template<int Dim> void operator()(UniformField<Dim>& f) { (*this)(f.acceleration); }
    template<int Dim> void operator()(Attraction<Dim>& f) {
        all(f.centre, f.body, f.strength, f.softening, f.pulls_back);
    }
    template<int Dim> void operator()(MutualAttraction<Dim>& f) { all(f.constant, f.softening); }
    template<int Dim> void operator()(Wind<Dim>& f) { all(f.velocity, f.drag, f.damping); }
    template<int Dim> void operator()(Buoyancy<Dim>& f) { all(f.level, f.density, f.flow, f.damping); }
    template<int Dim> void operator()(OwnField<Dim>&) {} // code has no bytes
    template<int Dim> void operator()(Field<Dim>& f) {
        any_of(f.kind);
        all(f.within, f.acts_on);
    }
    void operator()(JointId& id) { all(id.index, id.generation); }
    void operator()(Angle& a) {
        double in_radians = a.in_radians();
        (*this)(in_radians);
        a = radians(in_radians);
    }
    void operator()(Springing& s) { all(s.frequency, s.damping_ratio, s.stiffness, s.damping); }
    void operator()(Limits& l) { all(l.lower, l.upper, l.restitution, l.spring); }
    void operator()(Motor& m) { all(m.most, m.speed, m.target, m.spring); }
    template<int Dim> void operator()(Joined<Dim>& j) {
        all(j.a, j.b, j.at, j.on_a, j.on_b);
        all(j.collide, j.breaking_force, j.breaking_torque, j.user_data);
    }
    void operator()(Hinge<2>& s) { all(s.joins, s.limits, s.motor); }
    void operator()(Hinge<3>& s) { all(s.joins, s.axis, s.limits, s.motor); }
    template<int Dim> void operator()(Slider<Dim>& s) { all(s.joins, s.axis, s.limits, s.motor); }
    template<int Dim> void operator()(Weld<Dim>& s) { (*this)(s.joins); }
    template<int Dim> void operator()(Rod<Dim>& s) { all(s.joins, s.length); }
    template<int Dim> void operator()(Rope<Dim>& s) { all(s.joins, s.length, s.spring); }
    template<int Dim> void operator()(Spring<Dim>& s) { all(s.joins, s.length, s.spring, s.limits); }
    void operator()(Wheel<2>& s) { all(s.joins, s.up, s.suspension, s.travel, s.drive); }
    void operator()(Wheel<3>& s) { all(s.joins, s.up, s.axle, s.suspension, s.travel, s.drive, s.steering); }
    template<int Dim> void operator()(Pulley<Dim>& s) { all(s.joins, s.over_a, s.over_b, s.ratio, s.length); }
    void operator()(Gear<2>& s) { all(s.joins, s.ratio); }
    void operator()(Gear<3>& s) { all(s.joins, s.ratio, s.axis_a, s.axis_b); }
    template<int Dim> void operator()(Tow<Dim>& s) { all(s.joins, s.target, s.most, s.spring); }
    void operator()(BallJoint& s) { all(s.joins, s.axis, s.cone_axis, s.cone, s.twist, s.friction); }
    void operator()(Universal& s) {
        all(s.joins, s.axis_a, s.axis_b, s.limits_a, s.limits_b, s.motor_a, s.motor_b);
    }
    template<typename... Kinds> void any_of(std::variant<Kinds...>& one) {
        auto kind = static_cast<std::uint8_t>(one.index());
        (*this)(kind);
        if (kind >= sizeof...(Kinds)) contradiction();
        std::uint8_t k = 0;
        const auto pass = [&]<typename Kind>(Kind*) {
            if (k++ != kind) return;
            if constexpr (Archive::kReads) one = Kind{};
            (*this)(std::get<Kind>(one));
        };
        (pass(static_cast<Kinds*>(nullptr)), ...);
    }
    void operator()(flow::JointAxis& a) { all(a.limits, a.motor, a.position); }
    template<int Dim> void operator()(flow::Joint<Dim>& j) {
        all(j.kind, j.collide, j.broken, j.body_a, j.body_b);
        all(j.at_a, j.at_b, j.turn_a, j.turn_b, j.fixed, j.start_a, j.start_b, j.over_a, j.over_b);
        all(j.length, j.ratio, j.friction, j.breaking_force, j.breaking_torque);
        for (auto& axis : j.axes) (*this)(axis);
        for (float& x : j.load) (*this)(x);
        for (float& x : j.load_before) (*this)(x);
        all(j.force, j.torque);
        for (float& x : j.motor_load) (*this)(x);
        for (float& x : j.stop_load) (*this)(x);
    }
    void operator()(flow::MaterialPair& p) { all(p.a, p.b, p.material); }

private:
    template<typename... Kinds> void geometry(std::variant<Kinds...>& shape) {
        auto kind = static_cast<std::uint8_t>(shape.index());
        (*this)(kind);
        if (kind >= sizeof...(Kinds)) contradiction();
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
            all(closed, two_sided, corners);
            const Polyline line = closed ? Polyline::closed(corners) : Polyline::open(corners);
            shape = two_sided ? line.two_sided() : line;
        } else {
            const auto& line = std::get<Polyline>(shape);
            bool closed = line.is_closed(), two_sided = line.is_two_sided();
            auto corners = line.corners();
            all(closed, two_sided, corners);
        }
    }
    template<typename Any> void mesh(Any& shape) {
        bool two_sided = false, first = false;
        std::uint32_t number = 0;
        if constexpr (Archive::kReads) {
            all(two_sided, number, first);
            if (first) {
                std::vector<Vec3> corners;
                (*this)(corners);
                std::vector<TriangleMesh::Triangle> triangles(corners.size() / 3);
                for (std::uint32_t i = 0; i < triangles.size(); i++)
                    triangles[i] = {3 * i, 3 * i + 1, 3 * i + 2};
                meshes_.push_back(TriangleMesh::of(corners, triangles));
                numbers_of_meshes_.push_back(number);
            }
            const TriangleMesh& made = known(meshes_, numbers_of_meshes_, number);
            shape = two_sided ? made.two_sided() : made;
        } else {
            const auto& given = std::get<TriangleMesh>(shape);
            two_sided = given.is_two_sided();
            std::tie(number, first) = archive_.number_of(&given.surface());
            all(two_sided, number, first);
            if (!first) return;
            std::vector<Vec3> corners;
            for (int i = 0; i < given.triangle_count(); i++)
                for (const Vec3 corner : given.triangle(i)) corners.push_back(corner);
            (*this)(corners);
        }
    }
    template<typename Any> void hull(Any& shape) {
        float rounding = 0;
        bool first = false;
        std::uint32_t number = 0;
        if constexpr (Archive::kReads) {
            all(rounding, number, first);
            if (first) {
                shape::Facets f;
                facets(f);
                hulls_.push_back(shape::HullOf::facets(std::move(f), 0));
                numbers_of_hulls_.push_back(number);
            }
            shape = known(hulls_, numbers_of_hulls_, number).grown(rounding);
        } else {
            const auto& given = std::get<Hull>(shape);
            rounding = given.rounding();
            std::tie(number, first) = archive_.number_of(&given.facets());
            all(rounding, number, first);
            auto f = given.facets();
            if (first) facets(f);
        }
    }
    void facets(shape::Facets& f) {
        all(f.corners, f.normals, f.loops, f.loop_begin);
        all(f.around, f.around_begin);
    }
    template<typename T>
    const T& known(const std::vector<T>& things, const std::vector<std::uint32_t>& numbers,
                   std::uint32_t number) {
        for (std::size_t i = 0; i < numbers.size(); i++)
            if (numbers[i] == number) return things[i];
        contradiction();
    }

    Archive& archive_;
    std::vector<TriangleMesh> meshes_;
    std::vector<Hull> hulls_;
    std::vector<std::uint32_t> numbers_of_meshes_, numbers_of_hulls_;
};

}
