#include "astasis/mover.h"

#include "base/text.h"
#include "math/numbers.h"
#include "math/trig.h"
#include "shape/measure.h"
#include "shape/surface.h"

#include <algorithm>
#include <cmath>

namespace astasis {
namespace {

// Ways that are shorter are none, m.
constexpr float kNoWay = 1e-6f;
// A mover that meets a surface at a grazing angle stops no farther from it than so many skins of its way.
constexpr float kMostBack = 10;
constexpr int kMostSurfaces = 5;

template<int Dim> Vec<Dim> flat(Vec<Dim> v) {
    v.y = 0;
    return v;
}
template<int Dim> float along(const Point<Dim>& from, const Point<Dim>& to, const Vec<Dim>& way) {
    return dot(to - from, direction(way, {}));
}

// The rest of a way beside surfaces that all bound it: along one, along the edge between two, or none.
template<int Dim> Vec<Dim> beside(const Vec<Dim>& way, std::span<const Vec<Dim>> normals) {
    const auto enters = [&](const Vec<Dim>& w) {
        return std::any_of(normals.begin(), normals.end(),
                           [&](const Vec<Dim>& n) { return dot(w, n) < -1e-4f * length(way); });
    };
    if (!enters(way)) return way;
    for (const Vec<Dim>& n : normals) {
        const Vec<Dim> one = way - n * dot(way, n);
        if (dot(way, n) < 0 && !enters(one)) return one;
    }
    if constexpr (Dim == 3)
        for (std::size_t i = 0; i < normals.size(); i++)
            for (std::size_t j = 0; j < i; j++) {
                const Vec3 edge = direction(cross(normals[i], normals[j]), {});
                const Vec3 two = edge * dot(way, edge);
                if (!enters(two)) return two;
            }
    return {};
}

}

template<int Dim> struct Mover<Dim>::Walk {
    Point<Dim> at;
    std::vector<MoverTouch<Dim>> touched;
};

template<int Dim> Mover<Dim>::Mover(const MoverSpec<Dim>& spec, const Point<Dim>& at) : spec_(spec), at_(at) {
    if (shape::is_unbounded(spec.shape) || shape::is_surface(spec.shape))
        throw Error("shape", shape::is_surface(spec.shape) ? "a surface" : "a half-space",
                    "a bounded convex shape");
    spec_.shape = shape::checked(ShapeSpec<Dim>{.geometry = spec.shape}, "shape").geometry;
    const auto check = [](float x, const char* field, bool may_be_none, const char* text) {
        if (!math::is_finite(x) || x < 0 || (x == 0 && !may_be_none))
            throw Error(field, base::number(x), text);
    };
    check(spec.skin, "skin", false, "a finite number above 0 (m)");
    check(spec.step_height, "step_height", true, "a finite number, 0 or more (m)");
    check(spec.push, "push", true, "a finite number, 0 or more (N)");
    if (!(spec.steepest.in_radians() > 0) || !(spec.steepest.in_radians() < 1.5707))
        throw Error("steepest", base::number(spec.steepest.in_radians()) + " rad",
                    "above 0 and below 90 degrees");
    put(at);
}

template<int Dim> void Mover<Dim>::put(const Point<Dim>& at) {
    if (!math::is_finite(at)) throw Error("at", base::text_of(at), "finite numbers (m)");
    at_ = at;
    standing_.reset();
    touched_.clear();
}

template<int Dim> Filter Mover<Dim>::filter() const { return {.layers = spec_.layers, .except = spec_.body}; }

template<int Dim>
std::optional<Hit<Dim>> Mover<Dim>::cast(const World<Dim>& world, const Point<Dim>& from,
                                         const Vec<Dim>& way) const {
    return first_impact<Dim>(world, spec_.shape, {from, {}}, way, filter());
}

template<int Dim> bool Mover<Dim>::is_walkable(const Vec<Dim>& normal) const {
    return double{normal.y} >= math::sin_cos(spec_.steepest.in_radians()).cos;
}

template<int Dim> double Mover<Dim>::foot(const Point<Dim>& at) const {
    return bounds_of<Dim>(spec_.shape, {at, {}}).low.y;
}

// Whether what is below carries: a slope that is not too steep, or the edge of a step towards which the mover
// goes and that is no higher than `most`. A round foot meets an edge at any angle: what lies a little behind
// it tells.
template<int Dim>
bool Mover<Dim>::bears(const World<Dim>& world, const Hit<Dim>& hit, const Vec<Dim>& way, double most) const {
    if (is_walkable(hit.normal)) return true;
    if (dot(way, hit.normal) > 0 || !(hit.normal.y > 0)) return false;
    const Vec<Dim> behind = direction(flat(hit.normal), {}) * (-2 * spec_.skin);
    const Ray<Dim> ray{hit.position + behind + Vec<Dim>{0, 2 * spec_.skin}, Vec<Dim>{0, -4 * spec_.skin}};
    const auto below = first_hit<Dim>(world, ray, filter());
    return below && below->fraction > 0 && is_walkable(below->normal) && below->position.y <= most;
}

// Goes where the ground has gone since the last move.
template<int Dim> void Mover<Dim>::ride(const World<Dim>& world) {
    if (!standing_ || !world.contains(standing_->body)) return;
    const Pose<Dim> now = world.pose(standing_->body);
    if (now == ground_) return;
    const Vec<Dim> in_ground = rotate_back(ground_.rotation, at_ - ground_.position);
    const Vec<Dim> way = to_world(now, in_ground) - at_;
    // A wall on the way keeps it back.
    at_ = slide(world, at_, way, false).at;
}

// Out of what has come nearer than half a skin: the worst first, some times.
template<int Dim> void Mover<Dim>::leave_overlaps(const World<Dim>& world) {
    std::vector<Found<Dim>> about;
    for (int round = 0; round < kMostSurfaces; round++) {
        Bounds<Dim> bounds = bounds_of<Dim>(spec_.shape, {at_, {}});
        for (int k = 0; k < Dim; k++) bounds.low[k] -= spec_.skin, bounds.high[k] += spec_.skin;
        overlapping<Dim>(world, bounds, about, filter());
        double worst = 0.5 * double{spec_.skin};
        std::optional<MoverTouch<Dim>> touch;
        for (const Found<Dim>& f : about) {
            const ShapeSpec<Dim>& other = world.shape(f.body, f.shape);
            const Pose<Dim> body = world.pose(f.body);
            const Pose<Dim> pose{to_world(body, other.placement.position),
                                 body.rotation * other.placement.rotation};
            const auto near = distance<Dim>(spec_.shape, {at_, {}}, other.geometry, pose);
            if (near.separation >= worst) continue;
            worst = near.separation;
            touch = MoverTouch<Dim>{f.body, f.shape, near.on_b, near.normal * -1.0f};
        }
        if (!touch) return;
        const Vec<Dim> out = touch->normal * static_cast<float>(double{spec_.skin} - worst);
        at_ = worst > 0 ? slide(world, at_, out, false).at : at_ + out; // a cast from within finds no way
        touched_.push_back(*touch);
    }
}

// On foot, slopes that are too steep are walls.
template<int Dim>
typename Mover<Dim>::Walk Mover<Dim>::slide(const World<Dim>& world, const Point<Dim>& from,
                                            const Vec<Dim>& way, bool on_foot) const {
    Walk out{from, {}};
    std::vector<Vec<Dim>> normals;
    Vec<Dim> left = way;
    for (int k = 0; k < kMostSurfaces; k++) {
        const float size = length(left);
        if (size < kNoWay) break;
        const Vec<Dim> ahead = left * (1 / size);
        const float look = size + kMostBack * spec_.skin;
        const auto hit = cast(world, out.at, ahead * look);
        const float closes = hit ? -dot(ahead, hit->normal) : 0;
        float go = size;
        if (hit && closes > 0)
            go = static_cast<float>(hit->fraction) * look -
                 std::min(spec_.skin / closes, kMostBack * spec_.skin);
        if (go >= size || !hit) {
            out.at = out.at + left;
            break;
        }
        go = std::max(go, 0.0f);
        out.at = out.at + ahead * go;
        out.touched.push_back({hit->body, hit->shape, hit->position, hit->normal});
        Vec<Dim> normal = hit->normal;
        if (on_foot && !is_walkable(normal)) normal = direction(flat(normal), normal);
        normals.push_back(normal);
        left = beside<Dim>(ahead * (size - go), normals);
        if (dot(left, way) < 0) break;
    }
    return out;
}

// Up by a step, on, and down again onto what can be walked on.
template<int Dim>
std::optional<typename Mover<Dim>::Walk> Mover<Dim>::climb(const World<Dim>& world, const Point<Dim>& from,
                                                           const Vec<Dim>& way) const {
    if (!(spec_.step_height > 0)) return {};
    const Point<Dim> high = slide(world, from, Vec<Dim>{0, spec_.step_height}, false).at;
    Walk out = slide(world, high, way, true);
    const float down = static_cast<float>(high.y - from.y) + spec_.skin;
    const auto hit = cast(world, out.at, Vec<Dim>{0, -down});
    if (!hit || !bears(world, *hit, way, foot(from) + double{spec_.step_height})) return {};
    out.at.y -= std::max(0.0, hit->fraction * double{down} - double{spec_.skin});
    return out;
}

// Downwards until something bears it; returns whether that is so.
template<int Dim> bool Mover<Dim>::drop(const World<Dim>& world, float way, const Vec<Dim>& on) {
    const float look = way + 2 * spec_.skin;
    const auto hit = cast(world, at_, Vec<Dim>{0, -look});
    if (!hit || !bears(world, *hit, on, foot(at_) + double{spec_.step_height})) return false;
    const double go = hit->fraction * double{look} - double{spec_.skin};
    if (go > double{way}) return false;
    at_.y -= std::max(go, 0.0);
    stand_on(world, *hit);
    return true;
}

// Whether there is ground to walk on no farther below its lowest point than a step; it stands on that then.
template<int Dim> void Mover<Dim>::stand_over(const World<Dim>& world) {
    const auto reach = static_cast<float>(at_.y - foot(at_));
    const auto below = first_hit<Dim>(world, {at_, Vec<Dim>{0, -(reach + spec_.step_height)}}, filter());
    if (below && is_walkable(below->normal)) stand_on(world, *below);
}

template<int Dim> void Mover<Dim>::stand_on(const World<Dim>& world, const Hit<Dim>& hit) {
    standing_ = MoverTouch<Dim>{hit.body, hit.shape, hit.position, hit.normal};
    ground_ = world.pose(hit.body);
    touched_.push_back(*standing_);
}

template<int Dim> void Mover<Dim>::push_on(World<Dim>& world) const {
    if (!(spec_.push > 0)) return;
    for (std::size_t k = 0; k < touched_.size(); k++) {
        const MoverTouch<Dim>& t = touched_[k];
        const bool before = std::any_of(touched_.begin(), touched_.begin() + static_cast<std::ptrdiff_t>(k),
                                        [&](const auto& u) { return u.body == t.body; });
        if (before || world.motion(t.body) != Motion::Dynamic || is_walkable(t.normal)) continue;
        world.apply_force_at(t.body, direction(flat(t.normal), t.normal) * -spec_.push, t.position);
    }
}

template<int Dim> void Mover<Dim>::move(World<Dim>& world, const Vec<Dim>& velocity) {
    if (!math::is_finite(velocity)) throw Error("velocity", base::text_of(velocity), "finite numbers (m/s)");
    touched_.clear();
    ride(world);
    leave_overlaps(world);
    const auto seconds = static_cast<float>(world.settings().tick);
    const bool stood = standing_.has_value();
    const Vec<Dim> on = flat(velocity) * seconds;
    const float up = velocity.y * seconds;
    const auto take = [&](const Walk& walk) {
        at_ = walk.at;
        touched_.insert(touched_.end(), walk.touched.begin(), walk.touched.end());
    };
    if (up > 0) take(slide(world, at_, Vec<Dim>{0, up}, false));
    if (length(on) > kNoWay) {
        const Point<Dim> from = at_;
        const Walk straight = slide(world, from, on, true);
        const bool is_blocked = along(from, straight.at, on) < length(on) - kNoWay;
        std::optional<Walk> higher;
        if (is_blocked && stood && up <= 0) higher = climb(world, from, on);
        const bool climbs =
            higher && along(from, higher->at, on) > along(from, straight.at, on) + 10 * kNoWay;
        take(climbs ? *higher : straight);
    }
    standing_.reset();
    if (up <= 0) {
        // A walker goes down steps and slopes with the ground, a faller as far as it falls.
        const float least = stood ? std::max(-up, spec_.step_height) : -up;
        if (!drop(world, least, on)) {
            // A round foot comes down beside an edge that is too steep to stand on: it goes on standing
            // while the ground below is no farther than a step.
            take(slide(world, at_, Vec<Dim>{0, up}, false));
            if (!drop(world, 0, on) && stood) stand_over(world);
        }
    }
    push_on(world);
    if (spec_.body != BodyId{}) world.move_to(spec_.body, {at_, world.pose(spec_.body).rotation});
}

template class Mover<2>;
template class Mover<3>;

}
