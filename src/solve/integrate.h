// Free motion: velocities from gravity, pushes and damping; poses from velocities.
// Stage solve. Bodies that are not dynamic only move by their velocity.
//
// Linear motion is exact for a constant acceleration and damping (velocity) and of second order (position,
// exact without damping): a pose moves by the mean of the velocities before and after the substep. That mean
// is taken only for the part of the change that free motion made; what contacts took away stays away, so that
// nothing that rests is lifted. Turning in space keeps the angular momentum to rounding at any spin, and the
// energy too of what is round about an axis, like a rod; that of other bodies swings by the square of the
// turn of a substep, without drift: flows that are known exactly, one after the other and back (Hairer,
// Lubich, Wanner 2006, Geometric Numerical Integration, sect. VII.5; solve/motion_kernels.inl.h). All in
// double, since what rounding loses in a substep adds up. Motion is summed up from the start of the tick and
// added to the pose at its end, so that little ways keep their digits. Tested by
// tests/solve/integrate_test.cpp against closed forms.
#pragma once

#include "flow/bodies.h"
#include "math/wide.h"
#include "solve/aligned.h"
#include "solve/contact_kernels.h"
#include "solve/motion_kernels.h"

#include <array>
#include <bit>
#include <cstddef>
#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> class Integrator {
public:
    explicit Integrator(simd::InstructionSet set)
        : kernels_(&motion_kernels<Dim>(set)),
          lane_bits_(std::countr_zero(static_cast<unsigned>(kernels_->lanes))) {}
    // Takes bodies over for substeps of `seconds` each, in rows from 1 on in their order; row 0 never moves.
    // Damping and pushes are those of this tick; `speeding` is by how much velocities of what nothing can
    // push grow in a second, by place.
    void begin(const flow::Bodies<Dim>& bodies, std::span<const std::uint32_t> which, const Vec<Dim>& gravity,
               double seconds, std::span<const flow::Velocity<Dim>> speeding = {});
    void advance_velocities(const flow::Bodies<Dim>& bodies);
    void advance_poses(const flow::Bodies<Dim>& bodies);
    // Writes the bodies' present poses and velocities into the columns.
    void show(flow::Bodies<Dim>& bodies);
    void show(flow::Bodies<Dim>& bodies, std::size_t row);
    flow::CentrePose<Dim> pose(std::size_t row) const;
    // At the start of the tick.
    const flow::CentrePose<Dim>& start(std::size_t row) const { return start_[row]; }
    // After advance_poses(), before which the body had this velocity: it came only as far as the pose, after
    // `seconds` of the substep, and has gained no more in it.
    void stop(const flow::Bodies<Dim>& bodies, std::size_t row, const flow::CentrePose<Dim>& pose,
              const flow::Velocity<Dim>& velocity, double seconds);
    // A body loses all but a share of its velocity.
    void slow(std::size_t row, float share);
    // A body was hit within the substep: its velocity now, and the pose from which it sets out in the
    // substep, instead of that in the columns. Both count as free motion, not as pushed by contacts. What is
    // not round would have another energy at another pose: it takes its spin along, as it is in its own
    // frame, unless the velocity is that at the new pose.
    void redirect(const flow::Bodies<Dim>& bodies, std::size_t row, const flow::Velocity<Dim>& velocity,
                  const flow::CentrePose<Dim>& pose, bool keeps_spin);

    // Good until the next advance_velocities().
    BodyRows rows() {
        return {velocity_.data(), gained_.data(), moved_.data(), inertia_.data(), most_gained_};
    }
    std::size_t row_count() const { return body_.size() + 1; }
    flow::Velocity<Dim> velocity(std::size_t row) const { return read(velocity_, row); }
    // Its displacement since the start of the tick.
    Vec<Dim> displacement(std::size_t row) const {
        const float* f = moved_.data() + row * static_cast<std::size_t>(Layout<Dim>::kRow);
        if constexpr (Dim == 2) return {f[0], f[1]};
        else return {f[0], f[1], f[2]};
    }
    // The velocity that gravity, pushes and damping added in the last advance_velocities().
    flow::Velocity<Dim> gained(std::size_t row) const { return read(gained_, row); }
    // For fields: a push beside those of the columns, from the next advance_velocities() on, and one that
    // follows from the velocity, which drags. With as_end the change of the first also acts half as long at
    // once, as of a force that has changed evenly over the substep.
    void set_field(const flow::Bodies<Dim>& bodies, std::size_t row, const flow::Push<Dim>& push,
                   const flow::Push<Dim>& drag, bool as_end);
    // For hooks, before advance_velocities(): a push through the substep beside the others, and a velocity
    // through it in the place of what free motion would give.
    void push_once(std::size_t row, const flow::Push<Dim>& push) {
        pushed_.push_back({row, push, velocity(row)});
    }
    void give(std::size_t row, const flow::Velocity<Dim>& v); // the last counts
    double given_work() const { return given_work_; }         // of both in this tick, J
    // For joints, which are solved in double: a velocity with its remainder, linear and then angular; and
    // where a body is. What is written as a gain counts as free motion: the pose moves by half of it.
    static constexpr std::size_t kSpeeds = static_cast<std::size_t>(MotionLayout<Dim>::kSpeeds);
    using Speeds = std::array<double, kSpeeds>;
    void read_wide(std::size_t row, Speeds& velocity) const;
    void write_wide(std::size_t row, const Speeds& velocity, bool as_gain);
    math::Wide<Dim> wide_centre(std::size_t row) const;
    math::Turn<Dim> wide_turn(std::size_t row) const;
    // After advance_poses(): takes a pose farther by a way and a small turn, m and rad about the world's
    // axes, and leaves the velocity. The turn is exact to its third order.
    void move_on(const flow::Bodies<Dim>& bodies, std::size_t row, const Speeds& way);
    // Rows of bodies that may be off their paths when the substep that begins at `time` ends, or may be swept
    // in it; there is a path a row, and more up to whole groups.
    std::span<const Watched> watch(std::span<const Path> paths, float time);
    std::size_t padded_row_count() const { return static_cast<std::size_t>(groups()) * lanes(); }
    // In world axes, at the present pose.
    math::Inertia<Dim> inverse_inertia(std::size_t row) const;

private:
    using M = MotionLayout<Dim>;
    struct Decay { // v becomes v * (1 + lost) + a * seconds in a substep
        double lost, seconds;
    };
    // The fields of one body.
    template<typename Double> struct LaneOf {
        Double* first;
        std::ptrdiff_t stride;
        Double& operator[](int field) const { return first[field * stride]; }
    };
    using Lane = LaneOf<double>;
    struct Pushed {
        std::size_t row;
        flow::Push<Dim> push;
        flow::Velocity<Dim> before;
    };
    struct Given {
        std::size_t row;
        flow::Velocity<Dim> velocity, before;
    };
    static Decay decay_of(float damping, double seconds);
    void add_pushed(const flow::Bodies<Dim>& bodies);
    void end_pushed(const flow::Bodies<Dim>& bodies);
    void set_given(const flow::Bodies<Dim>& bodies);
    flow::Push<Dim> push_of(const flow::Bodies<Dim>& bodies, std::size_t row) const;
    Decay dragged(const flow::Bodies<Dim>& bodies, std::size_t row, const Vec<Dim>& v) const;
    void make_room(std::size_t rows);
    void fill(const flow::Bodies<Dim>& bodies, std::size_t row);
    void push_linear(const flow::Bodies<Dim>& bodies, std::size_t row, const Decay& decay);
    void push_angular(const flow::Bodies<Dim>& bodies, std::size_t row);
    void turn_inertia(const flow::Bodies<Dim>& bodies, std::size_t row);
    static flow::Velocity<Dim> read(const Floats& floats, std::size_t row) {
        const float* f = floats.data() + row * static_cast<std::size_t>(Layout<Dim>::kRow);
        if constexpr (Dim == 2) return {{f[0], f[1]}, f[2]};
        else return {{f[0], f[1], f[2]}, {f[4], f[5], f[6]}};
    }
    static void write(Floats& floats, std::size_t row, const flow::Velocity<Dim>& v);
    void write_inertia(std::size_t row, const math::Inertia<Dim>& inverse);
    void write_moved(std::size_t row);
    void put(std::size_t row, const flow::CentrePose<Dim>& pose);
    Lane lane(std::size_t row) {
        return {fields_.data() + first_field(row), std::ptrdiff_t{1} << lane_bits_};
    }
    LaneOf<const double> lane(std::size_t row) const {
        return {fields_.data() + first_field(row), std::ptrdiff_t{1} << lane_bits_};
    }
    // A division by the number of lanes would cost more than what is done with them.
    std::size_t first_field(std::size_t row) const {
        const std::size_t group = row >> lane_bits_;
        return ((group * M::kFields) << lane_bits_) + (row - (group << lane_bits_));
    }
    Point<Dim> place(std::size_t row) const; // since the start of the tick
    auto turn(std::size_t row) const;        // since the start of the tick
    Rotation<Dim> rotation(std::size_t row) const;
    int groups() const { return static_cast<int>((row_count() + lanes() - 1) / lanes()); }
    std::size_t lanes() const { return static_cast<std::size_t>(kernels_->lanes); }
    MotionRows motion_rows() { return {velocity_.data(), gained_.data(), moved_.data(), inertia_.data()}; }

    const MotionKernels<Dim>* kernels_;
    int lane_bits_; // lanes are a power of two
    Vec<Dim> gravity_{};
    double seconds_ = 0;
    std::vector<std::uint32_t> body_; // of row 1 and on
    // Rows whose motion hangs on their velocity or pose by more than the kernels know.
    std::vector<std::uint32_t> dragged_, twisted_, locked_;
    std::vector<flow::CentrePose<Dim>> start_; // of the tick
    std::vector<Watched> watched_;
    Doubles fields_;
    std::vector<flow::Push<Dim>> field_pushes_, field_drags_; // by row; empty without fields
    std::vector<Pushed> pushed_;                              // by hooks, in this substep
    std::vector<Given> given_;
    std::vector<std::uint32_t> given_at_; // by row: its place in the list, from 1, or 0
    double given_work_ = 0;
    MostGained most_gained_;
    Floats velocity_, gained_, moved_, inertia_;
};

extern template class Integrator<2>;
extern template class Integrator<3>;

}
