// The astasis command: reads the command line, runs a subcommand, turns faults into a sentence and a status.
// 0: done (warnings are printed with the summary). 2: the call, the scene or an output file is at fault;
// nothing was written.
#include "tool/command.h"

#include "astasis/version.h"

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <cstdio>

int main(int argc, char** argv) {
    CLI::App app(
        "Steps rigid bodies of a scene file, in the plane or in space, with no monitor and no network.\n"
        "Begin with: astasis demo",
        "astasis");
    app.set_version_flag("--version", std::string("astasis ") + astasis::kVersion);
    app.require_subcommand(1);
    app.failure_message([](const CLI::App* sub, const CLI::Error& e) {
        return fmt::format("astasis: {}\nSee {} --help.\n", e.what(), sub->get_name());
    });
    astasis::tool::add_run(app);
    astasis::tool::add_demo(app);
    try {
        app.parse(argc, argv);
        return 0;
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? 0 : 2;
    } catch (const std::exception& e) {
        fmt::print(stderr, "astasis: {}\n", e.what());
        return 2;
    }
}
