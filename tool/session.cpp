#include "tool/session.h"

#include "astasis/scene/timeline.h"
#include "record/events.h"
#include "record/file_out.h"
#include "record/measures.h"
#include "record/paths.h"
#include "record/run.h"
#include "record/table.h"
#include "tool/command.h"
#include "tool/interrupts.h"
#include "tool/named_files.h"
#include "tool/progress.h"
#include "tool/report.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <memory>
#include <type_traits>

namespace astasis::tool {
namespace {

std::vector<NamedFile> inputs(const scene::Document& document, const Looks& looks) {
    std::vector<NamedFile> out{{"the scene", document.file}, {"the file of --rays", looks.rays}};
    for (const auto& path : document.others) out.push_back({"a mesh of the scene", path});
    return out;
}
std::vector<NamedFile> outputs(const Wishes& wishes) {
    return {{"--csv", wishes.csv},
            {"--measures-csv", wishes.measures_csv},
            {"--contacts-csv", wishes.contacts_csv},
            {"--impacts-csv", wishes.impacts_csv},
            {"--events-csv", wishes.events_csv},
            {"--picture", wishes.looks.picture},
            {"--hits-csv", wishes.looks.hits_csv},
            {"the summary", wishes.summary}};
}

std::string some_names(const std::vector<std::string>& names) {
    std::string out;
    for (std::size_t i = 0; i < names.size() && i < 12; i++) out += (i ? ", " : "") + names[i];
    return names.size() > 12 ? fmt::format("{} and {} more", out, names.size() - 12) : out;
}

// A run in the making: outputs are opened before the first tick, and renamed into place after the last.
template<int Dim> class Session {
public:
    Session(scene::Scene<Dim>& scene, const scene::Document& document, const Wishes& wishes)
        : scene_(scene), source_(document.file), wishes_(wishes) {
        keep_apart(inputs(document, wishes.looks), outputs(wishes));
        override_settings(scene, wishes.settings);
        ticks_ = scene::ticks_in(scene.duration, scene.world.tick);
        made_.emplace(scene::make_world(scene, document));
        for (const std::string& name : wishes.watch) check_watched(name);
        chosen_tick_ = chosen_tick();
        every_ =
            wishes.every ? std::max<std::uint64_t>(1, scene::ticks_in(*wishes.every, scene.world.tick)) : 0;
        watch_every_ = every_ ? every_ : std::max<std::uint64_t>(1, ticks_ / 20);
        drawing_.emplace(wishes.looks);
        open(csv_, wishes.csv), open(measures_, wishes.measures_csv), open(summary_, wishes.summary);
        open(contacts_, wishes.contacts_csv), open(impacts_file_, wishes.impacts_csv),
            open(events_file_, wishes.events_csv);
        collect_events();
    }

    std::string run() {
        const Interrupts interrupts;
        warn_of_size();
        begin_watch();
        if (csv_) csv_->write(record::csv_head<Dim>());
        if (measures_) measures_->write(record::measures_head<Dim>());
        const record::Summary summary = step();
        if (!shown_) show(*made_); // a signal came before its moment
        std::string out = wishes_.watch.empty() ? "" : "\n";
        const std::string text = summary_text(summary, scene_.title, source_);
        if (summary_) summary_->write(text);
        if (impacts_file_) impacts_file_->write(record::impacts_csv(impacts_.rows()));
        if (events_file_) events_file_->write(record::events_csv(events_.rows()));
        if (wishes_.impacts) out += record::impacts_table(impacts_.rows()) + "\n";
        if (wishes_.events) out += record::events_table(events_.rows()) + "\n";
        for (auto* file : {&csv_, &measures_, &contacts_, &impacts_file_, &events_file_, &summary_})
            if (*file) (*file)->finish();
        return out + contacts_table_ + rays_table_ + text + written();
    }

private:
    static void open(std::unique_ptr<record::FileOut>& out, const std::string& name) {
        if (!name.empty()) out = std::make_unique<record::FileOut>(name);
    }

    bool lists_impacts() const { return wishes_.impacts || impacts_file_ != nullptr; }
    bool lists_events() const { return wishes_.events || events_file_ != nullptr; }
    // The world collects the events that are listed; the scene goes the same way without.
    void collect_events() {
        constexpr double kLeastSpeed = 0.1;
        if (wishes_.least_speed && !lists_impacts() && !lists_events())
            throw UsageError("--least-speed goes with --events, --events-csv, --impacts or --impacts-csv: it "
                             "says which impacts they list");
        EventKinds kinds;
        kinds.touches = kinds.sleep = lists_events();
        kinds.strikes = lists_events() || lists_impacts();
        kinds.least_speed = static_cast<float>(wishes_.least_speed.value_or(kLeastSpeed));
        made_->world.collect_events(kinds);
    }

    void check_watched(const std::string& name) const {
        if (!made_->find(name) && !made_->timeline->may_make(name))
            throw UsageError(fmt::format("--watch {}: {} has no body of that name; it has {}", name, source_,
                                         some_names(made_->names)));
    }
    // Rows are printed as they come: each names its body where there are several.
    void begin_watch() {
        if (wishes_.watch.empty()) return;
        for (const std::string& name : wishes_.watch) name_width_ = std::max(name_width_, name.size());
        fmt::print("{:<{}}{}", wishes_.watch.size() == 1 ? wishes_.watch[0] : "body", name_width_,
                   record::watch_head<Dim>());
    }
    void watch(const scene::Made<Dim>& made) const {
        for (const std::string& name : wishes_.watch)
            fmt::print("{:<{}}{}", wishes_.watch.size() == 1 ? "" : name, name_width_,
                       record::watch_line(made, name));
        std::fflush(stdout);
    }

    record::Summary step() {
        Progress progress(ticks_);
        return record::run<Dim>(
            scene_, *made_,
            [&](const auto& made, std::uint64_t tick, double wall) {
                record_tick(made, tick, wall);
                progress.at(tick);
            },
            [] { return signal_seen() != 0; });
    }

    // Before more than a gigabyte is written: by the rows of the bodies that are there.
    void warn_of_size() const {
        constexpr double kMuch = 1e9;
        if (!csv_) return;
        std::string rows;
        record::append_csv(rows, *made_, ticks_);
        const std::uint64_t times = ticks_ / std::max<std::uint64_t>(every_, 1) + 1;
        const double bytes = static_cast<double>(rows.size()) * static_cast<double>(times);
        if (bytes > kMuch)
            complain("astasis: --csv {} will take about {:.1f} GB; --every writes fewer rows\n", wishes_.csv,
                     bytes / 1e9);
    }

    // The tick that --at names, of which a picture or contacts are wanted; the last one if it is not given.
    std::uint64_t chosen_tick() const {
        if (!wishes_.at) return ticks_;
        const bool shows = !wishes_.looks.picture.empty() || !wishes_.looks.rays.empty();
        if (!shows && !wishes_.contacts && wishes_.contacts_csv.empty())
            throw UsageError("--at goes with --picture, --rays, --contacts or --contacts-csv: it says which "
                             "moment they show");
        if (*wishes_.at > scene_.duration)
            throw UsageError(fmt::format("--at {}: the run ends at {} s; accepted: 0 to that", *wishes_.at,
                                         scene_.duration));
        return scene::ticks_in(*wishes_.at, scene_.world.tick);
    }

    void record_tick(const scene::Made<Dim>& made, std::uint64_t tick, double wall) {
        if (lists_impacts()) impacts_.tick(made);
        if (lists_events()) events_.tick(made);
        if (drawing_->shows_paths() && tick > 0 && tick <= chosen_tick_) paths_.tick(made.world);
        if (tick % std::max<std::uint64_t>(every_, 1) == 0 || tick == ticks_) {
            std::string rows, measures;
            if (csv_) record::append_csv(rows, made, tick), csv_->write(rows);
            if (measures_) record::append_measures(measures, made, tick, wall), measures_->write(measures);
        }
        if (tick % watch_every_ == 0 || tick == ticks_) watch(made);
        if (tick == chosen_tick_) show(made);
    }

    // What is wanted of one moment: a picture, contacts, rays.
    void show(const scene::Made<Dim>& made) {
        shown_ = true;
        if (drawing_->shows_paths()) drawing_->show_paths(paths_.all());
        if (drawing_->wanted() || drawing_->casts()) rays_table_ = drawing_->draw(scene_, made);
        if (contacts_) contacts_->write(record::contacts_csv(made));
        if (wishes_.contacts) contacts_table_ = record::contacts_table(made) + "\n";
    }

    std::string written() {
        std::string out;
        for (const auto* file : {&summary_, &csv_, &measures_, &contacts_, &impacts_file_, &events_file_})
            if (*file) out += wrote(**file);
        return out + drawing_->finish();
    }

    scene::Scene<Dim>& scene_;
    std::string source_;
    const Wishes& wishes_;
    std::optional<scene::Made<Dim>> made_;
    std::uint64_t ticks_ = 0, every_ = 0, watch_every_ = 1, chosen_tick_ = 0;
    std::size_t name_width_ = 0;
    bool shown_ = false;
    std::string contacts_table_;
    record::EventLog<Dim> impacts_{true}, events_;
    record::Paths<Dim> paths_;
    std::optional<Drawing<Dim>> drawing_;
    std::string rays_table_;
    std::unique_ptr<record::FileOut> csv_, measures_, summary_, contacts_, impacts_file_, events_file_;
};

}

std::string carry_out(scene::SceneFile file, const Wishes& wishes) {
    if (const auto* plane = std::get_if<scene::Scene<2>>(&file.scene); plane) {
        return Session<2>(std::get<scene::Scene<2>>(file.scene), file.document, wishes).run();
    }
    return Session<3>(std::get<scene::Scene<3>>(file.scene), file.document, wishes).run();
}

}
