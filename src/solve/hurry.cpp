#include "solve/hurry.h"

#include "base/room.h"

#include <algorithm>
#include <cmath>
#include <iterator>

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
void Hurry<Dim>::join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds) {
    base::make_room(parent_, bodies.moving);
    parent_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = i;
    for (const auto& m : manifolds)
        if (moves(bodies, m.body_a) && moves(bodies, m.body_b)) parent_[root(m.body_b)] = root(m.body_a);
}

template<int Dim>
void Hurry<Dim>::measure(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                         std::span<const flow::Pair> pairs) {
    base::make_room(reach_, bodies.moving);
    reach_.assign(bodies.moving, 0);
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
}

template<int Dim>
void Hurry<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                      std::span<const std::uint32_t> moving, std::span<const flow::Pair> pairs,
                      std::span<const flow::Manifold<Dim>> manifolds, std::span<const flow::Pair> coming,
                      Around around) {
    join(bodies, manifolds);
    measure(bodies, colliders, pairs);
    base::make_room(marks_, bodies.moving);
    marks_.assign(bodies.moving, kCalm);
    for (const flow::Pair& pair : coming)
        for (const std::uint32_t c : {pair.a, pair.b})
            if (moves(bodies, colliders[c].body)) marks_[root(colliders[c].body)] = kFound;
    for (auto* v : {&asking_, &others_}) base::make_room(*v, moving.size()), v->clear();
    std::copy_if(moving.begin(), moving.end(), std::back_inserter(others_),
                 [&](std::uint32_t c) { return moves(bodies, colliders[c].body); });
    spread(bodies, colliders, around);
    for (std::uint32_t i = 0; i < parent_.size(); i++) marks_[i] = marks_[root(i)] != kCalm;
}

// What a hurried island may reach is hurried too, and may be sent off as fast. Whoever are fewer are asked:
// those that were found last, or all others.
template<int Dim>
void Hurry<Dim>::spread(const flow::Bodies<Dim>& bodies, std::span<const flow::Collider<Dim>> colliders,
                        Around around) {
    const auto mark_of = [&](std::uint32_t c) -> std::uint8_t& { return marks_[root(colliders[c].body)]; };
    const auto may_reach = [&](std::uint32_t asking, std::uint32_t other) {
        const auto &a = colliders[asking], &b = colliders[other];
        if (distance(a.bounds, b.bounds) > reach(a) + b.travel) return;
        const std::uint32_t i = root(b.body);
        marks_[i] = kFound, reach_[i] = std::max(reach_[i], reach_[root(a.body)]);
    };
    for (;;) {
        for (const std::uint32_t c : asking_) mark_of(c) = kHurried;
        asking_.clear();
        std::erase_if(others_, [&](std::uint32_t c) {
            if (mark_of(c) == kFound) asking_.push_back(c);
            return mark_of(c) != kCalm;
        });
        if (asking_.empty() || others_.empty()) return;
        float farthest = 0;
        for (const std::uint32_t c : asking_)
            mark_of(c) = kAsking, farthest = std::max(farthest, reach(colliders[c]));
        if (asking_.size() <= others_.size())
            for (const std::uint32_t c : asking_)
                around(c, reach(colliders[c]), [&](std::uint32_t other) {
                    if (moves(bodies, colliders[other].body) && mark_of(other) <= kFound) may_reach(c, other);
                });
        else
            for (const std::uint32_t other : others_)
                around(other, farthest + colliders[other].travel, [&](std::uint32_t c) {
                    if (moves(bodies, colliders[c].body) && mark_of(c) == kAsking) may_reach(c, other);
                });
    }
}

template class Hurry<2>;
template class Hurry<3>;

}
