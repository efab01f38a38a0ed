// Looks at the copy of a trial after each of its ticks. For trial.cpp alone.
#pragma once

#include "check/trial.h"

#include <map>
#include <unordered_map>

namespace astasis::checks {

template<int Dim> class Watcher {
public:
    Watcher(const World<Dim>& world, Trial<Dim>& trial, std::uint64_t ticks);
    void tick(std::uint64_t n); // after the nth, from 0
    void finish();

private:
    struct Drive { // of a joint: in how many ticks it was at its most, and how far it got
        std::size_t ticks = 0, at_most = 0;
        double asked = 0, way = 0;
    };

    void find_twins();
    void note_overlap(const Contact<Dim>& c);
    void note_sunk(const Contact<Dim>& c);
    bool is_held(BodyId id) const;
    void note_pair(BodyId a, BodyId b, bool joined);
    void note_load(const Contact<Dim>& c);
    void note_joint(const Joint<Dim>& joint);
    void note_motors();
    void note_slopes();
    void note_restless(const Contact<Dim>& c);
    void note_rolling(BodyId body, std::uint32_t shape, BodyId other, std::uint32_t other_shape, Vec<Dim> up);
    bool will_stop(BodyId body) const;
    void note_insomnia();
    bool was_at_rest(BodyId id) const; // when the trial began

    const World<Dim>& world_;
    Trial<Dim>& trial_;
    std::uint64_t ticks_, slope_tick_, pace_tick_;
    std::map<std::string, Drive> drives_; // by joint, in the second half of the trial
    std::map<std::pair<std::string, std::string>, Loaded> loads_;
    std::unordered_map<BodyId, std::pair<double, double>>
        paces_; // speed and spin half a second before the end
};

extern template class Watcher<2>;
extern template class Watcher<3>;

}
