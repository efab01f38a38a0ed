#include "solve/solver.h"

namespace astasis::solve {

template<int Dim>
void Solver<Dim>::solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
                        std::span<flow::Manifold<Dim>> manifolds) {
    const double seconds = settings.tick / settings.substeps;
    integrator_.begin_tick(bodies, settings.gravity, seconds);
    contacts_.begin_tick(bodies, manifolds, settings.tuning, seconds);
    for (int i = 0; i < settings.substeps; i++) {
        integrator_.turn_inertia(bodies);
        contacts_.refresh(bodies, integrator_.inverse_inertia());
        integrator_.advance_velocities(bodies);
        contacts_.add_approach(integrator_.gained());
        contacts_.warm_start(bodies);
        contacts_.solve_pass(bodies, true);
        integrator_.advance_poses(bodies);
        contacts_.solve_pass(bodies, false);
        contacts_.restitute(bodies);
        contacts_.end_substep();
    }
}

template class Solver<2>;
template class Solver<3>;

}
