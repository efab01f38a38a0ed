#include "solve/solver.h"

namespace astasis::solve {

template<int Dim>
void Solver<Dim>::solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
                        std::span<flow::Manifold<Dim>> manifolds) {
    const double seconds = settings.tick / settings.substeps;
    integrator_.begin_tick(bodies, settings.gravity, seconds);
    contacts_.begin_tick(bodies, manifolds, settings.tuning, seconds);
    impacts_.begin_tick();
    for (int i = 0; i < settings.substeps; i++) {
        integrator_.turn_inertia(bodies);
        contacts_.refresh(bodies, integrator_.inverse_inertia());
        integrator_.advance_velocities(bodies);
        contacts_.find_impacts(bodies, integrator_.gained(), suspects_);
        if (impacts_.resolve(bodies, manifolds, integrator_.gained(), integrator_.free(),
                             integrator_.inverse_inertia(), static_cast<float>(seconds), suspects_))
            contacts_.refresh(bodies, integrator_.inverse_inertia());
        contacts_.warm_start(bodies);
        contacts_.solve_pass(bodies, true);
        integrator_.advance_poses(bodies);
        contacts_.solve_pass(bodies, false);
        contacts_.end_substep();
    }
}

template class Solver<2>;
template class Solver<3>;

}
