#include "sleep/rest.h"

#include "base/room.h"
#include "flow/tick_columns.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <algorithm>
#include <cmath>

namespace astasis::sleep {
namespace {

template<int Dim> bool stands(const flow::Velocity<Dim>& v) {
    return v.linear == Vec<Dim>{} && math::magnitude(v.angular) == 0;
}

}

template<int Dim>
void Rest<Dim>::watch(flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                      std::span<const flow::Joint<Dim>> joints, std::span<const std::uint32_t> active_joints,
                      double tick, float gravity) {
    const auto window = static_cast<float>(kStillSeconds);
    const float fall = gravity > 0 ? kFallShare * 0.5f * gravity * window * window : 1e30f;
    flow::begin_column(bears_, bodies, manifolds, std::uint8_t{0});
    for (const auto& m : manifolds)
        for (std::size_t i = 0; i < m.count; i++)
            if (m.points[i].normal_force > 0) bears_[m.body_a] = bears_[m.body_b] = 1;
    for (const std::uint32_t j : active_joints) // what hangs or stands on joints does not float
        for (const std::uint32_t i : {joints[j].body_a, joints[j].body_b})
            if (i < bodies.moving) bears_[i] = 1;
    const auto most_ticks = static_cast<std::uint32_t>(std::ceil(kStillSeconds / tick));
    for (std::size_t i = 0; i < bodies.moving; i++) {
        flow::Stillness<Dim>& still = bodies.still[i];
        const auto& now = bodies.pose[i];
        if (bodies.motion[i] != Motion::Dynamic) {
            still.ticks = stands(bodies.velocity[i]) ? std::min(still.ticks + 1, most_ticks) : 0;
            continue;
        }
        const float way =
            length(now.centre - still.since.centre) +
            still.reach * math::magnitude(math::turn_between(still.since.rotation, now.rotation));
        const float most = std::min((bears_[i] ? kStillShare : kFloatingShare) * still.size, fall);
        if (way > most) {
            still.ticks = still.leaving = 0;
            still.way = 0;
            still.since = now;
            continue;
        }
        still.ticks++;
        const float step = way - still.way, mean_step = way / static_cast<float>(still.ticks),
                    least = kLeavingShare * most / static_cast<float>(most_ticks);
        const bool leaves = step > least && step > kHastens * mean_step;
        still.leaving = leaves ? std::min(still.leaving + 1, most_ticks) : 0;
        still.way = way;
    }
}

template<int Dim>
bool Rest<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                     std::span<const flow::Joint<Dim>> joints, std::span<const std::uint32_t> active_joints,
                     std::span<const std::uint32_t> island_of, double tick) {
    base::make_room(rests_, bodies.moving);
    rests_.assign(bodies.moving, 1);
    const auto enough = static_cast<std::uint32_t>(std::ceil(kStillSeconds / tick));
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        if (bodies.still[i].ticks < enough || bodies.still[i].leaving >= enough / 2 ||
            bodies.still[i].kept_awake)
            rests_[island_of[i]] = 0;
    const auto carried = [&](std::uint32_t i, std::uint32_t other, bool runs) {
        if (i >= bodies.moving || bodies.motion[i] != Motion::Dynamic || other == flow::kWorld) return;
        if (runs || (bodies.motion[other] == Motion::Kinematic && !stands(bodies.velocity[other])))
            rests_[island_of[i]] = 0;
    };
    for (const auto& m : manifolds) {
        const bool runs = m.slip != Vec<Dim>{};
        carried(m.body_a, m.body_b, runs), carried(m.body_b, m.body_a, runs);
    }
    for (const std::uint32_t j : active_joints)
        carried(joints[j].body_a, joints[j].body_b, false),
            carried(joints[j].body_b, joints[j].body_a, false);
    return std::any_of(island_of.begin(), island_of.end(),
                       [&](std::uint32_t root) { return rests_[root] != 0; });
}

template class Rest<2>;
template class Rest<3>;

}
