// One tick of solving: substeps of velocities, contacts and poses.
// Stage solve. Reads gravity and pushes; reads and writes bodies and the manifolds' forces and separations.
//
// A substep integrates velocities, turns back what meets within it, warm-starts, makes one pass with position
// feedback, integrates poses, and makes one pass without feedback, or several where contacts have yet to find
// their load (Macklin et al. 2019, Small Steps in Physics Simulation; Stewart and Trinkle 1996; Anitescu and
// Potra 1997). Manifolds are found once a tick and re-evaluated each substep. Islands that need more substeps
// than others take two to sixteen times as many; why, and against what this was measured:
// docs/decisions/solver.md. O(substeps (bodies + points)) time; no
// allocation once warm. Tested by tests/world/mechanics_test.cpp, driven_test.cpp and the cases of
// tests/fidelity/.
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
    // By how much velocities of what nothing can push grow in a second, by the body's place; or none.
    std::span<const flow::Velocity<Dim>> speeding{};
};

// Which of the moving bodies: those with a mark, by place; all if there are no marks. What others cannot move
// goes with any.
struct Whom {
    std::span<const std::uint8_t> marks{};
    std::uint8_t mark = 0;

    bool includes(std::uint32_t i) const { return marks.empty() || marks[i] == mark; }
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
    // The manifolds are all those of the bodies concerned, and no others.
    void solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
               std::span<flow::Manifold<Dim>> manifolds, const Whom& whom = {});
    // How hard a moving body's island was solved last, by the body's place.
    std::span<const Effort> efforts() const { return islands_.efforts(); }
    // The lowest place in the island of each moving body when it was last solved.
    std::span<const std::uint32_t> islands() const { return island_of_; }

private:
    void pick(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              const Whom& whom, const Effort& effort);
    void run(const Settings<Dim>& settings, const Effort& effort, flow::Bodies<Dim>& bodies,
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
    struct Unpushed { // what others cannot move, where it began
        flow::CentrePose<Dim> pose;
        flow::Velocity<Dim> velocity, remainder;
    };
    std::vector<Unpushed> kinematic_;
    std::vector<std::uint32_t> island_of_;
    std::vector<Suspect> suspects_;
    std::vector<std::uint32_t> struck_; // manifolds of what impacts moved
    std::vector<flow::Velocity<Dim>> gained_;
    std::vector<math::Inertia<Dim>> inverse_inertia_;
};

extern template class Solver<2>;
extern template class Solver<3>;

}
