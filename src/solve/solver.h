// One tick of solving: substeps of velocities, contacts and poses.
// Stage solve. Reads gravity and pushes; reads and writes bodies and the manifolds' impulses and separations.
//
// A substep integrates velocities, warm-starts, makes one pass with position feedback, integrates poses,
// makes one pass without feedback, then restitution (Macklin et al. 2019, Small Steps in Physics Simulation;
// Stewart and Trinkle 1996; Anitescu and Potra 1997). Manifolds are found once a tick and re-evaluated each
// substep. O(substeps (bodies + points)) time; no allocation once warm. Tested by
// tests/world/mechanics_test.cpp.
#pragma once

#include "solve/contact_rows.h"
#include "solve/impacts.h"
#include "solve/integrate.h"

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
    void solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
               std::span<flow::Manifold<Dim>> manifolds);

private:
    Integrator<Dim> integrator_;
    ContactRows<Dim> contacts_;
    Impacts<Dim> impacts_;
    std::vector<Suspect> suspects_;
};

extern template class Solver<2>;
extern template class Solver<3>;

}
