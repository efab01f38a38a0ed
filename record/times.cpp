#include "record/times.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <iterator>

namespace astasis::record {
namespace {

template<typename Value> std::vector<double> column(const std::vector<TickTimes>& ticks, const Value& value) {
    std::vector<double> out(ticks.size());
    std::transform(ticks.begin(), ticks.end(), out.begin(), value);
    return out;
}

const TickTimes& worst_of(const std::vector<TickTimes>& ticks) {
    return *std::max_element(ticks.begin(), ticks.end(),
                             [](const auto& p, const auto& q) { return p.all < q.all; });
}

// A bar of hashes, as long as a share of the longest.
std::string bar(double share) {
    constexpr double kLongest = 30;
    return std::string(static_cast<std::size_t>(std::lround(std::clamp(share, 0.0, 1.0) * kLongest)), '#');
}

std::string row(const char* name, const std::vector<double>& seconds, double worst, double share) {
    const std::string text =
        fmt::format("  {:<12}{:>11.4f}{:>11.4f}{:>11.4f}{:>8.1f} %  {}", name, 1e3 * quantile(seconds, 0.5),
                    1e3 * quantile(seconds, 0.99), 1e3 * worst, 100 * share, bar(share));
    return text.substr(0, text.find_last_not_of(' ') + 1) + "\n";
}

struct Count {
    const char* name;
    double (*of)(const TickTimes&);
};
constexpr Count kCounts[] = {
    {"moving", [](const TickTimes& t) { return static_cast<double>(t.counts.moving); }},
    {"islands", [](const TickTimes& t) { return static_cast<double>(t.counts.islands); }},
    {"pairs", [](const TickTimes& t) { return static_cast<double>(t.counts.pairs); }},
    {"manifolds", [](const TickTimes& t) { return static_cast<double>(t.counts.manifolds); }},
    {"points", [](const TickTimes& t) { return static_cast<double>(t.counts.points); }},
    {"joints", [](const TickTimes& t) { return static_cast<double>(t.counts.joints); }},
    {"swept turns", [](const TickTimes& t) { return static_cast<double>(t.counts.turns); }},
    {"plain work", [](const TickTimes& t) { return static_cast<double>(t.work.plain); }},
    {"  + updates", [](const TickTimes& t) { return static_cast<double>(t.work.updates.spent); }},
    {"  + impacts", [](const TickTimes& t) { return static_cast<double>(t.work.impacts.spent); }},
    {"  + exactness", [](const TickTimes& t) { return static_cast<double>(t.work.exactness.spent); }},
    {"refused",
     [](const TickTimes& t) {
         return static_cast<double>(t.work.updates.refused + t.work.impacts.refused +
                                    t.work.exactness.refused);
     }},
};

}

template<int Dim> TickTimes timed_step(World<Dim>& world) {
    using Clock = std::chrono::steady_clock;
    const auto from = Clock::now();
    world.step();
    const double all = std::chrono::duration<double>(Clock::now() - from).count();
    return {world.time(), all, world.stage_times(), world.tick_counts(), world.work_of_tick()};
}

double quantile(std::vector<double> values, double share) {
    if (values.empty()) return 0;
    const auto k = static_cast<std::ptrdiff_t>(std::llround(share * static_cast<double>(values.size() - 1)));
    std::nth_element(values.begin(), values.begin() + k, values.end());
    return values[static_cast<std::size_t>(k)];
}

std::string times_table(const std::vector<TickTimes>& ticks, double tick) {
    if (ticks.empty()) return "  no tick was taken\n";
    const TickTimes& worst = worst_of(ticks);
    const std::vector<double> all = column(ticks, [](const TickTimes& t) { return t.all; });
    double sum = 0;
    for (const double seconds : all) sum += seconds;
    std::string out = fmt::format("  {:<12}{:>11}{:>11}{:>11}{:>10}\n", "stage", "median ms", "99 % ms",
                                  "worst ms", "share");
    for (const Stage& stage : kStages) {
        const auto seconds = column(ticks, [&](const TickTimes& t) { return t.stages.*stage.seconds; });
        double own = 0;
        for (const double s : seconds) own += s;
        out += row(stage.name, seconds, worst.stages.*stage.seconds, own / sum);
    }
    out += row("a tick", all, worst.all, 1);
    out += fmt::format("  the worst tick ended at {:.3f} s; of a frame of {:.2f} ms the median tick takes "
                       "{:.1f} %, the worst {:.1f} %\n",
                       worst.time, 1e3 * tick, 100 * quantile(all, 0.5) / tick, 100 * worst.all / tick);
    out += fmt::format("  {:<14}{:>11}{:>11}{:>13}\n", "count", "median", "most", "worst tick");
    for (const Count& count : kCounts) {
        const auto values = column(ticks, count.of);
        const double most = *std::max_element(values.begin(), values.end());
        if (most > 0)
            out += fmt::format("  {:<14}{:>11.0f}{:>11.0f}{:>13.0f}\n", count.name, quantile(values, 0.5),
                               most, count.of(worst));
    }
    return out;
}

Ratio ratio_of(const std::vector<TickTimes>& ticks, const std::vector<TickTimes>& others) {
    std::vector<double> ratios;
    double sum = 0, sum_of_others = 0;
    for (std::size_t k = 0; k < std::min(ticks.size(), others.size()); k++) {
        ratios.push_back(others[k].all / ticks[k].all);
        sum += ticks[k].all, sum_of_others += others[k].all;
    }
    if (ratios.empty()) return {};
    return {quantile(ratios, 0.5), quantile(ratios, 0.25), quantile(ratios, 0.75), sum_of_others / sum};
}

std::string trace_json(const std::vector<TickTimes>& ticks) {
    std::string out =
        "{\"displayTimeUnit\": \"ms\", \"traceEvents\": [\n"
        "{\"name\": \"process_name\", \"ph\": \"M\", \"pid\": 1, \"args\": {\"name\": \"astasis\"}}";
    auto to = std::back_inserter(out);
    const auto event = [&](const std::string& name, double start, double seconds) {
        fmt::format_to(
            to,
            ",\n{{\"name\": \"{}\", \"ph\": \"X\", \"pid\": 1, \"tid\": 1, \"ts\": {:.3f}, \"dur\": {:.3f}}}",
            name, 1e6 * start, 1e6 * seconds);
    };
    double start = 0;
    for (std::size_t k = 0; k < ticks.size(); k++) {
        const TickTimes& t = ticks[k];
        event("tick " + std::to_string(k + 1), start, t.all);
        double at = start;
        for (const Stage& stage : kStages) {
            event(stage.name, at, t.stages.*stage.seconds);
            at += t.stages.*stage.seconds;
        }
        fmt::format_to(to,
                       ",\n{{\"name\": \"counts\", \"ph\": \"C\", \"pid\": 1, \"ts\": {:.3f}, \"args\": "
                       "{{\"pairs\": {}, "
                       "\"manifolds\": {}, \"points\": {}, \"islands\": {}}}}}",
                       1e6 * start, t.counts.pairs, t.counts.manifolds, t.counts.points, t.counts.islands);
        start += t.all;
    }
    return out + "\n]}\n";
}

template TickTimes timed_step(World<2>&);
template TickTimes timed_step(World<3>&);

}
