// The rules, one to a file. Each looks at a trial and adds what it finds.
#pragma once

#include "astasis/check.h"
#include "check/trial.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

// In the order in which they are applied: causes before what follows from them.
#define ASTASIS_RULES                                                                                        \
    ASTASIS_RULE(pixels)                                                                                     \
    ASTASIS_RULE(upward)                                                                                     \
    ASTASIS_RULE(degrees)                                                                                    \
    ASTASIS_RULE(halves)                                                                                     \
    ASTASIS_RULE(digits)                                                                                     \
    ASTASIS_RULE(bare)                                                                                       \
    ASTASIS_RULE(ghost)                                                                                      \
    ASTASIS_RULE(twins)                                                                                      \
    ASTASIS_RULE(overlap)                                                                                    \
    ASTASIS_RULE(anchors)                                                                                    \
    ASTASIS_RULE(limits)                                                                                     \
    ASTASIS_RULE(tunnel)                                                                                     \
    ASTASIS_RULE(late)                                                                                       \
    ASTASIS_RULE(energy)                                                                                     \
    ASTASIS_RULE(mass_ratio)                                                                                 \
    ASTASIS_RULE(sinking)                                                                                    \
    ASTASIS_RULE(slope)                                                                                      \
    ASTASIS_RULE(stall)                                                                                      \
    ASTASIS_RULE(terminal)                                                                                   \
    ASTASIS_RULE(awake)                                                                                      \
    ASTASIS_RULE(still)                                                                                      \
    ASTASIS_RULE(slow)

namespace astasis::checks {

extern const Rule refused_rule; // no trial can be made

#define ASTASIS_RULE(name)                                                                                   \
    extern const Rule name##_rule;                                                                           \
    template<int Dim> void name(const Trial<Dim>& trial, std::vector<Finding>& out);                         \
    extern template void name(const Trial<2>&, std::vector<Finding>&);                                       \
    extern template void name(const Trial<3>&, std::vector<Finding>&);
ASTASIS_RULES
#undef ASTASIS_RULE

// Of a scene of which no world can be made: the bodies that are bare, which is why.
template<int Dim> std::vector<Finding> bare_entries(const scene::Scene<Dim>& scene);

// At the end of a rule's file.
#define ASTASIS_RULE_ENDS(name)                                                                              \
    template void name(const Trial<2>&, std::vector<Finding>&);                                              \
    template void name(const Trial<3>&, std::vector<Finding>&);

// Overlap by more than this share of the thinner shape is a fault.
inline constexpr float kDeepShare = 0.2f;

// The first names of a list, and how many more there are.
std::string some_of(const std::vector<std::string>& names);

}
