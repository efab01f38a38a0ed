// A run of a scene: steps its world and keeps what a practitioner wants to know of it. No output of its own.
#pragma once

#include "astasis/scene/scene.h"

#include <functional>
#include <string>
#include <vector>

namespace astasis::record {

struct Deepest {
    double metres = 0, share = 0; // share of the thinner shape there
    double time = 0;
    std::string who; // "parcel.3 on bin"
};

// The joints of a run: largest stretch, strongest reaction, broken ones.
struct JointsOfRun {
    std::size_t count = 0;          // at the start
    double stretch = 0, turned = 0; // the most by which one gave way along what it holds, m and rad
    std::string stretched;          // which one
    double force = 0, torque = 0;   // the strongest reaction, N and N m, mean over a tick
    std::string strongest, most_twisted;
    double strongest_time = 0;
    std::vector<std::pair<std::string, double>> broken; // names and times
};

// The crossings of a sensor in a run.
struct SensorOfRun {
    std::string name;                             // its body's, with the shape's number if that has several
    std::size_t entered = 0, left = 0, in_it = 0; // in_it: at the end
};

struct Summary {
    int dimension = 0;
    std::uint64_t seed = 0;
    double tick = 0;
    int substeps = 0;
    std::size_t still = 0, kinematic = 0, dynamic = 0; // bodies by motion; still: static
    std::uint64_t ticks = 0, ticks_wanted = 0;         // fewer if it was stopped
    double time = 0;                                   // simulated seconds
    double median_ms = 0, slowest_ms = 0;              // wall time a tick: median, 99th percentile
    std::size_t contacts_end = 0, contacts_most = 0;
    Deepest deepest, deepest_end; // of the whole run, and of its last tick
    Energy start, end;
    Penetration penetration_end;
    Work work;
    SleepCount asleep;
    std::size_t awake = 0;                        // dynamic bodies at the end
    double all_asleep_time = 0;                   // since when, if awake is 0
    double energy_most = 0, energy_most_time = 0; // largest total
    double fastest_end = 0;                       // m/s, of any body at the end
    std::string fastest_who;
    JointsOfRun joints;
    std::vector<SensorOfRun> sensors;
    std::size_t fields = 0;
    // Of the time line: each kind of deed and how often it was done, in the order of the first.
    std::vector<std::pair<std::string, std::size_t>> deeds;
    std::uint64_t fingerprint = 0; // of the world at the end
    std::vector<std::string> warnings;
};

// Called before the first tick and after each, with the number of the tick and what it took, s of wall time.
template<int Dim>
using EachTick = std::function<void(const scene::Made<Dim>&, std::uint64_t tick, double wall)>;

// Steps to the end of the scene's duration, or until `stops` says so before a tick. Wall times do not include
// `each`.
template<int Dim>
Summary run(const scene::Scene<Dim>& scene, scene::Made<Dim>& made, const EachTick<Dim>& each = {},
            const std::function<bool()>& stops = {});

}
