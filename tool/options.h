// The commands of the tool and their options. The argument parser stands behind it, in one file, since its
// header takes longer to compile than ours together.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace astasis::tool {

// The numbers that an option takes, its ends included, and how to say so.
template<typename Number> struct Accepts {
    Number low, high;
    const char* sentence;
};

// The place of an option in the help.
struct Told {
    const char* type; // of its value, as "FILE"
    const char* text;
    const char* group = nullptr; // a heading of its own
};

class Options { // of one command
public:
    explicit Options(CLI::App& app) : app_(app) {}
    void footer(const std::string& text);
    void scene(std::string& to, bool required = true); // a word without an option before it
    void table(std::string& to);                       // the same, for what a run wrote
    void flag(const char* name, bool& to, const char* text);
    void text(const char* name, std::string& to, const Told& told);
    void texts(const char* name, std::vector<std::string>& to, const Told& told); // may be given again
    void number(const char* name, std::optional<double>& to, const Told& told);   // any
    void number(const char* name, std::optional<double>& to, const Accepts<double>& accepts,
                const Told& told);
    void whole(const char* name, std::optional<std::uint64_t>& to, const Accepts<std::uint64_t>& accepts,
               const Told& told);
    void work(std::function<void()> work); // what the command does, once its options are read

private:
    CLI::App& app_;
};

class Commands {
public:
    Commands(const char* name, const char* text, const std::string& version);
    ~Commands();
    Commands(const Commands&) = delete;
    Commands& operator=(const Commands&) = delete;

    Options add(const char* name, const char* text);
    // Reads the line and does the work of its command. False for a fault of the line, which was told; what
    // the work throws goes through.
    bool run(int argc, char** argv);

private:
    std::unique_ptr<CLI::App> app_;
};

}
