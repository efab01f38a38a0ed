// astasis chart TABLE: draws what a run wrote, over time or as a histogram.
#include "record/file_out.h"
#include "record/table_in.h"
#include "scene/nearest.h"
#include "tool/command.h"
#include "tool/gnuplot.h"
#include "tool/named_files.h"
#include "tool/quantity.h"

#include "paint/kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>

namespace astasis::tool {
namespace {

struct ChartWishes {
    std::string table, of, picture, title, law;
    std::vector<std::string> bodies;
    bool histogram = false, keep = false;
    std::optional<std::uint64_t> bins;
    std::optional<double> from, to;
};

// The values of a quantity, of one body or of all: in their order over time.
struct Values {
    std::string who;
    std::vector<std::pair<double, double>> at; // time and value
};

class Charting {
public:
    explicit Charting(const ChartWishes& wishes)
        : wishes_(wishes), table_(wishes.table), quantities_(quantities_of(table_, wishes.of)) {
        body_ = table_.column("body");
        histogram_ = wishes.histogram || wishes.bins || !wishes.law.empty() || is_list();
        check_wishes();
        paint::kind_of(picture());
    }
    std::string picture() const {
        return wishes_.picture.empty() ? std::filesystem::path(wishes_.table).stem().string() + ".png"
                                       : wishes_.picture;
    }
    std::string run() {
        read();
        Chart chart;
        chart.title = wishes_.title.empty() ? title() : wishes_.title;
        chart.under = fmt::format("{}, {:.4g} to {:.4g} s, {} values{}", wishes_.table, first_, last_, count_,
                                  cuts_.empty() ? "" : ", " + cuts_);
        if (histogram_) draw_histogram(chart);
        else draw_series(chart);
        return write(chart);
    }

private:
    // A table of things that happened at times of their own, not tick by tick.
    bool is_list() const { return body_ == table_.columns().size() && table_.column("tick") == body_; }

    static std::string unit_of(const Quantity& q) { return q.unit.empty() ? "no unit" : q.unit; }
    void check_wishes() const {
        if (!wishes_.bodies.empty() && body_ == table_.columns().size())
            throw UsageError(fmt::format("--body goes with tables of bodies, of --csv or --watch; {} has no "
                                         "column of them",
                                         wishes_.table));
        if (wishes_.from && wishes_.to && !(*wishes_.from < *wishes_.to))
            throw UsageError(fmt::format("--to: given {}, accepted: more than --from, which is {}",
                                         *wishes_.to, *wishes_.from));
        for (const Quantity& q : quantities_)
            if (q.unit != quantities_[0].unit)
                throw UsageError(fmt::format("--of: {} is in {} and {} in {}; a chart has one axis for all",
                                             quantities_[0].name, unit_of(quantities_[0]), q.name,
                                             unit_of(q)));
        if (wishes_.law.empty()) return;
        if (wishes_.law != "maxwell")
            throw UsageError(fmt::format("--law: given {}, accepted: maxwell", wishes_.law));
        if (quantities_.size() != 1 || quantities_[0].name != "speed")
            throw UsageError("--law maxwell goes with --of speed: it is the law of the speeds of a gas");
    }

    void read() {
        const std::size_t time = table_.column("time_s");
        values_.resize(quantities_.size());
        std::vector<std::string> cells;
        while (table_.next(cells)) {
            const double now = table_.number(cells, time);
            if ((wishes_.from && now < *wishes_.from) || (wishes_.to && now > *wishes_.to)) continue;
            const std::string who = body_ < cells.size() ? cells[body_] : std::string();
            if (body_ < cells.size()) watch_place(who, cells);
            if (!wishes_.bodies.empty() &&
                std::find(wishes_.bodies.begin(), wishes_.bodies.end(), who) == wishes_.bodies.end())
                continue;
            for (std::size_t k = 0; k < quantities_.size(); k++) note(k, who, now, cells);
        }
        for (const std::string& name : wishes_.bodies)
            if (!moves_.contains(name)) throw UsageError(no_body(name));
        if (count_ == 0) throw UsageError(fmt::format("{}: holds no value to draw", wishes_.table));
        if (left_out_ > 0) cuts_ = fmt::format("{} not finite left out", left_out_);
        if (pools() && places_.size() > 1) pool();
    }
    void note(std::size_t k, const std::string& who, double now, const std::vector<std::string>& cells) {
        const auto value = quantities_[k].of(table_, cells);
        if (!value || !std::isfinite(*value)) {
            left_out_ += value.has_value();
            return;
        }
        const auto [at, fresh] = places_.try_emplace(who, places_.size());
        auto& lists = values_[k];
        if (lists.size() < places_.size()) lists.resize(places_.size());
        lists[at->second].who = who, lists[at->second].at.emplace_back(now, *value);
        first_ = count_ == 0 ? now : std::min(first_, now), last_ = count_ == 0 ? now : std::max(last_, now);
        count_++;
    }
    // A body has moved if any cell of its place or turn differs from that of its first row.
    void watch_place(const std::string& who, const std::vector<std::string>& cells) {
        const std::size_t to = std::min(table_.column("vx_m_s"), cells.size());
        std::string place;
        for (std::size_t k = body_ + 1; k < to; k++) place += cells[k] + ' ';
        const auto [at, fresh] = moves_.try_emplace(who, place, false);
        if (!fresh && at->second.first != place) at->second.second = true;
    }
    // All bodies as one list, in the order of time; without those that never move, as walls.
    void pool() {
        const auto moves = [&](const Values& v) { return moves_.at(v.who).second; };
        const bool some =
            std::any_of(moves_.begin(), moves_.end(), [](const auto& m) { return m.second.second; });
        count_ = pooled_ = 0;
        for (auto& lists : values_) {
            Values all;
            pooled_ = 0;
            for (const Values& v : lists) {
                if (some && !moves(v)) continue;
                pooled_++;
                all.at.insert(all.at.end(), v.at.begin(), v.at.end());
            }
            std::stable_sort(all.at.begin(), all.at.end(),
                             [](const auto& p, const auto& q) { return p.first < q.first; });
            count_ += all.at.size();
            lists.clear();
            lists.push_back(std::move(all));
        }
        if (const std::size_t still = places_.size() - pooled_; still > 0)
            cuts_ += fmt::format("{}{} that never {} left out", cuts_.empty() ? "" : ", ", still,
                                 still == 1 ? "moves" : "move");
    }
    // The values of all bodies are taken together.
    bool pools() const { return wishes_.bodies.empty(); }
    std::string no_body(const std::string& name) const {
        std::vector<std::string> names;
        for (const auto& [who, moved] : moves_) names.push_back(who);
        const std::string near = scene::nearest(name, names);
        std::string known;
        for (std::size_t k = 0; k < std::min<std::size_t>(names.size(), 5); k++)
            known += (k > 0 ? ", " : "") + names[k];
        return fmt::format("--body {}: the table has none of that name{}; it has {}{}", name,
                           near.empty() ? "" : "; did you mean " + near + "?", known,
                           names.size() > 5 ? fmt::format(" and {} more", names.size() - 5) : "");
    }

    // The name of several quantities of one unit.
    std::string kind() const {
        constexpr std::pair<const char*, const char*> kKinds[] = {{"J", "energy"},
                                                                  {"m/s", "speed"},
                                                                  {"m", "place"},
                                                                  {"kg m/s", "momentum"},
                                                                  {"kg m2/s", "angular momentum"},
                                                                  {"N s", "impulse"},
                                                                  {"rad/s", "spin"},
                                                                  {"rad", "angle"},
                                                                  {"ms", "time"}};
        if (quantities_.size() == 1) return quantities_[0].name;
        for (const auto& [unit, name] : kKinds)
            if (quantities_[0].unit == unit) return name;
        return "number";
    }
    std::string title() const {
        std::string out = kind();
        if (body_ < table_.columns().size()) {
            if (pools())
                out += places_.size() == 1 ? " of " + places_.begin()->first
                       : pooled_ == 1      ? std::string(" of the one body that moves")
                                           : fmt::format(" of all {} bodies", pooled_);
            else if (wishes_.bodies.size() == 1) out += " of " + wishes_.bodies[0];
        }
        out += histogram_ ? ", how often" : " over time";
        out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
        return out;
    }
    std::string axis() const {
        const std::string& unit = quantities_[0].unit;
        return unit.empty() ? kind() : kind() + ", " + unit;
    }
    std::string name_of(std::size_t quantity, const std::string& who) const {
        if (who.empty()) return quantities_[quantity].name;
        return quantities_.size() == 1 ? who : quantities_[quantity].name + " of " + who;
    }

    void draw_series(Chart& chart) {
        chart.x = "time, s", chart.y = axis();
        for (std::size_t k = 0; k < quantities_.size(); k++)
            for (const Values& v : values_[k]) {
                if (pooled_ > 1) draw_mean_and_most(chart, k, v);
                else if (!v.at.empty()) chart.lines.push_back({name_of(k, v.who), v.at});
            }
    }
    // Of many bodies at each time: their mean, and the one with the most.
    void draw_mean_and_most(Chart& chart, std::size_t quantity, const Values& values) const {
        Line mean{fmt::format("{}, mean", quantities_[quantity].name), {}},
            most{fmt::format("{}, the most", quantities_[quantity].name), {}};
        for (std::size_t k = 0; k < values.at.size();) {
            const double now = values.at[k].first;
            double sum = 0, top = values.at[k].second;
            std::size_t n = 0;
            for (; k < values.at.size() && values.at[k].first == now; k++, n++)
                sum += values.at[k].second, top = std::max(top, values.at[k].second);
            mean.points.emplace_back(now, sum / static_cast<double>(n)), most.points.emplace_back(now, top);
        }
        chart.lines.push_back(std::move(mean)), chart.lines.push_back(std::move(most));
    }

    void draw_histogram(Chart& chart) {
        chart.x = axis(), chart.y = "% of the values, a bar", chart.y_from_zero = true;
        double low = std::numeric_limits<double>::infinity(), high = -low, squares = 0;
        for (const auto& lists : values_)
            for (const Values& v : lists)
                for (const auto& [t, value] : v.at)
                    low = std::min(low, value), high = std::max(high, value), squares += value * value;
        if (low >= 0 && low < 0.5 * high) low = 0; // speeds and the like begin at none
        const auto bins = static_cast<std::size_t>(wishes_.bins.value_or(40));
        const double width = high > low ? (high - low) / static_cast<double>(bins) : 1;
        for (std::size_t k = 0; k < quantities_.size(); k++)
            for (const Values& v : values_[k]) {
                if (v.at.empty()) continue;
                Line line{name_of(k, v.who), {}, true};
                std::vector<std::size_t> counts(bins);
                for (const auto& [t, value] : v.at)
                    counts[std::min(static_cast<std::size_t>((value - low) / width), bins - 1)]++;
                for (std::size_t b = 0; b < bins; b++)
                    line.points.emplace_back(low + (static_cast<double>(b) + 0.5) * width,
                                             100 * static_cast<double>(counts[b]) /
                                                 static_cast<double>(v.at.size()));
                chart.lines.push_back(std::move(line));
            }
        if (!wishes_.law.empty())
            chart.lines.push_back(maxwell(squares / static_cast<double>(count_), low, high, width));
    }
    // The share of each speed in a gas in balance, by its mean square, in bars of a width (Maxwell 1860).
    Line maxwell(double mean_square, double low, double high, double width) const {
        const bool space = table_.column("vz_m_s") < table_.columns().size();
        const double s = mean_square / (space ? 3 : 2); // of one component
        Line line{fmt::format("Maxwell's law, {:.4g} m/s root mean square", std::sqrt(mean_square)), {}};
        constexpr int kPoints = 400;
        constexpr double kPi = 3.141592653589793;
        for (int k = 0; k <= kPoints; k++) {
            const double v = low + (high - low) * k / kPoints, e = std::exp(-v * v / (2 * s));
            const double density = space ? std::sqrt(2 / kPi) * v * v * e / (s * std::sqrt(s)) : v * e / s;
            line.points.emplace_back(v, 100 * width * density);
        }
        return line;
    }

    std::string write(const Chart& chart) const {
        record::FileOut out(picture());
        plot(chart, picture(), out.part());
        out.finish();
        std::string text = fmt::format("{}\n  {}\n", chart.title, chart.under);
        for (std::size_t k = 0; k < quantities_.size(); k++)
            for (const Values& v : values_[k]) {
                if (v.at.empty()) continue;
                double least = v.at[0].second, most = least, sum = 0;
                for (const auto& [t, value] : v.at)
                    least = std::min(least, value), most = std::max(most, value), sum += value;
                text += fmt::format("  {:<17}{:.4g} to {:.4g}{}, mean {:.4g}\n",
                                    v.who.empty() ? quantities_[k].name : name_of(k, v.who), least, most,
                                    quantities_[k].unit.empty() ? "" : " " + quantities_[k].unit,
                                    sum / static_cast<double>(v.at.size()));
            }
        text += fmt::format("  {:<17}{}\n", "wrote", picture());
        if (!wishes_.keep) return text;
        const auto [script, data] = kept();
        record::FileOut data_out(data), script_out(script);
        data_out.write(data_of(chart)), data_out.finish();
        script_out.write(
            script_of(chart, data.filename().string(), std::filesystem::path(picture()).filename().string()));
        script_out.finish();
        return text + fmt::format("  {0:<17}{1}\n  {0:<17}{2}\n", "kept", script.string(), data.string());
    }

public:
    std::pair<std::filesystem::path, std::filesystem::path> kept() const {
        const std::filesystem::path base(picture());
        return {std::filesystem::path(base).replace_extension(".gnuplot"),
                std::filesystem::path(base).replace_extension(".dat")};
    }

private:
    const ChartWishes& wishes_;
    record::TableIn table_;
    std::vector<Quantity> quantities_;
    std::vector<std::vector<Values>> values_;   // of each quantity
    std::map<std::string, std::size_t> places_; // of bodies, in values_
    std::map<std::string, std::pair<std::string, bool>>
        moves_; // bodies: where they were first, whether they left it
    std::size_t body_ = 0, count_ = 0, left_out_ = 0, pooled_ = 0;
    double first_ = 0, last_ = 0;
    bool histogram_ = false;
    std::string cuts_;
};

std::string draw_chart(const ChartWishes& wishes) {
    Charting chart(wishes);
    std::vector<NamedFile> outputs{{"--picture", chart.picture()}};
    if (wishes.keep) {
        const auto [script, data] = chart.kept();
        outputs.push_back({"the script of --keep", script}), outputs.push_back({"the data of --keep", data});
    }
    keep_apart({{"the table", wishes.table}}, outputs);
    return chart.run();
}

}

void add_chart(Commands& commands) {
    auto wishes = std::make_shared<ChartWishes>();
    Options chart = commands.add("chart", "Draw what a run wrote, over time or as a histogram, by gnuplot");
    chart.footer(
        "Examples:\n"
        "  astasis run scenes/parcel_chute.json --measures-csv chute.csv --csv parcels.csv\n"
        "  astasis chart chute.csv --of kinetic,potential,total --picture energy.png\n"
        "  astasis chart chute.csv --of deepest_overlap\n"
        "  astasis chart parcels.csv --of speed --body parcel.3 --body parcel.7\n"
        "  astasis chart parcels.csv --of speed --histogram --law maxwell\n"
        "TABLE is what run wrote with --csv, --measures-csv, --events-csv or --impacts-csv, or what it "
        "printed "
        "with --watch.\n"
        "Without --picture the file is TABLE's name with .png, in this folder.\n"
        "Exit status: 0 done, 2 the call, the table or an output is at fault (nothing is written then).");
    chart.table(wishes->table);
    chart.text("--of", wishes->of,
               {"LIST", "Which columns, with commas between, with or without their unit; speed and spin are "
                        "made of theirs. By default energies, or speeds"});
    chart.texts(
        "--body", wishes->bodies,
        {"NAME", "Of this body alone; may be given again. Without it of all: their mean and the most"});
    chart.flag("--histogram", wishes->histogram, "How often each value is there, instead of its course");
    chart.whole("--bins", wishes->bins, {2, 1000, "a whole number from 2 to 1000"},
                {"N", "Bars of the histogram; 40 by default"});
    chart.text("--law", wishes->law, {"NAME", "Draw a law over a histogram of speeds: maxwell"});
    chart.number("--from", wishes->from, {0, 1e9, "seconds, 0 or more"},
                 {"SECONDS", "Leave out what was before"});
    chart.number("--to", wishes->to, {0, 1e9, "seconds, 0 or more"},
                 {"SECONDS", "Leave out what came later"});
    chart.text("--picture", wishes->picture, {"FILE", "The chart, a .png or .svg file"});
    chart.text("--title", wishes->title, {"TEXT", "Its title"});
    chart.flag("--keep", wishes->keep,
               "Leave gnuplot's script and data beside the chart, to change it by hand");
    chart.work([=] { fmt::print("{}", draw_chart(*wishes)); });
}

}
