#include "solve/solver.h"

#include "base/room.h"

#include <cmath>

namespace astasis::solve {
namespace {

// Without feedback, for islands whose contacts have yet to find their load.
constexpr int kPassesUnsettled = 4;

// More substeps make contacts stiffer by their square. Push and give are lowered a little with them: as they
// are for the world's own substeps, 1:10000 bursts; in proportion to the substep, heaps of tubes never rest
// (docs/decisions/solver.md).
Tuning softer(const Tuning& tuning, int substeps, int more) {
    const float ratio = std::sqrt(std::sqrt(static_cast<float>(substeps) / static_cast<float>(more)));
    Tuning out = tuning;
    out.share *= ratio;
    const float given = tuning.leak / (1 - tuning.leak) * ratio;
    out.leak = given / (1 + given);
    return out;
}

}

// The islands that take this effort. Bodies that others cannot move are in all of them.
template<int Dim>
void Solver<Dim>::pick(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                       const Whom& whom, const Effort& effort) {
    const auto of = islands_.efforts();
    const auto is_ours = [&](std::uint32_t i) { return bodies.mass[i].inverse_mass > 0 && of[i] == effort; };
    bodies_.clear(), manifolds_.clear();
    flow::begin_column(rows_, bodies, manifolds, 0);
    for (std::uint32_t i = 0; i < bodies.moving; i++) {
        if (bodies.mass[i].inverse_mass > 0 && (of[i] != effort || !whom.includes(i))) continue;
        bodies_.push_back(i);
        rows_[i] = static_cast<std::uint32_t>(bodies_.size());
    }
    for (std::uint32_t i = 0; i < manifolds.size(); i++)
        if (is_ours(manifolds[i].body_a) || is_ours(manifolds[i].body_b)) manifolds_.push_back(i);
}

template<int Dim>
void Solver<Dim>::solve(const Settings<Dim>& settings, flow::Bodies<Dim>& bodies,
                        std::span<flow::Manifold<Dim>> manifolds, const Whom& whom) {
    const auto seconds = static_cast<float>(settings.tick / settings.substeps);
    const float give = settings.tuning.leak / ((1 - settings.tuning.leak) * settings.tuning.share);
    lists_.find(bodies, manifolds);
    islands_.find(bodies, manifolds, lists_, settings.gravity, seconds, give);
    base::make_room(island_of_, bodies.moving);
    island_of_.resize(bodies.moving);
    for (std::uint32_t i = 0; i < bodies.moving; i++)
        if (whom.includes(i)) island_of_[i] = islands_.roots()[i];
    impacts_.begin_tick(bodies, manifolds);
    base::make_room(suspects_, manifolds.size());
    base::make_room(struck_, 2 * manifolds.size());
    base::make_room(manifolds_, manifolds.size());
    base::make_room(gained_, bodies.size());
    base::make_room(inverse_inertia_, bodies.size());

    kinematic_.clear();
    for (std::size_t i = 0; i < bodies.moving; i++)
        if (!(bodies.mass[i].inverse_mass > 0))
            kinematic_.push_back({bodies.pose[i], bodies.velocity[i], bodies.remainder[i]});
    // The settled islands with the world's own substeps come last, so that what is in all of them ends as
    // these have it.
    for (int doublings = kMostDoublings; doublings >= 0; doublings--)
        for (const bool unsettled : {true, false}) {
            const Effort effort{static_cast<std::uint8_t>(doublings), unsettled};
            const bool is_last = effort == Effort{};
            if (!is_last && !islands_.some_take(effort)) continue;
            std::size_t next = 0;
            for (std::size_t i = 0; i < bodies.moving; i++) {
                if (bodies.mass[i].inverse_mass > 0) continue;
                const Unpushed& began = kinematic_[next++];
                bodies.pose[i] = began.pose;
                bodies.velocity[i] = began.velocity, bodies.remainder[i] = began.remainder;
            }
            pick(bodies, manifolds, whom, effort);
            if (is_last || !manifolds_.empty()) run(settings, effort, bodies, manifolds);
        }
}

template<int Dim>
void Solver<Dim>::run(const Settings<Dim>& settings, const Effort& effort, flow::Bodies<Dim>& bodies,
                      std::span<flow::Manifold<Dim>> manifolds) {
    const int substeps = settings.substeps << effort.doublings,
              passes = effort.unsettled ? kPassesUnsettled : 1;
    const double seconds = settings.tick / substeps;
    const Tuning tuning = softer(settings.tuning, settings.substeps, substeps);
    integrator_.begin(bodies, bodies_, settings.gravity, seconds, settings.speeding);
    contacts_.begin(bodies, manifolds, manifolds_, rows_, integrator_.row_count(), islands_.certain_loads(),
                    settings.gravity, tuning, static_cast<float>(seconds));
    for (int i = 0; i < substeps; i++) {
        integrator_.advance_velocities(bodies);
        const BodyRows rows = integrator_.rows();
        contacts_.refresh(rows, manifolds, suspects_);
        if (!suspects_.empty()) turn_back(static_cast<float>(seconds), bodies, manifolds);
        contacts_.warm_start(rows);
        contacts_.solve(rows, Pass::Feedback);
        integrator_.advance_poses(bodies);
        for (int pass = 0; pass < passes; pass++) contacts_.solve(rows, Pass::Plain);
    }
    integrator_.show(bodies);
    contacts_.end(manifolds, manifolds_);
}

// Impacts work on the columns of bodies and on the manifolds; they are few.
template<int Dim>
void Solver<Dim>::turn_back(float seconds, flow::Bodies<Dim>& bodies,
                            std::span<flow::Manifold<Dim>> manifolds) {
    gained_.resize(bodies.size()), inverse_inertia_.resize(bodies.size());
    const auto enter_body = [&](std::uint32_t i) {
        const std::size_t row = rows_[i];
        gained_[i] = integrator_.gained(row), inverse_inertia_[i] = integrator_.inverse_inertia(row);
        if (row > 0) integrator_.show(bodies, row);
    };
    const auto enter_contact = [&](std::uint32_t k) { contacts_.give_forces(manifolds[k], k); };
    if (!impacts_.resolve(bodies, manifolds, gained_, inverse_inertia_, lists_, seconds, suspects_,
                          enter_body, enter_contact))
        return;
    for (const std::uint32_t i : impacts_.moved()) {
        if (!(bodies.mass[i].inverse_mass > 0)) continue;
        integrator_.redirect(bodies, rows_[i], bodies.velocity[i], impacts_.shift(i));
    }
    struck_.clear();
    for (const std::uint32_t i : impacts_.moved())
        if (bodies.mass[i].inverse_mass > 0)
            struck_.insert(struck_.end(), lists_.of(i).begin(), lists_.of(i).end());
    contacts_.refresh_some(integrator_.rows(), manifolds, struck_);
}

template class Solver<2>;
template class Solver<3>;

}
