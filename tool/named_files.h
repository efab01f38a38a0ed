// The files that a call names, and that no output may be one that is read, or another output.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace astasis::tool {

struct NamedFile {
    std::string option; // that names it, or what it is
    std::filesystem::path path;
};

// Throws UsageError if an output is the same file as an input or another output: by identity, through links,
// whether it is there already or not. Devices and pipes may be named often. Empty paths count as not given.
void keep_apart(const std::vector<NamedFile>& inputs, const std::vector<NamedFile>& outputs);

}
