// Manifolds as the edges of the graph of bodies: what stages ask of all of them again and again, apart from
// the manifolds themselves, which are large. O(manifolds).
#pragma once

#include "flow/contacts.h"

#include <algorithm>
#include <span>

namespace astasis::flow {

struct Edge {
    std::uint32_t body_a = 0, body_b = 0;
    float thickness = 0;
    float nearest = 1e30f; // the least separation of its points, m
    float force = 0;       // along the normal, of all points, N
    std::uint8_t count = 0;
    bool touches = false; // some point does, or carried a load
};

template<int Dim> void find_edges(std::span<const Manifold<Dim>> manifolds, std::vector<Edge>& out) {
    out.clear();
    for (const auto& m : manifolds) {
        Edge e{m.body_a, m.body_b, m.thickness};
        e.count = m.count;
        for (std::size_t i = 0; i < m.count; i++) {
            const auto& p = m.points[i];
            e.nearest = std::min(e.nearest, p.separation), e.force += p.normal_force;
            e.touches = e.touches || p.separation <= 0 || p.normal_force > 0;
        }
        out.push_back(e);
    }
}

}
