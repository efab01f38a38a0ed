// The rules, one to a file. Each looks at a trial and adds what it finds.
#pragma once

#include "check/check.h"
#include "check/trial.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis::check {

#define ASTASIS_RULE(name)                                                                                   \
    extern const Rule name##_rule;                                                                           \
    template<int Dim> void name(const Trial<Dim>& trial, std::vector<Finding>& out);                         \
    extern template void name(const Trial<2>&, std::vector<Finding>&);                                       \
    extern template void name(const Trial<3>&, std::vector<Finding>&);
ASTASIS_RULE(pixels)
ASTASIS_RULE(ghost)
ASTASIS_RULE(twins)
ASTASIS_RULE(overlap)
ASTASIS_RULE(tunnel)
ASTASIS_RULE(late)
ASTASIS_RULE(energy)
ASTASIS_RULE(mass_ratio)
ASTASIS_RULE(stall)
ASTASIS_RULE(terminal)
ASTASIS_RULE(still)
ASTASIS_RULE(slow)
#undef ASTASIS_RULE

// At the end of a rule's file.
#define ASTASIS_RULE_ENDS(name)                                                                              \
    template void name(const Trial<2>&, std::vector<Finding>&);                                              \
    template void name(const Trial<3>&, std::vector<Finding>&);

// Overlap by more than this share of the thinner shape is a fault.
inline constexpr float kDeepShare = 0.2f;

// The first names of a list, and how many more there are.
std::string some_of(const std::vector<std::string>& names);

}
