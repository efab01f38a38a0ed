#include "astasis/pacer.h"

#include "base/text.h"
#include "math/numbers.h"
#include "math/turn.h"

#include <cmath>

namespace astasis {
namespace {

constexpr double kEarly = 1e-6; // share of a tick, see the class comment

void check_not_negative(double value, const char* field, const char* unit) {
    if (!(value >= 0) || !math::is_finite(value))
        throw Error(field, base::number(value), std::string("a finite number, 0 or more") + unit);
}

}

template<int Dim> Pacer<Dim>::Pacer(World<Dim>& world, const PacerSpec& spec) : world_(&world), spec_(spec) {
    if (spec.most_ticks_a_frame < 0)
        throw Error("most_ticks_a_frame", std::to_string(spec.most_ticks_a_frame), "0 (no bound) or more");
}

template<int Dim>
FrameReport Pacer<Dim>::advance(double frame_seconds, const EachTick& before, const EachTick& after) {
    check_not_negative(frame_seconds, "frame_seconds", " (s)");
    FrameReport report;
    if (paused_) return report;
    const double tick = world_->settings().tick;
    waiting_ += frame_seconds * rate_;
    while (waiting_ >= tick * (1 - kEarly)) {
        if (spec_.most_ticks_a_frame > 0 && report.ticks == spec_.most_ticks_a_frame) {
            // Whole ticks are dropped; what is left of one waits, so that motion stays even.
            const double whole = std::floor(waiting_ / tick + kEarly) * tick;
            report.dropped_seconds = whole;
            waiting_ -= whole;
            break;
        }
        tick_once(before, after);
        waiting_ -= tick;
        report.ticks++;
    }
    return report;
}

template<int Dim> void Pacer<Dim>::tick_once(const EachTick& before, const EachTick& after) {
    if (before) before(*world_);
    world_->step();
    if (after) after(*world_);
}

template<int Dim> void Pacer<Dim>::set_rate(double rate) {
    check_not_negative(rate, "rate", "");
    rate_ = rate;
}

template<int Dim> double Pacer<Dim>::blend() const noexcept {
    const double share = waiting_ / world_->settings().tick;
    return share > 0 ? std::min(share, 1.0) : 0.0;
}

template<int Dim> Pose<Dim> Pacer<Dim>::blended_pose(BodyId id) const {
    return world_->pose_within_tick(id, blend());
}
template<int Dim> Pose<Dim> Pacer<Dim>::predicted_pose(BodyId id) const {
    const Pose<Dim> now = world_->pose(id);
    const double seconds = blend() * world_->settings().tick;
    const Vec<Dim> v = world_->velocity(id), centre = world_->mass(id).centre;
    Point<Dim> place = world_->centre_of_mass(id);
    for (int k = 0; k < Dim; k++) place[k] += static_cast<double>(v[k]) * seconds;
    const Rotation<Dim> turned =
        math::turned_by(now.rotation, world_->angular_velocity(id) * static_cast<float>(seconds));
    return {place + rotate(turned, centre) * -1.0f, turned};
}

template class Pacer<2>;
template class Pacer<3>;

}
