// A world as it is before its first tick, and what happened to a copy of it in the seconds after.
#pragma once

#include "astasis/scene/scene.h"

#include <functional>
#include <span>
#include <string>
#include <vector>

namespace astasis::checks {

struct Overlap { // of two shapes
    std::string first, second;
    float depth = 0, share = 0; // m, and of the thinner shape
};

struct Loaded { // a heavier body that leans on a lighter one, or is joined to it
    std::string heavy, light;
    double ratio = 0;
    bool joined = false;
};

struct Slipping { // a body that stood on a slope when the trial began, and slides
    std::string who, on;
    double slope = 0, friction = 0; // rad; Coulomb's coefficient, as it was measured
};

struct Restless { // a body that bears on something and goes on for ever as it does
    enum class Why : std::uint8_t { Rolls, Spins, Slides, MayNotSleep };
    std::string who;
    Why why = Why::Rolls;
    double pace = 0; // m/s, rad/s; the bodies it keeps awake
};

template<int Dim> struct Trial {
    const World<Dim>& start;                   // before the first tick
    const scene::Scene<Dim>* scene = nullptr;  // none of a world that a game runs
    std::function<std::string(BodyId)> name{}; // of a body of the copy; ids are the same in both worlds
    std::function<std::string(JointId)> joint_name{};
    double seconds = 0;                                         // that were stepped
    std::vector<std::pair<std::string, std::string>> twins{};   // alike and at one place
    std::vector<Overlap> overlaps{};                            // at the start, deepest first, without twins
    std::vector<Overlap> sunk{};                                // at the end, deepest first
    std::vector<Loaded> loaded{};                               // the highest ratio of each pair
    std::vector<Slipping> slipping{};                           // each body once
    std::vector<Restless> restless{};                           // at the end
    double energy_start = 0, energy_most = 0, kinetic_most = 0; // J, without what was given by others
    double work_plain = 0, work_refused = 0;                    // units, in the second half
    double median_tick = 0;                                     // s of wall time
    std::vector<std::string> stalled{}; // joints whose motor was at its most and fell short
    bool moved = false;                 // whether anything did

    std::span<const scene::Action<Dim>> timeline() const {
        if (!scene) return {};
        return scene->timeline;
    }
};

// Steps the copy by one tick; its time line first, if it has one.
using StepCopy = std::function<void()>;

// Steps `copy`, which is as `trial.start`, by `seconds`, and fills in what happened. All outlive it.
template<int Dim>
void try_out(Trial<Dim>& trial, const World<Dim>& copy, double seconds, const StepCopy& step);

extern template void try_out(Trial<2>&, const World<2>&, double, const StepCopy&);
extern template void try_out(Trial<3>&, const World<3>&, double, const StepCopy&);

}
