#include "tool/session.h"

#include "record/events.h"
#include "record/file_out.h"
#include "record/paths.h"
#include "record/run.h"
#include "record/table.h"
#include "scene/timeline.h"
#include "tool/command.h"
#include "tool/progress.h"
#include "tool/report.h"

#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <type_traits>

namespace astasis::tool {
namespace {

template<int Dim> void override_settings(scene::Scene<Dim>& scene, const Wishes& wishes) {
    if (wishes.duration) scene.duration = *wishes.duration;
    if (wishes.ticks_per_second) scene.world.tick = 1.0 / *wishes.ticks_per_second;
    if (wishes.substeps) scene.world.substeps = *wishes.substeps;
    if (wishes.seed) scene.seed = *wishes.seed;
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
        override_settings(scene, wishes);
        ticks_ = record::ticks_in(scene.duration, scene.world.tick);
        made_.emplace(scene::make_world(scene, document));
        for (const std::string& name : wishes.watch) find_watched(name);
        chosen_tick_ = chosen_tick();
        every_ =
            wishes.every ? std::max<std::uint64_t>(1, record::ticks_in(*wishes.every, scene.world.tick)) : 0;
        watch_every_ = every_ ? every_ : std::max<std::uint64_t>(1, ticks_ / 20);
        drawing_.emplace(wishes.looks);
        open(csv_, wishes.csv), open(summary_, wishes.summary);
        open(contacts_, wishes.contacts_csv), open(impacts_file_, wishes.impacts_csv),
            open(events_file_, wishes.events_csv);
        collect_events();
    }

    std::string run() {
        Progress progress(ticks_);
        if (csv_) csv_->write(record::csv_head<Dim>());
        const record::Summary summary =
            record::run<Dim>(scene_, *made_, [&](const auto& made, std::uint64_t tick) {
                record_tick(made, tick);
                progress.at(tick);
            });
        std::string out;
        for (std::size_t i = 0; i < tables_.size(); i++)
            out += wishes_.watch[i] + "\n" + record::watch_head<Dim>() + tables_[i] + "\n";
        const std::string text = summary_text(summary, scene_.title, source_);
        if (summary_) summary_->write(text);
        if (impacts_file_) impacts_file_->write(record::impacts_csv(impacts_.rows()));
        if (events_file_) events_file_->write(record::events_csv(events_.rows()));
        if (wishes_.impacts) out += record::impacts_table(impacts_.rows()) + "\n";
        if (wishes_.events) out += record::events_table(events_.rows()) + "\n";
        for (auto* file : {&csv_, &contacts_, &impacts_file_, &events_file_, &summary_})
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

    void find_watched(const std::string& name) {
        if (!made_->find(name) && !made_->timeline->may_make(name))
            throw UsageError(fmt::format("--watch {}: {} has no body of that name; it has {}", name, source_,
                                         some_names(made_->names)));
        tables_.emplace_back();
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
        return record::ticks_in(*wishes_.at, scene_.world.tick);
    }

    void record_tick(const scene::Made<Dim>& made, std::uint64_t tick) {
        if (lists_impacts()) impacts_.tick(made);
        if (lists_events()) events_.tick(made);
        if (drawing_->shows_paths() && tick > 0 && tick <= chosen_tick_) paths_.tick(made.world);
        if (csv_ && (tick % std::max<std::uint64_t>(every_, 1) == 0 || tick == ticks_)) {
            std::string rows;
            record::append_csv(rows, made, tick);
            csv_->write(rows);
        }
        for (std::size_t i = 0; i < tables_.size(); i++)
            if (tick % watch_every_ == 0 || tick == ticks_)
                tables_[i] += record::watch_line(made, wishes_.watch[i]);
        if (tick != chosen_tick_) return;
        if (drawing_->shows_paths()) drawing_->show_paths(paths_.all());
        if (drawing_->wanted() || drawing_->casts()) rays_table_ = drawing_->draw(scene_, made);
        if (contacts_) contacts_->write(record::contacts_csv(made));
        if (wishes_.contacts) contacts_table_ = record::contacts_table(made) + "\n";
    }

    std::string written() {
        std::string out;
        for (const auto* file : {&summary_, &csv_, &contacts_, &impacts_file_, &events_file_})
            if (*file) out += wrote(**file);
        return out + drawing_->finish();
    }

    scene::Scene<Dim>& scene_;
    std::string source_;
    const Wishes& wishes_;
    std::optional<scene::Made<Dim>> made_;
    std::uint64_t ticks_ = 0, every_ = 0, watch_every_ = 1, chosen_tick_ = 0;
    std::vector<std::string> tables_;
    std::string contacts_table_;
    record::EventLog<Dim> impacts_{true}, events_;
    record::Paths<Dim> paths_;
    std::optional<Drawing<Dim>> drawing_;
    std::string rays_table_;
    std::unique_ptr<record::FileOut> csv_, summary_, contacts_, impacts_file_, events_file_;
};

}

std::string carry_out(scene::SceneFile file, const Wishes& wishes) {
    if (const auto* plane = std::get_if<scene::Scene<2>>(&file.scene); plane) {
        return Session<2>(std::get<scene::Scene<2>>(file.scene), file.document, wishes).run();
    }
    return Session<3>(std::get<scene::Scene<3>>(file.scene), file.document, wishes).run();
}

}
