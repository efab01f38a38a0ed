#include "tool/report.h"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <iterator>

namespace astasis::tool {
namespace {

// A length with a unit that leaves a readable number.
std::string metres(double m) {
    const double a = std::fabs(m);
    if (a == 0) return "0 m";
    if (a < 1e-3) return fmt::format("{:.3g} um", m * 1e6);
    if (a < 1) return fmt::format("{:.3g} mm", m * 1e3);
    return fmt::format("{:.4g} m", m);
}

std::string deepest_text(const record::Deepest& d) {
    if (d.metres == 0) return "none";
    return fmt::format("{} ({:.2g} % of the thinner shape), {}, at {:.2f} s", metres(d.metres), 100 * d.share,
                       d.who, d.time);
}

// What things that nothing can push gave to the bodies.
std::string work_text(const Work& w) {
    std::string out;
    const auto add = [&](double joules, const char* by) {
        if (joules != 0) out += fmt::format("{}{:.5g} J {}", out.empty() ? "" : ", ", joules, by);
    };
    add(w.kinematic, "by kinematic bodies"), add(w.surfaces, "by running surfaces"),
        add(w.thrusts, "by thrusts"), add(w.motors, "by motors"), add(w.fields, "by fields"),
        add(w.hooks, "by hooks");
    return out;
}

}

std::string summary_text(const record::Summary& s, const std::string& title, const std::string& source) {
    std::string out;
    const auto line = [&](const char* name, const std::string& text) {
        fmt::format_to(std::back_inserter(out), "  {:<17}{}\n", name, text);
    };
    out += title == std::filesystem::path(source).filename() ? source + "\n"
                                                             : fmt::format("{}  ({})\n", title, source);
    line("world",
         fmt::format("{}, {:g} ticks a second, {} substeps, seed {}", s.dimension == 2 ? "plane" : "space",
                     std::round(1e6 / s.tick) / 1e6, s.substeps, s.seed));
    line("bodies", fmt::format("{} dynamic, {} kinematic, {} static{}", s.dynamic, s.kinematic, s.still,
                               s.deeds.empty() ? "" : " at the start"));
    if (s.ticks < s.ticks_wanted)
        line("ticks", fmt::format("{} of {} ({:g} s simulated): stopped by a signal", s.ticks, s.ticks_wanted,
                                  s.time));
    else line("ticks", fmt::format("{} ({:g} s simulated)", s.ticks, s.time));
    line("wall time a tick",
         fmt::format("{:.3f} ms median, {:.3f} ms at the 99th percentile", s.median_ms, s.slowest_ms));
    line("contacts", fmt::format("{} at the end, {} at most", s.contacts_end, s.contacts_most));
    line("penetration", "deepest " + deepest_text(s.deepest));
    line("", "at the end " + deepest_text(s.deepest_end));
    if (s.penetration_end.overlapping > 0)
        line("", fmt::format("at the end typically {} (root mean square of {} contacts)",
                             metres(s.penetration_end.typical), s.penetration_end.overlapping));
    if (s.joints.count > 0) {
        const record::JointsOfRun& j = s.joints;
        line("joints", fmt::format("{}, gave way by {} at most{}", j.count, metres(j.stretch),
                                   j.stretched.empty() ? "" : fmt::format(" ({})", j.stretched)));
        if (j.force > 0)
            line("", fmt::format("strongest reaction {:.4g} N ({}, at {:.2f} s)", j.force, j.strongest,
                                 j.strongest_time));
        if (j.torque > 1e-3)
            line("", fmt::format("strongest torque {:.4g} N m ({})", j.torque, j.most_twisted));
        for (const auto& [name, time] : j.broken)
            line("broken joint", fmt::format("{}, at {:.2f} s", name, time));
    }
    for (std::size_t k = 0; k < s.sensors.size(); k++) {
        const record::SensorOfRun& sensor = s.sensors[k];
        line(k == 0 ? "sensors" : "", fmt::format("{}: {} entered, {} left, {} in it at the end", sensor.name,
                                                  sensor.entered, sensor.left, sensor.in_it));
    }
    if (!s.deeds.empty()) {
        std::string text;
        for (const auto& [what, times] : s.deeds)
            text += fmt::format("{}{} {}", text.empty() ? "" : ", ", times, what);
        line("time line", text);
    }
    if (s.fields > 0) line("fields", std::to_string(s.fields));
    line("energy", fmt::format("{:>12} {:>12} {:>12}", "kinetic", "potential", "total"));
    line("  start", fmt::format("{:>10.5g} J {:>10.5g} J {:>10.5g} J", s.start.kinetic, s.start.potential,
                                s.start.total()));
    line("  end",
         fmt::format("{:>10.5g} J {:>10.5g} J {:>10.5g} J", s.end.kinetic, s.end.potential, s.end.total()));
    if (const std::string work = work_text(s.work); !work.empty()) line("  work done", work);
    line("fastest at end", s.fastest_who.empty()
                               ? "nothing moves"
                               : fmt::format("{:.3g} m/s, {}", s.fastest_end, s.fastest_who));
    if (s.asleep.bodies > 0)
        line("asleep at end",
             fmt::format("{} {} in {} {}, {} awake{}", s.asleep.bodies,
                         s.asleep.bodies == 1 ? "body" : "bodies", s.asleep.islands,
                         s.asleep.islands == 1 ? "island" : "islands", s.awake,
                         s.awake == 0 ? fmt::format(" since {:.2f} s", s.all_asleep_time) : ""));
    line("fingerprint", fmt::format("{:016x}", s.fingerprint));
    if (s.warnings.empty()) line("warnings", "none");
    for (const std::string& w : s.warnings) line("WARNING", w);
    return out;
}

}
