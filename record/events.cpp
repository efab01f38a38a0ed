#include "record/events.h"

#include "astasis/scene/timeline.h"
#include "record/table.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis::record {
namespace {

constexpr const char* kAxes[] = {"x", "y", "z"};

template<int Dim> const char* text_of(const EventRow<Dim>& row) {
    switch (row.what) {
    case Happening::TouchBegun: return "touch begun";
    case Happening::TouchEnded: return "touch ended";
    case Happening::Impact: return "impact";
    case Happening::Entered: return "entered";
    case Happening::Left: return "left";
    case Happening::JointBroken: return "joint broken";
    case Happening::FellAsleep: return "fell asleep";
    case Happening::Woke: return "woke";
    case Happening::Nonfinite: return "not finite";
    case Happening::Deed: return row.deed;
    }
    return "";
}

// A number that a table would show as -0.0000 becomes 0.
float plain(float x) { return std::fabs(x) < 5e-5f ? 0.0f : x; }

template<int Dim> std::string strike_head() {
    std::string out;
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}_m", kAxes[i]);
    for (int i = 0; i < Dim; i++) out += fmt::format(",normal_{}", kAxes[i]);
    out += ",speed_m_per_s";
    for (int i = 0; i < Dim; i++) out += fmt::format(",impulse_{}_Ns", kAxes[i]);
    return out;
}
template<int Dim> std::string strike_cells(const Strike<Dim>& s) {
    std::string out;
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}", s.position[i] + 0.0);
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}", s.normal[i] + 0.0f);
    out += fmt::format(",{}", s.speed);
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}", s.impulse[i] + 0.0f);
    return out;
}
template<int Dim> std::string pair_cells(const EventRow<Dim>& e) {
    if (e.second.empty()) return fmt::format("{},,,", quoted(e.first));
    return fmt::format("{},{},{},{}", quoted(e.first), e.first_shape, quoted(e.second), e.second_shape);
}
template<int Dim> std::size_t width_of(const std::vector<EventRow<Dim>>& rows) {
    std::size_t width = 6;
    for (const auto& e : rows) width = std::max({width, e.first.size(), e.second.size()});
    return width;
}

}

template<int Dim> void EventLog<Dim>::tick(const scene::Made<Dim>& made) {
    const World<Dim>& world = made.world;
    const Events<Dim> events = world.events();
    const double end = world.time(), start = end - world.settings().tick;
    const std::size_t first = rows_.size();
    const auto add = [&](Happening what, double time, BodyId a, BodyId b, std::uint32_t shape_a,
                         std::uint32_t shape_b) -> EventRow<Dim>& {
        rows_.push_back({what,
                         time,
                         made.name_of(a),
                         b == BodyId{} ? "" : made.name_of(b),
                         shape_a,
                         shape_b,
                         {},
                         nullptr});
        return rows_.back();
    };
    for (const Strike<Dim>& s : events.strikes)
        add(Happening::Impact, start + s.time, s.body_a, s.body_b, s.shape_a, s.shape_b).strike = s;
    if (impacts_only_) return;
    for (const scene::Deed& deed : made.timeline->deeds())
        rows_.push_back({Happening::Deed, start, deed.name, "", 0, 0, {}, deed.what});
    for (const Crossing& c : events.entered)
        add(Happening::Entered, start + c.time, c.body, c.sensor_body, c.shape, c.sensor);
    for (const Crossing& c : events.left)
        add(Happening::Left, start + c.time, c.body, c.sensor_body, c.shape, c.sensor);
    for (const ShapePair& t : events.touches_begun)
        add(Happening::TouchBegun, end, t.body_a, t.body_b, t.shape_a, t.shape_b);
    for (const ShapePair& t : events.touches_ended)
        add(Happening::TouchEnded, end, t.body_a, t.body_b, t.shape_a, t.shape_b);
    for (const JointId id : events.broken_joints)
        rows_.push_back({Happening::JointBroken,
                         end,
                         made.joint_names[std::visit([](const auto& kind) { return kind.joins.user_data; },
                                                     world.joint(id))],
                         "",
                         0,
                         0,
                         {},
                         nullptr});
    for (const BodyId id : events.fell_asleep) add(Happening::FellAsleep, end, id, {}, 0, 0);
    for (const BodyId id : events.woke) add(Happening::Woke, end, id, {}, 0, 0);
    for (const BodyId id : events.became_nonfinite) add(Happening::Nonfinite, end, id, {}, 0, 0);
    std::stable_sort(rows_.begin() + static_cast<std::ptrdiff_t>(first), rows_.end(),
                     [](const auto& p, const auto& q) { return p.time < q.time; });
}

template<int Dim> std::string events_csv(const std::vector<EventRow<Dim>>& rows) {
    std::string out = "time_s,event,first,first_shape,second,second_shape" + strike_head<Dim>() + "\n";
    const std::string none(static_cast<std::size_t>(3 * Dim + 1), ',');
    for (const auto& e : rows)
        out += fmt::format("{},{},{}{}\n", e.time, text_of(e), pair_cells(e),
                           e.what == Happening::Impact ? strike_cells(e.strike) : none);
    return out;
}

template<int Dim> std::string events_table(const std::vector<EventRow<Dim>>& rows) {
    const std::size_t width = width_of(rows);
    std::string out = fmt::format("events: {}\n", rows.size());
    if (rows.empty()) return out;
    out += fmt::format("{:>10}  {:<13}  {:<{}}  {:<{}}  {:>9}  {:>12}\n", "time s", "event", "first", width,
                       "second", width, "speed m/s", "impulse N s");
    for (const auto& e : rows) {
        std::string line = fmt::format("{:>10.5f}  {:<13}  {:<{}}  {:<{}}", e.time, text_of(e), e.first,
                                       width, e.second, width);
        if (e.what == Happening::Impact)
            line += fmt::format("  {:>9.4g}  {:>12.5g}", e.strike.speed, length(e.strike.impulse));
        out += line.substr(0, line.find_last_not_of(' ') + 1) + "\n";
    }
    return out;
}

template<int Dim> std::string impacts_csv(const std::vector<EventRow<Dim>>& rows) {
    std::string out = "time_s,first,first_shape,second,second_shape" + strike_head<Dim>() + "\n";
    for (const auto& e : rows) out += fmt::format("{},{}{}\n", e.time, pair_cells(e), strike_cells(e.strike));
    return out;
}

template<int Dim> std::string impacts_table(const std::vector<EventRow<Dim>>& rows) {
    const std::size_t width = width_of(rows);
    std::string out = fmt::format("impacts: {}\n", rows.size());
    if (rows.empty()) return out;
    out += fmt::format("{:>10}  {:<{}}  {:<{}}  {:>{}}  {:>{}} {:>10} {:>12}\n", "time s", "first", width,
                       "second", width, "place m", 10 * Dim, "normal", 8 * Dim, "speed m/s", "impulse N s");
    for (const auto& e : rows) {
        out += fmt::format("{:>10.5f}  {:<{}}  {:<{}}  ", e.time, e.first, width, e.second, width);
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>10.5f}", e.strike.position[i] + 0.0);
        out += "  ";
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>8.4f}", plain(e.strike.normal[i]));
        out += fmt::format(" {:>10.4g} {:>12.5g}\n", e.strike.speed, length(e.strike.impulse));
    }
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template class EventLog<Dim>;                                                                            \
    template std::string events_csv(const std::vector<EventRow<Dim>>&);                                      \
    template std::string events_table(const std::vector<EventRow<Dim>>&);                                    \
    template std::string impacts_csv(const std::vector<EventRow<Dim>>&);                                     \
    template std::string impacts_table(const std::vector<EventRow<Dim>>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
