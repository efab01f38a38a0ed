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
    for (std::size_t part = 0; part < system_.part_count(); part++) used = find_moves(part) || used;
    if (used) load(integrator);
    for (const Held& h : joints_)
        for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
            Row& r = rows_[n];
            want_speed(h, r);
            // A motor that is to be at its speed is solved with what is held; one that has yet to get there
            // pushes.
            if (r.is.asks == Asks::Drive)
                r.is_free = std::fabs(r.impulse) < r.most &&
                            std::fabs(speed(h, r) - r.wanted) < kAtSpeed * (1 + std::fabs(r.wanted));
        }
}

// The inverse mass that each motor with a target moves, with all that is joined to it and without stops: it
// limits the speed from which the motor can still brake. Returns whether velocities were used for that.
template<int Dim> bool JointSolver<Dim>::find_moves(std::size_t part) {
    const auto for_rows = [&](const auto& visit) {
        for (const std::uint32_t j : system_.blocks_of(part))
            for (std::uint32_t n = joints_[j].first; n < joints_[j].first + joints_[j].count; n++)
                visit(joints_[j], rows_[n], n);
    };
    bool any = false;
    for_rows([&](const Held&, Row& r, std::uint32_t) {
        any = any || has_target(r.is);
        if (has_target(r.is) || r.is.asks == Asks::Range) r.is_free = false;
    });
    if (any) fill(part);
    for_rows([&](const Held& h, Row& motor, std::uint32_t) {
        if (!has_target(motor.is)) return;
        for (const std::uint32_t j : system_.blocks_of(part))
            bodies_[joints_[j].a].v = {}, bodies_[joints_[j].b].v = {};
        give(h, motor, 1);
        for_rows([&](const Held& k, Row& r, std::uint32_t n) { x_[n] = r.is_free ? -speed(k, r) : 0; });
        system_.solve(part, x_);
        for_rows([&](const Held& k, Row& r, std::uint32_t n) {
            if (r.is_free) give(k, r, x_[n]);
        });
        motor.moves = std::max(speed(h, motor), 0.0);
    });
    for_rows([&](const Held&, Row& r, std::uint32_t) { choose_stop(r); });
    return any;
}

// What a row asks of velocities.
template<int Dim> void JointSolver<Dim>::want_speed(const Held& h, Row& r) {
    r.wanted = 0;
    if (r.is.asks == Asks::Held) {
        r.least = -kInfinite, r.most = kInfinite;
        return;
    }
    // Half of the impulse has acted; a spring's other half is a kick by its length now.
    const auto spring = [&](double error) { return r.soft * (r.first - r.pull * error); };
    if (r.is.asks == Asks::Range) {
        if (r.is_soft) r.wanted = spring(r.is.position - r.stop);
        else if (const double now = speed(h, r); r.stop == r.is.of->limits.lower ? now < 0 : now > 0)
            r.wanted = -r.is.of->limits.restitution * now;
        return;
    }
    const Motor& m = r.is.of == nullptr ? kBrake : r.is.of->motor;
    r.most = r.is.most < kUnlimited ? double{r.is.most} * seconds_ : kInfinite, r.least = -r.most;
    const double to_go = m.target ? *m.target - r.is.position : 0;
    if (r.is_soft) r.wanted = m.target ? spring(-to_go) : r.soft * r.first + m.speed;
    else if (!m.target) r.wanted = m.speed;
    else {
        // No faster than it can still stop.
        const double brakes = r.is.most < kUnlimited
                                  ? std::sqrt(2 * std::fabs(to_go) * r.moves * double{r.is.most})
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
                for (std::uint32_t n = h.first; n < h.first + h.count; n++) want_speed(h, rows_[n]);
    for (std::size_t part = 0; part < system_.part_count(); part++)
        if (is_first || joints_[system_.blocks_of(part).front()].further) solve_part(part);
    store(integrator);
}

// Of the blocks on the diagonal the lower triangle is enough.
template<int Dim> void JointSolver<Dim>::fill(std::size_t part) {
    system_.fill(part, [&](std::uint32_t i, std::uint32_t k, double* to) {
        const Held &p = joints_[i], &q = joints_[k];
        const Row *const rows_p = rows_.data() + p.first, *const rows_q = rows_.data() + q.first;
        const bool own = i == k;
        const auto add = [&](Lever<Dim> JointRow<Dim>::*lever, Lever<Dim> Row::*over) {
            for (std::uint32_t r = 0; r < p.count; r++)
                for (std::uint32_t c = 0; c < (own ? r : q.count); c++)
                    to[r * q.count + c] += product(rows_p[r].is.*lever, rows_q[c].*over);
        };
        if (p.a == q.a) add(&JointRow<Dim>::a, &Row::over_a);
        if (p.a == q.b && !q.fixed_b) add(&JointRow<Dim>::a, &Row::over_b);
        if (p.b == q.a && !p.fixed_b) add(&JointRow<Dim>::b, &Row::over_a);
        if (p.b == q.b && !p.fixed_b) add(&JointRow<Dim>::b, &Row::over_b);
        if (own)
            for (std::uint32_t r = 0; r < p.count; r++) to[r * p.count + r] = rows_p[r].own;
        if (p.is_plain && q.is_plain) return;
        for (std::uint32_t r = 0; r < p.count; r++)
            for (std::uint32_t c = 0; c < q.count; c++) {
                const bool both = rows_p[r].is_free && rows_q[c].is_free;
                double& entry = to[r * q.count + c];
                if (own && r == c) entry = both ? entry + rows_p[r].soft : 1;
                else if (!both) entry = 0;
            }
    });
    system_.factor(part);
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
                const double over = (speed(h, r) + r.soft * r.impulse) - r.wanted;
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
template<int Dim> bool JointSolver<Dim>::part_from_stop(const Held& h, Row& drive) {
    if (!drive.is_free || drive.is_soft) return false;
    for (std::uint32_t n = h.first; n < h.first + h.count; n++) {
        Row& stop = rows_[n];
        if (stop.is.asks != Asks::Range || stop.is.axis != drive.is.axis || !stop.is_free || stop.is_soft)
            continue;
        const bool both = stop.least < 0 && stop.most > 0;
        const double into = stop.most > 0 ? -drive.wanted : drive.wanted;
        if (drive.most < kInfinite && (both || into > 0)) {
            const double most = drive.wanted < 0 ? -drive.most : drive.most;
            give(h, drive, most - drive.impulse);
            drive.impulse = most, drive.is_free = false;
        } else {
            if (both || into > 0) drive.wanted = 0;
            give(h, stop, -stop.impulse);
            stop.impulse = 0, stop.is_free = false;
        }
        return true;
    }
    return false;
}

template<int Dim> void JointSolver<Dim>::solve_part(std::size_t part) {
    const auto for_rows = [&](const auto& visit) {
        for (const std::uint32_t j : system_.blocks_of(part))
            for (std::uint32_t n = joints_[j].first; n < joints_[j].first + joints_[j].count; n++)
                visit(joints_[j], rows_[n], n);
    };
    const auto solve = [&] {
        for_rows([&](const Held& h, Row& r, std::uint32_t n) {
            x_[n] = r.is_free ? (r.wanted - r.soft * r.impulse) - speed(h, r) : 0;
        });
        system_.solve(part, x_);
        for_rows([&](const Held& h, Row& r, std::uint32_t n) {
            if (!r.is_free) return;
            r.impulse += x_[n];
            give(h, r, x_[n]);
        });
    };
    if (plain_[part]) return solve();
    const auto hold = [&](const Held& h, Row& r) {
        const double to = std::clamp(r.impulse, r.least, r.most);
        if (to == r.impulse) return;
        give(h, r, to - r.impulse);
        r.impulse = to;
    };
    bool refill = false;
    for_rows([&](const Held& h, Row& r, std::uint32_t) {
        if (!r.is_bounded) return;
        const bool is_inside = r.least < r.impulse && r.impulse < r.most, can_be = r.least < r.most;
        if (r.is_free ? !can_be : is_inside) r.is_free = !r.is_free, refill = true;
        if (r.is.asks == Asks::Drive && part_from_stop(h, r)) refill = true;
        if (!r.is_free) hold(h, r);
    });
    for (int round = 0; round < kRounds; round++) {
        if (refill) fill(part);
        solve();
        refill = change_sets(part, round >= kRoundsAtOnce);
        if (!refill) break;
        for_rows([&](const Held& h, Row& r, std::uint32_t) {
            if (r.is_bounded && !r.is_free) hold(h, r);
        });
    }
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void JointSolver<Dim>::begin_motors(const Integrator<Dim>&);                                    \
    template bool JointSolver<Dim>::find_moves(std::size_t);                                                 \
    template void JointSolver<Dim>::want_speed(const Held&, Row&);                                           \
    template void JointSolver<Dim>::settle(Integrator<Dim>&, bool);                                          \
    template void JointSolver<Dim>::fill(std::size_t);                                                       \
    template bool JointSolver<Dim>::change_sets(std::size_t, bool);                                          \
    template bool JointSolver<Dim>::part_from_stop(const Held&, Row&);                                       \
    template void JointSolver<Dim>::solve_part(std::size_t);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
