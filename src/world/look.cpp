// Queries of a world: the index says which shapes may be met, each is asked exactly.
#include "astasis/world_queries.h"

#include "base/text.h"
#include "math/numbers.h"
#include "shape/ask.h"
#include "shape/surface.h"
#include "shape/usable.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

template<int Dim> using Collider = flow::Collider<Dim>;

// A world as its queries see it.
template<int Dim> class Look {
public:
    Look(const World<Dim>& world, const Filter& filter)
        : state_(WorldAccess::state(world)), filter_(filter) {}

    const Collider<Dim>* seen(std::uint32_t i) const {
        const Collider<Dim>& c = state_.colliders[i];
        if ((c.spec->layers & filter_.layers) == 0 || (c.spec->is_sensor && !filter_.sensors)) return nullptr;
        const BodyId body = id(c);
        if (body == filter_.except || (filter_.accept && !filter_.accept(body, number(c)))) return nullptr;
        return &c;
    }
    BodyId id(const Collider<Dim>& c) const { return state_.slots.ids()[c.body]; }
    std::uint32_t number(const Collider<Dim>& c) const { return state_.rows[c.body].numbers[c.shape]; }
    Pose<Dim> pose(const Collider<Dim>& c) const { return state_.shape_pose(c); }

    // Calls met(collider, most) for what the beam may enter; met returns the new most.
    template<typename Met> void follow(const broad::Beam<Dim>& beam, const Met& met) const {
        state_.index.follow(beam, [&](std::uint32_t i, double most) {
            const Collider<Dim>* c = seen(i);
            return c == nullptr ? most : met(*c, most);
        });
    }
    template<typename Met> void within(const Bounds<Dim>& bounds, const Met& met) const {
        state_.index.query(broad::box_around(bounds), [&](std::uint32_t i) {
            if (const Collider<Dim>* c = seen(i)) met(*c);
        });
    }
    std::uint64_t key_of(BodyId body, std::uint32_t shape) const {
        const std::uint32_t i = state_.slots.place(body);
        return state_.colliders[state_.rows[i].colliders[state_.index_of_shape(i, shape)]].key;
    }
    // By an order of numbers, then by what was added first.
    template<typename T, typename Number> void sort(std::vector<T>& out, const Number& number) const {
        std::sort(out.begin(), out.end(), [&](const T& a, const T& b) {
            const double x = number(a), y = number(b);
            return x != y ? x < y : key_of(a.body, a.shape) < key_of(b.body, b.shape);
        });
    }

private:
    decltype(WorldAccess::state(std::declval<const World<Dim>&>())) state_;
    const Filter& filter_;
};

template<int Dim> void check(const Point<Dim>& p, const char* field) {
    if (!math::is_finite(p)) throw Error(field, base::text_of(p), "finite numbers (m)");
}
template<int Dim> void check(const Ray<Dim>& ray) {
    check(ray.from, "ray.from");
    if (!math::is_finite(ray.displacement))
        throw Error("ray.displacement", base::text_of(ray.displacement), "finite numbers (m)");
}
template<int Dim> void check_convex(const Geometry<Dim>& shape) {
    if (shape::is_unbounded(shape) || shape::is_surface(shape))
        throw Error("shape", shape::is_surface(shape) ? "a surface" : "a half-space",
                    "a bounded convex shape");
}

template<int Dim> broad::Beam<Dim> beam_of(const Ray<Dim>& ray) { return {ray.from, ray.displacement, {}}; }

template<int Dim>
std::optional<Hit<Dim>> hit_of(const Look<Dim>& look, const Collider<Dim>& c, const Ray<Dim>& ray) {
    const auto hit = shape::ray_into(c.spec->geometry, look.pose(c), ray.from, ray.displacement);
    if (!hit) return {};
    return Hit<Dim>{look.id(c), look.number(c), hit->piece, hit->fraction, hit->position, hit->normal};
}

// Keeps the first of what is offered; of equals the one with the smaller key.
template<int Dim> class First {
public:
    double offer(const std::optional<Hit<Dim>>& hit, std::uint64_t key, double most) {
        const bool better = hit && (!best_ || hit->fraction < best_->fraction ||
                                    (hit->fraction == best_->fraction && key < key_));
        if (!better) return most;
        best_ = hit, key_ = key;
        return std::min(most, hit->fraction);
    }
    const std::optional<Hit<Dim>>& get() const { return best_; }

private:
    std::optional<Hit<Dim>> best_;
    std::uint64_t key_ = 0;
};

template<int Dim> std::optional<Hit<Dim>> first_hit_checked(const Look<Dim>& look, const Ray<Dim>& ray) {
    First<Dim> first;
    look.follow(beam_of(ray), [&](const Collider<Dim>& c, double most) {
        return first.offer(hit_of(look, c, ray), c.key, most);
    });
    return first.get();
}

// Whether a place lies in a surface's solid, where no piece is near: within its bounds.
template<int Dim> bool swallows(const Collider<Dim>& c, const Pose<Dim>& at, const Point<Dim>& place) {
    if (!shape::is_surface(c.spec->geometry)) return false;
    for (int k = 0; k < Dim; k++)
        if (place[k] < c.bounds.low[k] || place[k] > c.bounds.high[k]) return false;
    return shape::holds_point(c.spec->geometry, at, place);
}

}

template<int Dim>
std::optional<Hit<Dim>> first_hit(const World<Dim>& world, const Ray<Dim>& ray, const Filter& filter) {
    check(ray);
    return first_hit_checked(Look<Dim>(world, filter), ray);
}

template<int Dim> bool any_hit(const World<Dim>& world, const Ray<Dim>& ray, const Filter& filter) {
    check(ray);
    const Look<Dim> look(world, filter);
    bool any = false;
    look.follow(beam_of(ray), [&](const Collider<Dim>& c, double most) {
        any = any || hit_of(look, c, ray).has_value();
        return any ? -1.0 : most;
    });
    return any;
}

template<int Dim>
void all_hits(const World<Dim>& world, const Ray<Dim>& ray, std::vector<Hit<Dim>>& out,
              const Filter& filter) {
    check(ray);
    out.clear();
    const Look<Dim> look(world, filter);
    look.follow(beam_of(ray), [&](const Collider<Dim>& c, double most) {
        if (const auto hit = hit_of(look, c, ray)) out.push_back(*hit);
        return most;
    });
    look.sort(out, [](const Hit<Dim>& h) { return h.fraction; });
}

template<int Dim>
void first_hits(const World<Dim>& world, std::span<const Ray<Dim>> rays,
                std::vector<std::optional<Hit<Dim>>>& out, const Filter& filter) {
    for (const Ray<Dim>& ray : rays) check(ray);
    out.resize(rays.size());
    const Look<Dim> look(world, filter);
    for (std::size_t i = 0; i < rays.size(); i++) out[i] = first_hit_checked(look, rays[i]);
}

template<int Dim>
std::optional<Hit<Dim>> first_impact(const World<Dim>& world, const Geometry<Dim>& shape,
                                     const Pose<Dim>& from, const Vec<Dim>& displacement,
                                     const Filter& filter) {
    check_convex<Dim>(shape);
    const shape::Usable<Dim> good(shape, "shape");
    shape::check_pose(from, "from");
    if (!math::is_finite(displacement))
        throw Error("displacement", base::text_of(displacement), "finite numbers (m)");
    const Bounds<Dim> bounds = shape::bounds(good.get(), from.position, from.rotation);
    const Look<Dim> look(world, filter);
    const Vec<Dim> size = bounds.high - bounds.low;
    broad::Beam<Dim> beam{bounds.low + size * 0.5f, displacement, size * 0.5f};
    for (int k = 0; k < Dim; k++)
        beam.half[k] += 1e-5f * (length(size) + std::fabs(beam.half[k])); // roundings
    First<Dim> first;
    look.follow(beam, [&](const Collider<Dim>& c, double most) {
        const auto met = shape::first_touch<Dim>(good.get(), {.from = from, .velocity = displacement},
                                                 c.spec->geometry, {.from = look.pose(c)}, 1);
        if (!met) return most;
        return first.offer(
            Hit<Dim>{look.id(c), look.number(c), met->piece, met->time, met->position, -met->normal}, c.key,
            most);
    });
    return first.get();
}

template<int Dim>
void overlapping(const World<Dim>& world, const Geometry<Dim>& shape, const Pose<Dim>& at,
                 std::vector<Found<Dim>>& out, const Filter& filter) {
    check_convex<Dim>(shape);
    const shape::Usable<Dim> good(shape, "shape");
    shape::check_pose(at, "at");
    out.clear();
    const Look<Dim> look(world, filter);
    look.within(shape::bounds(good.get(), at.position, at.rotation), [&](const Collider<Dim>& c) {
        const Pose<Dim> pose = look.pose(c);
        const auto near = shape::nearest_points(good.get(), at, c.spec->geometry, pose);
        if (near.separation <= 0 || swallows(c, pose, near.on_a))
            out.push_back({look.id(c), look.number(c), 0, near.on_b});
    });
    look.sort(out, [](const Found<Dim>&) { return 0.0; });
}

namespace {

Box<2> box_of(Vec2 size) { return Box2::sized(size.x, size.y); }
Box<3> box_of(Vec3 size) { return Box3::sized(size.x, size.y, size.z); }

}

template<int Dim>
void overlapping(const World<Dim>& world, const Bounds<Dim>& box, std::vector<Found<Dim>>& out,
                 const Filter& filter) {
    check(box.low, "box.low"), check(box.high, "box.high");
    const Vec<Dim> size = box.high - box.low;
    for (int k = 0; k < Dim; k++)
        if (!(size[k] > 0))
            throw Error("box", base::text_of(size) + " as its size", "low below high on each axis");
    overlapping<Dim>(world, Geometry<Dim>{box_of(size)}, {box.low + size * 0.5f, {}}, out, filter);
}

template<int Dim>
void nearest(const World<Dim>& world, const Point<Dim>& place, float within, std::vector<Found<Dim>>& out,
             const Filter& filter) {
    check(place, "place");
    if (!(within >= 0) || !math::is_finite(within))
        throw Error("within", base::number(within), "a finite number, 0 or more (m)");
    out.clear();
    const Look<Dim> look(world, filter);
    Bounds<Dim> around{place, place};
    for (int k = 0; k < Dim; k++) around.low[k] -= within, around.high[k] += within;
    look.within(around, [&](const Collider<Dim>& c) {
        const Pose<Dim> pose = look.pose(c);
        const auto near = shape::nearest_to(c.spec->geometry, pose, place);
        if (near.separation <= 0 || swallows(c, pose, place))
            out.push_back({look.id(c), look.number(c), 0, place});
        else if (near.separation <= within)
            out.push_back({look.id(c), look.number(c), near.separation, near.on_b});
    });
    look.sort(out, [](const Found<Dim>& f) { return f.separation; });
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::optional<Hit<Dim>> first_hit(const World<Dim>&, const Ray<Dim>&, const Filter&);           \
    template bool any_hit(const World<Dim>&, const Ray<Dim>&, const Filter&);                                \
    template void all_hits(const World<Dim>&, const Ray<Dim>&, std::vector<Hit<Dim>>&, const Filter&);       \
    template void first_hits(const World<Dim>&, std::span<const Ray<Dim>>,                                   \
                             std::vector<std::optional<Hit<Dim>>>&, const Filter&);                          \
    template std::optional<Hit<Dim>> first_impact(const World<Dim>&, const Geometry<Dim>&, const Pose<Dim>&, \
                                                  const Vec<Dim>&, const Filter&);                           \
    template void overlapping(const World<Dim>&, const Geometry<Dim>&, const Pose<Dim>&,                     \
                              std::vector<Found<Dim>>&, const Filter&);                                      \
    template void overlapping(const World<Dim>&, const Bounds<Dim>&, std::vector<Found<Dim>>&,               \
                              const Filter&);                                                                \
    template void nearest(const World<Dim>&, const Point<Dim>&, float, std::vector<Found<Dim>>&,             \
                          const Filter&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
