// Poses of bodies within the last tick.
#include "base/text.h"
#include "math/turn.h"
#include "world/state.h"

namespace astasis {

template<int Dim> const Pose<Dim> World<Dim>::previous_pose(BodyId id) const {
    return state_->rows[state_->place(id)].previous;
}
template<int Dim> std::span<const SweptImpact<Dim>> World<Dim>::swept_impacts() const noexcept {
    return state_->swept_impacts;
}

// With ids, before bodies fall asleep and change places.
template<int Dim> void World<Dim>::State::list_swept_impacts() {
    swept_impacts.clear();
    for (const SweptMeeting<Dim>& m : advance.swept_meetings()) {
        SweptImpact<Dim>& out = swept_impacts.emplace_back();
        const bool a_first = m.a_swept;
        const std::uint32_t body = a_first ? m.body_a : m.body_b, other = a_first ? m.body_b : m.body_a;
        out.body = slots.ids()[body], out.other = slots.ids()[other];
        out.shape = rows[body].numbers[a_first ? m.shape_a : m.shape_b];
        out.other_shape = rows[other].numbers[a_first ? m.shape_b : m.shape_a];
        out.time = m.time, out.position = m.position;
        out.centre = a_first ? m.centre_a : m.centre_b, out.other_centre = a_first ? m.centre_b : m.centre_a;
        out.other_swept = a_first && m.b_swept;
        out.normal = a_first ? m.normal : m.normal * -1.0f,
        out.impulse = a_first ? m.impulse * -1.0f : m.impulse;
    }
}
template<int Dim> std::vector<BodyId> World<Dim>::unswept() const {
    std::vector<BodyId> out;
    const auto& b = state_->bodies;
    for (std::uint32_t i = 0; i < b.moving; i++) {
        if (b.motion[i] == Motion::Dynamic && state_->rows[i].sweep != Sweep::None) continue;
        const Vec<Dim> way = b.pose[i].centre - to_world(state_->rows[i].previous, b.mass[i].centre);
        if (length(way) > b.still[i].size) out.push_back(state_->slots.ids()[i]);
    }
    return out;
}

template<int Dim> const Pose<Dim> World<Dim>::pose_within_tick(BodyId id, double share) const {
    const State& s = *state_;
    const std::uint32_t i = s.place(id);
    if (!(share >= 0 && share <= 1)) throw Error("share", base::number(share), "0 to 1, of the last tick");
    const Pose<Dim>&from = s.rows[i].previous, to = s.pose(i);
    if (share == 1 || from == to) return to; // also what was put there since
    if (share == 0) return from;
    // The legs of its way that end before and after that time.
    const Vec<Dim> centre = s.bodies.mass[i].centre;
    Point<Dim> before = to_world(from, centre), after = s.bodies.pose[i].centre;
    double begins = 0, ends = 1;
    const auto pass = [&](double at, const Point<Dim>& place) {
        if (at <= share) begins = at, before = place;
        else if (at < ends) ends = at, after = place;
    };
    for (const SweptImpact<Dim>& impact : s.swept_impacts) {
        if (impact.body == id) pass(impact.time / s.spec.tick, impact.centre);
        if (impact.other == id && impact.other_swept) pass(impact.time / s.spec.tick, impact.other_centre);
    }
    const double t = ends > begins ? (share - begins) / (ends - begins) : 0;
    Pose<Dim> out{{}, math::blended(from.rotation, to.rotation, static_cast<float>(share))};
    for (int k = 0; k < Dim; k++) out.position[k] = before[k] + (after[k] - before[k]) * t;
    out.position = out.position + rotate(out.rotation, centre) * -1.0f;
    return out;
}

template void World<2>::State::list_swept_impacts();
template void World<3>::State::list_swept_impacts();
template const Pose<2> World<2>::previous_pose(BodyId) const;
template const Pose<3> World<3>::previous_pose(BodyId) const;
template std::span<const SweptImpact<2>> World<2>::swept_impacts() const noexcept;
template std::span<const SweptImpact<3>> World<3>::swept_impacts() const noexcept;
template std::vector<BodyId> World<2>::unswept() const;
template std::vector<BodyId> World<3>::unswept() const;
template const Pose<2> World<2>::pose_within_tick(BodyId, double) const;
template const Pose<3> World<3>::pose_within_tick(BodyId, double) const;

}
