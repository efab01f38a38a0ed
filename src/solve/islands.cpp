#include "solve/islands.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// A contact may give way by this share of the thinner shape's thickness before its island takes more substeps.
// From the sweep in docs/decisions/contact-defaults.md.
constexpr float kMostGive = 1.5e-3f;
// How much more than its own weight a body gets to carry before anything is known of the load.
constexpr float kBearing = 1.0f;

}

template<int Dim> std::uint32_t Islands<Dim>::root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
}

// The root of an island is its lowest place, so that islands do not depend on the order of contacts.
template<int Dim>
void Islands<Dim>::join(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds) {
    parent_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < parent_.size(); i++) parent_[i] = i;
    touched_.assign(bodies.size(), 0);
    for (const auto& m : manifolds) {
        touched_[m.body_a]++, touched_[m.body_b]++;
        if (bodies.mass[m.body_a].inverse_mass == 0 || bodies.mass[m.body_b].inverse_mass == 0) continue;
        const std::uint32_t a = root(m.body_a), b = root(m.body_b);
        if (a < b) parent_[b] = a;
        else parent_[a] = b;
    }
}

// The acceleration that a contact's load would give the lighter body.
template<int Dim>
float Islands<Dim>::need(const flow::Bodies<Dim>& bodies, const flow::Manifold<Dim>& m,
                         const Vec<Dim>& gravity) const {
    const float a = bodies.mass[m.body_a].inverse_mass, b = bodies.mass[m.body_b].inverse_mass;
    float load = 0;
    for (int i = 0; i < m.count; i++) load += m.points[i].normal_force;
    float need = load * std::max(a, b);
    if (a > 0 && b > 0) {
        // A light body between a heavy one and another; not one that merely lies on the heavy one.
        const bool a_is_light = a > b;
        const float up = a_is_light ? -dot(m.normal, gravity) : dot(m.normal, gravity);
        const float g = length(gravity);
        const bool lies_on_it = up < -0.5f * g;
        if (touched_[a_is_light ? m.body_a : m.body_b] > 1 && !lies_on_it)
            need = std::max(need, kBearing * g * std::max(a, b) / std::min(a, b));
    }
    return need;
}

template<int Dim>
void Islands<Dim>::find(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                        const Vec<Dim>& gravity, float seconds, float give) {
    join(bodies, manifolds);
    doublings_.assign(bodies.moving, 0);
    for (const auto& m : manifolds) {
        const bool a_moves = bodies.mass[m.body_a].inverse_mass > 0;
        if (!a_moves && !(bodies.mass[m.body_b].inverse_mass > 0)) continue;
        float gives = give * need(bodies, m, gravity) * seconds * seconds;
        std::uint8_t doublings = 0;
        for (; doublings < kMostDoublings && gives > kMostGive * m.thickness; doublings++) gives *= 0.25f;
        std::uint8_t& of_island = doublings_[root(a_moves ? m.body_a : m.body_b)];
        of_island = std::max(of_island, doublings);
    }
    for (std::uint32_t i = 0; i < doublings_.size(); i++) doublings_[i] = doublings_[root(i)];
}

template class Islands<2>;
template class Islands<3>;

}
