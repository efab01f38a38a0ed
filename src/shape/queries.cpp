// The stand-alone questions about shapes: arguments checked, then asked.
#include "astasis/queries.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/ask.h"
#include "shape/measure.h"
#include "shape/usable.h"

namespace astasis {
namespace {

template<int Dim> void check_point(const Point<Dim>& p, const char* field) {
    if (!math::is_finite(p)) throw Error(field, base::text_of(p), "finite numbers (m)");
}
template<int Dim> void check_vec(const Vec<Dim>& v, const char* field, const char* unit) {
    if (!math::is_finite(v))
        throw Error(field, base::text_of(v), std::string("finite numbers (") + unit + ")");
}
void check_spin(float v, const char* field) {
    if (!math::is_finite(v)) throw Error(field, base::number(v), "a finite number (rad/s)");
}
void check_spin(const Vec3& v, const char* field) { check_vec(v, field, "rad/s"); }

template<int Dim> void check_moving(const Moving<Dim>& m, const char* field) {
    shape::check_pose(m.from, field);
    check_vec(m.velocity, "velocity", "m/s");
    check_vec(m.centre, "centre", "m");
    check_spin(m.angular_velocity, "angular_velocity");
}

}

template<int Dim>
Nearest<Dim> distance(const Geometry<Dim>& a, const Pose<Dim>& at_a, const Geometry<Dim>& b,
                      const Pose<Dim>& at_b) {
    const shape::Usable<Dim> good_a(a, "a"), good_b(b, "b");
    shape::check_pose(at_a, "at_a"), shape::check_pose(at_b, "at_b");
    shape::refuse_two_surfaces<Dim>(a, b);
    return shape::nearest_points(good_a.get(), at_a, good_b.get(), at_b);
}

template<int Dim>
std::optional<Impact<Dim>> time_of_impact(const Geometry<Dim>& a, const Moving<Dim>& motion_a,
                                          const Geometry<Dim>& b, const Moving<Dim>& motion_b,
                                          double seconds) {
    const shape::Usable<Dim> good_a(a, "a"), good_b(b, "b");
    shape::refuse_two_surfaces<Dim>(a, b);
    if (!(seconds >= 0) || !math::is_finite(seconds))
        throw Error("seconds", base::number(seconds), "a finite number, 0 or more (s)");
    check_moving(motion_a, "motion_a.from"), check_moving(motion_b, "motion_b.from");
    return shape::first_touch(good_a.get(), motion_a, good_b.get(), motion_b, seconds);
}

template<int Dim>
std::optional<Impact<Dim>> shape_cast(const Geometry<Dim>& a, const Pose<Dim>& from,
                                      const Vec<Dim>& displacement, const Geometry<Dim>& b,
                                      const Pose<Dim>& at_b) {
    check_vec(displacement, "displacement", "m");
    return time_of_impact(a, Moving<Dim>{.from = from, .velocity = displacement}, b,
                          Moving<Dim>{.from = at_b}, 1);
}

template<int Dim>
std::optional<RayHit<Dim>> ray_cast(const Geometry<Dim>& geometry, const Pose<Dim>& at,
                                    const Point<Dim>& from, const Vec<Dim>& displacement) {
    const shape::Usable<Dim> good(geometry, "shape");
    shape::check_pose(at, "at");
    check_point(from, "from");
    check_vec(displacement, "displacement", "m");
    return shape::ray_into(good.get(), at, from, displacement);
}

template<int Dim> bool contains(const Geometry<Dim>& geometry, const Pose<Dim>& at, const Point<Dim>& point) {
    const shape::Usable<Dim> good(geometry, "shape");
    shape::check_pose(at, "at");
    check_point(point, "point");
    return shape::holds_point(good.get(), at, point);
}

template<int Dim>
Point<Dim> closest_point(const Geometry<Dim>& geometry, const Pose<Dim>& at, const Point<Dim>& place) {
    const shape::Usable<Dim> good(geometry, "shape");
    shape::check_pose(at, "at");
    check_point(place, "place");
    const Nearest<Dim> near = shape::nearest_to(good.get(), at, place);
    return near.separation <= 0 ? place : near.on_b;
}

template<int Dim> Bounds<Dim> bounds_of(const Geometry<Dim>& geometry, const Pose<Dim>& at) {
    const shape::Usable<Dim> good(geometry, "shape");
    shape::check_pose(at, "at");
    return shape::bounds(good.get(), at.position, math::normalized(at.rotation));
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template Nearest<Dim> distance(const Geometry<Dim>&, const Pose<Dim>&, const Geometry<Dim>&,             \
                                   const Pose<Dim>&);                                                        \
    template std::optional<Impact<Dim>> time_of_impact(const Geometry<Dim>&, const Moving<Dim>&,             \
                                                       const Geometry<Dim>&, const Moving<Dim>&, double);    \
    template std::optional<Impact<Dim>> shape_cast(const Geometry<Dim>&, const Pose<Dim>&, const Vec<Dim>&,  \
                                                   const Geometry<Dim>&, const Pose<Dim>&);                  \
    template std::optional<RayHit<Dim>> ray_cast(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&,  \
                                                 const Vec<Dim>&);                                           \
    template bool contains(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&);                       \
    template Point<Dim> closest_point(const Geometry<Dim>&, const Pose<Dim>&, const Point<Dim>&);            \
    template Bounds<Dim> bounds_of(const Geometry<Dim>&, const Pose<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
