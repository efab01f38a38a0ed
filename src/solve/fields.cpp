#include "solve/fields.h"

#include "base/room.h"
#include "math/numbers.h"
#include "math/trig.h"

#include <algorithm>
#include <cmath>

namespace astasis::solve {
namespace {

// The most turn about what attracts in a substep, rad: nearer to it the pull falls with the distance.
constexpr double kMostTurn = 0.14;
constexpr std::uint32_t kNobody = 0xffffffffu;

template<int Dim> bool is_within(const std::optional<Bounds<Dim>>& region, const math::Wide<Dim>& at) {
    if (!region) return true;
    for (int k = 0; k < Dim; k++)
        if (at[k] < region->low[k] || at[k] > region->high[k]) return false;
    return true;
}

}

template<int Dim>
bool reaches(const Field<Dim>& field, const FieldInput<Dim>& input, const flow::Bodies<Dim>& bodies,
             std::uint32_t i) {
    if (!(bodies.mass[i].inverse_mass > 0)) return false;
    const auto colliders = input.colliders_of(i);
    if (colliders.empty()) return true;
    return std::any_of(colliders.begin(), colliders.end(), [&](std::uint32_t c) {
        return (input.colliders[c].spec->layers & field.acts_on) != 0;
    });
}

template<int Dim>
void FieldSolver<Dim>::begin_tick(const FieldInput<Dim>& input, const flow::Bodies<Dim>& bodies,
                                  std::span<const std::uint32_t> which, std::span<const std::uint32_t> rows,
                                  Integrator<Dim>& integrator, double seconds) {
    input_ = input, seconds_ = seconds, time_ = input.time, work_ = 0;
    reached_.clear(), of_parts_.clear(), parts_.clear();
    base::make_room(here_, which.size() + 1), base::make_room(reached_, which.size());
    here_.assign(which.size() + 1, 0);
    for (const Field<Dim>& field : input.fields) {
        Part part{&field, static_cast<std::uint32_t>(of_parts_.size()), 0};
        const auto* attraction = std::get_if<Attraction<Dim>>(&field.kind);
        if (attraction != nullptr && attraction->body) {
            part.place = input.place_of(*attraction->body);
            part.row = part.place < bodies.moving ? rows[part.place] : 0;
        }
        const auto add = [&](std::size_t row) {
            if (here_[row] == 0) {
                reached_.push_back({static_cast<std::uint32_t>(row), which[row - 1]});
                here_[row] = static_cast<std::uint32_t>(reached_.size());
            }
            return here_[row] - 1;
        };
        for (std::size_t n = 0; n < which.size(); n++) {
            if (which[n] == part.place || !reaches(field, input, bodies, which[n])) continue;
            base::make_room(of_parts_, of_parts_.size() + 1);
            of_parts_.push_back(add(n + 1));
            part.count++;
        }
        if (part.row > 0 && attraction->pulls_back && bodies.mass[part.place].inverse_mass > 0) add(part.row);
        parts_.push_back(part);
    }
    if (!reached_.empty()) push(bodies, integrator, time_, false);
}

template<int Dim>
void FieldSolver<Dim>::end(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator, int substep) {
    if (!reached_.empty()) push(bodies, integrator, time_ + (substep + 1) * seconds_, true);
}

template<int Dim>
void FieldSolver<Dim>::push(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator, double time,
                            bool as_end) {
    input_.time = time;
    for (Reached& r : reached_) {
        r.centre = integrator.wide_centre(r.row);
        r.velocity = math::widened(integrator.velocity(r.row).linear);
        r.force = r.drag = {}, r.torque = r.drag_torque = {};
    }
    for (const Part& part : parts_)
        std::visit([&](const auto& kind) { act(kind, part, bodies, integrator); }, part.field->kind);
    for (const Reached& r : reached_) {
        const flow::Push<Dim> force{math::narrowed(r.force), r.torque},
            drag{math::narrowed(r.drag), r.drag_torque};
        integrator.set_field(bodies, r.row, force, drag, as_end);
        if (!as_end) continue;
        const double power = math::dot(r.force + r.drag, r.velocity) +
                             double{dot(r.torque + r.drag_torque, integrator.velocity(r.row).angular)};
        work_ += power * seconds_;
    }
}

template<int Dim>
template<typename Visit>
void FieldSolver<Dim>::for_each_within(const Part& part, const Visit& visit) {
    for (std::uint32_t n = part.first; n < part.first + part.count; n++) {
        Reached& r = reached_[of_parts_[n]];
        if (is_within(part.field->within, r.centre)) visit(r);
    }
}

template<int Dim>
void FieldSolver<Dim>::act(const UniformField<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>&) {
    const Wide a = math::widened(f.acceleration);
    for_each_within(part, [&](Reached& r) { r.force = r.force + a * double{bodies.mass[r.place].mass}; });
}

// The acceleration over the distance, for a square of the distance.
template<int Dim> double FieldSolver<Dim>::pull(double strength, double softening, double square) const {
    const double r2 = square + softening * softening, r3 = r2 * std::sqrt(r2),
                 least = std::fabs(strength) * seconds_ * seconds_ / (kMostTurn * kMostTurn);
    return strength / std::max(r3, least);
}

template<int Dim>
void FieldSolver<Dim>::act(const Attraction<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>& in) {
    Wide centre;
    for (int k = 0; k < Dim; k++)
        centre[k] = part.place == kNobody ? f.centre[k] : bodies.pose[part.place].centre[k];
    if (part.row > 0) centre = in.wide_centre(part.row);
    Wide back{};
    for_each_within(part, [&](Reached& r) {
        const Wide to = centre - r.centre;
        const Wide force = to * (pull(double{f.strength}, double{f.softening}, math::squared(to)) *
                                 double{bodies.mass[r.place].mass});
        r.force = r.force + force, back = back - force;
    });
    if (f.pulls_back && part.row > 0 && here_[part.row] > 0) {
        Reached& source = reached_[here_[part.row] - 1];
        source.force = source.force + back;
    }
}

template<int Dim>
void FieldSolver<Dim>::act(const MutualAttraction<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>&) {
    for (std::uint32_t n = part.first; n < part.first + part.count; n++) {
        Reached& p = reached_[of_parts_[n]];
        if (!is_within(part.field->within, p.centre)) continue;
        const double m = double{bodies.mass[p.place].mass};
        for (std::uint32_t k = n + 1; k < part.first + part.count; k++) {
            Reached& q = reached_[of_parts_[k]];
            if (!is_within(part.field->within, q.centre)) continue;
            const double both = m + double{bodies.mass[q.place].mass};
            const Wide to = q.centre - p.centre;
            // Both turn about each other by the sum of their masses.
            const double per_mass =
                pull(double{f.constant} * both, double{f.softening}, math::squared(to)) / both;
            const Wide force = to * (per_mass * m * double{bodies.mass[q.place].mass});
            p.force = p.force + force, q.force = q.force - force;
        }
    }
}

template<int Dim>
void FieldSolver<Dim>::act(const Wind<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>&) {
    for_each_within(part, [&](Reached& r) {
        const double mass = double{bodies.mass[r.place].mass};
        const Wide u = r.velocity - math::widened(f.velocity);
        const double rate = double{f.drag} * math::norm(u) / mass + double{f.damping};
        const double share = 1 - math::exponential(-rate * seconds_); // of the difference that is lost
        r.drag = r.drag - u * (share * mass / seconds_);
    });
}

template<int Dim> const shape::Hulk<Dim>& FieldSolver<Dim>::hulk_of(const flow::Collider<Dim>& c) {
    const auto at = std::lower_bound(hulls_.begin(), hulls_.end(), c.key,
                                     [](const Hull& h, std::uint64_t key) { return h.key < key; });
    if (at != hulls_.end() && at->key == c.key) return at->hulk;
    return hulls_.insert(at, {c.key, shape::Hulk<Dim>(*c.spec)})->hulk;
}

template<int Dim>
void FieldSolver<Dim>::act(const Buoyancy<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>& in) {
    for_each_within(part, [&](Reached& r) {
        const math::Turn<Dim> turn = in.wide_turn(r.row);
        const Wide own = turn * math::widened(bodies.mass[r.place].centre);
        const flow::Velocity<Dim> v = in.velocity(r.row);
        const double mass = double{bodies.mass[r.place].mass};
        for (const std::uint32_t k : input_.colliders_of(r.place)) {
            const flow::Collider<Dim>& c = input_.colliders[k];
            // Seen from the centre of mass, where floats are near.
            const auto under = hulk_of(c).below(turn, -own, f.level - r.centre[1], room_);
            if (!(under.content > 0)) continue;
            const double displaced = under.content * double{f.density};
            const Vec<Dim> arm = math::narrowed(under.centre);
            const Vec<Dim> u = (v.linear + cross(v.angular, arm)) - f.flow;
            const double share = 1 - math::exponential(-double{f.damping} * displaced / mass * seconds_);
            const Vec<Dim> drag = u * static_cast<float>(-share * mass / seconds_);
            const Vec<Dim> force = input_.gravity * static_cast<float>(-displaced);
            r.force = r.force + math::widened(force), r.torque = r.torque + cross(arm, force);
            r.drag = r.drag + math::widened(drag), r.drag_torque = r.drag_torque + cross(arm, drag);
        }
    });
}

template<int Dim>
void FieldSolver<Dim>::act(const OwnField<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
                           const Integrator<Dim>& in) {
    if (!f.force) return;
    for_each_within(part, [&](Reached& r) {
        const flow::CentrePose<Dim> pose = in.pose(r.row);
        const flow::Velocity<Dim> v = in.velocity(r.row);
        const FieldForce<Dim> own =
            input_.call(f, {input_.id_of(r.place), pose.centre, pose.rotation, v.linear, v.angular,
                            bodies.mass[r.place].mass, input_.time, seconds_});
        if (!math::is_finite(own.force) || !math::is_finite(own.torque)) return;
        r.force = r.force + math::widened(own.force), r.torque = r.torque + own.torque;
    });
}

template bool reaches(const Field<2>&, const FieldInput<2>&, const flow::Bodies<2>&, std::uint32_t);
template bool reaches(const Field<3>&, const FieldInput<3>&, const flow::Bodies<3>&, std::uint32_t);
template class FieldSolver<2>;
template class FieldSolver<3>;

}
