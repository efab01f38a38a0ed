#include "solve/hurry.h"

#include "base/room.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

template<int Dim> bool moves(const flow::Bodies<Dim>& bodies, std::uint32_t i) {
    return i < bodies.moving && bodies.mass[i].inverse_mass > 0;
}

// Of their bounds, along the axis where they are farthest apart.
template<int Dim> double distance(const Bounds<Dim>& a, const Bounds<Dim>& b) {
    double out = 0;
    for (int k = 0; k < Dim; k++) out = std::max({out, a.low[k] - b.high[k], b.low[k] - a.high[k]});
    return out;
}

}

template<int Dim> std::uint32_t Hurry<Dim>::root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
}

template<int Dim>
void Hurry<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                      std::span<const flow::Pair> pairs, std::span<const flow::Manifold<Dim>> manifolds,
                      std::span<const flow::Pair> coming) {
    base::make_room(parent_, bodies.moving), base::make_room(reach_, bodies.moving);
    base::make_room(marks_, bodies.moving);
    parent_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = i;
    marks_.assign(bodies.moving, 0), reach_.assign(bodies.moving, 0);
    for (const auto& m : manifolds)
        if (moves(bodies, m.body_a) && moves(bodies, m.body_b)) parent_[root(m.body_b)] = root(m.body_a);
    for (const flow::Pair& pair : pairs) {
        const auto &a = colliders[pair.a], &b = colliders[pair.b];
        const bool a_moves = moves(bodies, a.body), b_moves = moves(bodies, b.body);
        const auto goes = [&](std::uint32_t body, float way) {
            float& reach = reach_[root(body)];
            reach = std::max(reach, way);
        };
        if (a_moves) goes(a.body, b_moves ? a.travel : std::max(a.travel, b.travel));
        if (b_moves) goes(b.body, a_moves ? b.travel : std::max(a.travel, b.travel));
    }
    for (const flow::Pair& pair : coming)
        for (const std::uint32_t c : {pair.a, pair.b})
            if (moves(bodies, colliders[c].body)) marks_[root(colliders[c].body)] = 1;
    spread(bodies, colliders, pairs);
    for (std::uint32_t i = 0; i < parent_.size(); i++)
        marks_[i] = marks_[root(i)], reach_[i] = reach_[root(i)];
    count_ = static_cast<std::size_t>(std::count(marks_.begin(), marks_.end(), 1));
}

// What a hurried island may reach is hurried too, and may be sent off as fast.
template<int Dim>
void Hurry<Dim>::spread(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                        std::span<const flow::Pair> pairs) {
    for (bool again = true; again;) {
        again = false;
        for (const flow::Pair& pair : pairs) {
            const auto &a = colliders[pair.a], &b = colliders[pair.b];
            if (!moves(bodies, a.body) || !moves(bodies, b.body)) continue;
            const std::uint32_t i = root(a.body), j = root(b.body);
            if (marks_[i] == marks_[j]) continue;
            const std::uint32_t hurried = marks_[i] ? i : j, other = marks_[i] ? j : i;
            if (distance(a.bounds, b.bounds) > kMostGained * reach_[hurried] + reach_[other]) continue;
            marks_[other] = 1;
            reach_[other] = std::max(reach_[other], reach_[hurried]);
            again = true;
        }
    }
}

template class Hurry<2>;
template class Hurry<3>;

}
