// Pacer: turns frame times into ticks, so that the motion does not depend on the frame rate.
//
//     Pacer<2> pacer(world);
//     while (game_runs) {
//         pacer.advance(seconds_since_last_frame, [&](World2& w) { w.apply_force(cart, thrust); });
//         draw(pacer.blended_pose(cart));
//     }
#pragma once

#include "astasis/world.h"

#include <functional>

namespace astasis {

struct PacerSpec {
    // The most ticks that one call of advance() runs; the time beyond is dropped and reported. Lower: a stall
    // is felt as slow motion; higher: a slow frame makes the next one slower still. 0: no bound, nothing is
    // ever dropped.
    int most_ticks_a_frame = 6;
};

// What one call of advance() did.
struct FrameReport {
    int ticks = 0;              // ticks that were run
    double dropped_seconds = 0; // game time that was given up because of the bound; 0 in good times
};

// Runs a world in whole ticks. The world must outlive the pacer. The ticks are the same for any pattern of
// frame times: only when they happen differs. A tick is due a millionth of its length early, so that sums of
// rounded frame times do not push it into the next frame.
template<int Dim> class Pacer {
public:
    using EachTick = std::function<void(World<Dim>&)>;

    // Errors: most_ticks_a_frame below 0.
    explicit Pacer(World<Dim>& world, const PacerSpec& spec = {});

    // Adds a frame's time and runs the ticks that are due. `before` is called just before each, for the
    // game's forces, and `after` just after it, for its events, which are those of one tick: both may edit
    // the world as they like. While paused it runs none and the time passes unused. Errors: time negative or
    // not finite.
    FrameReport advance(double frame_seconds, const EachTick& before = {}, const EachTick& after = {});
    // One tick at once, paused or not; it takes nothing from the time that is waiting.
    void tick_once(const EachTick& before = {}, const EachTick& after = {});

    void pause() noexcept { paused_ = true; }
    void resume() noexcept { paused_ = false; }
    bool paused() const noexcept { return paused_; }
    // Simulated seconds a second of frame time: 0.25 is slow motion, 0 stands still. Errors: negative, not
    // finite.
    void set_rate(double rate);
    double rate() const noexcept { return rate_; }

    // How far the present lies between the last two ticks, 0 to below 1.
    double blend() const noexcept;
    // The pose to draw: within the last tick (World::pose_within_tick), so one tick behind the world. Errors:
    // stale id.
    Pose<Dim> blended_pose(BodyId id) const;
    // The pose at this moment, if nothing is met or pushed on the way from the last tick: it does not lag,
    // but what is about to hit a wall is drawn in it, by up to its speed times a tick. Errors: stale id.
    Pose<Dim> predicted_pose(BodyId id) const;

private:
    World<Dim>* world_;
    PacerSpec spec_;
    double waiting_ = 0; // seconds that no tick has used yet
    double rate_ = 1;
    bool paused_ = false;
};

extern template class Pacer<2>;
extern template class Pacer<3>;

}
