// The picture of a timed run: a column of stages for each tick.
#pragma once

#include "record/times.h"

#include "paint/kind.h"

#include <filesystem>

namespace astasis::tool {

struct TimePicture {
    std::string title, settings;
    double tick = 1.0 / 60; // s
    int width = 1280, height = 800;
};

// Where there are more ticks than columns, each shows the worst of its ticks. Throws std::runtime_error if
// the file cannot be written.
void draw_times(const std::vector<record::TickTimes>& ticks, const TimePicture& picture,
                const std::filesystem::path& file, paint::PictureKind kind);

}
