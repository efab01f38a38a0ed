// Free motion: velocities from gravity, pushes and damping; poses from velocities.
// Stage solve. Bodies that are not dynamic only move by their velocity.
//
// Linear motion is exact for a constant acceleration and damping (velocity) and of second order (position,
// exact without damping): a pose moves by the mean of the velocities before and after the substep. That mean
// is taken only for the part of the change that free motion made; what contacts took away stays away, so that
// nothing that rests is lifted. Turning in space keeps the angular momentum to rounding and has no drift of
// energy: implicit midpoint rule for Euler's equations (Hairer, Lubich, Wanner 2006, Geometric Numerical
// Integration, sect. VII.5). Motion is summed up from the start of the tick and added to the pose at its end,
// so that little ways keep their digits. Tested by tests/solve/integrate_test.cpp against closed forms.
#pragma once

#include "flow/bodies.h"
#include "solve/aligned.h"
#include "solve/contact_kernels.h"

#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> class Integrator {
public:
    // Takes bodies over for substeps of `seconds` each, in rows from 1 on in their order; row 0 never moves.
    // Damping and pushes are those of this tick.
    void begin(const flow::Bodies<Dim>& bodies, std::span<const std::uint32_t> which, const Vec<Dim>& gravity,
               double seconds);
    // Inverse inertia in world axes at the present poses.
    void turn_inertia(const flow::Bodies<Dim>& bodies);
    void advance_velocities(flow::Bodies<Dim>& bodies);
    void advance_poses(flow::Bodies<Dim>& bodies);
    // Where the bodies are now and how they move, into the columns.
    void show(flow::Bodies<Dim>& bodies) const;
    void show(flow::Bodies<Dim>& bodies, std::size_t row) const;
    // A body was turned back within the substep: its velocity now, and the shift of the place from which it
    // set out. Both count as free motion, not as pushed by contacts.
    void redirect(const flow::Bodies<Dim>& bodies, std::size_t row, const flow::Velocity<Dim>& velocity,
                  const flow::Velocity<Dim>& shift);

    BodyRows rows() { return {velocity_.data(), gained_.data(), moved_.data(), inertia_.data()}; }
    std::size_t row_count() const { return body_.size() + 1; }
    flow::Velocity<Dim> velocity(std::size_t row) const { return read(velocity_, row); }
    // What gravity, pushes and damping added in the last advance_velocities().
    flow::Velocity<Dim> gained(std::size_t row) const { return read(gained_, row); }
    const math::Inertia<Dim>& inverse_inertia(std::size_t row) const { return inverse_inertia_[row]; }

private:
    struct Decay { // v becomes v * keep + a * seconds in a substep
        double keep, seconds;
    };
    struct Way { // since the start of the tick
        flow::CentrePose<Dim> start{};
        Point<Dim> place{};
        Rotation<Dim> turn{};
    };
    static Decay decay_of(float damping, double seconds);
    Decay dragged(const flow::Bodies<Dim>& bodies, std::size_t i, const Vec<Dim>& v) const;
    static flow::Velocity<Dim> read(const Floats& floats, std::size_t row);
    static void write(Floats& floats, std::size_t row, const flow::Velocity<Dim>& v);
    void write_way(std::size_t row);
    Rotation<Dim> rotation(std::size_t row) const;

    Vec<Dim> gravity_{};
    double seconds_ = 0;
    std::vector<std::uint32_t> body_; // of row 1 and on
    std::vector<Decay> linear_, angular_;
    std::vector<Way> way_;
    std::vector<math::Inertia<Dim>> inverse_inertia_;
    std::vector<flow::Velocity<Dim>> free_;
    Floats velocity_, gained_, moved_, inertia_;
};

extern template class Integrator<2>;
extern template class Integrator<3>;

}
