// One tick of solving: substeps of velocities, contacts and poses.
// Stage solve. Reads gravity and pushes; reads and writes bodies and the manifolds' forces and separations.
//
// A substep integrates velocities, turns back what meets within it, warm-starts, makes one pass with position
// feedback, integrates poses, and makes one pass without feedback (Macklin et al. 2019, Small Steps in
// Physics Simulation; Stewart and Trinkle 1996; Anitescu and Potra 1997). Manifolds are found once a tick and
// re-evaluated each substep. Islands that need more substeps than others take two to sixteen times as many;
// why, and against what this was measured: docs/decisions/solver.md. O(substeps (bodies + points)) time; no
// allocation once warm. Tested by tests/world/mechanics_test.cpp and the cases of tests/fidelity/.
#pragma once

#include "solve/contact_groups.h"
#include "solve/impacts.h"
#include "solve/integrate.h"
#include "solve/islands.h"

#include <span>

namespace astasis::solve {

template<int Dim> struct Settings {
    Vec<Dim> gravity{};
    double tick = 0;
    int substeps = 1;
    Tuning tuning = kTuning;
};

template<int Dim> class Solver {
public:
    explicit Solver(simd::InstructionSet set = simd::best()) : set_(set), integrator_(set), contacts_(set) {}
    // Nothing is kept from tick to tick but room: a copy begins without any, so that snapshots are small.
    Solver(const Solver& other) : Solver(other.set_) {}
    Solver& operator=(const Solver& other) {
        if (set_ != other.set_) *this = Solver(other.set_);
        return *this;
    }
    Solver(Solver&&) noexcept = default;
    Solver& operator=(Solver&&) noexcept = default;
    ~Solver() = default;
    void solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
               std::span<flow::Manifold<Dim>> manifolds);
    // How often the substeps of a moving body's island were doubled in the last tick, by the body's place.
    std::span<const std::uint8_t> doublings() const { return islands_.doublings(); }
    // The lowest place in the island of each body that moved in the last tick.
    std::span<const std::uint32_t> islands() const { return islands_.roots(); }

private:
    void pick(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds, int doublings);
    void run(const Settings<Dim>& settings, int substeps, flow::Bodies<Dim>& bodies,
             std::span<flow::Manifold<Dim>> manifolds);
    void turn_back(float seconds, flow::Bodies<Dim>& bodies, std::span<flow::Manifold<Dim>> manifolds);

    simd::InstructionSet set_;
    flow::ContactLists lists_;
    Islands<Dim> islands_;
    Integrator<Dim> integrator_;
    ContactGroups<Dim> contacts_;
    Impacts<Dim> impacts_;
    // Of the islands that are being solved: bodies in the order of their rows, manifolds; the row of each
    // body.
    std::vector<std::uint32_t> bodies_, manifolds_, rows_;
    std::vector<flow::CentrePose<Dim>> kinematic_;
    std::vector<Suspect> suspects_;
    std::vector<flow::Velocity<Dim>> gained_;
    std::vector<math::Inertia<Dim>> inverse_inertia_;
};

extern template class Solver<2>;
extern template class Solver<3>;

}
