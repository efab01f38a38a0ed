// Free motion: velocities from gravity, pushes and damping; poses from velocities.
// Stage solve. Reads and writes flow::Bodies; bodies that are not dynamic only move by their velocity.
//
// Linear motion is exact for a constant acceleration and damping (velocity) and of second order (position,
// exact without damping): a pose moves by the mean of the velocities before and after the substep. That mean
// is taken only for the part of the change that free motion made; what contacts took away stays away, so that
// nothing that rests is lifted. Turning in space keeps the angular momentum to rounding and has no drift of
// energy: implicit midpoint rule for Euler's equations (Hairer, Lubich, Wanner 2006, Geometric Numerical
// Integration, sect. VII.5). Tested by tests/solve/integrate_test.cpp against closed forms.
#pragma once

#include "flow/bodies.h"

#include <vector>

namespace astasis::solve {

template<int Dim> class Integrator {
public:
    // Prepares substeps of `seconds` each; damping and pushes are those of this tick.
    void begin_tick(const flow::Bodies<Dim>& bodies, const Vec<Dim>& gravity, double seconds);
    // Inverse inertia in world axes at the present poses.
    void turn_inertia(const flow::Bodies<Dim>& bodies);
    void advance_velocities(flow::Bodies<Dim>& bodies);
    void advance_poses(flow::Bodies<Dim>& bodies) const;

    const std::vector<math::Inertia<Dim>>& inverse_inertia() const { return inverse_inertia_; }
    // What gravity, pushes and damping added in the last advance_velocities().
    const std::vector<flow::Velocity<Dim>>& gained() const { return gained_; }
    // Velocities after it: what is changed here counts as free motion, not as pushed by contacts.
    std::vector<flow::Velocity<Dim>>& free() { return free_; }

private:
    struct Decay { // v becomes v * keep + a * seconds in a substep
        double keep, seconds;
    };
    static Decay decay_of(float damping, double seconds);
    Decay dragged(const flow::Bodies<Dim>& bodies, std::size_t i) const;

    Vec<Dim> gravity_{};
    double seconds_ = 0;
    std::size_t moving_ = 0;
    std::vector<Decay> linear_, angular_;
    std::vector<math::Inertia<Dim>> inverse_inertia_;
    std::vector<flow::Velocity<Dim>> gained_, free_;
};

extern template class Integrator<2>;
extern template class Integrator<3>;

}
