// A summary as text.
#pragma once

#include "record/run.h"

#include <string>

namespace astasis::tool {

// `source` is the file the scene came from.
std::string summary_text(const record::Summary& summary, const std::string& title, const std::string& source);

}
