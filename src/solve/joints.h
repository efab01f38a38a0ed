// Joints of one level through the substeps of a tick, solved directly.
// Stage solve. Reads and writes flow::Joint and the bodies' rows in the integrator.
//
// The joints of an assembly make one linear system, which is solved directly (solve/block_system.h): a chain
// is as stiff as one joint, whatever hangs from it. In each substep, with a velocity v and the gain g
// of free motion:
//   begin    the impulses of the substep before act again, as a part of g
//   correct  after the poses have moved by v - g/2: they are taken to the nearest ones, by their masses,
//   where
//            all that is held holds; half of each impulse now acts along the rows as they are there
//   settle   after contacts: impulses so that velocities agree with all rows; again after each of their
//            further passes
// For what only joints hold this is RATTLE (Andersen 1983; Hairer, Lubich, Wanner 2006, Geometric Numerical
// Integration, sect. VII.1.4), which is symplectic: swings keep their energy over thousands of periods. The
// impulse that takes poses to where it holds is a part of that, but of no body that precesses: along a thin
// rod the momentum of a small correction becomes a fast roll while the rod turns, and rods at 10 turns a
// second shake themselves to pieces. Springs are kicks at both ends of a substep whose strength makes the
// frequency of a single mass exact; damping takes a share of speed in settle.
//
// Bounded rows (stops, motors) are at a bound or solved: sets change until no row is beyond its bounds nor
// held back from where it would go (a pivoting scheme for the linear complementarity problem; Judice and
// Pires 1994).
//
// O(rows of the joints) a substep for chains and trees, and as much again a tick for each motor with a
// target; nothing is allocated while the joints stay. Tested by tests/world/joints_test.cpp.
#pragma once

#include "solve/block_system.h"
#include "solve/integrate.h"
#include "solve/joint_rows.h"

#include <span>
#include <vector>

namespace astasis::solve {

inline constexpr double kInfinite = 1e300; // an impulse without a bound

template<std::size_t N> double product(const std::array<double, N>& a, const std::array<double, N>& b) {
    double sum = 0;
    for (std::size_t k = 0; k < N; k++) sum += a[k] * b[k];
    return sum;
}

template<std::size_t N> void add(std::array<double, N>& to, const std::array<double, N>& what, double times) {
    for (std::size_t k = 0; k < N; k++) to[k] += what[k] * times;
}

template<int Dim> class JointSolver {
public:
    // Takes over those of `joints` that `which` names, whose bodies stand in `rows` of the integrator, 0 for
    // what never moves; and finds their rows. `further` says of each whether its island has further passes.
    void begin_tick(std::vector<flow::Joint<Dim>>& joints, std::span<const std::uint32_t> which,
                    std::span<const std::uint8_t> further, const flow::Bodies<Dim>& bodies,
                    std::span<const std::uint32_t> rows, const Integrator<Dim>& integrator, double seconds);
    bool is_empty() const { return joints_.empty(); }
    void begin(Integrator<Dim>& integrator);
    void correct(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator);
    void settle(Integrator<Dim>& integrator, bool is_first);
    void end(); // of a substep
    // Writes loads and positions into the joints.
    void end_tick(std::vector<flow::Joint<Dim>>& joints, int substeps);
    // The work of its motors on the bodies in this tick, J.
    double motor_work() const { return motor_work_; }
    // Multiplications of a factoring, for prices.
    std::uint64_t work() const { return system_.work(); }

private:
    static constexpr std::size_t kDof = static_cast<std::size_t>(kFreedoms<Dim>);
    static constexpr std::uint32_t kFixed = 0; // the body that never moves

    struct Body {
        std::uint32_t row = 0, place = 0;
        Lever<Dim> v{};
        std::array<double, Dim> inverse_mass{};
        std::array<double, Dim == 2 ? 1 : 9> inverse_inertia{};
        WidePose<Dim> pose{};
        double size = 1;        // smallest width, m
        bool precesses = false; // its spin changes as it turns
    };
    struct Row {                       // beside what it is
        Lever<Dim> over_a{}, over_b{}; // a and b over the inertia
        double own = 0;                // what a unit impulse changes of its speed
        double moves = 0;              // of a motor with a target: the same with all that is joined to it
        double soft = 0;               // impulse times it is the speed by which the row gives way to damping
        double pull = 0;               // half of a spring's impulse in a substep, per m or rad
        double impulse = 0, before = 0, first = 0, least = 0, most = 0, wanted = 0;
        double stop = 0;           // of a range: the nearer one
        double speed = 0;          // of a motor, at the end of the substep before
        double moved = 0;          // impulse that took poses to where it holds
        double untold = 0;         // impulse along the row as it is that the joint's load has yet to count
        double last = 0, left = 0; // position before the substep, and the error that was left there
        bool is_soft = false, is_bounded = false, is_free = true;
    };
    struct Held {                   // a joint
        std::uint32_t joint, a, b;  // its index, and its bodies here
        std::uint32_t first, count; // its rows
        // Whether the world holds it; nothing of it is bounded; it is settled again after further passes.
        bool fixed_b, is_plain, further, precesses;
        double most_back; // of an error, in a substep, m
        Lever<Dim> sum{}; // impulse on the first body in this tick, turning about its anchor
        math::Wide<Dim> arm_a{};
        std::array<double, 3> motor{}, stop{};
    };

    std::uint32_t body_of(std::uint32_t place, const flow::Bodies<Dim>& bodies,
                          std::span<const std::uint32_t> rows);
    void find_structure();
    void read_masses(const Integrator<Dim>& integrator);
    void find_rows_anew(Held& h);
    void begin_motors(const Integrator<Dim>& integrator);
    bool find_moves(std::size_t part);
    bool part_from_stop(const Held& h, std::uint32_t n);
    void soften(std::uint32_t n);
    WidePose<Dim> pose_b(const Held& h) const;
    double speed(const Held& h, std::uint32_t n) const {
        return product(is_[n].a, bodies_[h.a].v) + product(is_[n].b, bodies_[h.b].v);
    }
    void give(const Held& h, std::uint32_t n, double impulse) {
        add(bodies_[h.a].v, rows_[n].over_a, impulse), add(bodies_[h.b].v, rows_[n].over_b, impulse);
    }
    // Of all rows of a part in its order: visit(joint, row's number).
    template<typename Visit> void for_rows(std::size_t part, const Visit& visit) {
        for (const std::uint32_t j : system_.blocks_of(part)) {
            const Held& h = joints_[j];
            for (std::uint32_t n = h.first; n < h.first + h.count; n++) visit(h, n);
        }
    }
    void load(const Integrator<Dim>& integrator);
    void store(Integrator<Dim>& integrator, bool as_gain = false);
    double error_of(const Held& h, std::uint32_t n);
    void choose_stop(std::uint32_t n);
    bool meet_stop(std::uint32_t n);
    void want_speed(const Held& h, std::uint32_t n);
    void read_poses(const Integrator<Dim>& integrator);
    void project_poses(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator);
    void move_poses(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator);
    double find_errors(std::size_t part, bool& is_smooth);
    void turn_half();
    void solve_part(std::size_t part);
    void solve_plainly(std::size_t part);
    void fill(std::size_t part);
    template<std::uint32_t N> void fill_own(const Held& p, double* to) const;
    template<std::uint32_t N> void fill_pair(const Held& p, const Held& q, double* to) const;
    void leave_out_bounded(const Held& p, const Held& q, double* to) const;
    bool change_sets(std::size_t part, bool one_only);
    void foresee(std::uint32_t n);
    void add_load(Held& h);

    const std::vector<flow::Joint<Dim>>* all_ = nullptr;
    double seconds_ = 0, motor_work_ = 0;
    bool any_further_ = false;
    std::vector<Body> bodies_;
    std::vector<JointRow<Dim>> is_;
    std::vector<Row> rows_; // beside each of them
    std::vector<Held> joints_;
    std::vector<std::uint32_t> here_; // of each row of the integrator: its body here, 0 if it has none
    std::vector<Lever<Dim>> before_;  // velocities as they were loaded
    std::vector<double> x_;
    std::vector<std::uint8_t> plain_; // of each part: whether nothing of it is bounded
    JointAxes<Dim> axes_;             // of the joint whose rows were found last
    BlockSystem system_;
    // The structure for which the system stands.
    struct Shape {
        std::uint32_t a, b, count;
        friend bool operator==(const Shape&, const Shape&) = default;
    };
    std::vector<Shape> shape_, shape_before_;
};

extern template class JointSolver<2>;
extern template class JointSolver<3>;

}
