// A sequence of calls, good and bad, on a world: what is refused changes nothing, and what is saved comes
// back. Values are taken from the input within braces, where every compiler keeps their order.
#include "fuzz/targets.h"

#include "astasis/astasis.h"
#include "astasis/pushes.h"

#include <bit>
#include <cmath>
#include <cstdlib>

namespace astasis::fuzz {
namespace {

void demand(bool holds) {
    if (!holds) std::abort();
}

// Takes values from the input, zeros at its end.
class Source {
public:
    explicit Source(Input input) : left_(input) {}
    bool empty() const { return left_.empty(); }
    std::uint8_t byte() {
        if (left_.empty()) return 0;
        const std::uint8_t out = left_.front();
        left_ = left_.subspan(1);
        return out;
    }
    std::uint32_t below(std::uint32_t count) { return byte() % count; }
    bool coin() { return byte() & 1; }
    // Mostly numbers of a scene; extreme ones, and any bits.
    float number() {
        static constexpr float kOthers[]{0,     -0.0f, 1,      -1,    1e-30f,   1e-45f,    3e38f, -3e38f,
                                         1e18f, 1e10f, 1e-10f, 1e20f, INFINITY, -INFINITY, NAN,   0.5f};
        const std::uint8_t kind = byte();
        if (kind < 200) return (static_cast<float>(kind) - 100) * 0.05f;
        if (kind < 250) return kOthers[kind % std::size(kOthers)];
        std::uint32_t bits = 0;
        for (int i = 0; i < 4; i++) bits = bits << 8 | byte();
        return std::bit_cast<float>(bits);
    }
    float size() { return std::fabs(number()); }
    template<int D> Vec<D> vec() {
        Vec<D> v{};
        for (int k = 0; k < D; k++) v[k] = number();
        return v;
    }
    template<int D> Point<D> point() {
        Point<D> p{};
        for (int k = 0; k < D; k++) p[k] = static_cast<double>(number()) * (byte() == 255 ? 1e200 : 1);
        return p;
    }
    Axial<2> axial(Vec<2>) { return number(); }
    Axial<3> axial(Vec<3>) { return vec<3>(); }
    Rotation<2> rotation(Vec<2>) {
        return coin() ? turned(radians(number())) : Rotation<2>{number(), number()};
    }
    Rotation<3> rotation(Vec<3>) {
        if (coin()) return {};
        return {number(), number(), number(), number()};
    }
    template<int D> Pose<D> pose() { return {point<D>(), rotation(Vec<D>{})}; }

private:
    Input left_;
};

Box2 sized(Vec2 v) { return Box2::sized(v.x, v.y); }
Box3 sized(Vec3 v) { return Box3::sized(v.x, v.y, v.z); }

Geometry<2> geometry(Source& s, Vec<2>) {
    switch (s.below(8)) {
    case 0: return Circle{s.size()};
    case 1: return sized(s.vec<2>()).rounded(s.coin() ? s.size() : 0);
    case 2: return HalfPlane{s.vec<2>()};
    case 3: return Capsule2{s.vec<2>(), s.vec<2>(), s.size()};
    case 4: {
        Polygon out;
        for (std::uint32_t n = 3 + s.below(4); n > 0; n--) out.corners.push_back(s.vec<2>());
        out.rounding = s.coin() ? s.size() : 0;
        return out;
    }
    case 5: return Segment{s.vec<2>(), s.vec<2>()};
    case 6: {
        std::vector<Vec2> corners;
        for (std::uint32_t n = s.below(5); n > 0; n--) corners.push_back(s.vec<2>());
        return s.coin() ? Polyline::closed(corners) : Polyline::open(corners);
    }
    default: {
        TileGrid out{
            .columns = static_cast<int>(s.below(5)), .rows = static_cast<int>(s.below(4)), .cell = s.size()};
        for (std::uint32_t n = s.below(20); n > 0; n--) out.solid.push_back(s.coin());
        return out;
    }
    }
}
Geometry<3> geometry(Source& s, Vec<3>) {
    std::vector<Vec3> corners;
    switch (s.below(8)) {
    case 0: return Sphere{s.size()};
    case 1: return sized(s.vec<3>()).rounded(s.coin() ? s.size() : 0);
    case 2: return HalfSpace<3>{s.vec<3>()};
    case 3: return Capsule3{s.vec<3>(), s.vec<3>(), s.size()};
    case 4: return Cylinder{s.vec<3>(), s.vec<3>(), s.size()};
    case 5:
        for (std::uint32_t n = s.below(9); n > 0; n--) corners.push_back(s.vec<3>());
        return Hull::around(corners).grown(s.coin() ? s.size() : 0);
    case 6: {
        for (std::uint32_t n = s.below(7); n > 0; n--) corners.push_back(s.vec<3>());
        std::vector<TriangleMesh::Triangle> triangles;
        for (std::uint32_t n = s.below(6); n > 0; n--)
            triangles.push_back({s.below(7), s.below(7), s.below(7)});
        const TriangleMesh mesh = TriangleMesh::of(corners, triangles);
        return s.coin() ? mesh.two_sided() : mesh;
    }
    default: {
        HeightField out{
            .columns = static_cast<int>(s.below(5)), .rows = static_cast<int>(s.below(4)), .pitch = s.size()};
        for (std::uint32_t n = s.below(20); n > 0; n--) out.heights.push_back(s.number());
        return out;
    }
    }
}

template<int D> class Player {
public:
    explicit Player(Source& source) : s_(source) {
        world_.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
        world_.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
        for (int k = 0; k < 3; k++)
            world_.add({.pose = {{0.1 * k, 0.5 + k}, {}}, .shapes = {{Ball<D>{0.5f}}}});
    }

    void play() {
        for (int k = 0; k < 20 && !s_.empty(); k++) {
            const auto before = world_.fingerprint();
            try {
                call();
            } catch (const Error&) {
                demand(world_.fingerprint() == before);
            }
        }
        World<D> other;
        other.restore_bytes(world_.save_bytes());
        demand(other.fingerprint() == world_.fingerprint());
        for (int k = 0; k < 2; k++) world_.step(), other.step();
        demand(other.fingerprint() == world_.fingerprint());
        look();
    }

private:
    BodyId body() {
        const auto all = world_.bodies();
        const std::uint32_t k = s_.below(17);
        if (k == 16 || all.empty()) return {k, 1};
        return all[k % all.size()];
    }
    Material material() {
        return {.friction = s_.number(),
                .restitution = s_.number(),
                .rolling_resistance = s_.coin() ? s_.number() : 0,
                .friction_mixing = static_cast<Mixing>(s_.below(6))};
    }
    ShapeSpec<D> shape() {
        ShapeSpec<D> out{.geometry = geometry(s_, Vec<D>{})};
        if (s_.coin()) out.density = s_.number();
        if (s_.coin()) out.placement = {s_.vec<D>(), s_.rotation(Vec<D>{})};
        if (s_.coin()) out.material = material();
        if (s_.coin()) out.surface_velocity = s_.vec<D>();
        out.is_sensor = s_.below(6) == 5;
        return out;
    }
    BodySpec<D> spec() {
        BodySpec<D> out{.motion = static_cast<Motion>(s_.below(4)), .pose = s_.pose<D>()};
        for (std::uint32_t n = s_.below(3); n > 0; n--) out.shapes.push_back(shape());
        if (s_.coin()) out.velocity = s_.vec<D>(), out.angular_velocity = s_.axial(Vec<D>{});
        if (s_.below(4) == 3) out.mass = MassProperties<D>{.mass = s_.number(), .centre = s_.vec<D>()};
        out.asleep = s_.below(6) == 5;
        return out;
    }
    Limits limits() {
        return {.lower = s_.number(), .upper = s_.number(), .restitution = s_.coin() ? s_.number() : 0};
    }
    Springing spring() { return {.frequency = s_.number(), .damping_ratio = s_.number()}; }
    Motor motor() {
        Motor out{.most = s_.number(), .speed = s_.number()};
        if (s_.coin()) out.target = s_.number();
        return out;
    }
    Joined<D> joins() {
        Joined<D> out{.a = body()};
        if (s_.coin()) out.b = body();
        if (s_.coin()) out.at = s_.point<D>();
        if (s_.coin()) out.on_a = s_.vec<D>();
        out.breaking_force = s_.coin() ? s_.number() : kUnlimited;
        return out;
    }
    Joint<D> joint_spec() {
        switch (s_.below(8)) {
        case 0: return Hinge<D>{.joins = joins(), .limits = limits(), .motor = motor()};
        case 1: return Slider<D>{.joins = joins(), .axis = s_.vec<D>(), .limits = limits()};
        case 2: return Weld<D>{.joins = joins()};
        case 3: return Rod<D>{.joins = joins()};
        case 4: return Rope<D>{.joins = joins(), .length = s_.number(), .spring = spring()};
        case 5: return Spring<D>{.joins = joins(), .spring = spring()};
        case 6:
            return Tow<D>{.joins = joins(), .target = s_.point<D>(), .most = s_.number(), .spring = spring()};
        default:
            return Pulley<D>{
                .joins = joins(), .over_a = s_.point<D>(), .over_b = s_.point<D>(), .ratio = s_.number()};
        }
    }
    Field<D> field_spec() {
        Field<D> out;
        switch (s_.below(5)) {
        case 0: out.kind = UniformField<D>{s_.vec<D>()}; break;
        case 1:
            out.kind =
                Attraction<D>{.centre = s_.point<D>(), .strength = s_.number(), .softening = s_.number()};
            break;
        case 2: out.kind = MutualAttraction<D>{.constant = s_.number(), .softening = s_.number()}; break;
        case 3:
            out.kind = Wind<D>{.velocity = s_.vec<D>(), .drag = s_.number(), .damping = s_.number()};
            break;
        default:
            out.kind = Buoyancy<D>{
                .level = static_cast<double>(s_.number()), .density = s_.number(), .flow = s_.vec<D>()};
        }
        if (s_.coin()) out.within = Bounds<D>{s_.point<D>(), s_.point<D>()};
        return out;
    }

    // No call takes two values from the input among its arguments: their order is the compiler's.
    void call() {
        const std::uint32_t which = s_.below(40);
        const BodyId id = body();
        const std::uint32_t shape_of = s_.below(3);
        const Vec<D> v = s_.vec<D>();
        switch (which) {
        case 0: world_.remove(id); break;
        case 1: world_.set_pose(id, s_.pose<D>()); break;
        case 2: world_.set_velocity(id, v); break;
        case 3: world_.set_angular_velocity(id, s_.axial(Vec<D>{})); break;
        case 4: world_.set_motion(id, static_cast<Motion>(s_.below(4))); break;
        case 5: world_.move_to(id, s_.pose<D>()); break;
        case 6: world_.set_free_motion(id, {.drag = s_.number(), .gravity_scale = s_.number()}); break;
        case 7: world_.add_shape(id, shape()); break;
        case 8: world_.remove_shape(id, shape_of); break;
        case 9: world_.set_layers(id, shape_of, s_.byte(), 3); break;
        case 10: world_.set_material(id, shape_of, material()); break;
        case 11: world_.set_surface_velocity(id, shape_of, v); break;
        case 12: world_.apply_force(id, v); break;
        case 13: world_.apply_force_at(id, v, s_.point<D>()); break;
        case 14: world_.apply_torque(id, s_.axial(Vec<D>{})); break;
        case 15: world_.apply_impulse(id, v); break;
        case 16: world_.apply_impulse_at(id, v, s_.point<D>()); break;
        case 17: world_.apply_angular_impulse(id, s_.axial(Vec<D>{})); break;
        case 18: world_.add_field(field_spec()); break;
        case 19: set_one(world_.fields(), [&](FieldId f) { world_.set_field(f, field_spec()); }); break;
        case 20: set_one(world_.fields(), [&](FieldId f) { world_.remove_field(f); }); break;
        case 21: world_.set_thrust(id, {.force = v, .torque = s_.axial(Vec<D>{})}); break;
        case 22:
        case 23: world_.add_joint(joint_spec()); break;
        case 24: set_one(world_.joints(), [&](JointId j) { world_.set_joint(j, joint_spec()); }); break;
        case 25: set_one(world_.joints(), [&](JointId j) { world_.remove_joint(j); }); break;
        case 26: set_one(world_.joints(), [&](JointId j) { world_.set_motor(j, motor()); }); break;
        case 27: set_one(world_.joints(), [&](JointId j) { world_.set_limits(j, limits()); }); break;
        case 28: world_.set_gravity(v); break;
        case 29: world_.set_tick(static_cast<double>(s_.number())); break;
        case 30: world_.set_substeps(static_cast<int>(s_.below(10))); break;
        case 31: world_.set_sweep(id, static_cast<Sweep>(s_.below(4))); break;
        case 32: surface(id, shape_of); break;
        case 33:
            blast(world_, Blast<D>{.centre = s_.point<D>(), .radius = s_.number(), .impulse = s_.number()});
            break;
        case 34:
        case 35:
        case 36: world_.add(spec()); break;
        default:
            for (std::uint32_t n = 1 + s_.below(3); n > 0; n--) world_.step();
        }
    }
    template<typename Id, typename Set> void set_one(std::span<const Id> all, const Set& set) {
        set(all.empty() ? Id{} : all[s_.below(8) % all.size()]);
    }
    void surface(BodyId id, std::uint32_t shape) {
        const auto column = static_cast<int>(s_.below(5)), row = static_cast<int>(s_.below(4));
        if constexpr (D == 2) set_cell(world_, id, shape, column, row, s_.coin());
        else set_height(world_, id, shape, column, row, s_.number());
    }
    void look() {
        static_cast<void>(world_.contacts()), static_cast<void>(world_.energy()),
            static_cast<void>(world_.penetration());
        std::vector<Found<D>> found;
        try {
            static_cast<void>(first_hit(world_, Ray<D>{s_.point<D>(), s_.vec<D>()}));
            const Geometry<D> shape = geometry(s_, Vec<D>{});
            overlapping(world_, shape, s_.pose<D>(), found);
            const Point<D> at = s_.point<D>();
            nearest(world_, at, s_.number(), found);
        } catch (const Error&) {}
    }

    Source& s_;
    World<D> world_;
};

}

void calls(Input input) {
    Source source(input);
    if (source.coin()) Player<2>(source).play();
    else Player<3>(source).play();
}

}
