#include "tool/named_files.h"

#include "record/file_out.h"
#include "tool/command.h"

#include <fmt/format.h>

namespace astasis::tool {
namespace {

namespace fs = std::filesystem;

bool is_same(const fs::path& a, const fs::path& b) {
    std::error_code error;
    const fs::path p = record::target_of(a), q = record::target_of(b);
    if (fs::exists(p, error) && fs::exists(q, error)) {
        if (!fs::is_regular_file(p, error) || !fs::is_regular_file(q, error)) return false;
        return fs::equivalent(p, q, error);
    }
    return fs::weakly_canonical(fs::absolute(p, error), error) ==
           fs::weakly_canonical(fs::absolute(q, error), error);
}

}

void keep_apart(const std::vector<NamedFile>& inputs, const std::vector<NamedFile>& outputs) {
    for (std::size_t n = 0; n < outputs.size(); n++) {
        const NamedFile& out = outputs[n];
        if (out.path.empty()) continue;
        for (const NamedFile& in : inputs)
            if (!in.path.empty() && is_same(in.path, out.path))
                throw UsageError(
                    fmt::format("{} {}: is {}, which is read; it would be overwritten. Give another name",
                                out.option, out.path.string(), in.option));
        for (std::size_t k = 0; k < n; k++)
            if (!outputs[k].path.empty() && is_same(outputs[k].path, out.path))
                throw UsageError(fmt::format("{} {}: is the same file as {} {}. Give two names", out.option,
                                             out.path.string(), outputs[k].option, outputs[k].path.string()));
    }
}

}
