// Runs the inputs that fuzzers found, and a few of each kind: none breaks a promise now.
#include "fuzz/targets.h"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>
#include <vector>

namespace astasis {
namespace {

struct Target {
    const char* name;
    void (*run)(fuzz::Input);
};
class Findings : public ::testing::TestWithParam<Target> {};

TEST_P(Findings, AreHarmlessNow) {
    const auto [name, run] = GetParam();
    int count = 0;
    for (const auto& file : std::filesystem::directory_iterator(std::string(ASTASIS_SCENES) +
                                                                "/../tests/fuzz/findings/" + name)) {
        std::ifstream in(file.path(), std::ios::binary);
        const std::vector<char> text{std::istreambuf_iterator<char>(in), {}};
        SCOPED_TRACE(file.path().filename().string());
        run({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
        count++;
    }
    EXPECT_GT(count, 0);
}
INSTANTIATE_TEST_SUITE_P(Fuzz, Findings,
                         ::testing::Values(Target{"scene", fuzz::scene}, Target{"mesh", fuzz::mesh},
                                           Target{"bytes", fuzz::bytes}, Target{"calls", fuzz::calls}),
                         [](const auto& of) { return std::string(of.param.name); });

}
}
