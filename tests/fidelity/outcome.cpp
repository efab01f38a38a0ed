#include "fidelity/outcome.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <limits>

namespace astasis::fidelity {
namespace {

std::string text(double x) {
    char out[32];
    std::snprintf(out, sizeof out, "%.7g", x);
    return out;
}

// What is not a number is as wrong as can be.
double finite(double error) { return error - error == 0 ? error : std::numeric_limits<double>::infinity(); }

}

void Outcome::near(std::string name, std::string unit, double measured, double reference, double good,
                   double best) {
    quantities_.push_back({.name = std::move(name),
                           .unit = std::move(unit),
                           .measured = measured,
                           .wanted = text(reference),
                           .error = finite(std::fabs(measured - reference)),
                           .good = good,
                           .best = best});
}

void Outcome::near_all(std::string name, std::string unit, std::span<const double> measured,
                       std::span<const double> references, double good, double best) {
    std::size_t worst = 0;
    for (std::size_t i = 0; i < references.size(); i++) {
        if (i >= measured.size()) {
            near(std::move(name), std::move(unit), std::nan(""), references[i], good, best);
            return;
        }
        if (std::fabs(measured[i] - references[i]) > std::fabs(measured[worst] - references[worst]))
            worst = i;
    }
    near(std::move(name), std::move(unit), measured[worst], references[worst], good, best);
}

void Outcome::near_share(std::string name, std::string unit, double measured, double reference, double good,
                         double best) {
    quantities_.push_back({.name = std::move(name),
                           .unit = std::move(unit),
                           .measured = measured,
                           .wanted = text(reference),
                           .error = finite(std::fabs(measured / reference - 1)),
                           .good = good,
                           .best = best});
}

void Outcome::at_most(std::string name, std::string unit, double measured, double good, double best) {
    quantities_.push_back({.name = std::move(name),
                           .unit = std::move(unit),
                           .measured = measured,
                           .wanted = "at most " + text(good),
                           .error = finite(measured),
                           .good = good,
                           .best = best});
}

void Outcome::at_least(std::string name, std::string unit, double measured, double good, double best) {
    quantities_.push_back({.name = std::move(name),
                           .unit = std::move(unit),
                           .measured = measured,
                           .wanted = "at least " + text(good),
                           .error = finite(-measured),
                           .good = -good,
                           .best = -best});
}

void Outcome::within(std::string name, std::string unit, double measured, double good_low, double good_high,
                     double best_low, double best_high) {
    // How far out it is, against 0; inside the best range below 0.
    const double out_of_good = std::max(good_low - measured, measured - good_high);
    const double out_of_best = std::max(best_low - measured, measured - best_high);
    quantities_.push_back({.name = std::move(name),
                           .unit = std::move(unit),
                           .measured = measured,
                           .wanted = text(good_low) + " to " + text(good_high),
                           .error = finite(out_of_good > 0   ? 1.0 + out_of_good
                                           : out_of_best > 0 ? 1.0
                                                             : 0.0),
                           .good = 1,
                           .best = 0});
}

void Outcome::holds(std::string name, bool is) {
    quantities_.push_back({.name = std::move(name),
                           .unit = "",
                           .measured = is ? 1.0 : 0.0,
                           .wanted = "true",
                           .error = is ? 0.0 : 1.0});
}

void Outcome::holds_best(std::string name, bool is) {
    holds(std::move(name), is);
    quantities_.back().good_given = false;
}

bool Outcome::is_good() const {
    return std::all_of(quantities_.begin(), quantities_.end(), [](const auto& q) { return q.is_good(); });
}

bool Outcome::is_best() const {
    return std::all_of(quantities_.begin(), quantities_.end(), [](const auto& q) { return q.is_best(); });
}

std::vector<Case> cases() {
    std::vector<Case> out;
    for (const auto group : {free_motion_cases(), impact_cases(), friction_cases(), stacking_cases(),
                             gas_cases(), granular_cases(), pendulum_cases(), joint_cases(), field_cases(),
                             sweeping_cases(), sleeping_cases(), invariance_cases(), geometry_cases()})
        out.insert(out.end(), group.begin(), group.end());
    return out;
}

}
