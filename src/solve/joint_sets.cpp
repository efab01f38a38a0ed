// The bounded rows of joints: what they ask of velocities, and which of them are at a bound.
#include "solve/joints.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// A motor is at its speed within so much, m/s or rad/s and as a share.
constexpr double kAtSpeed = 1e-3;
// A stop or a motor is let go where its speed would leave it by more than that, m/s or rad/s.
constexpr double kLetGo = 1e-9;
// Friction is a motor that holds still.
constexpr Motor kBrake{};
// Rounds in which all rows change sets at once, and then one by one (Murty 1974).
constexpr int kRoundsAtOnce = 4, kRounds = 10;

template<int Dim> bool has_target(const JointRow<Dim>& row) {
    return row.asks == Asks::Drive && row.of != nullptr && row.of->motor.target.has_value();
}

}

template<int Dim> void JointSolver<Dim>::begin_motors(const Integrator<Dim>& integrator) {
    bool used = false;
    for (std::size_t part = 0; part < system_.part_count(); part++)
        if (!plain_[part]) used = find_moves(part) || used;
    if (used) load(integrator);
    for (const Held& h : joints_)
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            want_speed(h, n);
            // A motor that is to be at its speed is solved with what is held; one that has yet to get there
            // pushes.
            if (is_[n].asks != Asks::Drive) continue;
            r.speed = speed(h, n);
            r.is_free = std::fabs(r.impulse) < r.most &&
                        std::fabs(r.speed - r.wanted) < kAtSpeed * (1 + std::fabs(r.wanted));
        }
}

// The inverse mass that each motor with a target moves, with all that is joined to it and without stops: it
// limits the speed from which the motor can still brake. Returns whether velocities were used for that.
template<int Dim> bool JointSolver<Dim>::find_moves(std::size_t part) {
    bool any = false;
    for_rows(part, [&](const Held&, std::uint32_t n) {
        any = any || has_target(is_[n]);
        if (has_target(is_[n]) || is_[n].asks == Asks::Range) rows_[n].is_free = false;
    });
    if (any) fill(part);
    for_rows(part, [&](const Held& h, std::uint32_t motor) {
        if (!has_target(is_[motor])) return;
        for (const std::uint32_t j : system_.blocks_of(part))
            bodies_[joints_[j].a].v = {}, bodies_[joints_[j].b].v = {};
        give(h, motor, 1);
        for_rows(part, [&](const Held& k, std::uint32_t n) { x_[n] = rows_[n].is_free ? -speed(k, n) : 0; });
        system_.solve(part, x_);
        for_rows(part, [&](const Held& k, std::uint32_t n) {
            if (rows_[n].is_free) give(k, n, x_[n]);
        });
        rows_[motor].moves = std::max(speed(h, motor), 0.0);
    });
    for_rows(part, [&](const Held&, std::uint32_t n) { choose_stop(n); });
    return any;
}

// The speed that a row asks for.
template<int Dim> void JointSolver<Dim>::want_speed(const Held& h, std::uint32_t n) {
    Row& r = rows_[n];
    const JointRow<Dim>& is = is_[n];
    r.wanted = 0;
    if (is.asks == Asks::Held) {
        r.least = -kInfinite, r.most = kInfinite;
        return;
    }
    // Half of the impulse has acted; a spring's other half is a kick by its length now.
    const auto spring = [&](double error) { return r.soft * (r.first - r.pull * error); };
    if (is.asks == Asks::Range) {
        if (r.is_soft) r.wanted = spring(is.position - r.stop);
        else if (const double now = speed(h, n); r.stop == is.of->limits.lower ? now < 0 : now > 0)
            r.wanted = -is.of->limits.restitution * now;
        return;
    }
    const Motor& m = is.of == nullptr ? kBrake : is.of->motor;
    r.most = is.most < kUnlimited ? double{is.most} * seconds_ : kInfinite, r.least = -r.most;
    const double to_go = m.target ? *m.target - is.position : 0;
    if (r.is_soft) r.wanted = m.target ? spring(-to_go) : r.soft * r.first + m.speed;
    else if (!m.target) r.wanted = m.speed;
    else {
        // No faster than it can still stop.
        const double brakes = is.most < kUnlimited
                                  ? std::sqrt(2 * std::fabs(to_go) * r.moves * double{is.most})
                                  : kInfinite,
                     fastest = std::min(m.speed > 0 ? double{m.speed} : kInfinite, brakes);
        r.wanted = std::clamp(to_go / seconds_, -fastest, fastest);
    }
}

template<int Dim> void JointSolver<Dim>::settle(Integrator<Dim>& integrator, bool is_first) {
    if (!is_first && !any_further_) return;
    load(integrator);
    if (is_first)
        for (const Held& h : joints_)
            if (!h.is_plain)
                for (std::uint32_t n = h.first; n < h.first + h.count; n++) want_speed(h, n);
    for (std::size_t part = 0; part < system_.part_count(); part++)
        if (is_first || joints_[system_.blocks_of(part).front()].further) solve_part(part);
    store(integrator);
}

template<int Dim> void JointSolver<Dim>::fill(std::size_t part) {
    system_.fill(part, [&](std::uint32_t i, std::uint32_t k, double* to) {
        const Held &p = joints_[i], &q = joints_[k];
        with_size(p.count == q.count ? p.count : 0, [&]<std::uint32_t N>() {
            if (i == k) fill_own<N>(p, to);
            else fill_pair<N>(p, q, to);
        });
        if (!p.is_plain || !q.is_plain) leave_out_bounded(p, q, to);
    });
    system_.factor(part);
}

template<int Dim> template<std::uint32_t N> void JointSolver<Dim>::fill_own(const Held& p, double* to) const {
    const std::uint32_t n = known<N>(p.count);
    const JointRow<Dim>* const is = is_.data() + p.first;
    const Row* const rows = rows_.data() + p.first;
    for (std::uint32_t r = 0; r < n; r++) {
        for (std::uint32_t c = 0; c < r; c++)
            to[r * n + c] = product(is[r].a, rows[c].over_a) + product(is[r].b, rows[c].over_b);
        to[r * n + r] = rows[r].own;
    }
}

// Rows of two joints are coupled by each body that both have.
template<int Dim>
template<std::uint32_t N>
void JointSolver<Dim>::fill_pair(const Held& p, const Held& q, double* to) const {
    const std::uint32_t n = known<N>(p.count), m = known<N>(q.count);
    const JointRow<Dim>* const is = is_.data() + p.first;
    const Row* const rows = rows_.data() + q.first;
    bool is_written = false;
    const auto couple = [&](const auto& lever, const auto& over) {
        for (std::uint32_t r = 0; r < n; r++)
            for (std::uint32_t c = 0; c < m; c++) {
                const double x = product(lever(is[r]), over(rows[c]));
                double& entry = to[r * m + c];
                entry = is_written ? entry + x : x;
            }
        is_written = true;
    };
    const auto lever_a = [](const auto& row) -> const Lever<Dim>& { return row.a; };
    const auto lever_b = [](const auto& row) -> const Lever<Dim>& { return row.b; };
    const auto over_a = [](const auto& row) -> const Lever<Dim>& { return row.over_a; };
    const auto over_b = [](const auto& row) -> const Lever<Dim>& { return row.over_b; };
    if (p.a == q.a) couple(lever_a, over_a);
    if (p.a == q.b) couple(lever_a, over_b);
    if (p.b == q.a) couple(lever_b, over_a);
    if (p.b == q.b && !p.fixed_b) couple(lever_b, over_b);
}

// Rows that are at a bound stand alone; soft ones give way.
template<int Dim> void JointSolver<Dim>::leave_out_bounded(const Held& p, const Held& q, double* to) const {
    for (std::uint32_t r = 0; r < p.count; r++)
        for (std::uint32_t c = 0; c < q.count; c++) {
            const Row &row = rows_[p.first + r], &column = rows_[q.first + c];
            const bool both = row.is_free && column.is_free;
            double& entry = to[r * q.count + c];
            if (&row == &column) entry = both ? entry + row.soft : 1;
            else if (!both) entry = 0;
        }
}

// Rows beyond their bounds are held there; those that would leave them are solved. Returns whether any
// changed.
template<int Dim> bool JointSolver<Dim>::change_sets(std::size_t part, bool one_only) {
    bool changed = false;
    for (const std::uint32_t j : system_.blocks_of(part)) {
        const Held& h = joints_[j];
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            if (!r.is_bounded) continue;
            const bool free_before = r.is_free;
            if (r.is_free) {
                if (r.impulse < r.least || r.impulse > r.most) r.is_free = false;
            } else if (r.least < r.most) {
                const double over = (speed(h, n) + r.soft * r.impulse) - r.wanted;
                if ((r.impulse <= r.least && over < -kLetGo) || (r.impulse >= r.most && over > kLetGo))
                    r.is_free = true;
            }
            changed = changed || r.is_free != free_before;
            if (changed && one_only) return true;
        }
    }
    return changed;
}

// A motor and a stop of its axis that is touched are one row twice: the stop holds what the motor presses
// into it with all its force; it lets go of what the motor takes away, and of what one without bounds holds
// there. Returns whether a set has changed.
template<int Dim> bool JointSolver<Dim>::part_from_stop(const Held& h, std::uint32_t d) {
    Row& drive = rows_[d];
    if (is_[d].asks != Asks::Drive || !drive.is_free || drive.is_soft) return false;
    for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
        Row& stop = rows_[n];
        if (is_[n].asks != Asks::Range || is_[n].axis != is_[d].axis || !stop.is_free || stop.is_soft)
            continue;
        const bool both = stop.least < 0 && stop.most > 0;
        const double into = stop.most > 0 ? -drive.wanted : drive.wanted;
        if (drive.most < kInfinite && (both || into > 0)) {
            const double most = drive.wanted < 0 ? -drive.most : drive.most;
            give(h, d, most - drive.impulse);
            drive.impulse = most, drive.is_free = false;
        } else {
            if (both || into > 0) drive.wanted = 0;
            give(h, n, -stop.impulse);
            stop.impulse = 0, stop.is_free = false;
        }
        return true;
    }
    return false;
}

// All rows at once, as they stand in their sets.
template<int Dim> void JointSolver<Dim>::solve_plainly(std::size_t part) {
    for_rows(part, [&](const Held& h, std::uint32_t n) {
        const Row& r = rows_[n];
        x_[n] = r.is_free ? (r.wanted - r.soft * r.impulse) - speed(h, n) : 0;
    });
    system_.solve(part, x_);
    for_rows(part, [&](const Held& h, std::uint32_t n) {
        if (!rows_[n].is_free) return;
        rows_[n].impulse += x_[n];
        give(h, n, x_[n]);
    });
}

template<int Dim> void JointSolver<Dim>::solve_part(std::size_t part) {
    if (plain_[part]) return solve_plainly(part);
    const auto hold = [&](const Held& h, std::uint32_t n) {
        Row& r = rows_[n];
        const double to = std::clamp(r.impulse, r.least, r.most);
        if (to == r.impulse) return;
        give(h, n, to - r.impulse);
        r.impulse = to;
    };
    bool refill = false;
    for_rows(part, [&](const Held& h, std::uint32_t n) {
        Row& r = rows_[n];
        if (!r.is_bounded) return;
        const bool is_inside = r.least < r.impulse && r.impulse < r.most, can_be = r.least < r.most;
        if (r.is_free ? !can_be : is_inside) r.is_free = !r.is_free, refill = true;
        refill = part_from_stop(h, n) || refill;
        if (!r.is_free) hold(h, n);
    });
    for (int round = 0; round < kRounds; round++) {
        if (refill) fill(part);
        solve_plainly(part);
        refill = change_sets(part, round >= kRoundsAtOnce);
        if (!refill) break;
        for_rows(part, [&](const Held& h, std::uint32_t n) {
            if (rows_[n].is_bounded && !rows_[n].is_free) hold(h, n);
        });
    }
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void JointSolver<Dim>::begin_motors(const Integrator<Dim>&);                                    \
    template bool JointSolver<Dim>::find_moves(std::size_t);                                                 \
    template void JointSolver<Dim>::want_speed(const Held&, std::uint32_t);                                  \
    template void JointSolver<Dim>::settle(Integrator<Dim>&, bool);                                          \
    template void JointSolver<Dim>::fill(std::size_t);                                                       \
    template void JointSolver<Dim>::leave_out_bounded(const Held&, const Held&, double*) const;              \
    template bool JointSolver<Dim>::change_sets(std::size_t, bool);                                          \
    template bool JointSolver<Dim>::part_from_stop(const Held&, std::uint32_t);                              \
    template void JointSolver<Dim>::solve_plainly(std::size_t);                                              \
    template void JointSolver<Dim>::solve_part(std::size_t);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
