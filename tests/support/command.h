// Runs the astasis command in a folder of its own, as a user would.
#pragma once

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>
#include <vector>

#include <sys/wait.h>
#include <unistd.h>

namespace astasis::test {

struct Outcome {
    int status = 0;
    std::string out; // standard output and standard error together
};

class InFolder : public ::testing::Test {
protected:
    void SetUp() override {
        const auto* test = ::testing::UnitTest::GetInstance()->current_test_info();
        std::string name =
            std::string(test->test_suite_name()) + "-" + test->name() + "-" + std::to_string(getpid());
        std::replace(name.begin(), name.end(), '/', '-');
        folder_ = std::filesystem::temp_directory_path() / ("astasis-" + name);
        std::filesystem::remove_all(folder_);
        std::filesystem::create_directories(folder_);
    }
    void TearDown() override { std::filesystem::remove_all(folder_); }

    Outcome astasis(const std::string& arguments) const {
        return shell(ASTASIS_COMMAND " " + arguments + " 2>&1 < /dev/null");
    }
    // A script in the folder; the status is that of its last command.
    Outcome shell(const std::string& script) const {
        const std::string line = "cd '" + folder_.string() + "'; " + script;
        Outcome outcome;
        FILE* pipe = popen(line.c_str(), "r");
        std::array<char, 4096> buffer{};
        for (std::size_t n = 0; (n = fread(buffer.data(), 1, buffer.size(), pipe)) > 0;)
            outcome.out.append(buffer.data(), n);
        const int status = pclose(pipe);
        outcome.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
        return outcome;
    }
    void write(const std::string& name, const std::string& text) const {
        std::ofstream(folder_ / name, std::ios::binary) << text;
    }
    std::string read(const std::string& name) const {
        std::stringstream all;
        all << std::ifstream(folder_ / name, std::ios::binary).rdbuf();
        return all.str();
    }
    std::vector<std::string> files() const {
        std::vector<std::string> out;
        for (const auto& entry : std::filesystem::directory_iterator(folder_))
            out.push_back(entry.path().filename().string());
        std::sort(out.begin(), out.end());
        return out;
    }
    std::filesystem::path folder_;
};

inline std::string scene(const char* name) { return std::string("'" ASTASIS_SCENES "/") + name + ".json'"; }

}
