#include "tool/time_picture.h"

#include "paint/canvas.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace astasis::tool {
namespace {

using paint::Canvas;
using paint::Colour;
using paint::Place;
using record::TickTimes;

constexpr double kLeft = 90, kRight = 28, kTop = 84, kBottom = 64;
constexpr const char* kFills[] = {"sky", "kraft", "clay", "moss", "plum", "slate"};
static_assert(std::size(kFills) == std::size(record::kStages));

// A round number not below a value: 1, 2 or 5 times a power of ten.
double round_above(double value) {
    if (!(value > 0)) return 1;
    const double power = std::pow(10.0, std::floor(std::log10(value)));
    for (const double k : {1.0, 2.0, 5.0})
        if (k * power >= value) return k * power;
    return 10 * power;
}

class Figure {
public:
    Figure(const std::vector<TickTimes>& ticks, const TimePicture& picture, Canvas& canvas)
        : picture_(picture), canvas_(canvas), right_(picture.width - kRight),
          bottom_(picture.height - kBottom) {
        gather(ticks);
        double worst = 0;
        for (const TickTimes& t : columns_) worst = std::max(worst, t.all);
        // The frame is shown where it is not out of all proportion.
        const double frame = picture.tick;
        shows_frame_ = worst > 0.4 * frame;
        step_ = round_above((shows_frame_ ? std::max(worst, frame) : worst) / 6);
        top_ = step_ * std::ceil((shows_frame_ ? std::max(worst, frame) : worst) * 1.02 / step_);
        end_ = ticks.empty() ? 1 : ticks.back().time;
    }
    void draw() {
        canvas_.clear(paint::kPaper);
        canvas_.text({28, 32}, picture_.title, 17, paint::kInk);
        canvas_.text_right({right_, 32}, picture_.settings, 14, paint::kInk);
        draw_axes();
        draw_columns();
        draw_key();
    }

private:
    void gather(const std::vector<TickTimes>& ticks) {
        const auto most = static_cast<std::size_t>(right_ - kLeft);
        const std::size_t count = std::min(most, ticks.size());
        for (std::size_t c = 0; c < count; c++) {
            const auto first = ticks.begin() + static_cast<std::ptrdiff_t>(c * ticks.size() / count),
                       last = ticks.begin() + static_cast<std::ptrdiff_t>((c + 1) * ticks.size() / count);
            columns_.push_back(
                *std::max_element(first, last, [](const auto& p, const auto& q) { return p.all < q.all; }));
        }
    }
    double y(double seconds) const { return bottom_ - (bottom_ - kTop) * seconds / top_; }
    void draw_axes() {
        for (int k = 0; k * step_ <= top_ * 1.0001; k++) {
            const double at = y(k * step_);
            canvas_.line({kLeft, at}, {right_, at}, paint::kFaintInk, k == 0 ? 1.2 : 0.4);
            canvas_.text_right({kLeft - 8, at + 5}, fmt::format("{:.4g}", 1e3 * k * step_), 13, paint::kInk);
        }
        canvas_.text({28, kTop - 16}, "ms a tick", 13, paint::kInk);
        const double seconds = round_above(end_ / 10);
        for (int k = 0; k * seconds <= end_ * 1.0001; k++) {
            const double at = kLeft + (right_ - kLeft) * k * seconds / end_;
            canvas_.line({at, bottom_}, {at, bottom_ + 5}, paint::kInk, 1);
            canvas_.text({at - 6, bottom_ + 20}, fmt::format("{:.4g}", k * seconds), 13, paint::kInk);
        }
        canvas_.text_right({right_, bottom_ + 40}, "s simulated", 13, paint::kInk);
    }
    void draw_columns() {
        const double wide = (right_ - kLeft) / static_cast<double>(std::max<std::size_t>(columns_.size(), 1));
        for (std::size_t c = 0; c < columns_.size(); c++) {
            const double from = std::floor(kLeft + wide * static_cast<double>(c)),
                         to = std::floor(kLeft + wide * static_cast<double>(c + 1));
            double below = 0;
            for (std::size_t s = 0; s < std::size(record::kStages); s++) {
                const double above = below + columns_[c].stages.*record::kStages[s].seconds;
                canvas_.polygon({{from, y(below)}, {to, y(below)}, {to, y(above)}, {from, y(above)}});
                canvas_.tint(paint::fill_of(kFills[s]), 1);
                below = above;
            }
        }
        if (shows_frame_) {
            canvas_.dashed_line({kLeft, y(picture_.tick)}, {right_, y(picture_.tick)}, paint::kForce, 1.4);
            canvas_.label({kLeft + 8, y(picture_.tick) - 6}, "a frame", 13);
        }
    }
    void draw_key() {
        double at = kLeft;
        const double base = bottom_ + 42;
        for (std::size_t s = 0; s < std::size(record::kStages); s++) {
            canvas_.polygon({{at, base - 11}, {at + 14, base - 11}, {at + 14, base + 1}, {at, base + 1}});
            canvas_.fill_and_outline(paint::fill_of(kFills[s]), false);
            at = canvas_.text({at + 20, base}, record::kStages[s].name, 13, paint::kInk) + 22;
        }
    }

    const TimePicture& picture_;
    Canvas& canvas_;
    double right_, bottom_;
    std::vector<TickTimes> columns_;
    bool shows_frame_ = false;
    double step_ = 1, top_ = 1, end_ = 1;
};

}

void draw_times(const std::vector<TickTimes>& ticks, const TimePicture& picture,
                const std::filesystem::path& file, paint::PictureKind kind) {
    Canvas canvas(picture.width, picture.height, kind, file.string());
    Figure(ticks, picture, canvas).draw();
    canvas.finish();
}

}
