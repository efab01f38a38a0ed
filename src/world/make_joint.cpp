#include "world/make_joint.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "math/wide.h"

#include <cmath>

namespace astasis {
namespace {

using base::number;
using base::text_of;
using flow::JointKind;

// Anchors that are held together may be apart by this share of the smaller body's width as a joint is made:
// what rounding leaves, and a little play.
constexpr float kMostApart = 0.1f;
// Axes that have to be square may be off by this cosine.
constexpr float kSquare = 1e-3f;

bool is_number(float x) { return x == x; }

void check_springing(const Springing& s, const std::string& field) {
    const auto check = [&](float value, const char* name, const char* unit) {
        if (!(value >= 0) || !math::is_finite(value))
            throw Error(field + name, number(value),
                        std::string("a finite number, 0 or more (") + unit + ")");
    };
    check(s.frequency, ".frequency", "Hz"), check(s.damping_ratio, ".damping_ratio", "1 is critical");
    check(s.stiffness, ".stiffness", "N/m, N m/rad"), check(s.damping, ".damping", "N s/m, N m s/rad");
    if (s.frequency > 0 && (s.stiffness > 0 || s.damping > 0))
        throw Error(field + ".stiffness",
                    number(s.stiffness) + " beside a frequency of " + number(s.frequency),
                    "either frequency and damping_ratio, or stiffness and damping");
    if (s.frequency == 0 && s.damping_ratio > 0)
        throw Error(field + ".damping_ratio", number(s.damping_ratio) + " without a frequency",
                    "a damping_ratio with a frequency; or damping, in N s/m");
}

void check_above_0(float value, const std::string& field, const char* unit) {
    if (!(value > 0) || !math::is_finite(value))
        throw Error(field, number(value), std::string("a finite number above 0") + unit);
}

template<int Dim> Vec<Dim> checked_axis(Vec<Dim> axis, const char* field) {
    if (!math::is_finite(axis) || !(length_squared(axis) > 0) || !math::is_finite(length_squared(axis)))
        throw Error(field, text_of(axis), "a direction: finite, and not 0");
    return direction(axis, axis);
}

// A frame whose axes are given, the third being theirs.
Rotation<2> frame_of(Vec2 x, Vec2 /*y*/) { return math::normalized(Rotation<2>{x.x, x.y}); }
Rotation<3> frame_of(Vec3 x, Vec3 y) { return math::rotation_of(x, y, cross(x, y)); }
// Frames whose first, or third, axis is given.
Rotation<2> frame_along(Vec2 x) { return frame_of(x, {-x.y, x.x}); }
Rotation<3> frame_along(Vec3 x) { return frame_of(x, math::tangents(x)[0]); }
Rotation<3> frame_about(Vec3 z) {
    const auto t = math::tangents(z);
    return math::rotation_of(t[0], cross(z, t[0]), z);
}

template<int Dim> class Making {
public:
    Making(Joined<Dim>& joins, const JointBody<Dim>& a, const JointBody<Dim>* b)
        : joins_(joins), a_(a), b_(b) {
        if (joins.at && !math::is_finite(*joins.at))
            throw Error("at", text_of(*joins.at), "finite numbers (m)");
        const auto check = [](const std::optional<Vec<Dim>>& on, const char* field) {
            if (on && !math::is_finite(*on)) throw Error(field, text_of(*on), "finite numbers (m)");
        };
        check(joins.on_a, "on_a"), check(joins.on_b, "on_b");
        if (b == nullptr && joins.on_b)
            throw Error("on_b", text_of(*joins.on_b) + " without a second body",
                        "`at`, the place in the world that holds the joint");
        const auto load = [](float value, const char* field, const char* unit) {
            if (!(value > 0))
                throw Error(field, number(value),
                            std::string("a number above 0 (") + unit + "), or kUnlimited");
        };
        load(joins.breaking_force, "breaking_force", "N"),
            load(joins.breaking_torque, "breaking_torque", "N m");
        out.collide = joins.collide;
        out.breaking_force = joins.breaking_force, out.breaking_torque = joins.breaking_torque;
    }

    flow::Joint<Dim> out;

    // One anchor for both, from whichever place was given.
    void at_one_place() {
        if (joins_.at && joins_.on_a && joins_.on_b)
            throw Error("at", text_of(*joins_.at) + " beside on_a and on_b",
                        "one place, or a place on each body");
        Point<Dim> at = joins_.at     ? *joins_.at
                        : joins_.on_a ? to_world(a_.pose, *joins_.on_a)
                        : joins_.on_b ? to_world(b_->pose, *joins_.on_b)
                                      : a_.pose.position;
        if (!joins_.on_a) joins_.on_a = to_local(a_.pose, at);
        if (b_ != nullptr && !joins_.on_b) joins_.on_b = to_local(b_->pose, at);
        // As it stands then, it can be given once more.
        if (b_ != nullptr) joins_.at.reset();
        else joins_.at = at;
        set_anchors(at);
    }
    // Each anchor by itself.
    void at_two_places() {
        if (b_ != nullptr && joins_.at)
            throw Error("at", text_of(*joins_.at), "on_a and on_b: this joint is between two places");
        if (b_ == nullptr && !joins_.at)
            throw Error("at", "none", "the place in the world at which the joint ends");
        if (!joins_.on_a) joins_.on_a = Vec<Dim>{};
        if (b_ != nullptr && !joins_.on_b) joins_.on_b = Vec<Dim>{};
        set_anchors(joins_.at ? *joins_.at : Point<Dim>{});
    }
    Vec<Dim> apart() const { return anchor_b_ - anchor_a_; }
    Point<Dim> anchor_a() const { return anchor_a_; }
    Point<Dim> anchor_b() const { return anchor_b_; }
    // How far anchors may be from where the joint holds them, m: some of the smaller body's size.
    float most_apart() const {
        const float sizes = b_ == nullptr || b_->size == 0 ? a_.size
                            : a_.size == 0                 ? b_->size
                                                           : std::min(a_.size, b_->size);
        return kMostApart * (sizes > 0 ? sizes : 1.0f);
    }
    void check_together(Vec<Dim> apart) const {
        const float most = most_apart(), is = length(apart);
        if (is > most)
            throw Error("on_b", "an anchor that is " + number(is) + " m from that on the first body",
                        "anchors at one place, within " + number(most) + " m");
    }
    void set_frames(Rotation<Dim> of_a, Rotation<Dim> of_b) {
        out.turn_a = math::normalized(inverse(a_.pose.rotation) * of_a);
        out.turn_b = b_ == nullptr ? of_b : math::normalized(inverse(b_->pose.rotation) * of_b);
    }
    void set_frame(Rotation<Dim> of_both) { set_frames(of_both, of_both); }
    void set_axis(std::size_t k, const Limits& limits, const Motor& motor, const char* suffix = "") {
        check_limits(limits, std::string(suffix).empty() ? "limits" : std::string("limits") + suffix);
        check_motor(motor, std::string(suffix).empty() ? "motor" : std::string("motor") + suffix);
        out.axes[k].limits = limits, out.axes[k].motor = motor;
    }

private:
    void set_anchors(const Point<Dim>& at) {
        for (const auto& on : {joins_.on_a, joins_.on_b})
            if (on && !math::is_finite(length_squared(*on)))
                throw Error("at", text_of(*on) + " from a body's origin",
                            "a place whose squared distance from the bodies a float can hold (m)");
        anchor_a_ = to_world(a_.pose, *joins_.on_a);
        out.at_a = *joins_.on_a - a_.centre;
        out.fixed = at;
        anchor_b_ = at;
        if (b_ == nullptr) return;
        anchor_b_ = to_world(b_->pose, *joins_.on_b);
        out.at_b = *joins_.on_b - b_->centre;
    }

    Joined<Dim>& joins_;
    const JointBody<Dim>& a_;
    const JointBody<Dim>* b_;
    Point<Dim> anchor_a_{}, anchor_b_{};
};

void fill(Making<2>& m, Hinge<2>& s) {
    m.at_one_place(), m.check_together(m.apart());
    m.set_frame({});
    m.set_axis(0, s.limits, s.motor);
}
void fill(Making<3>& m, Hinge<3>& s) {
    s.axis = checked_axis(s.axis, "axis");
    m.at_one_place(), m.check_together(m.apart());
    m.set_frame(frame_about(s.axis));
    m.set_axis(0, s.limits, s.motor);
}
template<int Dim> void fill(Making<Dim>& m, Slider<Dim>& s) {
    s.axis = checked_axis(s.axis, "axis");
    m.at_one_place();
    m.check_together(m.apart() - s.axis * dot(s.axis, m.apart()));
    m.set_frame(frame_along(s.axis));
    m.set_axis(0, s.limits, s.motor);
}
template<int Dim> void fill(Making<Dim>& m, Weld<Dim>&) {
    m.at_one_place(), m.check_together(m.apart());
    m.set_frame({});
}
template<int Dim> float length_for(const Making<Dim>& m, std::optional<float>& given) {
    if (!given) given = length(m.apart());
    if (!(*given >= 0) || !math::is_finite(*given))
        throw Error("length", number(*given), "a finite number, 0 or more (m)");
    return *given;
}
template<int Dim> void fill(Making<Dim>& m, Rod<Dim>& s) {
    m.at_two_places();
    m.out.length = length_for(m, s.length);
    check_above_0(m.out.length, "length", " (m); a hinge holds two places together");
    const float apart = length(m.apart());
    if (std::fabs(apart - m.out.length) > m.most_apart())
        throw Error("length", number(m.out.length) + " m between ends that are " + number(apart) + " m apart",
                    "a length within " + number(m.most_apart()) + " m of that, or none");
}
template<int Dim> void fill(Making<Dim>& m, Rope<Dim>& s) {
    m.at_two_places();
    check_springing(s.spring, "spring");
    m.set_axis(0, {.upper = length_for(m, s.length), .spring = s.spring}, {});
}
void check_pull(const Springing& s) {
    check_springing(s, "spring");
    if (s == Springing{}) throw Error("spring", "none", "a frequency (Hz) or a stiffness (N/m) above 0");
}
template<int Dim> void fill(Making<Dim>& m, Spring<Dim>& s) {
    m.at_two_places();
    check_pull(s.spring);
    Limits limits = s.limits;
    if (limits.lower <= 0) limits.lower = -kUnlimited; // no length is less
    m.set_axis(0, limits, {.most = kUnlimited, .target = length_for(m, s.length), .spring = s.spring});
}
void fill(Making<2>& m, Wheel<2>& s) {
    s.up = checked_axis(s.up, "up");
    check_springing(s.suspension, "suspension");
    const Vec2 forward{s.up.y, -s.up.x};
    m.at_one_place(), m.check_together(forward * dot(forward, m.apart()));
    m.set_frame(frame_of(forward, s.up));
    m.set_axis(0, s.travel, {.most = kUnlimited, .target = 0.0f, .spring = s.suspension}, " of travel");
    m.set_axis(1, {}, s.drive, " of drive");
}
void fill(Making<3>& m, Wheel<3>& s) {
    s.up = checked_axis(s.up, "up"), s.axle = checked_axis(s.axle, "axle");
    check_springing(s.suspension, "suspension");
    if (!(std::fabs(dot(s.up, s.axle)) < kSquare))
        throw Error("axle", text_of(s.axle), "a direction square to `up`, " + text_of(s.up));
    const Vec3 forward = cross(s.up, s.axle);
    m.at_one_place(), m.check_together(m.apart() - s.up * dot(s.up, m.apart()));
    m.set_frame(frame_of(forward, s.up));
    m.set_axis(0, s.travel, {.most = kUnlimited, .target = 0.0f, .spring = s.suspension}, " of travel");
    m.set_axis(1, {}, s.drive, " of drive"), m.set_axis(2, {}, s.steering, " of steering");
}
template<int Dim> void fill(Making<Dim>& m, Pulley<Dim>& s) {
    m.at_two_places();
    check_above_0(s.ratio, "ratio", "");
    if (!math::is_finite(s.over_a) || !math::is_finite(s.over_b))
        throw Error(math::is_finite(s.over_a) ? "over_b" : "over_a",
                    text_of(math::is_finite(s.over_a) ? s.over_b : s.over_a), "finite numbers (m)");
    if (!s.length) s.length = length(m.anchor_a() - s.over_a) + s.ratio * length(m.anchor_b() - s.over_b);
    check_above_0(*s.length, "length", " (m)");
    m.out.over_a = s.over_a, m.out.over_b = s.over_b, m.out.ratio = s.ratio;
    m.set_axis(0, {.upper = *s.length}, {});
}
void check_ratio(float ratio) {
    if (!math::is_finite(ratio) || ratio == 0) throw Error("ratio", number(ratio), "a finite number, not 0");
}
void fill(Making<2>& m, Gear<2>& s) {
    check_ratio(s.ratio);
    m.at_one_place(), m.set_frame({});
    m.out.ratio = s.ratio;
}
void fill(Making<3>& m, Gear<3>& s) {
    check_ratio(s.ratio);
    s.axis_a = checked_axis(s.axis_a, "axis_a"), s.axis_b = checked_axis(s.axis_b, "axis_b");
    m.at_one_place();
    m.out.start_a = frame_about(s.axis_a), m.out.start_b = frame_about(s.axis_b);
    m.set_frames(m.out.start_a, m.out.start_b);
    m.out.ratio = s.ratio;
}
template<int Dim> void fill(Making<Dim>& m, Tow<Dim>& s) {
    if (!math::is_finite(s.target)) throw Error("target", text_of(s.target), "finite numbers (m)");
    check_above_0(s.most, "most", " (N)");
    check_pull(s.spring);
    m.at_one_place();
    m.out.fixed = s.target;
    m.set_axis(0, {}, {.most = s.most, .target = 0.0f, .spring = s.spring});
}
void fill(Making<3>& m, BallJoint& s) {
    s.axis = checked_axis(s.axis, "axis");
    s.cone_axis = s.cone_axis == Vec3{} ? s.axis : checked_axis(s.cone_axis, "cone_axis");
    m.at_one_place(), m.check_together(m.apart());
    const Rotation<3> of_limb = frame_along(s.axis);
    m.set_frames(of_limb, math::rotation_between(s.axis, s.cone_axis) * of_limb);
    Limits cone;
    if (s.cone) {
        cone.upper = static_cast<float>(s.cone->in_radians());
        if (!(cone.upper >= 0) || !(cone.upper <= 3.1416f))
            throw Error("cone", number(s.cone->in_degrees()) + " degrees", "0 to 180 degrees");
    }
    if (!(s.friction >= 0) || !math::is_finite(s.friction))
        throw Error("friction", number(s.friction), "a finite number, 0 or more (N m)");
    m.set_axis(0, cone, {}), m.set_axis(1, s.twist, {}, " of twist");
    m.out.friction = s.friction;
}
void fill(Making<3>& m, Universal& s) {
    s.axis_a = checked_axis(s.axis_a, "axis_a"), s.axis_b = checked_axis(s.axis_b, "axis_b");
    if (!(std::fabs(dot(s.axis_a, s.axis_b)) < kSquare))
        throw Error("axis_b", text_of(s.axis_b), "a direction square to axis_a, " + text_of(s.axis_a));
    m.at_one_place(), m.check_together(m.apart());
    m.set_frame(frame_of(s.axis_a, cross(s.axis_b, s.axis_a)));
    m.set_axis(0, s.limits_a, s.motor_a, "_a"), m.set_axis(1, s.limits_b, s.motor_b, "_b");
}

}

void check_limits(const Limits& l, const std::string& field) {
    if (!is_number(l.lower) || l.lower == kUnlimited)
        throw Error(field + ".lower", number(l.lower), "a number (m, rad)");
    if (!is_number(l.upper) || l.upper == -kUnlimited)
        throw Error(field + ".upper", number(l.upper), "a number (m, rad)");
    if (l.lower > l.upper)
        throw Error(field + ".lower", number(l.lower) + " above the upper limit " + number(l.upper),
                    "a lower limit that is not above the upper one");
    if (!(l.restitution >= 0) || !(l.restitution <= 1))
        throw Error(field + ".restitution", number(l.restitution), "0 to 1");
    check_springing(l.spring, field + ".spring");
}

void check_motor(const Motor& m, const std::string& field) {
    if (!(m.most >= 0)) throw Error(field + ".most", number(m.most), "a number, 0 or more (N, N m)");
    if (!math::is_finite(m.speed))
        throw Error(field + ".speed", number(m.speed), "a finite number (m/s, rad/s)");
    if (m.target && !math::is_finite(*m.target))
        throw Error(field + ".target", number(*m.target), "a finite number (m, rad)");
    if (m.target && m.speed < 0)
        throw Error(field + ".speed", number(m.speed),
                    "0 or more: with a target it is the highest speed, 0 for any");
    check_springing(m.spring, field + ".spring");
}

template<int Dim> JointKind kind_of_joint(const Joint<Dim>& spec) {
    constexpr JointKind kinds[]{JointKind::Hinge, JointKind::Slider, JointKind::Weld,  JointKind::Rod,
                                JointKind::Rope,  JointKind::Spring, JointKind::Wheel, JointKind::Pulley,
                                JointKind::Gear,  JointKind::Tow,    JointKind::Ball,  JointKind::Universal};
    return kinds[spec.index()];
}

template<int Dim>
flow::Joint<Dim> make_joint(Joint<Dim>& spec, const JointBody<Dim>& a, const JointBody<Dim>* b) {
    Making<Dim> making(joined<Dim>(spec), a, b);
    making.out.kind = kind_of_joint<Dim>(spec);
    std::visit([&](auto& kind) { fill(making, kind); }, spec);
    return making.out;
}

template JointKind kind_of_joint<2>(const Joint<2>&);
template JointKind kind_of_joint<3>(const Joint<3>&);
template flow::Joint<2> make_joint(Joint<2>&, const JointBody<2>&, const JointBody<2>*);
template flow::Joint<3> make_joint(Joint<3>&, const JointBody<3>&, const JointBody<3>*);

}
