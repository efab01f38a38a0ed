// Mistakes in a scene, or in a world that a game runs: rules look at it, and at a trial run of a copy, and
// name each by body with its figures and the cure.
#pragma once

#include "astasis/scene/scene.h"

#include <functional>
#include <span>
#include <string>
#include <vector>

namespace astasis::checks {

struct Finding {
    const char* rule = "";
    bool is_error = false; // else advice
    std::string text;      // one or two sentences
};

struct Rule {
    const char* name;  // "overlap", for --explain
    const char* title; // what it looks for
    const char* story; // the longer story: cause, signs, cure
    const char* bad;   // a scene with the mistake
    const char* good;  // the same without
};
// In the order in which they are applied.
std::span<const Rule> rules();

// Applies all rules: errors first, each in the order of the rules. Steps a copy for up to two seconds of the
// scene. A scene that the library refuses has that as its only finding.
template<int Dim>
std::vector<Finding> check_scene(const scene::Scene<Dim>& scene, const scene::Document& document);

extern template std::vector<Finding> check_scene(const scene::Scene<2>&, const scene::Document&);
extern template std::vector<Finding> check_scene(const scene::Scene<3>&, const scene::Document&);

}

namespace astasis {

// The rules that need no scene file, on a world between ticks. Steps a copy, made by save(), for two seconds:
// without the world's hooks and without what the game would do. Bodies are named by `name`; by default by
// their place in World::bodies(), as "body 3".
template<int Dim>
std::vector<checks::Finding> check(const World<Dim>& world,
                                   const std::function<std::string(BodyId)>& name = {});

extern template std::vector<checks::Finding> check(const World<2>&,
                                                   const std::function<std::string(BodyId)>&);
extern template std::vector<checks::Finding> check(const World<3>&,
                                                   const std::function<std::string(BodyId)>&);

}
