// The events of a run: what the world told after each tick, with the time of the run.
#pragma once

#include "astasis/events.h"
#include "astasis/scene/scene.h"

#include <string>
#include <vector>

namespace astasis::record {

enum class Happening : std::uint8_t {
    TouchBegun,
    TouchEnded,
    Impact,
    Entered, // a sensor
    Left,
    JointBroken,
    FellAsleep,
    Woke,
    Nonfinite,
    Deed // of the time line
};

template<int Dim> struct EventRow {
    Happening what = Happening::TouchBegun;
    double time = 0;           // s, since the start of the run
    std::string first, second; // bodies; of a joint its name
    std::uint32_t first_shape = 0, second_shape = 0;
    Strike<Dim> strike{};       // of an impact
    const char* deed = nullptr; // of the time line
};

// All events, or impacts alone; asked after each tick of a world that collects them.
template<int Dim> class EventLog {
public:
    explicit EventLog(bool impacts_only = false) : impacts_only_(impacts_only) {}
    void tick(const scene::Made<Dim>& made);
    const std::vector<EventRow<Dim>>& rows() const { return rows_; }

private:
    bool impacts_only_;
    std::vector<EventRow<Dim>> rows_;
};

// As CSV, and as a table for a terminal, in which only impacts have a place, a normal and an impulse.
template<int Dim> std::string events_csv(const std::vector<EventRow<Dim>>& rows);
template<int Dim> std::string events_table(const std::vector<EventRow<Dim>>& rows);
template<int Dim> std::string impacts_csv(const std::vector<EventRow<Dim>>& rows);
template<int Dim> std::string impacts_table(const std::vector<EventRow<Dim>>& rows);

extern template class EventLog<2>;
extern template class EventLog<3>;

}
