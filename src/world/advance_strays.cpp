// Bodies that leave the path on which the tick's pairs were found: who they are, and what they may meet on
// their new one.
#include "world/advance.h"

#include "base/room.h"
#include "broad/box.h"
#include "math/numbers.h"

#include <algorithm>

namespace astasis {
namespace {

// A way that no body goes.
constexpr float kFar = 1e30f;

template<int Dim> void set_velocity(solve::Path& path, const flow::Velocity<Dim>& v) {
    for (int k = 0; k < Dim; k++) path.velocity[k] = v.linear[k];
    for (int k = 0; k < math::kAxialSize<Dim>; k++) path.spin[k] = math::component(v.angular, k);
}

}

template<int Dim> void Advance<Dim>::begin_contacts(const Run& run) {
    const std::size_t rows = integrator_.row_count(), padded = integrator_.padded_row_count();
    base::make_room(paths_, padded), base::make_room(is_swept_, rows), base::make_room(swept_velocity_, rows);
    paths_.assign(padded, {}), is_swept_.assign(rows, 0), swept_velocity_.resize(rows);
    base::make_room(stopped_in_, rows), base::make_room(stopped_at_, rows);
    base::make_room(ends_in_, rows), base::make_room(path_end_, rows);
    stopped_in_.assign(rows, 0), stopped_at_.resize(rows), ends_in_.assign(rows, 0), path_end_.resize(rows);
    passed_.clear(), lively_.clear(), swept_.clear();
    if (run.around.index == nullptr) return;
    for (std::size_t r = 1; r < rows; r++) {
        const std::uint32_t i = bodies_[r - 1];
        const auto& still = run.bodies.still[i];
        const bool moves = run.bodies.mass[i].inverse_mass > 0;
        const bool looks = moves && run.around.sweep_of(i) != Sweep::None;
        solve::Path& path = paths_[r];
        set_velocity(path, run.bodies.velocity[i]);
        path.swept_from = looks ? sweep::kSweptShare * still.size : kFar;
        path.reach = still.reach, path.room = moves ? kRoom * still.size : kFar;
    }
}

// The first substep tells each body's acceleration: free motion has just added it to the velocity.
template<int Dim> void Advance<Dim>::find_accelerations(const Run& run) {
    const float rate = 1 / static_cast<float>(run.seconds);
    for (std::size_t r = 1; r < integrator_.row_count(); r++) {
        const Vec<Dim> acceleration = integrator_.gained(r).linear * rate;
        for (int k = 0; k < Dim; k++) paths_[r].acceleration[k] = acceleration[k];
    }
}

// Bodies that have left the path on which the tick's pairs were found: stopped, struck or launched.
template<int Dim> void Advance<Dim>::find_strays(Run& run, std::span<const solve::Watched> watched) {
    for_each_row(watched, &solve::Watched::off, [&](std::size_t row) {
        if (const std::uint32_t i = bodies_[row - 1]; has_strayed(run, i)) look_around(run, i, 0);
    });
}

// Compares a body's place at the end of the substep, if it hits nothing more, with its place on the old path.
template<int Dim> bool Advance<Dim>::has_strayed(const Run& run, std::uint32_t body) const {
    const solve::Path& path = paths_[rows_[body]];
    const auto h = static_cast<float>(run.seconds);
    const flow::Velocity<Dim> now = mean_velocity(run, body), then = velocity_of(path);
    const float since = static_cast<float>(run.time()) + h - path.time;
    const Vec<Dim> is = place(run, body) + now.linear * h,
                   would = vector_of(path.place) +
                           (then.linear + vector_of(path.acceleration) * (0.5f * since)) * since;
    return is_longer(is - would, now.angular - then.angular, path.reach * h, path.room);
}

// A body's displacement since the start of the tick, at the start of its leg.
template<int Dim> Vec<Dim> Advance<Dim>::place(const Run& run, std::uint32_t body) const {
    const std::size_t r = rows_[body];
    const Vec<Dim> displacement = integrator_.displacement(r);
    if (!resolving_ || !impacts_.was_hit(body)) return displacement;
    const flow::CentrePose<Dim> now = integrator_.pose(r);
    return displacement + (impacts_.start(run.bodies, body, now).centre - now.centre);
}

// Takes a body's new path from a time within the substep, and adds manifolds for the pairs that it may meet
// on it in the rest of the tick.
template<int Dim> void Advance<Dim>::look_around(Run& run, std::uint32_t body, double time) {
    solve::Path& path = paths_[rows_[body]];
    const auto left = static_cast<float>(run.left() - time);
    const sweep::Leg<Dim> own = leg(run, body);
    const flow::CentrePose<Dim> at = own.at(time);
    const float room = path.room;
    flow::Velocity<Dim> then = own.velocity;
    then.linear += vector_of(path.acceleration) * static_cast<float>(time - 0.5 * run.seconds);
    set_velocity(path, then);
    const Vec<Dim> to = place(run, body) + own.velocity.linear * static_cast<float>(time);
    for (int k = 0; k < Dim; k++) path.place[k] = to[k];
    path.time = static_cast<float>(run.time() + time);
    lists_.for_each(body, [&](std::uint32_t k) { add_lively(run, k); });
    for (const std::uint32_t index : run.around.colliders_of(body)) {
        auto& c = run.around.colliders[index];
        c.bounds = bounds_at(run, c, at);
        c.drift = own.velocity.linear * left;
        c.slack = sweep::turning_way(c, own.velocity, left) + room;
        run.around.index->keep(index, c, true);
        find_near(run, c);
        for (const std::uint32_t other : near_) {
            const auto& d = run.around.colliders[other];
            const sweep::Leg<Dim> theirs = leg(run, d.body);
            const flow::CentrePose<Dim> there = theirs.at(time);
            if (!sweep::may_meet(c, {at, own.velocity}, d, {there, theirs.velocity}, left, room)) continue;
            const bool first = c.key < d.key;
            const float margin = sweep::passing_way(c, own.velocity, d, theirs.velocity, left) + room;
            before_.clear(), after_.clear();
            find_touching(run, {first ? c : d, first ? d : c, first ? at : there, first ? there : at, margin},
                          false);
            for (const auto& m : after_) {
                const std::uint32_t added = add_manifold(run, m);
                looked_in_[added] = 0; // what is swept has yet to look at it
                impacts_.found_anew(added);
            }
        }
    }
}

template<int Dim>
Bounds<Dim> Advance<Dim>::bounds_at(const Run& run, const flow::Collider<Dim>& c,
                                    const flow::CentrePose<Dim>& at) const {
    const Placement<Dim>& on = c.spec->placement;
    const Vec<Dim> arm = on.position - run.bodies.mass[c.body].centre;
    return shape::bounds(c.spec->geometry, at.centre + rotate(at.rotation, arm), at.rotation * on.rotation);
}

// The colliders near to one, of bodies that are solved with its own or cannot be moved, that have no manifold
// with it: by their keys.
template<int Dim> void Advance<Dim>::find_near(const Run& run, const flow::Collider<Dim>& c) {
    const Bounds<Dim> reached = flow::reached(c);
    near_.clear();
    run.around.index->query(broad::box_around(reached), [&](std::uint32_t other) {
        const auto& d = run.around.colliders[other];
        const bool is_here =
            d.body < run.bodies.moving ? rows_[d.body] > 0 : run.bodies.motion[d.body] != Motion::Dynamic;
        if (d.body == c.body || !is_here || !may_touch(*c.spec, *d.spec) ||
            run.around.keeps_apart(c.body, d.body))
            return;
        const Bounds<Dim> theirs = flow::reached(d); // fat boxes depend on a world's past
        for (int k = 0; k < Dim; k++)
            if (theirs.high[k] < reached.low[k] || reached.high[k] < theirs.low[k]) return;
        near_.push_back(other);
    });
    lists_.for_each(c.body, [&](std::uint32_t k) {
        const auto& m = run.manifolds[k];
        if (m.key_a != c.key && m.key_b != c.key) return;
        const std::uint64_t key = m.key_a == c.key ? m.key_b : m.key_a;
        std::erase_if(near_, [&](std::uint32_t d) { return run.around.colliders[d].key == key; });
    });
    std::sort(near_.begin(), near_.end(), [&](std::uint32_t p, std::uint32_t q) {
        return run.around.colliders[p].key < run.around.colliders[q].key;
    });
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void Advance<Dim>::begin_contacts(const Run&);                                                  \
    template void Advance<Dim>::find_accelerations(const Run&);                                              \
    template void Advance<Dim>::find_strays(Run&, std::span<const solve::Watched>);                          \
    template bool Advance<Dim>::has_strayed(const Run&, std::uint32_t) const;                                \
    template Vec<Dim> Advance<Dim>::place(const Run&, std::uint32_t) const;                                  \
    template void Advance<Dim>::look_around(Run&, std::uint32_t, double);                                    \
    template Bounds<Dim> Advance<Dim>::bounds_at(const Run&, const flow::Collider<Dim>&,                     \
                                                 const flow::CentrePose<Dim>&) const;                        \
    template void Advance<Dim>::find_near(const Run&, const flow::Collider<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
