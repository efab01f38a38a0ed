// Mechanics cases with known answers: what each measures, and how near it came.
//
// A case builds worlds through the public interface at the one configuration of configuration.h, and reports
// quantities. `good` is the tolerance that every case must keep, `best` the one to strive for. bench/fidelity
// writes them all to docs/fidelity.md; tests/fidelity/fidelity_test.cpp holds `good`.
#pragma once

#include <span>
#include <string>
#include <vector>

namespace astasis::fidelity {

struct Quantity {
    std::string name, unit;
    double measured = 0; // of a list the entry with the largest error
    std::string wanted;  // as text: the reference, a bound or a range
    double error = 0;    // in the unit; a share where tolerances are shares
    double good = 0, best = 0;
    bool good_given = true, best_given = true;
    bool is_good() const { return !good_given || error <= good; }
    bool is_best() const { return is_good() && (!best_given || error <= best); }
};

class Outcome {
public:
    // Within a distance of the reference; of lists, the worst entry counts.
    void near(std::string name, std::string unit, double measured, double reference, double good,
              double best);
    void near_all(std::string name, std::string unit, std::span<const double> measured,
                  std::span<const double> references, double good, double best);
    // Within a share of the reference.
    void near_share(std::string name, std::string unit, double measured, double reference, double good,
                    double best);
    void at_most(std::string name, std::string unit, double measured, double good, double best);
    void at_least(std::string name, std::string unit, double measured, double good, double best);
    void within(std::string name, std::string unit, double measured, double good_low, double good_high,
                double best_low, double best_high);
    void holds(std::string name, bool is);
    void holds_best(std::string name, bool is); // beyond what must hold

    const std::vector<Quantity>& quantities() const { return quantities_; }
    bool is_good() const;
    bool is_best() const;

private:
    std::vector<Quantity> quantities_;
};

struct Case {
    const char* name; // two letters of the group, and a number
    const char* title;
    int dimensions;
    bool lengthy; // not among the quick tests
    void (*run)(Outcome&);
};

// All cases in the order of the page.
std::vector<Case> cases();
std::span<const Case> free_motion_cases();
std::span<const Case> impact_cases();
std::span<const Case> friction_cases();
std::span<const Case> stacking_cases();
std::span<const Case> gas_cases();
std::span<const Case> granular_cases();
std::span<const Case> invariance_cases();
std::span<const Case> geometry_cases();
std::span<const Case> joint_cases();
std::span<const Case> pendulum_cases();
std::span<const Case> field_cases();
std::span<const Case> sleeping_cases();
std::span<const Case> sweeping_cases();

}
