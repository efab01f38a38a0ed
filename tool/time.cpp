// astasis time SCENE: what its ticks take, stage by stage; two settings in turn.
#include "astasis/scene/timeline.h"
#include "paint/picture.h"
#include "record/file_out.h"
#include "record/run.h"
#include "record/times.h"
#include "tool/command.h"
#include "tool/interrupts.h"
#include "tool/named_files.h"
#include "tool/progress.h"
#include "tool/settings.h"
#include "tool/time_picture.h"

#include <fmt/format.h>

#include <charconv>
#include <memory>
#include <optional>
#include <sstream>

namespace astasis::tool {
namespace {

struct TimeWishes {
    std::string file, versus, trace, picture;
    Settings settings;
};

template<typename Value> std::optional<Value> number_in(const std::string& text) {
    Value value{};
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    if (read.ec != std::errc() || read.ptr != text.data() + text.size()) return {};
    return value;
}

// "substeps=4,extra_work=0,sleeping=off"
template<int Dim> void set_versus(const std::string& text, WorldSpec<Dim>& spec) {
    std::stringstream all(text);
    for (std::string one; std::getline(all, one, ',');) {
        const auto equals = one.find('=');
        const std::string name = one.substr(0, equals),
                          value = equals == std::string::npos ? "" : one.substr(equals + 1);
        const auto refuse = [&](const char* accepted) {
            throw UsageError(fmt::format("--versus: given \"{}\", accepted: {}", one, accepted));
        };
        if (name == "substeps") {
            const auto n = number_in<int>(value);
            if (!n || *n < 1 || *n > 64) refuse("substeps=N, a whole number from 1 to 64");
            spec.substeps = *n;
        } else if (name == "extra_work") {
            const auto n = number_in<float>(value);
            if (!n || !(*n >= 0 && *n <= 1000)) refuse("extra_work=X, a number from 0 to 1000");
            spec.extra_work = *n;
        } else if (name == "sleeping") {
            if (value != "on" && value != "off") refuse("sleeping=on or sleeping=off");
            spec.sleeping = value == "on";
        } else {
            refuse("substeps=N, extra_work=X, sleeping=on or sleeping=off, with commas between");
        }
    }
}

template<int Dim> class Timing {
public:
    Timing(scene::Scene<Dim> scene, const scene::Document& document, const TimeWishes& wishes)
        : scene_(std::move(scene)), document_(document), wishes_(wishes) {
        override_settings(scene_, wishes.settings);
        if (!wishes.trace.empty()) trace_ = std::make_unique<record::FileOut>(wishes.trace);
        if (!wishes.picture.empty()) {
            kind_ = paint::kind_of(wishes.picture);
            picture_ = std::make_unique<record::FileOut>(wishes.picture);
        }
        made_.push_back(make(scene_));
        if (wishes.versus.empty()) return;
        scene::Scene<Dim> other = scene_;
        set_versus(wishes.versus, other.world);
        made_.push_back(make(other));
    }

    std::string run() {
        const Interrupts interrupts;
        step();
        std::string out = fmt::format("{}  ({})\n", scene_.title, document_.file);
        out += fmt::format("  {} ticks, {}{}\n", ticks_[0].size(), settings(),
                           signal_seen() != 0 ? "; stopped by a signal" : "");
        out += record::times_table(ticks_[0], scene_.world.tick);
        if (made_.size() > 1) {
            const record::Ratio ratio = record::ratio_of(ticks_[0], ticks_[1]);
            out += fmt::format(
                "versus {}: a tick takes {:.3f} times as long ({:.3f} to {:.3f} for half of them), all "
                "together {:.3f} times\n",
                wishes_.versus, ratio.median, ratio.low, ratio.high, ratio.all);
            out += record::times_table(ticks_[1], scene_.world.tick);
        }
        return out + write_files();
    }

private:
    scene::Made<Dim> make(const scene::Scene<Dim>& scene) const {
        scene::Made<Dim> out = scene::make_world(scene, document_);
        out.world.set_timing(true);
        return out;
    }
    // Ticks in turn, the first of a pair by turns, so that both see the same hour.
    void step() {
        const std::uint64_t count = scene::ticks_in(scene_.duration, scene_.world.tick);
        ticks_.resize(made_.size());
        Progress progress(count);
        for (std::uint64_t n = 0; n < count && signal_seen() == 0; n++) {
            for (std::size_t k = 0; k < made_.size(); k++) {
                const std::size_t which = n % 2 == 0 ? k : made_.size() - 1 - k;
                made_[which].timeline->before_tick(made_[which]);
                ticks_[which].push_back(record::timed_step(made_[which].world));
            }
            progress.at(n + 1);
        }
    }
    std::string settings() const {
        return fmt::format("{} a second, {} substeps, seed {}", std::lround(1 / scene_.world.tick),
                           scene_.world.substeps, scene_.seed);
    }
    std::string write_files() {
        std::string out;
        const auto finish = [&](record::FileOut& file) {
            file.finish();
            out += fmt::format("  wrote {}\n", file.path().string());
        };
        if (trace_) trace_->write(record::trace_json(ticks_[0])), finish(*trace_);
        if (picture_) {
            draw_times(ticks_[0], {.title = scene_.title, .settings = settings(), .tick = scene_.world.tick},
                       picture_->part(), kind_);
            finish(*picture_);
        }
        return out;
    }

    scene::Scene<Dim> scene_;
    const scene::Document& document_;
    const TimeWishes& wishes_;
    std::vector<scene::Made<Dim>> made_;
    std::vector<std::vector<record::TickTimes>> ticks_;
    std::unique_ptr<record::FileOut> trace_, picture_;
    paint::PictureKind kind_ = paint::PictureKind::Png;
};

std::string time_scene(const TimeWishes& wishes) {
    const scene::SceneFile file = scene::read_scene(wishes.file);
    std::vector<NamedFile> inputs{{"the scene", wishes.file}};
    for (const auto& path : file.document.others) inputs.push_back({"a mesh of the scene", path});
    keep_apart(inputs, {{"--trace", wishes.trace}, {"--picture", wishes.picture}});
    if (const auto* plane = std::get_if<scene::Scene<2>>(&file.scene); plane)
        return Timing<2>(*plane, file.document, wishes).run();
    return Timing<3>(std::get<scene::Scene<3>>(file.scene), file.document, wishes).run();
}

}

void add_time(Commands& commands) {
    auto wishes = std::make_shared<TimeWishes>();
    Options time = commands.add("time", "Time the ticks of a scene, stage by stage");
    time.footer(
        "Examples:\n"
        "  astasis time scenes/tote_bin.json\n"
        "  astasis time scenes/mixed_goods.json --versus substeps=4\n"
        "  astasis time scenes/parcel_chute.json --trace chute_trace.json --picture chute_times.png\n"
        "Times are of wall clock, by one thread: another hour may take one and a half times as long; ratios "
        "of --versus hold. Measuring takes about a microsecond of each tick.\n"
        "Exit status: 0 done, 2 the call, the scene or an output is at fault (nothing is written then).");
    time.scene(wishes->file);
    add_settings(time, wishes->settings);
    time.text("--versus", wishes->versus,
              {"SETTINGS",
               "Other settings, timed in turn: substeps=N, extra_work=X, sleeping=on|off, commas between"});
    time.text("--trace", wishes->trace,
              {"FILE", "Write a trace of ticks and stages (Trace Event Format, JSON)"});
    time.text("--picture", wishes->picture, {"FILE", "Draw the stages tick by tick, a .png or .svg file"});
    time.work([=] { fmt::print("{}", time_scene(*wishes)); });
}

}
