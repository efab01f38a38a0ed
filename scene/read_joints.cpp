#include "scene/read_joints.h"

#include "scene/keys.h"
#include "scene/read_geometry.h"

#include <algorithm>

namespace astasis::scene {
namespace {

// The unit of a free axis: m, or an angle with its unit.
enum class Along : std::uint8_t { Way, Turn };

float amount(const Cursor& c, Along along, bool per_second) {
    return along == Along::Turn ? static_cast<float>(c.angle(per_second)) : number(c, kAnyNumber);
}

Springing read_springing(const Cursor& c) {
    c.only(keys::kSpringing);
    Springing out;
    const auto read = [&](const char* key, float& value) {
        if (c.has(key)) value = number(c.at(key), kNotNegative);
    };
    read("frequency", out.frequency), read("damping_ratio", out.damping_ratio);
    read("stiffness", out.stiffness), read("damping", out.damping);
    return out;
}

Limits read_limits(const Cursor& c, Along along) {
    c.only(keys::kLimits);
    Limits out;
    if (c.has("lower")) out.lower = amount(c.at("lower"), along, false);
    if (c.has("upper")) out.upper = amount(c.at("upper"), along, false);
    if (c.has("restitution")) out.restitution = number(c.at("restitution"), kShare);
    if (c.has("spring")) out.spring = read_springing(c.at("spring"));
    return out;
}

Motor read_motor(const Cursor& c, Along along) {
    c.only(keys::kMotor);
    Motor out;
    out.most = number(c.at("most"), kNotNegative);
    if (c.has("speed")) out.speed = amount(c.at("speed"), along, true);
    if (c.has("target")) out.target = amount(c.at("target"), along, false);
    if (c.has("spring")) out.spring = read_springing(c.at("spring"));
    return out;
}

template<int Dim> Point<Dim> place(const Cursor& c) {
    const auto n = c.numbers<Dim>(kAnyNumber);
    Point<Dim> out{};
    for (int i = 0; i < Dim; i++) out[i] = n[static_cast<std::size_t>(i)];
    return out;
}

void limits_at(const Cursor& c, const char* key, Along along, Limits& out) {
    if (c.has(key)) out = read_limits(c.at(key), along);
}
void motor_at(const Cursor& c, const char* key, Along along, Motor& out) {
    if (c.has(key)) out = read_motor(c.at(key), along);
}
void length_at(const Cursor& c, std::optional<float>& out) {
    if (c.has("length")) out = number(c.at("length"), kNotNegative);
}
void spring_at(const Cursor& c, const char* key, Springing& out) {
    if (c.has(key)) out = read_springing(c.at(key));
}
template<int Dim> void axis_at(const Cursor& c, const char* key, Vec<Dim>& out) {
    if (!c.has(key)) return;
    out = vec<Dim>(c.at(key));
    if (!(length(out) > 0)) c.at(key).fail("numbers that are not all 0");
}

// A kind of joint: its name, the keys that it alone or with others has, and how it is made.
template<int Dim> struct Kind {
    const char* name;
    std::vector<std::string> keys;
    Joint<Dim> (*read)(const Cursor&);
};

template<int Dim> Joint<Dim> hinge(const Cursor& c) {
    Hinge<Dim> out;
    if constexpr (Dim == 3) axis_at(c, "axis", out.axis);
    limits_at(c, "limits", Along::Turn, out.limits), motor_at(c, "motor", Along::Turn, out.motor);
    return out;
}
template<int Dim> Joint<Dim> slider(const Cursor& c) {
    Slider<Dim> out;
    axis_at(c, "axis", out.axis);
    limits_at(c, "limits", Along::Way, out.limits), motor_at(c, "motor", Along::Way, out.motor);
    return out;
}
template<int Dim> Joint<Dim> weld(const Cursor&) { return Weld<Dim>{}; }
template<int Dim> Joint<Dim> rod(const Cursor& c) {
    Rod<Dim> out;
    length_at(c, out.length);
    return out;
}
template<int Dim> Joint<Dim> rope(const Cursor& c) {
    Rope<Dim> out;
    length_at(c, out.length), spring_at(c, "spring", out.spring);
    return out;
}
template<int Dim> Joint<Dim> spring(const Cursor& c) {
    Spring<Dim> out;
    length_at(c, out.length), spring_at(c, "spring", out.spring);
    limits_at(c, "limits", Along::Way, out.limits);
    return out;
}
template<int Dim> Joint<Dim> wheel(const Cursor& c) {
    Wheel<Dim> out;
    axis_at(c, "up", out.up), spring_at(c, "suspension", out.suspension);
    limits_at(c, "travel", Along::Way, out.travel), motor_at(c, "drive", Along::Turn, out.drive);
    if constexpr (Dim == 3) axis_at(c, "axle", out.axle), motor_at(c, "steering", Along::Turn, out.steering);
    return out;
}
template<int Dim> Joint<Dim> pulley(const Cursor& c) {
    Pulley<Dim> out;
    out.over_a = place<Dim>(c.at("over")), out.over_b = place<Dim>(c.at("over_to"));
    if (c.has("ratio")) out.ratio = number(c.at("ratio"), kPositive);
    length_at(c, out.length);
    return out;
}
template<int Dim> Joint<Dim> gear(const Cursor& c) {
    Gear<Dim> out;
    out.ratio = number(c.at("ratio"), kAnyNumber);
    if constexpr (Dim == 3) axis_at(c, "axis", out.axis_a), axis_at(c, "axis_to", out.axis_b);
    return out;
}
template<int Dim> Joint<Dim> tow(const Cursor& c) {
    Tow<Dim> out;
    out.target = place<Dim>(c.at("target")), out.most = number(c.at("most"), kPositive);
    spring_at(c, "spring", out.spring);
    return out;
}
Joint<3> ball(const Cursor& c) {
    BallJoint out;
    axis_at(c, "axis", out.axis), axis_at(c, "cone_axis", out.cone_axis);
    if (c.has("cone")) out.cone = radians(c.at("cone").angle(false));
    limits_at(c, "twist", Along::Turn, out.twist);
    if (c.has("friction")) out.friction = number(c.at("friction"), kNotNegative);
    return out;
}
Joint<3> universal(const Cursor& c) {
    Universal out;
    axis_at(c, "axis", out.axis_a), axis_at(c, "axis_to", out.axis_b);
    limits_at(c, "limits", Along::Turn, out.limits_a), limits_at(c, "limits_to", Along::Turn, out.limits_b);
    motor_at(c, "motor", Along::Turn, out.motor_a), motor_at(c, "motor_to", Along::Turn, out.motor_b);
    return out;
}

template<int Dim> std::vector<Kind<Dim>> common_kinds() {
    const bool space = Dim == 3;
    const auto with = [&](std::vector<std::string> keys, const std::vector<std::string>& in_space) {
        if (space) keys.insert(keys.end(), in_space.begin(), in_space.end());
        return keys;
    };
    return {{"hinge", with({"limits", "motor"}, {"axis"}), hinge<Dim>},
            {"slider", {"axis", "limits", "motor"}, slider<Dim>},
            {"weld", {}, weld<Dim>},
            {"rod", {"length"}, rod<Dim>},
            {"rope", {"length", "spring"}, rope<Dim>},
            {"spring", {"length", "spring", "limits"}, spring<Dim>},
            {"wheel", with({"up", "suspension", "travel", "drive"}, {"axle", "steering"}), wheel<Dim>},
            {"pulley", {"over", "over_to", "ratio", "length"}, pulley<Dim>},
            {"gear", with({"ratio"}, {"axis", "axis_to"}), gear<Dim>},
            {"tow", {"target", "most", "spring"}, tow<Dim>}};
}
const std::vector<Kind<2>>& kinds(std::integral_constant<int, 2>) {
    static const std::vector<Kind<2>> all = common_kinds<2>();
    return all;
}
const std::vector<Kind<3>>& kinds(std::integral_constant<int, 3>) {
    static const std::vector<Kind<3>> all = [] {
        auto out = common_kinds<3>();
        out.push_back({"ball", {"axis", "cone_axis", "cone", "twist", "friction"}, ball});
        out.push_back(
            {"universal", {"axis", "axis_to", "limits", "limits_to", "motor", "motor_to"}, universal});
        return out;
    }();
    return all;
}

// The kind that an object names, once all its keys are ones of that kind or of every kind.
template<typename Kinds>
const auto& kind_of(const Cursor& c, const char* key, const Kinds& all, const auto& of_every) {
    std::vector<const char*> names(all.size());
    std::transform(all.begin(), all.end(), names.begin(), [](const auto& kind) { return kind.name; });
    const std::string name = c.at(key).one_of(names);
    const auto kind = std::find_if(all.begin(), all.end(), [&](const auto& k) { return k.name == name; });
    for (const auto& [k, value] : c.members())
        if (std::find(std::begin(of_every), std::end(of_every), k) == std::end(of_every) &&
            std::find(kind->keys.begin(), kind->keys.end(), k) == kind->keys.end())
            value.fail_because(std::string(name).append(" has no ").append(k));
    return *kind;
}

template<int Dim> FieldKind<Dim> uniform(const Cursor& c) {
    return UniformField<Dim>{vec<Dim>(c.at("acceleration"))};
}
template<int Dim> FieldKind<Dim> attraction(const Cursor& c) {
    Attraction<Dim> out;
    if (c.has("at") == c.has("body")) c.fail_because("one of \"at\" and \"body\" says what attracts");
    if (c.has("at")) out.centre = place<Dim>(c.at("at"));
    out.strength = number(c.at("strength"), kAnyNumber);
    if (c.has("softening")) out.softening = number(c.at("softening"), kPositive);
    if (c.has("pulls_back")) out.pulls_back = c.at("pulls_back").truth();
    return out;
}
template<int Dim> FieldKind<Dim> mutual(const Cursor& c) {
    MutualAttraction<Dim> out;
    out.constant = number(c.at("constant"), kAnyNumber);
    if (c.has("softening")) out.softening = number(c.at("softening"), kPositive);
    return out;
}
template<int Dim> FieldKind<Dim> wind(const Cursor& c) {
    Wind<Dim> out;
    if (c.has("velocity")) out.velocity = vec<Dim>(c.at("velocity"));
    if (c.has("drag")) out.drag = number(c.at("drag"), kNotNegative);
    if (c.has("damping")) out.damping = number(c.at("damping"), kNotNegative);
    return out;
}
template<int Dim> FieldKind<Dim> buoyancy(const Cursor& c) {
    Buoyancy<Dim> out;
    out.level = c.at("level").number(kAnyNumber);
    if (c.has("density")) out.density = number(c.at("density"), kPositive);
    if (c.has("flow")) out.flow = vec<Dim>(c.at("flow"));
    if (c.has("damping")) out.damping = number(c.at("damping"), kNotNegative);
    return out;
}
template<int Dim> struct FieldReader {
    const char* name;
    std::vector<std::string> keys;
    FieldKind<Dim> (*read)(const Cursor&);
};
template<int Dim> const std::vector<FieldReader<Dim>>& field_kinds() {
    static const std::vector<FieldReader<Dim>> all{
        {"uniform", {"acceleration"}, uniform<Dim>},
        {"attraction", {"at", "body", "strength", "softening", "pulls_back"}, attraction<Dim>},
        {"mutual attraction", {"constant", "softening"}, mutual<Dim>},
        {"wind", {"velocity", "drag", "damping"}, wind<Dim>},
        {"buoyancy", {"level", "density", "flow", "damping"}, buoyancy<Dim>}};
    return all;
}

}

template<int Dim> JointEntry<Dim> read_joint(const Cursor& c) {
    c.only(keys::kJoint);
    const Kind<Dim>& kind = kind_of(c, "joint", kinds(std::integral_constant<int, Dim>{}), keys::kEveryJoint);
    JointEntry<Dim> out;
    out.offset = c.node().offset, out.path = c.path();
    out.kind = kind.name;
    out.spec = kind.read(c);
    if (c.has("name")) out.name = c.at("name").string("a name, as \"arm pin\"");
    out.body = c.at("body").string("the name of a body of this file");
    if (c.has("to")) out.to = c.at("to").string("the name of a body of this file; left out, the world");
    if (out.name.empty())
        out.name =
            out.to.empty() ? out.kind + " of " + out.body : out.kind + " of " + out.body + " to " + out.to;
    if (c.has("row")) out.row = c.at("row").truth();
    if (out.row && !out.to.empty())
        c.at("to").fail_because("a row joins each body of a grid to the one before it");
    Joined<Dim> joins;
    if (c.has("at")) joins.at = place<Dim>(c.at("at"));
    if (c.has("at_body")) joins.on_a = vec<Dim>(c.at("at_body"));
    if (c.has("at_to")) joins.on_b = vec<Dim>(c.at("at_to"));
    if (c.has("collide")) joins.collide = c.at("collide").truth();
    if (c.has("breaking_force")) joins.breaking_force = number(c.at("breaking_force"), kPositive);
    if (c.has("breaking_torque")) joins.breaking_torque = number(c.at("breaking_torque"), kPositive);
    std::visit([&](auto& spec) { spec.joins = joins; }, out.spec);
    return out;
}

template<int Dim> FieldEntry<Dim> read_field(const Cursor& c) {
    c.only(keys::kField);
    const FieldReader<Dim>& kind = kind_of(c, "field", field_kinds<Dim>(), keys::kEveryField);
    FieldEntry<Dim> out;
    out.offset = c.node().offset, out.path = c.path();
    out.spec.kind = kind.read(c);
    if (c.has("body")) out.body = c.at("body").string("the name of a body of this file");
    if (c.has("within")) {
        const Cursor within = c.at("within");
        within.only(keys::kBounds);
        out.spec.within = Bounds<Dim>{place<Dim>(within.at("from")), place<Dim>(within.at("to"))};
    }
    return out;
}

Motor read_motor(const Cursor& c, const std::string& joint_kind) {
    return read_motor(c, joint_kind == "slider" ? Along::Way : Along::Turn);
}

template JointEntry<2> read_joint(const Cursor&);
template JointEntry<3> read_joint(const Cursor&);
template FieldEntry<2> read_field(const Cursor&);
template FieldEntry<3> read_field(const Cursor&);

}
