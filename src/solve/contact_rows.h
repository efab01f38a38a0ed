// The contact constraints of a tick: non-penetration with position feedback, Coulomb friction, restitution.
// Stage solve, scalar form: manifolds one after another in their order (projected Gauss-Seidel), the points
// of each several times over, so that what rests on several points feels them as one face.
//
// A substep asks of each point, with relative normal velocity v and separation s:
//   s > 0: v >= -s/h, so that the gap closes but is not crossed;
//   s < 0: v >= push, where push = min(share |s|/h, limit) in the pass with feedback and 0 in the pass
//   without.
// Feedback is soft: of the accumulated impulse the share `leak` is given back, as an implicitly integrated
// spring and damper would (Baumgarte 1972; Anitescu and Potra 2002, eqs. of the time-stepping scheme with
// compliance). Friction stays in Coulomb's disc of the present normal impulse. Its step is one number for
// both tangents: the fixed point of a projected step is friction against the slip only if the step is along
// the slip. Restitution comes last in a substep, from the speed at which the surfaces met (see approach in
// contact_rows.cpp). Tested by tests/solve/ and tests/world/.
#pragma once

#include "flow/contacts.h"
#include "solve/impacts.h"
#include "math/small_matrix.h"

#include <span>

namespace astasis::solve {

// How contacts are solved. The shares are per substep and have no unit, so that they hold at any scale.
struct Tuning {
    // Share of the overlap that a substep takes back. Too low: piles sink; too high: they jitter.
    float share;
    // Share of the impulse that is given back. Too low: tall stacks rattle; too high: heavy things sink into
    // light ones.
    float leak;
    // How often a pass goes through the points of one manifold before the next. Too low: boxes rock on their
    // points and stacks wander; more costs time in proportion.
    int rounds;
    // The fastest push, in thicknesses of the thinner shape a second. Too low: what was spawned overlapping
    // stays so for long; too high: it bursts apart.
    float most_thicknesses_a_second;
};

// From the sweep in docs/decisions/contact-defaults.md.
inline constexpr Tuning kTuning{.share = 0.3f, .leak = 0.15f, .rounds = 8, .most_thicknesses_a_second = 4.0f};

template<int Dim> class ContactRows {
public:
    // Takes the manifolds of this tick; they must outlive the rows. Impulses in them are the warm start.
    void begin_tick(const flow::Bodies<Dim>& bodies, std::span<flow::Manifold<Dim>> manifolds,
                    const Tuning& tuning, double seconds);
    // Geometry at the present poses, and the speeds of approach before gravity acts.
    void refresh(const flow::Bodies<Dim>& bodies, const std::vector<math::Inertia<Dim>>& inverse_inertia);
    // The points that would meet within the substep, once free motion has changed the velocities.
    void find_impacts(const flow::Bodies<Dim>& bodies, const std::vector<flow::Velocity<Dim>>& gained,
                      std::vector<Suspect>& out) const;
    void warm_start(flow::Bodies<Dim>& bodies) const;
    void solve_pass(flow::Bodies<Dim>& bodies, bool with_feedback);
    void end_substep();

private:
    struct PointRow {
        Vec<Dim> arm_a, arm_b;
        float separation, normal_mass, friction_mass;
        float normal_impulse;
        math::Row<Dim - 1> friction_impulse;
    };
    struct Row {
        flow::Manifold<Dim>* manifold;
        Vec<Dim> normal;
        std::array<Vec<Dim>, Dim - 1> tangent;
        math::Inertia<Dim> inertia_a, inertia_b; // inverse
        Vec<Dim> mass_a, mass_b;                 // inverse, along each axis
        float most_push;
        std::array<PointRow, flow::kMostPoints<Dim>> points;
    };

    // Returns the change of the impulse.
    float solve_normal(const Row& row, PointRow& point, flow::Velocity<Dim>& a, flow::Velocity<Dim>& b,
                       bool with_feedback) const;
    static void solve_friction(const Row& row, PointRow& point, flow::Velocity<Dim>& a,
                               flow::Velocity<Dim>& b);
    static void solve_turning(Row& row, float load, flow::Velocity<Dim>& a, flow::Velocity<Dim>& b);
    static void apply_turning(const Row& row, const Axial<Dim>& impulse, flow::Velocity<Dim>& a,
                              flow::Velocity<Dim>& b);
    int rounds(int points) const { return points > 1 ? tuning_.rounds : 1; }
    static Vec<Dim> relative(const PointRow& point, const flow::Velocity<Dim>& a,
                             const flow::Velocity<Dim>& b);
    static void apply(const Row& row, const PointRow& point, const Vec<Dim>& impulse, flow::Velocity<Dim>& a,
                      flow::Velocity<Dim>& b);

    std::vector<Row> rows_;
    const flow::Manifold<Dim>* first_ = nullptr;
    Tuning tuning_{kTuning};
    float seconds_ = 0;
};

extern template class ContactRows<2>;
extern template class ContactRows<3>;

}
