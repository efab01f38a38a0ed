// One run of a scene with what was asked for beside it: tables, files, a picture. Serves `run` and `demo`.
#pragma once

#include "astasis/scene/scene.h"
#include "tool/looks.h"
#include "tool/settings.h"

#include <optional>
#include <string>
#include <vector>

namespace astasis::tool {

// What may be asked for; what is not set is as the scene has it.
struct Wishes {
    Settings settings;
    std::optional<double> at, every;
    std::vector<std::string> watch;
    bool contacts = false, impacts = false, events = false;
    std::optional<double> least_speed;                                             // of impacts, m/s
    std::string csv, measures_csv, summary, contacts_csv, impacts_csv, events_csv; // names of files, or empty
    Looks looks;
};

// Steps the scene and writes the files; returns the text of tables and summary. Checks every wish before it
// steps: throws UsageError, FileError or WriteError, and leaves no file behind.
std::string carry_out(scene::SceneFile file, const Wishes& wishes);

}
