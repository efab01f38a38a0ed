// Poses of bodies within the last tick.
#include "base/text.h"
#include "math/turn.h"
#include "world/state.h"

namespace astasis {

template<int Dim> const Pose<Dim> World<Dim>::previous_pose(BodyId id) const {
    return state_->rows[state_->place(id)].previous;
}
// With ids, before bodies fall asleep and change places.
template<int Dim> void World<Dim>::State::list_turns() {
    turns.clear();
    for (const SweptMeeting<Dim>& m : advance.swept_meetings()) {
        if (m.a_swept) turns.push_back({slots.ids()[m.body_a], {m.time, m.centre_a}});
        if (m.b_swept) turns.push_back({slots.ids()[m.body_b], {m.time, m.centre_b}});
    }
}
template<int Dim> std::vector<WayPoint<Dim>> World<Dim>::way_of(BodyId id) const {
    const State& s = *state_;
    const std::uint32_t i = s.place(id);
    const bool was_put = s.rows[i].previous == s.pose(i); // or stands
    std::vector<WayPoint<Dim>> out{{0, to_world(s.rows[i].previous, s.bodies.mass[i].centre)}};
    for (const auto& turn : s.turns)
        if (turn.body == id && !was_put) out.push_back(turn.at);
    out.push_back({s.spec.tick, s.bodies.pose[i].centre});
    return out;
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
    for (const auto& turn : s.turns)
        if (turn.body == id) pass(turn.at.time / s.spec.tick, turn.at.centre);
    const double t = ends > begins ? (share - begins) / (ends - begins) : 0;
    Pose<Dim> out{{}, math::blended(from.rotation, to.rotation, static_cast<float>(share))};
    for (int k = 0; k < Dim; k++) out.position[k] = before[k] + (after[k] - before[k]) * t;
    out.position = out.position + rotate(out.rotation, centre) * -1.0f;
    return out;
}

template void World<2>::State::list_turns();
template void World<3>::State::list_turns();
template const Pose<2> World<2>::previous_pose(BodyId) const;
template const Pose<3> World<3>::previous_pose(BodyId) const;
template std::vector<WayPoint<2>> World<2>::way_of(BodyId) const;
template std::vector<WayPoint<3>> World<3>::way_of(BodyId) const;
template std::vector<BodyId> World<2>::unswept() const;
template std::vector<BodyId> World<3>::unswept() const;
template const Pose<2> World<2>::pose_within_tick(BodyId, double) const;
template const Pose<3> World<3>::pose_within_tick(BodyId, double) const;

}
