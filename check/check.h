// Mistakes in a scene: rules look at it, and at a trial run of a copy, and name each by body with its figures
// and the cure.
#pragma once

#include "scene/scene.h"

#include <span>
#include <string>
#include <vector>

namespace astasis::check {

struct Finding {
    const char* rule = "";
    bool is_error = false; // else advice
    std::string text;      // one or two sentences
};

struct Rule {
    const char* name;  // "overlap", for --explain
    const char* title; // what it looks for
    const char* story; // the longer story: cause, signs, cure
};
// In the order in which they are applied.
std::span<const Rule> rules();

// Applies all rules: errors first, each in the order of the rules. Steps a copy for up to two seconds of the
// scene. Throws FileError as make_world().
template<int Dim> std::vector<Finding> check(const scene::Scene<Dim>& scene, const scene::Document& document);

extern template std::vector<Finding> check(const scene::Scene<2>&, const scene::Document&);
extern template std::vector<Finding> check(const scene::Scene<3>&, const scene::Document&);

}
